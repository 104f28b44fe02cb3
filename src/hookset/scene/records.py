"""The record of a thing, changed: values in it written as its format writes them, and read again."""

from __future__ import annotations

import re
import textwrap
from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct

from hookset.config.layouts import Layout, Seat
from hookset.config.layouts.positions import PlacedRule
from hookset.config.layouts.rules import ReadRule
from hookset.edits import seat_at
from hookset.formats import Body, Edit, Unreadable, format_named, open_file, spliced
from hookset.formats.base import ExistingEntry
from hookset.formats.document import HasParts, Reshaping, entries_at, unit_around
from hookset.formats.parts import Part
from hookset.model import CouldNotError, Where
from hookset.scene.rows import Thing
from hookset.scene.values import CannotSay
from hookset.trees import Text, Tree

__all__ = ["Mould", "OpenFile", "edits_for", "entry_of", "every_part", "open_for_edits", "with_values", "without_entry"]


class OpenFile(Struct, frozen=True):
    """A file that things stand in, open to be changed."""

    path: str
    rule: ReadRule
    text: Text
    document: HasParts


def open_for_edits(tree: Tree, rule: PlacedRule, path: str) -> OpenFile:
    """Raises CannotSay for a file that is not edited."""
    reads = rule.asked.rule
    try:
        text, document = open_file(format_named(reads.format), tree.read(path), reads.encodings, reads.options)
    except (Unreadable, CouldNotError) as error:
        raise CannotSay(f"{path} {error.what}") from None
    if document.problems:
        raise CannotSay(f"{path} {document.problems[0][0]}")
    if not isinstance(document, HasParts):
        raise CannotSay(f"{path} is of a format that says of nothing where it stands")
    return OpenFile(path, reads, text, document)


def every_part(file: OpenFile, thing: Thing) -> dict[str, Part]:
    """All that the record of a thing says, by the ways to it: also what the layout has no word for."""
    ways = file.document.ways(thing.where)
    found = file.document.parts(thing.rule.asked.selector, ways)
    if thing.where not in found.wheres:
        return {}
    parts = found.row(found.wheres.index(thing.where)).parts
    return {way: part for way, part in zip(ways, parts, strict=True) if part is not None}


def edits_for(
    file: OpenFile, thing: Thing, values: Mapping[str, Any], parts: Mapping[str, Part] | None = None
) -> tuple[Edit, ...]:
    """How the record of a thing comes to say these values; `parts` are what it says now, where it is more than the
    layout knows of. Raises CannotSay where the format cannot write one."""
    edits: list[Edit] = []
    lacking: dict[str, Any] = {}
    for way, value in values.items():
        part = (parts or {}).get(way) or thing.part(way)
        if part is None:
            lacking[way] = value
        elif value is None:
            raise CannotSay(f"`{way}` cannot be left out of the record in {file.path}")
        elif isinstance(part.value, tuple) and isinstance(value, list | tuple):
            for one, new in zip(part.value, value, strict=True):
                if one.value != new:
                    edits.append(_written(file, one, new))
        else:
            edits.append(_written(file, part, value))
    if lacking:
        added = file.document.adding(thing.where, lacking)
        if added is None:
            raise CannotSay(f"{file.path} has no place for {', '.join(lacking)} in this record")
        edits += added.edits
    return tuple(edits)


def _written(file: OpenFile, part: Part, value: Any) -> Edit:
    """The likeliest way to write a value; whoever uses it reads the file again."""
    span = file.document.value_span(part.where)
    edit = next(iter(file.document.writings(span, value)), None) if span is not None else None
    if edit is None:
        raise CannotSay(f"{value!r} cannot be written there in {file.path}")
    return edit


def entry_of(file: OpenFile, seat: Seat | None, where: Where) -> ExistingEntry | None:
    """The entry that stands for a record: at a seat, or anywhere else where things stand within things."""
    span = file.document.spans([where]).get(where)
    # A seat may read the file in another way than the records are read.
    spot = None if seat is None or seat.format != file.rule.format else _spot(seat)
    if span is not None and spot is not None:
        for entry in entries_at(file.document, spot):
            if entry.start <= span[0] < entry.end:
                if entry.start == span[0] or not file.text.string[entry.start : span[0]].strip(' \t\r\n-"'):
                    return entry
                break
    return unit_around(file.document, where)


def _spot(seat: Seat) -> Any:
    try:
        return seat_at(seat, {})
    except (KeyError, ValueError):
        return None


