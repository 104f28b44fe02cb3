"""hookset inspect"""

from __future__ import annotations

from pathlib import Path

import click

from hookset.cli.run import Run, json_option, ledger_bytes, now, pass_run
from hookset.core.install import Choices, outlook, plan_install
from hookset.core.install.seen.contents import contents_alone, contents_in_map
from hookset.core.packs import open_pack
from hookset.core.project import find_root, read_ledger
from hookset.reports.data import inspect_data
from hookset.reports.text.packs import inspect_text

__all__ = ["command"]


@click.command("inspect", short_help="Look into a pack without setting it in.")
@click.argument("pack", type=click.Path(path_type=Path))
@json_option
@pass_run
def command(run: Run, pack: Path, as_json: bool) -> None:
    """Look into a pack (a zip or a folder) without unpacking or running anything of it.

    Tells what it brings by kind, what it sets where, what it needs and whether this map has it, its settings and
    blanks, who made it and under which licence. Works outside of a map, too.

    \b
    Example, on the demo:
        hookset inspect hookset-demo/packs/lift-bridge.zip
    """
    opened = open_pack(pack)
    if opened.sheet is None or find_root(run.folder.resolve()) is None:
        (contents, plan), needs, map_name = contents_alone(opened), None, ""
    else:
        project = run.project()
        ledger = read_ledger(project.root)
        whole = plan_install(project, ledger, ledger_bytes(project), [opened], Choices(), now())
        view = outlook(project, whole)
        contents = contents_in_map(opened, project, view.after, ledger.pack(opened.name))
        plan = whole.packs[0]
        needs, map_name = view.needs[opened.name], project.file.map.name
    if as_json:
        run.show_json("inspect", True, inspect_data(opened, contents, plan, needs))
    else:
        run.print(inspect_text(opened, contents, plan, needs, map_name))
