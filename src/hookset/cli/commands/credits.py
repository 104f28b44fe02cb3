"""hookset credits"""

from __future__ import annotations

from pathlib import Path

import click

from hookset.cli.run import Run, json_option, pass_run
from hookset.model.visible import visible
from hookset.planning.queries.credit import credits_of
from hookset.project import read_ledger, save_file
from hookset.reports.credit import credits_data, credits_markdown

__all__ = ["command"]


@click.command("credits", short_help="The credits for the map's page: who made what, under which licence.")
@click.option("--write", "file", type=click.Path(path_type=Path), help="Write them into this file.")
@json_option
@pass_run
def command(run: Run, file: Path | None, as_json: bool) -> None:
    """The credits text for the map's page, in Markdown: every pack that is set, who made it, under which licence and
    where it can be had, and one SPDX expression for all of them.

    \b
    Example, in the demo's map:
        hookset credits
    """
    project = run.project()
    found = credits_of(read_ledger(project.root))
    text = credits_markdown(project.file.map.name, found)
    if file is not None:
        save_file(file, text.encode())
    if as_json:
        run.show_json("credits", True, credits_data(found))
    elif file is not None:
        run.print(f"The credits are in {file}.")
    else:
        click.echo(visible(text), nl=False)
