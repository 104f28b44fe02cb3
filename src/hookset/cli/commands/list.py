"""hookset list"""

from __future__ import annotations

from pathlib import Path

import click

from hookset.cli.run import Run, json_option, pass_run
from hookset.formats.toml import document_of
from hookset.planning import answers_of
from hookset.planning.answers import answers_in
from hookset.project import read_ledger, save_file
from hookset.reports.installed import ledger_data
from hookset.reports.text.packs import list_text

__all__ = ["command"]


@click.command("list", short_help="The packs that are set in the map.")
@click.option(
    "--answers",
    "file",
    type=click.Path(path_type=Path),
    help="Write all that was decided into this file, to decide alike.",
)
@json_option
@pass_run
def command(run: Run, file: Path | None, as_json: bool) -> None:
    """The packs that are set in the map: version, who made them, licence, where they came from, what was decided.

    \b
    Examples, in the demo's map:
        hookset list
        hookset list --answers ../answers.toml
    """
    project, ledger = run.steadily(lambda project: (project, read_ledger(project.root)))
    if file is not None:
        made = answers_in(ledger, project.root)
        save_file(file, document_of(answers_of(made.packs, made.words)).encode("utf-8", "surrogateescape"))
    if as_json:
        run.show_json("list", True, ledger_data(ledger))
    elif file is not None:
        run.print(f"What was decided in {project.file.map.name} is in {file}: hookset install PACK --answers {file}")
    else:
        run.print(list_text(project.file.map.name, ledger))
