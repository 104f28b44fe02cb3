"""hookset list"""

from __future__ import annotations

import click

from hookset.cli.session import Session, json_option, pass_session
from hookset.core.project import read_ledger
from hookset.reports.data import ledger_data
from hookset.reports.text.packs import list_text

__all__ = ["command"]


@click.command("list", short_help="The packs that are set in the map.")
@json_option
@pass_session
def command(session: Session, as_json: bool) -> None:
    """The packs that are set in the map: version, who made them, licence, and where they came from.

    \b
    Example, in the demo's map:
        hookset list
    """
    project = session.project()
    ledger = read_ledger(project.root)
    if as_json:
        session.show_json("list", True, ledger_data(ledger))
    else:
        session.print(list_text(project.file.map.name, ledger))
