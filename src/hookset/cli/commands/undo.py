"""hookset undo"""

from __future__ import annotations

import click

from hookset.applying import Disk, apply_changes, forget, history_size
from hookset.cli.exits import Exit, exit_of
from hookset.cli.run import Run, json_option, now, pass_run
from hookset.model import HooksetError, WrongUseError
from hookset.planning import UndoPlan, plan_redo, plan_undo
from hookset.project import MapProject
from hookset.reports.data import error_data, undo_data
from hookset.reports.text.plans import undo_text
from hookset.reports.text.recoveries import forgotten_text

__all__ = ["command"]


@click.command("undo", short_help="Take back the last change, or the last undo.")
@click.argument("steps", default=1, type=click.IntRange(1, 1000))
@click.option("--redo", is_flag=True, help="Take back the last undo instead.")
@click.option("--preview", is_flag=True, help="Show what would be taken back, and write nothing.")
@click.option("--of-others", is_flag=True, help="Take back a change that was not made by you on this machine, too.")
@click.option(
    "--keep-last",
    type=click.IntRange(0, 1_000_000),
    metavar="N",
    help="Instead: forget how to take back all but the last N changes, to make room.",
)
@json_option
@pass_run
def command(
    run: Run, steps: int, redo: bool, preview: bool, of_others: bool, keep_last: int | None, as_json: bool
) -> int:
    """Take back the last change that hookset made in this map: bytes, modes and times as they were before it. STEPS
    changes, if there are to be more than one; each is taken back whole or not at all.

    Stops when a file was changed by hand since. An undo can be taken back with --redo, as long as hookset has changed
    nothing else after it.

    \b
    Examples, in the demo's map:
        hookset undo --preview
        hookset undo 2
        hookset undo --redo
        hookset undo --keep-last 50
    """
    if keep_last is not None:
        return _forgotten(run, keep_last, as_json)
    if preview and steps > 1:
        raise WrongUseError(
            "conflicting-options",
            "--preview shows one step",
            remedy="look at the last change first: hookset undo --preview",
        )
    with run.changing() as project:
        if preview:
            plans = [_planned(project, redo, of_others)]
            stopped = None
        else:
            plans, stopped = _taken_back(project, steps, redo, of_others)
    if as_json:
        data = undo_data([plan.entry for plan in plans], written=not preview)
        run.show_json("undo", stopped is None, data if stopped is None else {**data, **error_data(stopped)})
    else:
        for plan in plans:
            run.print(undo_text(plan, written=not preview, redo=redo))
    if stopped is not None and not as_json:
        raise stopped
    return exit_of(stopped) if stopped is not None else Exit.CLEAN


def _planned(project: MapProject, redo: bool, of_others: bool) -> UndoPlan:
    return (plan_redo if redo else plan_undo)(project.root, of_others=of_others)


def _forgotten(run: Run, keep_last: int, as_json: bool) -> int:
    with run.changing() as project:
        ids = forget(project.root, keep_last)
        room = history_size(project.root)
    if as_json:
        run.show_json("undo", True, {"forgotten": list(ids), "history": {"changes": room.changes, "bytes": room.size}})
    else:
        run.print(forgotten_text(len(ids), room))
    return 0


def _taken_back(
    project: MapProject, steps: int, redo: bool, of_others: bool
) -> tuple[list[UndoPlan], HooksetError | None]:
    """The steps that were done, and what stopped the next one. Raises HooksetError when that is the first."""
    plans: list[UndoPlan] = []
    for _ in range(steps):
        try:
            plan = _planned(project, redo, of_others)
            apply_changes(
                project.root,
                plan.changes,
                action="redo" if redo else "undo",
                title=f"{'redo' if redo else 'undo'} of {plan.entry.title}",
                time=now(),
                disk=Disk(),
                undoes=plan.entry.id,
            )
        except HooksetError as error:
            # What is done is told as well.
            if not plans:
                raise
            return plans, error
        plans.append(plan)
    return plans, None
