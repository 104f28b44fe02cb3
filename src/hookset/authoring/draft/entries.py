"""The hooks of a draft, from what the notes show and from what turns out to be lacking."""

from __future__ import annotations

import itertools
import posixpath
import re
from collections.abc import Container, Iterator, Mapping, Sequence
from typing import Any

from msgspec import Struct, field
from msgspec.structs import replace

from hookset.authoring.draft.cites import Why, as_said, at_line, because_of
from hookset.authoring.draft.decided import Decided
from hookset.authoring.draft.deciding import chunks_as_decided
from hookset.authoring.draft.draft import Reason
from hookset.authoring.draft.found.filling import Filled, mapped
from hookset.authoring.draft.found.lacking import Lacking
from hookset.authoring.draft.found.needs import condition_entry
from hookset.authoring.draft.found.seating import Ground, Known, Seated, is_listed_beside, seated
from hookset.authoring.draft.found.sharing import Shared
from hookset.authoring.draft.found.texts import text_entries, texts_behind, texts_said
from hookset.authoring.draft.gathering import PackMaterial
from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.said import Chunk, Condition, condition_of
from hookset.authoring.draft.said.becoming import is_wrong
from hookset.authoring.draft.said.conditions import instead, said_both_ways
from hookset.authoring.draft.said.history import superseded
from hookset.authoring.draft.said.parts import is_landmark, is_mentioned, is_optional, is_usage
from hookset.authoring.draft.said.removals import goes
from hookset.authoring.draft.said.sentences import sentences_of
from hookset.authoring.draft.said.sides import for_both
from hookset.authoring.draft.site import SeatFile, Site
from hookset.authoring.draft.words import says
from hookset.edits.place import seat_at
from hookset.formats import AlreadyThere, Body, Edits
from hookset.formats.document import placement_at
from hookset.model import Reference
from hookset.packs.hooksheet import HookEntry, WhenEntry

__all__ = [
    "DraftEntry",
    "as_decided",
    "hooks_of",
    "of_lacking",
    "of_notes",
    "of_said_texts",
    "of_shared",
    "seated_in_notes",
]

_MANY = 6
"""Entries in a row that are one block."""
_NEAR = 6
"""Lines beside a text that are about it."""
_CERTAIN = 10.0
"""Points of what is said in so many words."""
_BOUND = re.compile(r"\s*(?:local|const|let|var|import)\s+(?P<names>\{[^{}]*\}|\w+(?:\s*,\s*\w+)*)\s*(?:=|from\b)")


class DraftEntry(Struct, frozen=True):
    """One hook in the making: one entry in one file."""

    seat_file: SeatFile
    body: Body
    reason: Reason
    at: Mapping[str, str] = field(default_factory=dict)
    when: WhenEntry | None = None
    refers: tuple[Reference, ...] = ()
    earlier: bool = False
    """Whether only an earlier version has set it: it is no part of what the notes show."""


def seated_in_notes(
    site: Site, have: PackMaterial, beside: Container[int] = ()
) -> tuple[list[tuple[Seated, Condition | None]], dict[int, list[Seated]]]:
    """The entries that the notes show, each once, with what each depends on; and by the `id` of a text to be copied all
    that was read in it."""
    first, used = _seated(site, have, have.known, beside)
    bound: dict[str, set[str]] = {}
    for one, _ in first:
        match = _BOUND.match(one.body.text or "")
        if match is not None:
            bound.setdefault(one.seat_file.path, set()).update(re.findall(r"\w+", match["names"]))
    if bound:
        # Once more, now that it is known what each file can work with.
        known = replace(have.known, bound={path: frozenset(names) for path, names in bound.items()})
        first, used = _seated(site, have, known, beside)
    return first, used


