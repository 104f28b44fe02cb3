"""hookset status"""

from __future__ import annotations

import click

from hookset.applying import Room, history_size
from hookset.cli.run import Run, json_option, pass_run
from hookset.planning.operations.remove import installed_pack
from hookset.planning.queries.status import PackStatus, pack_statuses
from hookset.project import MapProject, read_ledger
from hookset.reports.installed import status_data
from hookset.reports.text.standings import status_text

__all__ = ["command"]


@click.command("status", short_help="What packs have set, and what of it was changed by hand.")
@click.argument("packs", nargs=-1, metavar="[NAME]...")
@click.option("--all", "every", is_flag=True, help="Tell of every file and entry, not of the changed ones only.")
@json_option
@pass_run
def command(run: Run, packs: tuple[str, ...], every: bool, as_json: bool) -> int:
    """What packs have set in the map, and how it stands now: as set, moved, changed by hand (with what was changed),
    gone. Exit code 1 when something was changed or is gone.

    \b
    Example, in the demo's map:
        hookset status
    """
    name, found, room = run.steadily(lambda project: _read(project, packs))
    if as_json:
        run.show_json("status", all(one.as_set for one in found), status_data(found, room))
    else:
        run.print(status_text(name, found, every, room))
    return 0 if all(one.as_set for one in found) else 1


def _read(project: MapProject, packs: tuple[str, ...]) -> tuple[str, tuple[PackStatus, ...], Room]:
    ledger = read_ledger(project.root)
    for name in packs:
        installed_pack(ledger, name)
    return project.file.map.name, pack_statuses(project, ledger, packs), history_size(project.root)
