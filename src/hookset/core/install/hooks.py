"""Hooks into their seats, each over the state that the ones before it would leave."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

from hookset.core.formats import (
    AlreadyThere,
    Body,
    Clash,
    Edit,
    Edits,
    Misfit,
    NoSeat,
    Placement,
    Unreadable,
    format_named,
    spliced,
    text_of,
)
from hookset.core.install.plan import HookState, HookStep, Stop
from hookset.core.layouts import Layout, Seat
from hookset.core.model import CouldNotError
from hookset.core.packs import Pack
from hookset.core.packs.hooksheet import HookEntry
from hookset.core.sheets import nearest
from hookset.core.trees import Content, Glob, Inline, Overlay, Tree

__all__ = ["Seating", "plan_hooks"]


@dataclass(frozen=True, slots=True)
class Seating:
    """Where hooks can go: the layout's seats over a tree."""

    layout: Layout
    tree: Tree

    def over(self, contents: Mapping[str, Content | None]) -> Seating:
        return replace(self, tree=Overlay(self.tree, contents))


@dataclass(frozen=True, slots=True)
class _Wanted:
    """One entry for one file."""

    seat: Seat
    path: str
    body: Body
    line: int
    """Of the hook in its sheet; 0 for manifest rows, which no sheet has to name."""
    note: str = ""


def plan_hooks(
    pack: Pack, seating: Seating, packs: Mapping[str, str]
) -> tuple[tuple[HookStep, ...], list[Stop], dict[str, Content | None]]:
    """(every hook and its state, what stops the plan, the contents of the files that would be edited)"""
    steps: list[HookStep] = []
    stops: list[Stop] = []
    contents: dict[str, Content | None] = {}
    for wanted in _wanted(pack, seating, packs):
        if isinstance(wanted, Stop):
            stops.append(wanted)
            continue
        if isinstance(wanted, HookStep):
            steps.append(wanted)
            continue
        step, result = _set(pack, wanted, seating.over(contents))
        steps.append(step)
        if isinstance(result, Stop):
            stops.append(result)
        elif result is not None:
            contents[wanted.path] = result
    return tuple(steps), stops, contents


def _wanted(pack: Pack, seating: Seating, packs: Mapping[str, str]) -> Iterator[_Wanted | HookStep | Stop]:
    if pack.sheet is None or pack.written is None:
        return
    for index, hook in enumerate(pack.sheet.hook):
        line = pack.written.line_of(f"/hook/{index}")
        where = f"{pack.written.where}:{line}"
        seat = seating.layout.seats.get(hook.seat)
        if seat is None:
            yield Stop(
                f"the layout {seating.layout.name} has no seat called `{hook.seat}`"
                + nearest(hook.seat, sorted(seating.layout.seats)),
                where=where,
                why="the entry would be set nowhere, and the pack would not work",
                remedy="correct the hook sheet",
            )
        elif hook.when is not None and hook.when.pack not in packs:
            yield HookStep(
                seat=seat.name,
                title=seat.title,
                state=HookState.LEFT_OUT,
                shown=_shown(hook),
                note=f"only where {hook.when.pack} is installed",
            )
        elif hook.each is not None:
            yield from _for_each_variant(hook, seat, seating, where, line)
        else:
            path = _only_file(seat, seating.tree, where)
            yield (
                path if isinstance(path, Stop) else _Wanted(seat, path, Body(text=hook.text, record=hook.record), line)
            )
    yield from _manifest_rows(pack, seating)


def _for_each_variant(
    hook: HookEntry, seat: Seat, seating: Seating, where: str, line: int
) -> Iterator[_Wanted | HookStep | Stop]:
    """An entry in each variant's file. A variant that the pack does not have gets that of its first one."""
    given = hook.each or {}
    files: dict[str, str] = {}
    for path in seating.tree.paths():
        match = seat.file.match(path)
        if match is not None and "variant" in match.words:
            files[match.words["variant"]] = path
    if not files:
        yield _no_file(seat, where)
    for variant, path in sorted(files.items()):
        first = next(iter(given), "")
        entry = given.get(variant, given.get(first, {}))
        body = Body(text=entry) if isinstance(entry, str) else Body(record=entry)
        note = "" if variant in given else f"not in `{variant}` in this pack: set in `{first}`, to be translated"
        yield _Wanted(seat, path, body, line, note)
    for variant in sorted(given.keys() - files.keys()):
        yield HookStep(
            seat=seat.name,
            title=seat.title,
            state=HookState.LEFT_OUT,
            shown=_shown(Body(text=entry) if isinstance(entry := given[variant], str) else Body(record=entry)),
            note=f"this map has no `{variant}`",
        )