def _seated(
    site: Site, have: PackMaterial, known: Known, beside: Container[int]
) -> tuple[list[tuple[Seated, Condition | None]], dict[int, list[Seated]]]:
    used: dict[int, list[Seated]] = {}
    found: list[tuple[Seated, Condition | None]] = []
    before: Condition | None = None
    targets = {one.target for one in have.placing.placed}
    folders = {part for path in have.sorts for part in path.split("/")[:-1]}
    seen: set[str] = set()
    ground = Ground(site, known, have.everywhere)
    past = superseded(have.notes)
    names = (*site.packs, *said_both_ways(line.text for one in have.notes for line in one.lines if not line.code))
    for chunk, decision in chunks_as_decided(have):
        heading = have.headings.get((chunk.notes, chunk.first), "")
        condition = condition_of(chunk.said, names, before) or condition_of(f"if {heading}", names, None)
        before = condition or before
        chosen = replace(ground, seat=decision.seat, at=decision.at) if decision is not None else ground
        old = all((chunk.notes, line.number) in past for line in chunk.lines)
        usage = is_mentioned(chunk) or (is_usage(heading) and not _names_a_file(site, chunk))
        told = old or usage or goes(chunk) or is_wrong(chunk) or is_landmark(chunk)
        if id(chunk) in beside or (decision is None and told):
            continue
        for one in _on_both_sides(site, seated(chosen, chunk)):
            if have.decided.drops(at_line(chunk.notes, one.line), sure=True):
                continue
            key = repr((one.seat_file.seat.name, one.seat_file.path, dict(one.at), one.body, condition))
            # In a sentence, the path of a file says where something goes.
            path = one.body.text or ""
            listed = path in targets or (chunk.inline and (site.tree.has(path) or path.strip("/\\") in folders))
            if not (chunk.inline and listed):
                used.setdefault(id(chunk), []).append(one)
            if condition is not None and not condition.without and instead(chunk.said):
                _or_else(found, one, condition)
            if chunk.inline and not one.sure and any(one.body == other.body for other, _ in found):
                # Said once more: "you forgot …".
                continue
            if chunk.inline and any(_calls_the_same(one, other) for other, _ in found):
                # "`boiler.start()` may be called once only": of an entry that is there already.
                continue
            if not one.there and not listed and key not in seen:
                # What stands there already is none, nor are rows of a manifest, which every file gets by itself.
                seen.add(key)
                found.append((one, condition))
    return found, used


def _on_both_sides(site: Site, entries: Sequence[Seated]) -> Iterator[Seated]:
    """The entries; those that the notes have on both sides, at the same seat of the other one as well."""
    for one in entries:
        here = one.seat_file
        twins = [
            other
            for other in site.seat_files
            if "" not in (here.side, other.side) and other.side != here.side and other.seat.put == here.seat.put
        ]
        if not twins or not for_both(one.chunk, posixpath.basename(here.path)):
            yield one
            continue
        for seat_file in (here, *twins):
            put = seat_at(seat_file.seat, one.at) if one.at else seat_file.seat.put
            placement = placement_at(seat_file.document, put, one.body)
            there = isinstance(placement, AlreadyThere)
            if there or isinstance(placement, Edits):
                told = site.told(seat_file, one.body, put)
                yield replace(one, seat_file=seat_file, told=told, there=there, points=_CERTAIN, ahead=_CERTAIN)


def _names_a_file(site: Site, chunk: Chunk) -> bool:
    """Whether the words just before a text name a file of the map that takes entries."""
    said = chunk.said.replace("\\", "/")
    paths = {name for one in site.seat_files for name in (one.path, posixpath.basename(one.path))}
    return any(re.search(rf"(?<![\w.-]){re.escape(name)}(?![\w-])", said) is not None for name in paths)


def _calls_the_same(one: Seated, other: Seated) -> bool:
    """Whether two statements at a seat call one and the same, with whatever."""
    calls = [re.match(r"\s*([\w.:]+)\s*\(", entry.body.text or "") for entry in (one, other)]
    return (
        one.seat_file is other.seat_file
        and calls[0] is not None
        and calls[1] is not None
        and calls[0][1] == calls[1][1]
    )


