"""hookset trace"""

from __future__ import annotations

import click

from hookset.cli.run import Run, json_option, pass_run
from hookset.cli.tracing import traced
from hookset.config.layouts import Layout
from hookset.model import Spot, Where
from hookset.project import MapProject
from hookset.reports.text.traces import trace_text
from hookset.reports.traced import trace_data
from hookset.symbols import spots
from hookset.symbols.trace import Trace

__all__ = ["command"]


@click.command("trace", short_help="Where a name comes from, who uses it, what would break without it.")
@click.argument("name")
@click.option("--kind", metavar="KIND", help="Only names of this kind; a word of the layout: sound, file, text …")
@json_option
@pass_run
def command(run: Run, name: str, kind: str | None, as_json: bool) -> None:
    """Where a name is defined, who refers to it, by which files the game comes to it, and what would be missing if it
    went. The name of a file is its path from the map's top.

    \b
    Examples, in the demo's map:
        hookset trace quay_bell
        hookset trace textures/planks.png
    """
    layout, found, at = run.steadily(lambda project: _traced(run, project, name, kind))
    if as_json:
        run.show_json("trace", True, trace_data(layout, name, found, at))
    else:
        run.print(trace_text(layout, name, found, at))


def _traced(
    run: Run, project: MapProject, name: str, kind: str | None
) -> tuple[Layout, list[Trace], dict[tuple[str, Where], Spot]]:
    """What is known of a name, with the lines and columns. Raises WrongUseError for one that is nowhere."""
    found, analysis = traced(run, project, name, kind)
    places = [(d.path, d.where) for one in found for d in one.defined]
    places += [(r.path, r.where) for one in found for r in (*one.referred, *one.chain, *one.breaks)]
    return project.layout, found, spots(analysis.web.tree, project.layout, places)
