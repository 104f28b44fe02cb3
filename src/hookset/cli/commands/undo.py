"""hookset undo"""

from __future__ import annotations

import click

from hookset.cli.run import Run, json_option, now, pass_run
from hookset.core.install import Disk, apply_changes, plan_undo
from hookset.reports.data import undo_data
from hookset.reports.text.plans import undo_text

__all__ = ["command"]


@click.command("undo", short_help="Take back the last change.")
@click.option("--preview", is_flag=True, help="Show what would be taken back, and write nothing.")
@json_option
@pass_run
def command(run: Run, preview: bool, as_json: bool) -> None:
    """Take back the last change that hookset made in this map: bytes, modes and times as they were before it.

    Each further undo goes one change further back. Stops when a file was changed by hand since.

    \b
    Example, in the demo's map:
        hookset undo --preview
    """
    with run.changing() as project:
        plan = plan_undo(project.root)
        done = None
        if not preview:
            done = apply_changes(
                project.root,
                plan.changes,
                action="undo",
                title=f"undo of {plan.entry.title}",
                time=now(),
                disk=Disk(),
                undoes=plan.entry.id,
            )
    if as_json:
        run.show_json("undo", True, undo_data(plan.entry, written=done is not None))
    else:
        run.print(undo_text(plan, done))
