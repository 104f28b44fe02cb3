"""Line lists: one entry a line, of one field or several, with comments and blank lines between."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Any, ClassVar, Literal

from msgspec import Struct

from hookset.formats._line_rows import Field, Row, Rows
from hookset.formats._values import plain_words
from hookset.formats.base import AlreadyThere, Body, Edit, Edits, ExistingEntry, Placement, Value, WrongBody
from hookset.formats.document import BesideTest, Editable, HasFields, HasRows, Writable
from hookset.formats.format import Format, Snippet
from hookset.model import Where
from hookset.model.digits import natural_number
from hookset.trees import Text

__all__ = ["FORMAT", "LineSeat", "LineSelector"]

BLANKS = "blanks"
"""Fields that blanks stand between."""


class LineOptions(Struct, frozen=True, forbid_unknown_fields=True):
    comment: tuple[str, ...] = ("#",)
    """What a comment begins with, at the start of a line or after a blank; the rest of the line is not read."""
    fields: str = ""
    """What stands between the fields of a line, `blanks` for any number of them; empty: a line is one field."""


class LineSelector(Struct, frozen=True, forbid_unknown_fields=True):
    """Every entry, or one field of each."""

    field: int = 0
    """By its number from one; 0 for the whole line, with its fields set apart as they would be without a ruler."""
    when: dict[str, str] = {}
    """Only lines whose fields of these numbers are these words."""
    unless: dict[str, str] = {}
    """Not those whose fields are."""

    def __post_init__(self) -> None:
        for number in (*self.when, *self.unless):
            if _place_of(number) < 0:
                raise ValueError(f"{number!r} is no field: they are numbered from 1")


_MOST_SAID = 200_000
"""Different lines of a file that are remembered while it is read."""


class LineSeat(Struct, frozen=True, forbid_unknown_fields=True):
    """A spot in a list of lines."""

    at: Literal["start", "end", "sorted", "grouped"] = "end"
    """`sorted`: before the first entry that comes after it in the alphabet, wherever the list is in order; `grouped`:
    below the last one that has the same first field, or else at the end."""


class _Beside(Mapping[str, str]):
    """All fields of a line, by their numbers from one."""

    __slots__ = ("words",)

    def __init__(self, words: tuple[str, ...]) -> None:
        self.words = words

    def __getitem__(self, number: str) -> str:
        at = _place_of(number)
        if not 0 <= at < len(self.words):
            raise KeyError(number)
        return self.words[at]

    def __iter__(self) -> Iterator[str]:
        return map(str, range(1, len(self.words) + 1))

    def __len__(self) -> int:
        return len(self.words)


@dataclass(frozen=True)
class _Lines(HasRows, HasFields, Writable, Editable):
    text: Text
    read: Rows
    options: LineOptions
    problems: tuple[tuple[str, Where], ...] = ()

    def select(self, selector: LineSelector) -> Iterator[Value]:
        for row in self._meant(selector):
            if not selector.field:
                yield Value(self._whole(row), row.start)
            elif selector.field <= len(row.words):
                yield Value(row.words[selector.field - 1], row.place(selector.field - 1))

    def rows(self, selector: LineSelector) -> Iterator[tuple[Value, Mapping[str, str]]]:
        """With all fields of the line, by their numbers."""
        return self.rows_where(selector, ())

    def rows_where(
        self, selector: LineSelector, tests: Sequence[BesideTest]
    ) -> Iterator[tuple[Value, Mapping[str, str]]]:
        """Each word that some field has is looked at once, not each line."""
        rows: Iterable[Row] = self._meant(selector)
        for number, holds in tests:
            at, fewer = _place_of(number), holds("")
            words = {word for word in self._by_word(at) if holds(word)}
            rows = [row for row in rows if (row.words[at] in words if 0 <= at < len(row.words) else fewer)]
        for row in rows:
            if not selector.field:
                yield Value(self._whole(row), row.start), _Beside(row.words)
            elif selector.field <= len(row.words):
                yield Value(row.words[selector.field - 1], row.place(selector.field - 1)), _Beside(row.words)

    def _meant(self, selector: LineSelector) -> Iterable[Row]:
        """The lines that a selector means: those with the rarest of its words are looked at."""
        if not (selector.when or selector.unless):
            return self.read
        numbers: Sequence[int] = range(len(self.read))
        for number, word in selector.when.items():
            numbers = min(numbers, self._by_word(_place_of(number)).get(word, ()), key=len)
        wanted = [(_place_of(number), word) for number, word in selector.when.items()]
        others = [(_place_of(number), word) for number, word in selector.unless.items()]
        return (
            self.read[number]
            for number in numbers
            if all(_word(self.read.words[number], at) == word for at, word in wanted)
            and not any(_word(self.read.words[number], at) == word for at, word in others)
        )

    def _by_word(self, at: int) -> Mapping[str, Sequence[int]]:
        """The numbers of the lines that have each word in the field at a place, from zero."""
        found = self._words.get(at)
        if found is None:
            found = self._words[at] = {}
            for number, words in enumerate(self.read.words) if at >= 0 else ():
                if at < len(words):
                    found.setdefault(words[at], []).append(number)
        return found

    @cached_property
    def _words(self) -> dict[int, dict[str, list[int]]]:
        """Made when they are asked for: many rules ask for lines by the same field."""
        return {}

    def _whole(self, row: Row) -> str:
        """Fields that a ruler has set apart are the same line as without."""
        between = " " if self.options.fields == BLANKS else self.options.fields
        return between.join(row.words) if row.words else row.entry

    def records(self, selector: LineSelector) -> Iterator[tuple[Where, Any]]:
        """Each line as its fields by number; as the one text that it is where it has none."""
        for row in self._meant(selector):
            yield row.start, {str(number): word for number, word in enumerate(row.words, 1)} or row.entry

    def field(self, record: Where, key: str) -> Where:
        row = next((row for row in self.read if row.start == record), None)
        number = int(key) if key.isdecimal() else 0
        return row.place(number - 1) if row is not None and 0 < number <= len(row.words) else record

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        ends = {row.start: row.start + len(row.entry) for row in self.read}
        ends |= {field.start: field.end for row in self.read for field in row.fields}
        return {where: (where, ends[where]) for where in wheres if isinstance(where, int) and where in ends}

    def writings(self, span: tuple[int, int], value: Any) -> Iterator[Edit]:
        return (Edit(*span, words) for words in plain_words(self.text.string[slice(*span)], value))

    def existing(self, _seat: LineSeat) -> Iterator[ExistingEntry]:
        return (ExistingEntry(self._begin(row), self._end(row), Body(text=row.entry)) for row in self.read)

    def put(self, seat: LineSeat, body: Body) -> Placement:
        if body.text is None or "\n" in body.text.strip() or not body.text.strip():
            return WrongBody("one line of text")
        entry = body.text.strip()
        fields = _words(entry, 0, _apart(self.options.fields))[0]
        for row in self.read:
            if row.entry == entry or (fields and row.words == fields):
                return AlreadyThere(row.start)
        entry = self._set_apart(fields) or entry
        line = entry + self.text.newline
        if seat.at == "sorted":
            for row in self.read:
                if row.entry > entry:
                    return _one(self._begin(row), self._begin(row), self._indent(row) + line)
        if seat.at == "start" and self.read:
            first = self.read[0]
            return _one(self._begin(first), self._begin(first), self._indent(first) + line)
        if not self.read:
            end = len(self.text.string)
            gap = "" if not end or self.text.string[-1] in "\r\n" else self.text.newline
            return _one(end, end, gap + line)
        alike = [row for row in self.read if fields and row.words[0] == fields[0]]
        last = alike[-1] if seat.at == "grouped" and alike else self.read[-1]
        end = self._end(last)
        ended = end > 0 and self.text.string[end - 1] in "\r\n"
        lead = self._indent(last)
        # A last line without an ending keeps none: the list then ends as its owner left it.
        new = lead + line if ended else self.text.newline + lead + entry
        return _one(end, end, new)

    def _set_apart(self, fields: Sequence[str]) -> str:
        """The fields with blanks between them as the other lines have them; empty where that is not known."""
        if self.options.fields != BLANKS or any(" " in field for field in fields):
            return ""
        gaps = [self.text.string[a.end : b.start] for row in self.read for a, b in pairwise(row.fields)]
        if gaps and all("\t" in gap for gap in gaps):
            return max(set(gaps), key=gaps.count).join(fields)
        columns = {row.place(1) - row.start for row in self.read if len(row.words) > 1}
        if len(columns) == 1 and len(gaps) > 1 and len(fields) > 1 and len(fields[0]) < min(columns):
            return fields[0].ljust(min(columns)) + " ".join(fields[1:])
        return ""

    def _indent(self, row: Row) -> str:
        return self.text.string[self._begin(row) : row.start]

    def _begin(self, row: Row) -> int:
        """Where the line of an entry begins."""
        return self.text.string.rfind("\n", 0, row.start) + 1

    def _end(self, row: Row) -> int:
        """Past the ending of the line of an entry."""
        return self.text.string.find("\n", row.start) + 1 or len(self.text.string)


def _one(start: int, end: int, text: str) -> Edits:
    return Edits((Edit(start, end, text),))


class _LinesFormat(Format):
    title: ClassVar[str] = "line list"
    selector: ClassVar[type[Struct]] = LineSelector
    seat: ClassVar[type[Struct]] = LineSeat
    options: ClassVar[type[Struct]] = LineOptions
    bodies: ClassVar[Sequence[str]] = ("text",)
    has_rows: ClassVar[bool] = True
    lined: ClassVar[bool] = True
    largest: ClassVar[int] = 256 << 20

    def mistake(self, asked: LineSelector | LineSeat, options: LineOptions) -> str:
        by_field = isinstance(asked, LineSelector) and (asked.field or asked.when or asked.unless)
        if by_field and not options.fields:
            return "lines have no fields unless `fields` in the options says what stands between them"
        return ""

    def pasted(self, seat: LineSeat, snippet: Snippet) -> tuple[ExistingEntry, ...]:
        return tuple(self.open(Text(snippet.text, "utf-8"), snippet.options or LineOptions()).existing(seat))

    def open(self, source: Text | bytes, options: LineOptions) -> _Lines:
        assert isinstance(source, Text)
        rows = Rows(source.string)
        # Most words, and most whole lines, are there again and again: one of each takes a fraction of the room.
        known: dict[str, str] = {}
        said: dict[str, tuple[str, ...]] = {}
        position = 0
        comment = re.compile("|".join(rf"(?:^|(?<=\s)){re.escape(mark)}.*" for mark in options.comment) or "$^")
        marked = any(mark in source.string for mark in options.comment)
        apart = _apart(options.fields)
        # Not str.splitlines: it also ends lines at form feeds and other characters that editors do not count.
        for line in _lines(source.string):
            body = comment.sub("", line.rstrip("\r\n"), count=1) if marked else line
            if entry := body.strip():
                start = position + body.index(entry[0])
                fields: tuple[Field, ...] = ()
                if (words := said.get(entry)) is None:
                    plain, fields = _words(entry, start, apart)
                    words = tuple([known.setdefault(word, word) for word in plain])
                    if not fields and len(said) < _MOST_SAID:
                        said[entry] = words
                rows.add(start, start + len(entry), words, fields)
            position += len(line)
        return _Lines(source, rows, options)


def _apart(between: str) -> re.Pattern[str] | None:
    """What stands between fields, as a pattern; None where a line is one."""
    if not between:
        return None
    return re.compile(r"\s+" if between == BLANKS else rf"[ ]*{re.escape(between)}[ ]*")


def _words(entry: str, start: int, apart: re.Pattern[str] | None) -> tuple[tuple[str, ...], tuple[Field, ...]]:
    """What the fields of a line say, and the fields themselves where their places do not go by that alone."""
    if apart is None:
        return (), ()
    if apart.pattern == r"\s+" and '"' not in entry:
        return tuple(entry.split()), ()
    fields = tuple(_fields(entry, start, apart))
    return tuple(field.text for field in fields), fields


def _word(words: Sequence[str], at: int) -> str | None:
    return words[at] if 0 <= at < len(words) else None


def _place_of(number: str) -> int:
    """The place of a field, from zero, by its number from one; -1 for what is no number of a field."""
    return (natural_number(number) or 0) - 1


def _fields(entry: str, start: int, apart: re.Pattern[str]) -> Iterator[Field]:
    """The fields of a line, without the quotes around those that have some."""
    position = 0
    while True:
        close = entry.find('"', position + 1) if entry[position : position + 1] == '"' else -1
        gap = apart.match(entry, close + 1) if close > 0 else None
        if close > 0 and (gap is not None or close + 1 == len(entry)):
            yield Field(entry[position + 1 : close], start + position + 1, start + close)
        else:
            gap = apart.search(entry, position)
            end = gap.start() if gap is not None else len(entry)
            yield Field(entry[position:end], start + position, start + end)
        if gap is None:
            return
        position = gap.end()


def _lines(string: str) -> Iterator[str]:
    start = 0
    while start < len(string):
        end = string.find("\n", start) + 1 or len(string)
        yield string[start:end]
        start = end


FORMAT = _LinesFormat()
