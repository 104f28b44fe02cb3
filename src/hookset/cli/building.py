"""What `build` and `deliver` have in common: the map is checked, its steps run, and its archive written."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from hookset.building import gate, gate_made, gate_shipped, plan_archive, write_archive
from hookset.building.built import Built
from hookset.building.steps.carrying import Carried, Ending
from hookset.checks import Verdict, judge
from hookset.cli.busy import busy
from hookset.cli.making import StepsWish, carried_out, making_of
from hookset.cli.run import Run
from hookset.model import RefusedError
from hookset.project import Ledger, MapProject, read_ledger
from hookset.trees import RenamedTree

__all__ = ["built", "judged", "stopped_by"]


def judged(run: Run, project: MapProject, ledger: Ledger) -> Verdict:
    """What a check says of a map."""
    with busy("checking the map"):
        return judge(project.tree, project.layout, project.stock, ledger, project.terms, run.cache(project))


def built(
    run: Run, project: MapProject, anyway: bool, folder: Path | None = None, wish: StepsWish | None = None
) -> Built:
    """Write the archive of a map, into its own folder for that or another one, with what its steps make. Raises
    RefusedError for a map that has an error, unless it is to be built `anyway`, and where a step fails."""
    wish = wish if wish is not None else StepsWish()
    ledger = read_ledger(project.root)
    verdict = judged(run, project, ledger)
    making = making_of(run, project, verdict.case, wish) if project.layout.steps else None
    if not anyway:
        # Before anything runs, which may take hours.
        gate(verdict)
    steps: tuple[Carried, ...] = ()
    if making is not None:
        steps = carried_out(run, making, ledger, wish)
        if failed := [one for one in steps if one.ending is Ending.FAILED]:
            raise stopped_by(failed)
        verdict = judged(run, project, ledger)
        if not anyway:
            gate(verdict)
            gate_made(verdict)
    head = project.file.map
    archive = plan_archive(verdict.case, head.name, head.version)
    if archive.left_out and not anyway:
        with busy("checking what is shipped"):
            shipped = RenamedTree(project.tree, {path: path for path in sorted(archive.files)})
            cache = run.cache(project)
            shipped_verdict = judge(shipped, project.layout, project.stock, Ledger(), project.terms, cache)
        gate_shipped(verdict, shipped_verdict)
    file = folder / archive.name if folder is not None else project.built(archive.name)
    with busy("packing"):
        packed = write_archive(project.tree, archive, file, None if wish.full else run.memory_of(file))
    return Built(archive, file, packed, verdict, ledger, steps)


def stopped_by(failed: Sequence[Carried]) -> RefusedError:
    """What a build says of steps that failed."""
    details: list[str] = []
    for one in failed:
        details.append(f"{one.step.entry.name}: {one.wrong}")
        if one.lines:
            details += (f"  {_place(line.file, line.line)}{line.text}" for line in one.lines[:5])
        else:
            details += (f"  {line[:200]}" for line in one.last[-3:])
    logs = [one.log for one in failed if one.log]
    one_ = f"the step `{failed[0].step.entry.name}` has failed"
    many = f"{len(failed)} steps have failed" if len(failed) > 1 else one_
    return RefusedError(
        "step-failed",
        f"{many}; the map is not built",
        details=tuple(details),
        why="what it makes is part of the map; what it made before is still there",
        remedy=f"correct that, and build again{f'; all that was printed is in {logs[0]}' if logs else ''}",
    )


def _place(file: str, line: int) -> str:
    return f"{file}:{line}: " if file and line else f"{file}: " if file else ""
