"""Line lists: one entry a line, with comments and blank lines between."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

from msgspec import Struct

from hookset.core.formats.base import AlreadyThere, Body, Document, Edit, Edits, Format, Held, Misfit, Placement, Value
from hookset.core.model import Where
from hookset.core.trees import Text

__all__ = ["FORMAT", "LineSeat"]


class LineOptions(Struct, frozen=True, forbid_unknown_fields=True):
    comment: tuple[str, ...] = ("#",)
    """What a comment begins with, at the start of a line or after a blank; the rest of the line is not read."""


class LineSelector(Struct, frozen=True, forbid_unknown_fields=True):
    """Every entry: there is nothing more to choose from."""


class LineSeat(Struct, frozen=True, forbid_unknown_fields=True):
    at: Literal["start", "end", "sorted"] = "end"
    """`sorted`: before the first entry that comes after it in the alphabet, wherever the list is in order."""


@dataclass(frozen=True, slots=True)
class _Row:
    entry: str
    start: int
    """Of the entry itself."""
    line_start: int
    line_end: int
    """Past the line's ending."""


@dataclass(frozen=True)
class _Lines(Document):
    text: Text
    rows: tuple[_Row, ...]
    problems: tuple[tuple[str, Where], ...] = ()

    def select(self, selector: Any) -> Iterator[Value]:  # noqa: ARG002
        return (Value(row.entry, row.start) for row in self.rows)

    def records(self, selector: Any) -> Iterator[tuple[Where, Any]]:  # noqa: ARG002
        return ((row.start, row.entry) for row in self.rows)

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        ends = {row.start: row.start + len(row.entry) for row in self.rows}
        return {where: (where, ends[where]) for where in wheres if isinstance(where, int) and where in ends}

    def held(self, seat: LineSeat) -> Iterator[Held]:  # noqa: ARG002
        return (Held(row.line_start, row.line_end, Body(text=row.entry)) for row in self.rows)

    def put(self, seat: LineSeat, body: Body) -> Placement:
        if body.text is None or "\n" in body.text.strip() or not body.text.strip():
            return Misfit("one line of text")
        entry = body.text.strip()
        for row in self.rows:
            if row.entry == entry:
                return AlreadyThere(row.start)
        line = entry + self.text.newline
        if seat.at == "sorted":
            for row in self.rows:
                if row.entry > entry:
                    return _one(row.line_start, row.line_start, self._indent(row) + line)
        if seat.at == "start" and self.rows:
            first = self.rows[0]
            return _one(first.line_start, first.line_start, self._indent(first) + line)
        if not self.rows:
            end = len(self.text.string)
            gap = "" if not end or self.text.string[-1] in "\r\n" else self.text.newline
            return _one(end, end, gap + line)
        last = self.rows[-1]
        ended = last.line_end > 0 and self.text.string[last.line_end - 1] in "\r\n"
        lead = self._indent(last)
        # A last line without an ending keeps none: the list then ends as its owner left it.
        new = lead + line if ended else self.text.newline + lead + entry
        return _one(last.line_end, last.line_end, new)

    def _indent(self, row: _Row) -> str:
        return self.text.string[row.line_start : row.start]


def _one(start: int, end: int, text: str) -> Edits:
    return Edits((Edit(start, end, text),))


class _LinesFormat(Format):
    title: ClassVar[str] = "line list"
    binary: ClassVar[bool] = False
    selector: ClassVar[type[Struct]] = LineSelector
    seat: ClassVar[type[Struct]] = LineSeat
    options: ClassVar[type[Struct]] = LineOptions
    bodies: ClassVar[Sequence[str]] = ("text",)
    largest: ClassVar[int] = 256 << 20

    def pasted(self, seat: LineSeat, text: str, options: Any, like: Document | None) -> tuple[Held, ...]:  # noqa: ARG002
        return tuple(self.open(Text(text, "utf-8"), LineOptions()).held(seat))

    def open(self, source: Text | bytes, options: LineOptions) -> Document:
        assert isinstance(source, Text)
        rows: list[_Row] = []
        position = 0
        comment = re.compile("|".join(rf"(?:^|(?<=\s)){re.escape(mark)}.*" for mark in options.comment) or "$^")
        # Not str.splitlines: it also ends lines at form feeds and other characters that editors do not count.
        for line in _lines(source.string):
            body = comment.sub("", line.rstrip("\r\n"), count=1)
            if entry := body.strip():
                start = position + len(body) - len(body.lstrip())
                rows.append(_Row(entry, start, position, position + len(line)))
            position += len(line)
        return _Lines(source, tuple(rows))


def _lines(string: str) -> Iterator[str]:
    start = 0
    while start < len(string):
        end = string.find("\n", start) + 1 or len(string)
        yield string[start:end]
        start = end


FORMAT = _LinesFormat()
