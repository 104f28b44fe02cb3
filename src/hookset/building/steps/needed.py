"""Which steps of a build are needed, and why: by what they are, what they read, and what they have made."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from enum import StrEnum
from pathlib import PurePosixPath

from msgspec import Struct
from msgspec.structs import replace

from hookset.building.programs import filled, found_program
from hookset.building.steps.commands import command_digest
from hookset.building.steps.digests import FileDigests
from hookset.building.steps.record import StepRun
from hookset.config.layouts.rules import Step, ValueQuery
from hookset.formats import Unreadable
from hookset.model import CouldNotError
from hookset.symbols.reading import open_document

__all__ = ["Cause", "Expected", "Reason", "Steps", "Stuff", "expected", "reasons_for"]

_RUN = frozenset((".py", ".lua", ".js", ".mjs", ".rb", ".pl", ".sh", ".ps1", ".bat", ".cmd", ".exe", ".jar", ".wasm"))
"""Endings of files that are run, rather than worked on."""


class Cause(StrEnum):
    """Why a step is needed."""

    ASKED = "asked"
    FIRST = "first"
    FAILED = "failed"
    COMMAND = "command"
    PROGRAM = "program"
    NEW = "new"
    CHANGED = "changed"
    GONE = "gone"
    VALUES = "values"
    LOST = "lost"
    """Something that it has made is not there any more."""


class Reason(Struct, frozen=True):
    """One of the reasons for which a step is needed."""

    cause: Cause
    path: str = ""


class Stuff(Struct, frozen=True):
    """What a step would be made of now."""

    command: str
    """SHA-256 of what it is."""
    program: str
    files: tuple[str, ...]
    """All that it finds in its folder."""
    tools: tuple[str, ...]
    """Those of them that it runs."""
    inputs: Mapping[str, str]
    """Those whose change makes it run, with their SHA-256."""
    values: str


class Steps(Struct, frozen=True):
    """The steps of a map, and what they can read of it."""

    steps: tuple[Step, ...]
    named: Mapping[str, tuple[str, ...]]
    """By the kind of a name: the files that define any."""
    words: Mapping[str, str]
    """What stands for `{map}`, `{version}` and `{python}`."""

    def up_to(self, name: str) -> Steps:
        """One of them, and those whose files it reads."""
        last = next(step for step in self.steps if step.entry.name == name)
        names = self.before(last) | {name}
        return replace(self, steps=tuple(step for step in self.steps if step.entry.name in names))

    @property
    def ordered(self) -> tuple[Step, ...]:
        """Each behind those whose files it reads; else in the order in which they are written."""
        found: dict[str, Step] = {}
        left = list(self.steps)
        while left:
            step = next(one for one in left if all(name in found for name in one.entry.after))
            found[step.entry.name] = step
            left.remove(step)
        return tuple(found.values())

    def before(self, step: Step) -> frozenset[str]:
        """The names of all steps that come before one, by way of others as well."""
        by_name = {one.entry.name: one for one in self.steps}
        found: set[str] = set()
        waiting = list(step.entry.after)
        while waiting:
            name = waiting.pop()
            if name not in found:
                found.add(name)
                waiting += by_name[name].entry.after
        return frozenset(found)

    def files(self, step: Step, paths: Iterable[str]) -> Iterator[str]:
        """Those of the map's files that a step finds in its folder."""
        before, named = self.before(step), frozenset(path for kind in step.entry.kinds for path in self.named[kind])
        others = [one for one in self.steps if one is not step]
        asked = (*step.reads, *step.tools)
        for path in paths:
            makers = [one.entry.name for one in others if one.makes(path)]
            if step.makes(path) or (makers and not before.intersection(makers)):
                continue
            from_step = any(name in step.entry.after for name in makers)
            if from_step or path in named or any(glob.matches(path) for glob in asked):
                yield path

    def tools(self, step: Step, files: Iterable[str]) -> tuple[str, ...]:
        """Those of its files that a step runs."""
        return tuple(path for path in files if _is_tool(step, path))

    def stuff(self, step: Step, digests: FileDigests) -> Stuff:
        """What a step would be made of. Raises CouldNotError for a file that cannot be read."""
        files = tuple(self.files(step, digests.tree.paths()))
        tools = self.tools(step, files)
        triggers = [path for path in files if path not in tools and _triggers(step, path)]
        place = found_program(filled(step.entry.command[0], self.words), digests.tree.root)
        line = "\n".join(filled(one, self.words) for one in step.entry.command)
        command = command_digest(step, {path: digests.of(path) for path in tools})
        return Stuff(
            command=hashlib.sha256(f"{command}\n{line}".encode("utf-8", "surrogatepass")).hexdigest(),
            program=digests.of_program(place) if place is not None else "",
            files=files,
            tools=tools,
            inputs={path: digests.of(path) for path in triggers},
            values=_values(step.values, digests),
        )

    def permission(self, step: Step, digests: FileDigests) -> str:
        """The digest by which a user allows a step."""
        tools = self.tools(step, self.files(step, digests.tree.paths()))
        return command_digest(step, {path: digests.of(path) for path in tools})


