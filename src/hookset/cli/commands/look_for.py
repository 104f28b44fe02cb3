"""hookset look-for"""

from __future__ import annotations

import click
import msgspec

from hookset.building.delivery.record import read_deliveries, to_look_for, write_deliveries
from hookset.cli.run import Run, json_option, pass_run
from hookset.model import WrongUseError
from hookset.project import read_ledger
from hookset.reports.deliveries import look_for_data
from hookset.reports.text.deliveries import look_for_text

__all__ = ["command"]


@click.command("look-for", short_help="What there is to be seen of the packs in the game, to be ticked off.")
@click.argument("numbers", nargs=-1, type=click.IntRange(1), metavar="[NUMBER]...")
@click.option("--again", is_flag=True, help="Look for these again, or for all of them.")
@json_option
@pass_run
def command(run: Run, numbers: tuple[int, ...], again: bool, as_json: bool) -> None:
    """What there is to be seen and heard of each pack in the game, by what its author says. A NUMBER ticks that line
    off; a pack in another version is looked for again.

    \b
    Examples, in the demo's map:
        hookset look-for
        hookset look-for 1 2
        hookset look-for --again
    """
    project = run.project()
    before = read_deliveries(project.root)
    found = list(to_look_for(read_ledger(project.root), before))
    if numbers and max(numbers) > len(found):
        raise WrongUseError(
            "unknown-number",
            f"there is no line {max(numbers)}: there are {len(found)}",
            remedy="`hookset look-for` shows them",
        )
    if numbers or again:
        meant = numbers or tuple(range(1, len(found) + 1))
        for number in meant:
            found[number - 1] = msgspec.structs.replace(found[number - 1], done=not again)
        write_deliveries(project.root, msgspec.structs.replace(before, look_for=tuple(found)))
    if as_json:
        run.show_json("look-for", True, {"look_for": look_for_data(found)})
    else:
        run.print(look_for_text(project.file.map.name, found))
