"""hookset check"""

from __future__ import annotations

import click

from hookset.cli.run import Run, json_option, pass_run
from hookset.core.checks import judge
from hookset.core.project import read_ledger
from hookset.reports.data import check_data
from hookset.reports.text.findings import check_text

__all__ = ["command"]


@click.command("check", short_help="Judge every reference in the map.")
@json_option
@pass_run
def command(run: Run, as_json: bool) -> int:
    """Judge every reference in the map: is what it names there, on the right side, in the right letter case, loaded,
    in every language, and in the manifest?

    Exit code 1 when there is an error or a warning; notes do not count.

    \b
    Example, in the demo's map:
        hookset check
    """
    project = run.project()
    verdict = judge(project.tree, project.layout, project.stock, read_ledger(project.root), project.terms)
    if as_json:
        run.show_json("check", verdict.clean, check_data(verdict))
    else:
        name = f"{project.file.map.name} {project.file.map.version}"
        run.print(check_text(name, project.layout.name, verdict))
    return 0 if verdict.clean else 1