def _is_tool(step: Step, path: str) -> bool:
    """Whether a file is one that the command runs, rather than what it works on."""
    if any(glob.matches(path) for glob in step.tools) or path == step.entry.command[0]:
        return True
    return path in step.entry.command and PurePosixPath(path).suffix.casefold() in _RUN


def _triggers(step: Step, path: str) -> bool:
    if not step.needed_by:
        # Values stand for the files that they are in.
        return not any(query.files.matches(path) for query in step.values)
    return any(glob.matches(path) for glob in step.needed_by)


def _values(queries: Sequence[ValueQuery], digests: FileDigests) -> str:
    """The SHA-256 of the values that are asked for; of a file that cannot be read, of all that is in it."""
    if not queries:
        return ""
    found = hashlib.sha256()
    for query in queries:
        for path in digests.tree.paths():
            if not query.files.matches(path):
                continue
            try:
                document = open_document(digests.tree, path, query.rule)
                said = "\0".join(value.text for value in document.select(query.selector))
            except (Unreadable, CouldNotError):
                said = digests.of(path)
            found.update(f"{path}\0{said}\1".encode("utf-8", "surrogatepass"))
    return found.hexdigest()


def reasons_for(run: StepRun | None, stuff: Stuff, digests: FileDigests) -> tuple[Reason, ...]:
    """Why a step that ran so is needed now; nothing where it is not."""
    if run is None:
        return (Reason(Cause.FIRST),)
    found = [Reason(Cause.FAILED)] if run.failed else []
    if run.command != stuff.command:
        found.append(Reason(Cause.COMMAND))
    if run.program != stuff.program:
        found.append(Reason(Cause.PROGRAM))
    for path, digest in stuff.inputs.items():
        if path not in run.inputs:
            found.append(Reason(Cause.NEW, path))
        elif run.inputs[path] != digest:
            found.append(Reason(Cause.CHANGED, path))
    found += (Reason(Cause.GONE, path) for path in run.inputs if path not in stuff.inputs)
    if run.values != stuff.values:
        found.append(Reason(Cause.VALUES))
    found += (Reason(Cause.LOST, path) for path in run.outputs if not digests.of(path))
    return tuple(found)


class Expected(Struct, frozen=True):
    """A step, and what a build would do with it."""

    step: Step
    reasons: tuple[Reason, ...]
    waits_for: tuple[str, ...]
    """The steps that run, and after which it runs if they make something else than before."""
    seconds: float
    """How long it took the last time; 0 where it never ran."""

    @property
    def may_run(self) -> bool:
        """Whether it runs, as far as that can be known before."""
        return bool(self.reasons or self.waits_for)


def expected(
    steps: Steps, runs: Mapping[str, StepRun], digests: FileDigests, anyway: frozenset[str]
) -> tuple[Expected, ...]:
    """What a build would do now. Raises CouldNotError for a file that cannot be read."""
    found: dict[str, Expected] = {}
    for step in steps.ordered:
        name = step.entry.name
        run = runs.get(name)
        reasons = reasons_for(run, steps.stuff(step, digests), digests)
        if not reasons and name in anyway:
            reasons = (Reason(Cause.ASKED),)
        waits_for = tuple(one for one in step.entry.after if one in found and found[one].may_run)
        found[name] = Expected(step, reasons, waits_for, run.seconds if run is not None else 0.0)
    return tuple(found.values())
