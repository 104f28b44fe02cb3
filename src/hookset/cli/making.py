"""The steps of a build on the command line: which are needed, whether they are allowed, and how far they are."""

from __future__ import annotations

import sys
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from functools import partial

from msgspec import Struct

from hookset.building.permission import Asked
from hookset.building.steps.carrying import Carried, Ending, carry_out_steps
from hookset.building.steps.commands import refuse_brought
from hookset.building.steps.digests import FileDigests
from hookset.building.steps.needed import Expected, Steps, expected
from hookset.building.steps.record import read_runs
from hookset.checks import Case
from hookset.cli.allowing import permit
from hookset.cli.busy import busy
from hookset.cli.run import Run
from hookset.config.layouts.rules import Step
from hookset.config.sheets import nearest
from hookset.model import CouldNotError, WrongUseError
from hookset.project import Ledger, MapProject
from hookset.trees import FolderTree
from hookset.trees.ours import is_ours

__all__ = ["Making", "StepsWish", "carried_out", "making_of"]


class StepsWish(Struct, frozen=True):
    """What is wished of the steps of a build."""

    full: bool = False
    """Run all of them, needed or not."""
    only: str = ""
    """Run this one only, and those whose files it reads."""
    allow: str = ""
    """What commands go by that are allowed with this build."""


class Making(Struct, frozen=True):
    """The steps of a map, and what a build would do with them."""

    project: MapProject
    every: Steps
    steps: Steps
    """Those that are asked for."""
    digests: FileDigests
    expected: tuple[Expected, ...]
    anyway: frozenset[str]


def making_of(run: Run, project: MapProject, case: Case, wish: StepsWish) -> Making:
    """What is known of a map's steps before any of them runs. Raises WrongUseError for a step that there is not."""
    if project.file.map.file:
        raise CouldNotError(
            "steps-in-archive",
            "the steps of a map that is one archive are not run",
            where=project.file.map.file,
            why="steps read and make files in a folder",
            remedy="unpack the map, and say in its hookset.toml no `file`",
        )
    head = project.file.map
    every = Steps(
        project.layout.steps,
        _named(project.layout.steps, case),
        {
            "map": head.name,
            "version": head.version,
            "python": sys.executable,
        },
    )
    steps = every
    names = [step.entry.name for step in project.layout.steps]
    if wish.only:
        if wish.only not in names:
            raise WrongUseError(
                "unknown-step",
                f"no step is called `{wish.only}`{nearest(wish.only, names)}",
                remedy="hookset build --what-next",
            )
        steps = every.up_to(wish.only)
    anyway = frozenset(step.entry.name for step in steps.steps) if wish.full else frozenset()
    tree = FolderTree(project.root, _NotRead(project.file.build.folder.strip("/").removeprefix("./")))
    digests = FileDigests(tree, run.memory_of(project.root / "steps"))
    with busy("looking at what the steps read"):
        found = expected(steps, read_runs(project.root).steps, digests, anyway)
    return Making(project, every, steps, digests, found, anyway)


class _NotRead(Struct, frozen=True):
    """What no step reads: what is ours, what was built, and what keeps the map's versions."""

    built: str

    def __call__(self, path: str) -> bool:
        return is_ours(path) or path in (self.built, ".git", ".hg", ".svn")


def _named(steps: Sequence[Step], case: Case) -> dict[str, tuple[str, ...]]:
    """By the kinds that steps read: the files that define names of those."""
    found: dict[str, dict[str, None]] = {kind: {} for step in steps for kind in step.entry.kinds}
    for file in case.web.files if found else ():
        for block in file.defined:
            if block.kind in found and block.names:
                found[block.kind][file.path] = None
    return {kind: tuple(paths) for kind, paths in found.items()}


def carried_out(run: Run, making: Making, ledger: Ledger, wish: StepsWish) -> tuple[Carried, ...]:
    """Run the steps that are needed, once the user has allowed them. Raises RefusedError for such as are not."""
    if not any(one.may_run for one in making.expected):
        making.digests.remember()
        return tuple(Carried(step=one.step, ending=Ending.AS_IT_WAS) for one in making.expected)
    _permit(run, making, {file.path: pack.name for pack in ledger.packs for file in pack.files}, wish)
    with run.changing() as project:
        running: list[tuple[str, float, float]] = []
        with busy(partial(_words, running)):
            # Another build may have run some of them since they were looked at.
            return carry_out_steps(
                making.steps,
                read_runs(project.root),
                making.digests.listed_again(),
                making.anyway,
                f"{datetime.now(UTC):%Y-%m-%dT%H:%M:%SZ}",
                partial(_told, running),
            )


def _told(running: list[tuple[str, float, float]], now: Sequence[tuple[str, float, float]]) -> None:
    running[:] = now


def _words(running: Sequence[tuple[str, float, float]]) -> str:
    """Which steps run, and how long they have yet, by how long they took the last time."""
    left = [f" of about {last:.0f} s" if last >= 1 else "" for _, _, last in running]
    return ", ".join(f"{name} {so_far:.0f} s{more}" for (name, so_far, _), more in zip(running, left, strict=False))


def _permit(run: Run, making: Making, brought: Mapping[str, str], wish: StepsWish) -> None:
    for step in (one.step for one in making.expected if one.may_run):
        files = tuple(making.steps.files(step, making.digests.tree.paths()))
        refuse_brought(step, files, making.steps.tools(step, files), brought)
    # All at once, whichever of them run now: nobody wants to be asked again for the next one.
    asked = [
        Asked(
            making.every.permission(step, making.digests),
            step.entry.name,
            step.entry.command,
            _declared(making.project, step),
            (
                ("tools", step.entry.tools),
                ("reads", (*step.entry.reads, *step.entry.kinds, *step.entry.after)),
                ("makes", step.entry.writes),
                ("finds", tuple(f"{key}={value}" for key, value in step.entry.environment.items())),
            ),
        )
        for step in making.every.steps
    ]
    permit(run, asked, wish.allow, "hookset build")


def _declared(project: MapProject, step: Step) -> str:
    own = {entry.name for entry in project.file.step}
    return "hookset.toml" if step.entry.name in own else project.layout.where