def _manifest_rows(pack: Pack, seating: Seating) -> Iterator[_Wanted | Stop]:
    """Every file of the pack that a build must list gets its row; no hook sheet has to say so."""
    manifest = seating.layout.manifest
    if manifest is None or not manifest.seat:
        return
    seat = seating.layout.seats[manifest.seat]
    globs = [Glob(pattern) for pattern in manifest.must_list]
    rows = [target for target in pack.targets if any(glob.matches(target) for glob in globs)]
    path = _only_file(seat, seating.tree, pack.name) if rows else ""
    if isinstance(path, Stop):
        yield path
        return
    for row in rows:
        yield _Wanted(seat, path, Body(text=row), 0)


def _only_file(seat: Seat, tree: Tree, where: str) -> str | Stop:
    paths = [path for path in tree.paths() if seat.file.matches(path)]
    if not paths:
        return _no_file(seat, where)
    if len(paths) > 1:
        return Stop(
            f"the seat `{seat.name}` ({seat.title}) is in one file, and {len(paths)} match {seat.file.pattern}",
            where=where,
            details=tuple(paths),
            why="the entry belongs into one of them only",
            remedy="give the layout's seat the path of one file",
        )
    return paths[0]


def _no_file(seat: Seat, where: str) -> Stop:
    return Stop(
        f"the seat `{seat.name}` ({seat.title}) is in {seat.file.pattern}, which this map has not got",
        where=where,
        why="the entry would be set nowhere, and the pack would not work",
        remedy="add that file to the map, as the layout expects it",
    )


def _set(pack: Pack, wanted: _Wanted, seating: Seating) -> tuple[HookStep, Content | Stop | None]:
    """One entry into one file: the step, and the file's new content or what stands in the way."""
    seat, form = wanted.seat, format_named(wanted.seat.format)
    where = f"{pack.written.where}:{wanted.line}" if pack.written and wanted.line else pack.name
    step = HookStep(
        seat=seat.name,
        title=seat.title,
        path=wanted.path,
        state=HookState.STOPPED,
        shown=_shown(wanted.body),
        note=wanted.note,
    )
    try:
        text = text_of(form, seating.tree.read(wanted.path), seat.encodings)
        document = form.open(text, seat.options)
        if document.problems:
            what, _ = document.problems[0]
            raise Unreadable(what)
        placement = document.put(seat.put, wanted.body)
        if isinstance(placement, Edits):
            content = Inline(text.encode(spliced(text.string, placement.edits)))
            done = replace(
                step,
                state=HookState.SET,
                texts=tuple(edit.text for edit in placement.edits),
                before=tuple(_line_above(text.string, edit) for edit in placement.edits),
            )
            return done, content
    except (Unreadable, CouldNotError) as error:
        return step, Stop(
            f"the hook for the seat `{seat.name}` cannot be set: {wanted.path} {error.what}",
            where=where,
            why="a file that is not understood is not edited",
            remedy="mend the file first; `hookset check` shows where",
        )
    if isinstance(placement, AlreadyThere):
        entry = () if wanted.body.text is None else (wanted.body.text,)
        return replace(step, state=HookState.THERE, texts=entry), None
    return step, _refusal(placement, seat, wanted, where)


def _refusal(placement: Placement, seat: Seat, wanted: _Wanted, where: str) -> Stop:
    if isinstance(placement, NoSeat):
        return Stop(
            f"the seat `{seat.name}` ({seat.title}) is not found in {wanted.path}",
            where=where,
            details=(f"looked for: {placement.looked_for}", *_candidates(placement.candidates)),
            why="the entry would stand where the game does not see it",
            remedy=f"bring {wanted.path} into the shape the layout expects, or point the layout's seat elsewhere",
        )
    if isinstance(placement, Misfit):
        return Stop(
            f"the entry for the seat `{seat.name}` is not what goes into {wanted.path}: {placement.what}",
            where=where,
            details=(f"the entry: {_shown(wanted.body)}",),
            why="set as it is, it would damage the file",
            remedy="correct the hook sheet",
        )
    said = placement.what if isinstance(placement, Clash) else ""
    return Stop(
        f"{wanted.path} has an entry of the same name that says something else: {said}",
        where=where,
        why="one of the two would win without a word",
        remedy="rename the map's own entry and what refers to it, or take it out",
    )


def _candidates(candidates: tuple[str, ...]) -> tuple[str, ...]:
    return (f"there are: {', '.join(candidates[:12])}",) if candidates else ()


def _line_above(string: str, edit: Edit) -> str:
    """The last line before the edit that is not empty: what the entry is found by again."""
    return next((line for line in reversed(string[: edit.start].splitlines()) if line.strip()), "")


def _shown(body: Body | HookEntry) -> str:
    """An entry on one line, for people."""
    text: str | None = body.text
    if text is not None:
        return " ⏎ ".join(line.strip() for line in text.strip().splitlines())
    record: Mapping[str, Any] = body.record or {}
    return json.dumps(record, ensure_ascii=False)[1:-1]
