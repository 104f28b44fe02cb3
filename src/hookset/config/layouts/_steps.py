"""The rules of a layout or a project for steps of a build, and for what logs tell."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from hookset.config.layouts._compiler import LayoutCompiler
from hookset.config.layouts.layout import Layout
from hookset.config.layouts.rules import LogRule, Step, ValueQuery
from hookset.config.layouts.schema import HeadEntry, LayoutFile
from hookset.config.layouts.steps import LogEntry, StepEntry
from hookset.config.layouts.template import template
from hookset.config.sheets import Complaint, nearest
from hookset.trees import Glob, unsafe_reason

__all__ = ["log_rules", "project_steps", "step_rules"]

_TOLD = frozenset(["text", "name", "file", "line"])
"""Groups of a pattern of the log."""
_WORDS = ("folder", "map", "python", "version")
_LONGEST = 7 * 24 * 3600


def log_rules(compiler: LayoutCompiler, entries: Sequence[LogEntry], above: str) -> tuple[LogRule, ...]:
    """Patterns of a log; `above` is the address of what has them."""
    found: list[LogRule] = []
    for index, entry in enumerate(entries):
        at = f"{above}/log/{index}"
        match = compiler.regex(entry.match, "match", f"{at}/match")
        if entry.kind:
            compiler.known_kind(entry.kind, f"{at}/kind")
        if match is None:
            continue
        for group in sorted(match.groups - _TOLD):
            compiler.complain(f"{at}/match", f"unknown group `{group}`{nearest(group, sorted(_TOLD))}")
        if entry.kind and "name" not in match.groups:
            compiler.complain(f"{at}/kind", "`kind` says what the group `name` is, and there is no such group")
        found.append(LogRule(entry, match))
    return tuple(found)


def step_rules(compiler: LayoutCompiler, known: Mapping[str, Step] = {}) -> tuple[Step, ...]:
    """The steps of a layout, in their order; `known` are others that they can come after."""
    entries = compiler.entry.step
    names = sorted({*known, *(entry.name for entry in entries)})
    steps = tuple(_step(compiler, entry, f"/step/{index}", names) for index, entry in enumerate(entries))
    own = [entry.name for entry in entries]
    for index, entry in enumerate(entries):
        if entry.name in own[:index]:
            compiler.complain(f"/step/{index}/name", f"there are two steps called `{entry.name}`")
    for index in _circular(entries):
        compiler.complain(f"/step/{index}/after", f"`{entries[index].name}` would have to come after itself")
    return steps


def project_steps(layout: Layout, entries: Sequence[StepEntry]) -> tuple[tuple[Step, ...], list[Complaint]]:
    """The steps that a project adds to those of its layout, or has in place of them; and what is wrong with them."""
    head = HeadEntry(name=layout.name, title=layout.title, sides=layout.sides)
    kinds = {name: kind.entry for name, kind in layout.kinds.items()}
    compiler = LayoutCompiler(LayoutFile(layout=head, kinds=kinds, step=tuple(entries)), layout.reads)
    own = step_rules(compiler, {step.entry.name: step for step in layout.steps})
    names = {step.entry.name for step in own}
    whole = (*(step for step in layout.steps if step.entry.name not in names), *own)
    if not compiler.complaints and any(_circular([step.entry for step in whole])):
        compiler.complain("/step", "with those of the layout, some steps would have to come after themselves")
    return whole, compiler.complaints


def _step(compiler: LayoutCompiler, entry: StepEntry, at: str, names: Sequence[str]) -> Step:
    if not entry.name.strip() or unsafe_reason(entry.name) is not None or "/" in entry.name:
        compiler.complain(f"{at}/name", "it is no name for a step: letters, digits, blanks and `-` make one")
    if not entry.command or not entry.command[0]:
        compiler.complain(f"{at}/command", "it says no program")
    for index, argument in enumerate(entry.command):
        try:
            fields = template(argument).fields
        except ValueError as error:
            compiler.complain(f"{at}/command/{index}", str(error))
            continue
        for name in sorted(fields - {*_WORDS}):
            compiler.complain(f"{at}/command/{index}", f"unknown part {{{name}}}{nearest(name, _WORDS)}")
    if not entry.writes:
        compiler.complain(f"{at}/writes", "it makes nothing: say which files of the map come of it")
    for name in entry.after:
        if name not in names:
            compiler.complain(f"{at}/after", f"no step is called `{name}`{nearest(name, names)}")
    for kind in entry.kinds:
        compiler.known_kind(kind, f"{at}/kinds")
    if not 0 < entry.seconds <= _LONGEST or entry.megabytes <= 0:
        compiler.complain(at, "`seconds` go from 1 to a week, and `megabytes` from 1 on")
    return Step(
        entry=entry,
        tools=_globs(compiler, entry.tools, f"{at}/tools"),
        reads=_globs(compiler, entry.reads, f"{at}/reads"),
        writes=_globs(compiler, entry.writes, f"{at}/writes"),
        needed_by=_globs(compiler, entry.needed_by, f"{at}/needed_by"),
        values=tuple(_queries(compiler, entry, at)),
        logs=log_rules(compiler, entry.log, at),
    )


def _globs(compiler: LayoutCompiler, patterns: Sequence[str], at: str) -> tuple[Glob, ...]:
    return tuple(compiler.glob(pattern, f"{at}/{index}") for index, pattern in enumerate(patterns))


def _queries(compiler: LayoutCompiler, entry: StepEntry, at: str) -> Iterator[ValueQuery]:
    for index, value in enumerate(entry.needed_by_values):
        query = compiler.asked(value, f"{at}/needed_by_values/{index}")
        if query is not None:
            yield query


def _circular(entries: Sequence[StepEntry]) -> Iterator[int]:
    """The indexes of steps that come after themselves, by way of others."""
    after = {entry.name: entry.after for entry in entries}
    for index, entry in enumerate(entries):
        seen: set[str] = set()
        waiting = list(entry.after)
        while waiting:
            name = waiting.pop()
            if name not in seen:
                seen.add(name)
                waiting += after.get(name, ())
        if entry.name in seen:
            yield index
