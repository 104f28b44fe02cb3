"""hookset take"""

from __future__ import annotations

from pathlib import Path

import click

from hookset.cli.changes import Task, carry_out, figure_option
from hookset.cli.run import Run, json_option, pass_run
from hookset.planning import Choices
from hookset.planning.operations.take import plan_take

__all__ = ["command"]


@click.command("take", short_help="Take what stands in the map away.")
@click.argument("names", nargs=-1, required=True, metavar="NAME...")
@click.option("--preview", is_flag=True, help="Show everything that would happen, and write nothing.")
@click.option("--anyway", is_flag=True, help="Go on although references would be missing.")
@figure_option
@json_option
@pass_run
def command(
    run: Run,
    /,
    names: tuple[str, ...],
    preview: bool,
    anyway: bool,
    figure: Path | None,
    as_json: bool,
) -> int:
    """Take what stands in the map under these names away, with all that stands in its record. Nothing else changes:
    what goes on naming it is told.

    \b
    Example, in the demo's map:
        hookset take lamp_8 --preview
    """
    task = Task(
        action="take",
        plan=lambda project, ledger, data, choices, now: plan_take(project, ledger, data, names, choices, now),
        choices=Choices(),
        preview=preview,
        as_json=as_json,
        anyway=anyway,
        figure=figure,
        title=f"take {', '.join(names)}",
    )
    return carry_out(run, task)