def _or_else(found: list[tuple[Seated, Condition | None]], one: Seated, condition: Condition) -> None:
    """The entry above at the same seat is for maps without the pack that this one is for."""
    for number in range(len(found) - 1, -1, -1):
        other, its = found[number]
        if other.seat_file is one.seat_file:
            if its is None:
                found[number] = (other, replace(condition, without=True, version=""))
            return


def of_the_author(chunk: Chunk, notes: Sequence[Notes]) -> str | None:
    """Where the notes say beside a text that a place or a number in it is only the author's; None where they do not."""
    if chunk.inline:
        return None
    for one in notes:
        # What was meant to be read may stand among what is to be copied.
        for line in one.lines if one.path == chunk.notes else ():
            if chunk.first <= line.number <= chunk.lines[-1].number + 1 and says("theirs", line.text):
                return f"{one.path}:{line.number}"
    first, last = chunk.first - _NEAR, chunk.lines[-1].number + _NEAR
    for sentence in sentences_of(one for one in notes if one.path == chunk.notes):
        if first <= sentence.lines[0] and sentence.lines[-1] <= last and says("theirs", sentence.text):
            return f"{sentence.notes}:{sentence.lines[-1]}"
    return None


def of_notes(
    site: Site,
    filled: Filled,
    condition: Condition | None,
    notes: Sequence[Notes] = (),
    heading: str = "",
    chosen: WhenEntry | None = None,
) -> DraftEntry:
    """An entry that the notes show, under a heading; `chosen` where it is one of several."""
    one = filled.seated
    doubts = list(filled.doubts)
    if not one.sure:
        doubts.append(_unsure_seat(one))
    if condition is not None and not condition.known:
        doubts.append(f"that it depends on a pack called {condition.pack} is how the notes were understood")
    gap = one.chunk.gap
    if gap is not None and (gap.above or gap.below) and not is_listed_beside(one.chunk, one.seat_file):
        doubts.append("a listing shows it between lines that do not stand there in this map")
    if chosen is None and is_optional(one.chunk, heading):
        doubts.append("the notes leave it to you whether it is set")
    if (mine := of_the_author(one.chunk, notes)) is not None:
        doubts.append(f"something of it is the author's own, {mine} says: what is it here?")
    why = because_of((at_line(one.chunk.notes, one.line), *filled.told))
    reason = Reason(not doubts, why, tuple(doubts))
    when = condition_entry(site, condition) if condition is not None else chosen
    return DraftEntry(one.seat_file, filled.body, reason, one.at, when, one.told.refers)


def _unsure_seat(one: Seated) -> str:
    if one.also == one.seat_file.seat.name:
        return "which of the seat's files it is for is a guess"
    return f"it may belong to the seat `{one.also}` instead" if one.also else "the seat is a guess"


def of_shared(one: Shared) -> DraftEntry:
    """An entry in the pack's own copy of a file of the map."""
    return DraftEntry(
        one.seat_file, one.body, Reason(True, as_said(f"in the pack's own {one.path}")), refers=one.told.refers
    )


def of_said_texts(site: Site, have: PackMaterial, shown: Sequence[Seated]) -> Iterator[DraftEntry]:
    """Texts that the prose gives for names that the pack or an entry asks for, and that no entry sets."""
    referred = {(one.kind, one.name) for entry in shown for one in entry.told.refers} | have.known.asked
    defined = {(one.kind, one.name) for entry in shown for one in entry.told.defines} | have.known.defined
    for kind in {one.seat.kind for one in site.seat_files if one.variant and one.seat.kind}:
        asked = {name for of, name in referred - defined if of == kind and not site.index.get(kind, name)}
        files = {one.path: one.language for one in site.seat_files if one.variant and one.seat.kind == kind}
        said_of = [*texts_said(have.notes, asked, files), *texts_behind(have.notes, shown, kind)]
        for seat_file, body, said in text_entries(site, said_of, kind):
            if not have.decided.drops(said.why, sure=True):
                yield DraftEntry(seat_file, body, Reason(True, said.why))


