"""Carrying out the steps of a build: those that are needed, in order, as many side by side as there is room for."""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from enum import StrEnum
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from hookset.building.logs import LogLine, known_lines
from hookset.building.programs import Limits, Program, filled, start
from hookset.building.steps.copy import WorkingCopy, clear_copies, made_working_copy, put_into_map, taken_away
from hookset.building.steps.digests import FileDigests
from hookset.building.steps.needed import Cause, Reason, Steps, Stuff, reasons_for
from hookset.building.steps.record import StepRun, StepRuns, write_runs
from hookset.config.layouts.rules import Step
from hookset.model import CouldNotError, HooksetError
from hookset.trees import FolderTree

__all__ = ["Carried", "Ending", "Progress", "carry_out_steps"]

_WAIT = 0.02
_TOLD = 12


class Ending(StrEnum):
    """What became of a step."""

    RAN = "ran"
    AS_IT_WAS = "as it was"
    FAILED = "failed"
    WAITS = "waits"
    """A step whose files it reads has failed."""


class Carried(Struct, frozen=True, kw_only=True):
    """A step, and what became of it."""

    step: Step
    ending: Ending
    reasons: tuple[Reason, ...] = ()
    seconds: float = 0.0
    made: tuple[str, ...] = ()
    """What it has made, new or other than before."""
    gone: tuple[str, ...] = ()
    """What it has made before and makes no longer."""
    strayed: tuple[str, ...] = ()
    """What it wrote beside what it is to write: thrown away."""
    stay: tuple[str, ...] = ()
    """What it made before and makes no longer, and what was changed by hand since."""
    wrong: str = ""
    """What was wrong with it; empty for nothing."""
    lines: tuple[LogLine, ...] = ()
    """Of what it printed, those that its rules know."""
    last: tuple[str, ...] = ()
    """The last lines that it printed."""
    log: str = ""
    """Where all is that it printed, in the map's folder."""


Progress = Callable[[Sequence[tuple[str, float, float]]], None]
"""Told the steps that run: name, seconds so far, seconds of the last time (0 where it never ran)."""


class _Running(Struct, frozen=True):
    step: Step
    reasons: tuple[Reason, ...]
    stuff: Stuff
    before: StepRun | None
    copy: WorkingCopy
    program: Program


@dataclass
class _Work:
    """A build's steps, as far as they have come."""

    root: Path
    steps: Steps
    runs: StepRuns
    digests: FileDigests
    anyway: frozenset[str]
    """The steps that run whether they are needed or not."""
    when: str
    running: list[_Running] = field(default_factory=list)
    done: dict[str, Carried] = field(default_factory=dict)

    def begin(self, step: Step) -> None:
        """Start a step whose turn it is, if it is needed."""
        name = step.entry.name
        if any(self.done[one].ending in (Ending.FAILED, Ending.WAITS) for one in step.entry.after if one in self.done):
            self.done[name] = Carried(step=step, ending=Ending.WAITS)
            return
        before = self.runs.steps.get(name)
        stuff = self.steps.stuff(step, self.digests)
        reasons = reasons_for(before, stuff, self.digests)
        if not reasons and name in self.anyway:
            reasons = (Reason(Cause.ASKED),)
        if not reasons:
            self.done[name] = Carried(step=step, ending=Ending.AS_IT_WAS)
            return
        edited = [
            path
            for path in (before.outputs if before is not None else ())
            if (digest := self.digests.of(path)) and before is not None and not before.made(path, digest)
        ]
        if edited:
            self.fail(step, reasons, f"{_several(edited)} changed since the step made it, and would be lost")
            return
        copy = made_working_copy(self.root, step, stuff.files)
        try:
            words = {**self.steps.words, "folder": str(copy.folder)}
            command = [filled(one, words) for one in step.entry.command]
            environment = {name: str(copy.own) for name in ("TMPDIR", "TEMP", "TMP")} | step.entry.environment
            limits = Limits(step.entry.seconds, step.entry.megabytes)
            program = start(command, copy.folder, copy.log, environment, limits)
        except CouldNotError as error:
            copy.clear()
            self.fail(step, reasons, error.what)
            return
        self.running.append(_Running(step, reasons, stuff, before, copy, program))

    def fail(self, step: Step, reasons: tuple[Reason, ...], wrong: str) -> None:
        """A step that did not come to its end: what it made before stays, and the next build runs it again."""
        known = self.runs.steps.get(step.entry.name, StepRun(command=""))
        self.keep(step, replace_run(known, failed=True))
        self.done[step.entry.name] = Carried(step=step, ending=Ending.FAILED, reasons=reasons, wrong=wrong)

    def keep(self, step: Step, run: StepRun) -> None:
        self.runs = self.runs.of(step.entry.name, run)
        write_runs(self.root, self.runs)

    def end(self, one: _Running) -> None:
        """Take over what a step that has ended has made."""
        printed, seconds = one.program.printed(), one.program.seconds
        lines = tuple(known_lines(printed, one.step.logs))
        last = tuple(line for line in printed.splitlines() if line.strip())[-_TOLD:]
        outputs, strayed = one.copy.made(one.step)
        wrong = _wrong_with(one, lines, outputs)
        told = Carried(
            step=one.step, ending=Ending.RAN, reasons=one.reasons, seconds=seconds, strayed=strayed, lines=lines,
            last=last, log=one.copy.log.relative_to(self.root).as_posix(),
        )  # fmt: skip
        try:
            if not wrong:
                made = self.place(one, outputs, seconds)
                if isinstance(made, Carried):
                    self.done[one.step.entry.name] = replace(told, made=made.made, gone=made.gone, stay=made.stay)
                    return
                wrong = made
        except HooksetError as error:
            wrong = f"{error.where}: {error.what}" if error.where else error.what
        finally:
            one.copy.clear()
            self.digests = self.digests.listed_again()
        self.fail(one.step, one.reasons, wrong)
        self.done[one.step.entry.name] = replace(told, ending=Ending.FAILED, wrong=wrong)

    def place(self, one: _Running, outputs: Mapping[str, Path], seconds: float) -> Carried | str:
        """Put what a step has made into the map; or say why that cannot be."""
        before = one.before if one.before is not None else StepRun(command="")
        there = self.digests.listed_again()
        fresh = FileDigests(FolderTree(one.copy.folder), None)
        digests = {path: fresh.of(path) for path in outputs}
        foreign = [
            path
            for path, digest in digests.items()
            if (now := there.of(path)) and now != digest and not before.made(path, now)
        ]
        if foreign:
            return f"{_several(foreign)} there already, and was not made by this step: it would be lost"
        other = {path: file for path, file in outputs.items() if there.of(path) != digests[path]}
        stale = {path: now for path in before.outputs if path not in outputs and (now := there.of(path))}
        # Said before it is done: a build that is killed between two files still knows whose both are.
        self.keep(one.step, replace_run(before, coming=digests, failed=True))
        put_into_map(self.root, other)
        stay = taken_away(self.root, before, stale)
        run = StepRun(
            command=one.stuff.command, program=one.stuff.program, inputs=one.stuff.inputs, values=one.stuff.values,
            outputs=digests, seconds=round(seconds, 2), when=self.when,
        )  # fmt: skip
        self.keep(one.step, run)
        gone = tuple(path for path in stale if path not in stay)
        return Carried(step=one.step, ending=Ending.RAN, made=tuple(other), gone=gone, stay=stay)