class Mould(Struct, frozen=True):
    """The entry of a thing, with those that stand in its record: what copies of it are made of."""

    file: OpenFile
    things: tuple[Thing, ...]
    """The first is the thing itself."""
    entry: ExistingEntry

    @classmethod
    def of(cls, file: OpenFile, layout: Layout, things: Sequence[Thing]) -> Mould:
        """Raises CannotSay for a thing whose record is no entry of a seat."""
        thing = things[0]
        entry = entry_of(file, layout.seats.get(thing.rule.entry.seat), thing.where)
        if entry is None:
            raise CannotSay(f"`{thing.called}` in {file.path} is no entry that could be set again")
        return cls(file, tuple(things), entry)

    def cast(self, values: Sequence[Mapping[str, Any]], parts: Mapping[str, Part] | None = None) -> Body:
        """The entry as it would be if its things said these values; `parts` are what the first of them says. Raises
        CannotSay."""
        if self.entry.body.record is not None:
            return Body(record=with_values(self.entry.body.record, values[0]))
        start, end = self.entry.start, self.entry.end
        edits = [
            edit
            for number, (one, own) in enumerate(zip(self.things, values, strict=True))
            for edit in edits_for(self.file, one, own, None if number else parts)
        ]
        if any(edit.start < start or end < edit.end for edit in edits):
            raise CannotSay(f"`{self.things[0].called}` in {self.file.path} says some of it outside of its entry")
        inside = [Edit(edit.start - start, edit.end - start, edit.text) for edit in edits]
        string = self.file.text.string
        lead = string[string.rfind("\n", 0, start) + 1 : start]
        text = spliced(string[start:end], inside)
        return Body(text=textwrap.dedent((lead if not lead.strip() else "") + text).strip())


def with_values(record: Mapping[str, Any], values: Mapping[str, Any]) -> dict[str, Any]:
    """A record with other values, by the ways to them; None takes one out."""
    made: dict[str, Any] = _copied(record)
    for way, value in values.items():
        _set(made, way, value)
    return made


def _copied(value: Any) -> Any:
    if isinstance(value, Mapping):
        return {key: _copied(below) for key, below in value.items()}
    return [_copied(below) for below in value] if isinstance(value, list | tuple) else value


def _set(record: dict[str, Any], way: str, value: Any) -> None:
    """A value of a record, by a way in which keys and indexes stand; missing keys are made."""
    if way in record or "/" not in way:
        if value is None:
            record.pop(way, None)
        else:
            record[way] = value
        return
    first, _, rest = way.partition("/")
    inner = record.setdefault(first, {})
    if isinstance(inner, list):
        index = int(rest.partition("/")[0])
        inner[index] = value
    elif isinstance(inner, dict):
        _set(inner, rest, value)


def without_entry(file: OpenFile, layout: Layout, thing: Thing) -> str:
    """The file's text without the entry of a thing. Raises CannotSay for one that is no entry."""
    seat = layout.seats.get(thing.rule.entry.seat)
    entry = entry_of(file, seat, thing.where)
    if entry is None:
        raise CannotSay(f"`{thing.called}` in {file.path} is no entry that could be taken out")
    spot = _spot(seat) if seat is not None else None
    if spot is not None and isinstance(file.document, Reshaping):
        taken = file.document.take(spot, entry.body, [(entry.start, entry.end)])
        if taken is not None:
            return spliced(file.text.string, taken.edits)
    string = file.text.string
    start, end = _with_comma(string, entry.start, entry.end)
    line = string.rfind("\n", 0, start) + 1
    rest = string.find("\n", end)
    rest = len(string) if rest < 0 else rest + 1
    marks = string[line:start].strip(" \t-")
    if not marks and (end == line or not string[end:rest].strip() or string[end - 1] == "\n"):
        return string[:line] + string[end if string[end - 1 : end] == "\n" else rest :]
    return string[:start] + string[end:]


def _with_comma(string: str, start: int, end: int) -> tuple[int, int]:
    """An entry with the comma that goes with it, where entries are divided by commas."""
    behind = re.compile(r"[ \t]*,[ \t]*").match(string, end)
    if behind is not None:
        return start, behind.end()
    before = re.compile(r",\s*$").search(string, max(start - 200, 0), start)
    closes = re.compile(r"\s*[\]})]").match(string, end)
    return (before.start(), end) if before is not None and closes is not None else (start, end)