def as_decided(entry: DraftEntry, decided: Decided, everywhere: Mapping[str, str]) -> DraftEntry:
    """With the builder's marks in it, and those of all entries; what was agreed to is sure."""
    why = entry.reason.why
    decision = decided.about(why)
    own = {mark.text: mark.becomes for mark in decision.mark} if decision is not None else {}
    marks = {**everywhere, **own}
    reason = Reason(True, why) if decided.agrees(why) else entry.reason
    return replace(entry, body=mapped(entry.body, marks) if marks else entry.body, reason=reason)


def of_lacking(one: Lacking) -> DraftEntry:
    """An entry that only the pack's contents ask for."""
    doubts = () if one.sure else ("the notes say nothing of it; it is made after the map's own",)
    return DraftEntry(one.seat_file, one.body, Reason(one.sure, one.why, doubts), one.at)


def hooks_of(entries: Sequence[DraftEntry]) -> Iterator[tuple[HookEntry, Reason]]:
    """Hooks with their reasons. Entries of seats that are one file per language become one hook for all languages."""
    done: set[tuple[str, bool]] = set()
    for one in _blocks(entries):
        seat = one.seat_file.seat.name
        if not one.seat_file.variant:
            yield _hook(one), one.reason
        elif (key := (seat, one.earlier)) not in done:
            done.add(key)
            yield from _each(seat, [other for other in entries if (other.seat_file.seat.name, other.earlier) == key])


def _blocks(entries: Sequence[DraftEntry]) -> Iterator[DraftEntry]:
    """The entries; many texts in a row for one seat, from one file, are one block, as they were to be pasted."""
    for (seat_file, key), group in itertools.groupby(entries, key=lambda one: (one.seat_file, _run_of(one))):
        run = list(group)
        if not key or len(run) < _MANY or seat_file.variant:
            yield from run
            continue
        doubts = tuple(dict.fromkeys(doubt for one in run for doubt in one.reason.doubts))
        first, last = run[0].reason.why.lines[0], run[-1].reason.why.lines[0]
        text = "\n".join((one.body.text or "").strip("\n") for one in run)
        reason = Reason(all(one.reason.sure for one in run), Why((first,), until=last[1]), doubts)
        refers = tuple(refer for one in run for refer in one.refers)
        yield DraftEntry(seat_file, Body(text=text), reason, refers=refers)


def _run_of(one: DraftEntry) -> str:
    """The file of notes that a plain text is from; empty for what is no part of a block."""
    lines = one.reason.why.lines
    plain = one.body.text is not None and one.when is None and not one.at
    return lines[0][0] if lines and plain else ""


def _hook(one: DraftEntry) -> HookEntry:
    plain = "{" in str(one.body) and not _has_fill(str(one.body))
    return HookEntry(
        seat=one.seat_file.seat.name,
        at=dict(one.at),
        text=one.body.text,
        record=dict(one.body.record) if one.body.record is not None else None,
        when=one.when,
        # Braces of the game's own language that look like a fill-in stay as they are.
        fill=not (plain and _looks_like_fill(str(one.body))),
    )


_WORDS = ("lookup", "listed", "next", "map", "setting", "claim", "blank", "value", "path")


def _has_fill(text: str) -> bool:
    return any(f"{{{word}:" in text for word in _WORDS)


def _looks_like_fill(text: str) -> bool:
    return any(f"{{{word}" in text for word in _WORDS)


def _each(seat: str, entries: Sequence[DraftEntry]) -> Iterator[tuple[HookEntry, Reason]]:
    each: dict[str, Any] = {}
    for one in entries:
        variant = one.seat_file.variant
        if one.body.record is not None:
            each.setdefault(variant, {}).update(one.body.record)
        else:
            each[variant] = f"{each[variant]}\n{one.body.text}" if variant in each else one.body.text
    doubts = tuple(dict.fromkeys(doubt for one in entries for doubt in one.reason.doubts))
    sure = all(one.reason.sure for one in entries)
    why = because_of(one.reason.why for one in entries)
    yield HookEntry(seat=seat, each=each), Reason(sure, why, doubts)
