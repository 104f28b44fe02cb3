"""hookset tune"""

from __future__ import annotations

import click

from hookset.cli.changes import Task, carry_out
from hookset.cli.run import Run, json_option, pass_run
from hookset.model import WrongUseError
from hookset.planning import Choices
from hookset.planning.operations.tune import plan_tune
from hookset.planning.queries.tunables import tunables
from hookset.project import read_ledger
from hookset.reports.installed import tunables_data
from hookset.reports.text.tuned import tunables_text

__all__ = ["command"]


@click.command("tune", short_help="See and change what a pack was given: settings, claims, blanks.")
@click.argument("pack")
@click.argument("values", nargs=-1, metavar="[NAME=VALUE]...")
@click.option("--preview", is_flag=True, help="Show everything that would happen, and write nothing.")
@click.option("--anyway", is_flag=True, help="Go on although references would be missing.")
@json_option
@pass_run
def command(run: Run, /, pack: str, values: tuple[str, ...], preview: bool, anyway: bool, as_json: bool) -> int:
    """See what an installed PACK was given in this map: each setting with its unit, its range and where it lives, each
    claim, each blank. With NAME=VALUE, change it in all the places where it lives. A blank takes the file that fills
    it.

    \b
    Examples, in the demo's map:
        hookset tune lift-bridge
        hookset tune lift-bridge toll=35
    """
    pairs: dict[str, str] = {}
    for entry in values:
        key, equals, value = entry.partition("=")
        if not equals:
            raise WrongUseError("incomplete-option", f"`{entry}` says no value", remedy="write NAME=VALUE")
        pairs[key.strip()] = value.strip()
    if not pairs:
        project = run.project()
        found = tunables(project, read_ledger(project.root), pack)
        if as_json:
            run.show_json("tune", True, tunables_data(found))
        else:
            run.print(tunables_text(project.file.map.name, found))
        return 0
    task = Task(
        action="tune",
        plan=lambda project, ledger, data, choices, now: plan_tune(project, ledger, data, pack, pairs, choices, now),
        choices=Choices(),
        preview=preview,
        as_json=as_json,
        anyway=anyway,
        title=f"tune {pack} {', '.join(pairs)}",
    )
    return carry_out(run, task)
