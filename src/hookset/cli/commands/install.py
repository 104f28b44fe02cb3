"""hookset install"""

from __future__ import annotations

from pathlib import Path
from typing import Literal

import click

from hookset.cli.run import Run, json_option, ledger_bytes, now, pass_run
from hookset.core.install import (
    Choices,
    Disk,
    FileDiff,
    Outlook,
    Plan,
    apply_changes,
    on_disk,
    outlook,
    plan_install,
    text_diffs,
)
from hookset.core.model import RefusedError
from hookset.core.packs import Pack, open_pack
from hookset.core.project import MapProject, read_ledger
from hookset.reports.data import plan_data
from hookset.reports.text.errors import stops_text
from hookset.reports.text.plans import done_text, preview_text

__all__ = ["command"]


@click.command("install", short_help="Set packs into the map.")
@click.argument("packs", nargs=-1, required=True, metavar="PACK...", type=click.Path(path_type=Path))
@click.option("--preview", is_flag=True, help="Show everything that would happen, and write nothing.")
@click.option(
    "--keep-mine", "other_bytes", flag_value="mine", help="Where a file is there with other content: keep it."
)
@click.option("--take-theirs", "other_bytes", flag_value="theirs", help="The same: take the pack's instead.")
@click.option("--anyway", is_flag=True, help="Install although needs are not met or references would be missing.")
@json_option
@pass_run
def command(
    run: Run,
    packs: tuple[Path, ...],
    preview: bool,
    other_bytes: Literal["mine", "theirs"] | None,
    anyway: bool,
    as_json: bool,
) -> int:
    """Set packs into the map: their files, and every entry that their hook sheets name.

    All or nothing, and `hookset undo` takes it back. Stops when a file is there with other content, when a need is
    not met, and when a reference would be missing afterwards that is not missing now.

    \b
    Examples, in the demo's map:
        hookset install ../packs/lift-bridge.zip --preview
        hookset install ../packs/lift-bridge.zip ../packs/fog-bell.zip
    """
    opened = [open_pack(pack) for pack in packs]
    choices = Choices(other_bytes=other_bytes or "stop")
    if preview:
        project = run.project()
        plan, view = _planned(run, project, opened, choices)
        if as_json:
            run.show_json("install", not plan.stops, plan_data(plan, view, _diffs(project, plan), written=False))
        else:
            run.print(preview_text(project.file.map.name, plan, view, _diffs(project, plan)))
            if plan.stops:
                run.print(stops_text(plan.stops))
            run.print("Nothing was written: this was a preview.")
        return 1 if plan.stops or view.unmet or view.broken else 0
    with run.changing() as project:
        plan, view = _planned(run, project, opened, choices)
        if plan.stops:
            if as_json:
                run.show_json("install", False, plan_data(plan, view, (), written=False))
            else:
                run.tell(stops_text(plan.stops))
                run.tell("Nothing was written.")
            return 1
        if not anyway:
            _refuse(view)
        if plan.all_changes:
            names = ", ".join(one.pack.name for one in plan.packs)
            apply_changes(
                project.root,
                on_disk(project, plan.all_changes),
                action="install",
                title=f"install {names}",
                time=now(),
                disk=Disk(),
            )
    if as_json:
        run.show_json("install", True, plan_data(plan, view, (), written=bool(plan.all_changes)))
    else:
        run.print(done_text(project.file.map.name, plan, view))
    return 0


def _planned(run: Run, project: MapProject, opened: list[Pack], choices: Choices) -> tuple[Plan, Outlook]:
    plan = plan_install(project, read_ledger(project.root), ledger_bytes(project), opened, choices, now())
    run.notes.add(f"planned {len(plan.changes)} changed files, {len(plan.stops)} stops")
    return plan, outlook(project, plan, run.cache(project))


def _diffs(project: MapProject, plan: Plan) -> tuple[FileDiff, ...]:
    return tuple(text_diffs(project.tree, plan.changes))


def _refuse(view: Outlook) -> None:
    if view.unmet:
        raise RefusedError(
            "what the pack needs is not there",
            details=tuple(
                f"{state.need.kind} `{state.need.name}`: {state.by}"
                + (f"; {state.need.remedy}" if state.need.remedy else "")
                for state in view.unmet
            ),
            why="; ".join(dict.fromkeys(state.need.why for state in view.unmet if state.need.why))
            or "the pack would not work",
            remedy="add what is needed first, or install all the same with --anyway; nothing was written",
        )
    if view.broken:
        raise RefusedError(
            f"the map would have {len(view.broken)} errors that it has not now",
            details=tuple(f"{finding.spot}: {finding.message}" for finding in view.broken[:10]),
            why="something that the pack uses would be missing in the game",
            remedy="--preview shows all of it; --anyway installs all the same; nothing was written",
        )