def replace_run(run: StepRun, *, coming: Mapping[str, str] | None = None, failed: bool) -> StepRun:
    """A step's last run, with what has come of it since."""
    return StepRun(
        command=run.command, program=run.program, inputs=run.inputs, values=run.values, outputs=run.outputs,
        coming=run.coming if coming is None else coming, seconds=run.seconds, when=run.when, failed=failed,
    )  # fmt: skip


def carry_out_steps(
    steps: Steps, runs: StepRuns, digests: FileDigests, anyway: frozenset[str], when: str, progress: Progress
) -> tuple[Carried, ...]:
    """Run the steps of a map that are needed, or named in `anyway`. What each has made is part of the map once it has
    ended well. Raises what keeps all of them from running."""
    root, asked = digests.tree.root, steps.ordered
    clear_copies(root)
    work = _Work(root, steps, runs, digests, anyway, when)
    waiting, most = list(asked), os.cpu_count() or 1
    with _stopped_at_the_end(work):
        while waiting or work.running:
            for step in _ready(waiting, work):
                if len(work.running) < most:
                    waiting.remove(step)
                    work.begin(step)
            for one in [one for one in work.running if one.program.over()]:
                work.running.remove(one)
                work.end(one)
            progress([(one.step.entry.name, one.program.seconds, _last_time(one)) for one in work.running])
            if work.running:
                time.sleep(_WAIT)
    work.digests.remember()
    return tuple(work.done[step.entry.name] for step in asked)


@contextmanager
def _stopped_at_the_end(work: _Work) -> Iterator[None]:
    """Whatever happens, no program goes on, and no copy is left."""
    try:
        yield
    finally:
        for one in work.running:
            one.program.stop("the build was stopped")
            one.copy.clear()


def _ready(waiting: Sequence[Step], work: _Work) -> list[Step]:
    names = {step.entry.name for step in waiting} | {one.step.entry.name for one in work.running}
    return [step for step in waiting if not names.intersection(step.entry.after)]


def _last_time(one: _Running) -> float:
    return one.before.seconds if one.before is not None else 0.0


def _wrong_with(one: _Running, lines: Sequence[LogLine], outputs: Mapping[str, Path]) -> str:
    """Why what a step has made does not count; empty where it does."""
    if one.program.stopped:
        return one.program.stopped
    code = one.program.process.returncode
    if code:
        return f"it ended with {f'exit code {code}' if code > 0 else f'signal {-code}'}"
    if errors := [line for line in lines if line.level == "error"]:
        return f"it printed {len(errors)} errors" if len(errors) > 1 else "it printed an error"
    lacking = [glob.pattern for glob in one.step.writes if not any(glob.matches(path) for path in outputs)]
    return f"it made nothing that is {', nor '.join(lacking)}" if lacking else ""


def _several(paths: Sequence[str]) -> str:
    if len(paths) == 1:
        return f"{paths[0]} was"
    return f"{', '.join(paths[:3])}{' and others' if len(paths) > 3 else ''} were"
