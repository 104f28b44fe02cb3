"""hookset list"""

from __future__ import annotations

import click

from hookset.cli.run import Run, json_option, pass_run
from hookset.core.project import read_ledger
from hookset.reports.data import ledger_data
from hookset.reports.text.packs import list_text

__all__ = ["command"]


@click.command("list", short_help="The packs that are set in the map.")
@json_option
@pass_run
def command(run: Run, as_json: bool) -> None:
    """The packs that are set in the map: version, who made them, licence, and where they came from.

    \b
    Example, in the demo's map:
        hookset list
    """
    project = run.project()
    ledger = read_ledger(project.root)
    if as_json:
        run.show_json("list", True, ledger_data(ledger))
    else:
        run.print(list_text(project.file.map.name, ledger))
