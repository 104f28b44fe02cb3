"""hookset where"""

from __future__ import annotations

import click

from hookset.cli.run import Run, json_option, pass_run
from hookset.planning.operations.remove import installed_pack
from hookset.planning.queries.whereabouts import Whereabouts, whereabouts
from hookset.project import MapProject, read_ledger
from hookset.reports.text.whereabouts import whereabouts_text
from hookset.reports.whereabouts import whereabouts_data

__all__ = ["command"]


@click.command("where", short_help="Where things stand: in what, near what, linked to what.")
@click.argument("names", nargs=-1, metavar="[NAME]...")
@click.option("--pack", metavar="PACK", default="", help="Only what this pack has set.")
@click.option("--all", "every", is_flag=True, help="Tell of every one, however many there are.")
@json_option
@pass_run
def command(run: Run, names: tuple[str, ...], pack: str, every: bool, as_json: bool) -> None:
    """Where the things stand whose name, class or group is NAME, or that name it: a callback, a model, a sound. `*` in
    it stands for anything. Of a few it is told what they are in, what is near, and what they work on; of many there is
    a small map. `hookset draw` makes a large one.

    \b
    Examples, in the demo's map:
        hookset where lock_wheel
        hookset where 'landing*'
        hookset where harbour.ring
    """
    project, found = run.steadily(lambda project: (project, _found(project, names, pack)))
    space = project.layout.positions.space
    if as_json:
        run.show_json("where", True, whereabouts_data(space, found))
    else:
        run.print(whereabouts_text(project.file.map.name, space, found, every))


def _found(project: MapProject, names: tuple[str, ...], pack: str) -> tuple[Whereabouts, ...]:
    ledger = read_ledger(project.root)
    if pack:
        installed_pack(ledger, pack)
    return whereabouts(project, ledger, names, pack)
