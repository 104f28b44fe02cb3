"""Tables of separated values: CSV (RFC 4180), TSV and their hand-made cousins. The delimiter is found out."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, ClassVar

from msgspec import Struct

from hookset.formats._values import as_words, flat_record, reads_as_number
from hookset.formats.base import AlreadyThere, Body, Edit, Edits, ExistingEntry, Placement, Unreadable, Value, WrongBody
from hookset.formats.document import HasFields, HasHead, HasParts, HasRows, Restorable
from hookset.formats.format import Format, Snippet
from hookset.formats.parts import Part, Parts, PartTable
from hookset.model import Where
from hookset.model.digits import natural_number
from hookset.trees import Text

__all__ = ["FORMAT", "CsvSelector"]

_DELIMITERS = ",;\t|"
_SAID = re.compile(r"sep=([^\r\n])\r?\n")
"""What spreadsheets write above a table to say what stands between its cells."""


class CsvOptions(Struct, frozen=True, forbid_unknown_fields=True):
    delimiter: str | None = None
    """Found out where it is not said: of comma, semicolon, tab and bar the one that splits the rows most evenly."""
    header: bool = True
    """Whether the first row names the columns; otherwise they are numbered from 1."""
    comment: tuple[str, ...] = ("#",)
    """What a row that is a comment begins with."""


class CsvSelector(Struct, frozen=True, forbid_unknown_fields=True):
    """Values of one column of a table."""

    column: str | int
    """By its name in the header, or by its number from one."""
    when: dict[str, str] = {}
    """Only rows that have these values in these columns."""


class CsvSeat(Struct, frozen=True, forbid_unknown_fields=True):
    """One more row at the end: there is nothing to choose."""


class _Cell(Struct, frozen=True):
    text: str
    start: int
    end: int
    quoted: bool


class _Row(Struct, frozen=True):
    cells: tuple[_Cell, ...]
    start: int
    end: int
    """Past the line's ending."""


@dataclass(frozen=True)
class _Csv(HasRows, HasFields, HasParts, HasHead, Restorable):
    text: Text
    names: tuple[str, ...]
    read: tuple[_Row, ...]
    delimiter: str
    first: _Row | None
    problems: tuple[tuple[str, Where], ...] = ()

    def _column(self, column: str | int) -> int | None:
        name = str(column)
        if name in self.names:
            return self.names.index(name)
        number = natural_number(name)
        return number - 1 if number else None

    def select(self, selector: CsvSelector) -> Iterator[Value]:
        return (Value(row.cells[column].text, row.cells[column].start) for row, column in self._meant(selector))

    def rows(self, selector: CsvSelector) -> Iterator[tuple[Value, Mapping[str, str]]]:
        """With all cells of the row, by their columns."""
        for row, column in self._meant(selector):
            yield Value(row.cells[column].text, row.cells[column].start), self._record(row)

    def _meant(self, selector: CsvSelector) -> Iterator[tuple[_Row, int]]:
        column = self._column(selector.column)
        conditions = [(self._column(name), value) for name, value in selector.when.items()]
        for row in self.read:
            meant = all(at is not None and _cell(row, at) == value for at, value in conditions)
            if meant and column is not None and _cell(row, column):
                yield row, column

    def records(self, _selector: CsvSelector) -> Iterator[tuple[Where, Any]]:
        """Each row as its columns, all of them text."""
        for row in self.read:
            yield row.start, dict(zip(self.names, (cell.text for cell in row.cells), strict=False))

    def parts(self, selector: CsvSelector, ways: Sequence[str]) -> PartTable:
        return PartTable.of(self._parts(selector, [self._column(way) for way in ways]), ways)

    def _parts(self, selector: CsvSelector, columns: Sequence[int | None]) -> Iterator[Parts]:
        for row, _ in self._meant(selector):
            cells = [row.cells[at] if at is not None and at < len(row.cells) else None for at in columns]
            yield Parts(row.start, tuple(Part(cell.start, cell.text) if cell and cell.text else None for cell in cells))

    def ways(self, record: Where) -> tuple[str, ...]:
        row = next((row for row in self.read if row.start == record), None)
        cells = zip(self.names, row.cells, strict=False) if row is not None else ()
        return tuple(name for name, cell in cells if cell.text)

    def adding(self, record: Where, values: Mapping[str, Any]) -> Edits | None:
        row = next((row for row in self.read if row.start == record), None)
        at = {self._column(way): as_words(value) for way, value in values.items()}
        if row is None or None in at or None in at.values():
            return None
        edits = [
            Edit(cell.start, cell.end, self._written(at[column] or "", cell.quoted))
            for column, cell in enumerate(row.cells)
            if column in at
        ]
        last = len(row.cells)
        if further := [column for column in at if column is not None and column >= last]:
            cells = (self._written(at.get(column) or "", False) for column in range(last, max(further) + 1))
            end = row.cells[-1].end + row.cells[-1].quoted
            edits.append(Edit(end, end, "".join(self.delimiter + cell for cell in cells)))
        return Edits(tuple(edits))

    def field(self, record: Where, key: str) -> Where:
        row, column = next((row for row in self.read if row.start == record), None), self._column(key)
        return row.cells[column].start if row is not None and column is not None else record

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        cells = {cell.start: cell.end for row in self.read for cell in row.cells}
        starts = {row.start: row.end for row in self.read}
        ends = starts | cells
        return {where: (where, ends[where]) for where in wheres if isinstance(where, int) and where in ends}

    def writings(self, span: tuple[int, int], value: Any) -> Iterator[Edit]:
        old = self.text.string[slice(*span)]
        words = as_words(value, old)
        if words is None or (reads_as_number(old) and not reads_as_number(words)):
            return
        if self.text.string[span[0] - 1 : span[0]] == '"' and self.text.string[span[1] : span[1] + 1] == '"':
            yield Edit(*span, words.replace('"', '""'))
        else:
            yield Edit(*span, self._written(words, False))
            yield Edit(*span, self._written(words, True))

    def existing(self, _seat: CsvSeat) -> Iterator[ExistingEntry]:
        for row in self.read:
            yield ExistingEntry(row.start, row.end, Body(record=self._record(row)))

    def _record(self, row: _Row) -> dict[str, str]:
        return {name: cell.text for name, cell in zip(self.names, row.cells, strict=False) if cell.text}

    def put(self, _seat: CsvSeat, body: Body) -> Placement:
        if body.record is None:
            return WrongBody("a record of columns and values")
        wanted, odd = flat_record(body.record)
        if odd:
            return WrongBody(f"a record of columns with one value each, and `{odd}` has another")
        unknown = [name for name in wanted if self._column(name) is None]
        if unknown:
            return WrongBody(f"a record of the columns {', '.join(self.names)}; there is no {', '.join(unknown)}")
        at = {self._column(name): value for name, value in wanted.items()}
        for row in self._rows_with(*next(iter(at.items()), (0, ""))):
            if all(_cell(row, index or 0) == value for index, value in at.items()):
                return AlreadyThere(row.start)
        width = max(len(self.names), *(index + 1 for index in at if index is not None))
        model = self.read[-1] if self.read else self.first
        quoted = model is not None and bool(model.cells) and all(cell.quoted for cell in model.cells)
        cells = (self._written(at.get(index, ""), quoted) for index in range(width))
        line = self.delimiter.join(cells)
        string, newline = self.text.string, self.text.newline
        end = (self.read[-1] if self.read else self.first).end if model is not None else len(string)  # type: ignore[union-attr]
        if end and string[end - 1] != "\n":
            return Edits((Edit(end, end, newline + line),))
        return Edits((Edit(end, end, line + newline),))

    def _rows_with(self, column: int | None, value: str) -> Sequence[_Row]:
        """Of a large table, the few rows that can be meant."""
        if column not in self._by_value:
            found = self._by_value[column] = {}
            for row in self.read:
                found.setdefault(_cell(row, column or 0), []).append(row)
        return self._by_value[column].get(value, ())

    @cached_property
    def _by_value(self) -> dict[int | None, dict[str, list[_Row]]]:
        return {}

    def standing(self, _seat: CsvSeat, body: Body, near: Sequence[tuple[int, int]]) -> Any:
        rows = [row for row in self.read if any(a < row.end and row.start < b for a, b in near)]
        if len(rows) != 1:
            return None
        names = dict(zip(self.names, rows[0].cells, strict=False))
        return {key: names[key].text for key in body.record or {} if key in names}

    def head(self) -> str:
        return self.text.string[: self.first.end] if self.first is not None else ""

    def _written(self, value: str, quoted: bool) -> str:
        if quoted or any(mark in value for mark in (self.delimiter, '"', "\n", "\r")) or value != value.strip():
            return '"' + value.replace('"', '""') + '"'
        return value


def _cell(row: _Row, index: int) -> str:
    return row.cells[index].text if index < len(row.cells) else ""


def _delimiter(string: str, comment: tuple[str, ...]) -> str:
    lines = [line for line in string.splitlines()[:200] if line.strip() and not line.startswith(comment or ("\0",))]
    best, score = ",", (0.0, 0)
    for delimiter in _DELIMITERS:
        counts = Counter(re.sub(r'"(?:[^"]|"")*"', "", line).count(delimiter) for line in lines)
        common, often = counts.most_common(1)[0] if counts else (0, 0)
        if common and (often / len(lines), common) > score:
            best, score = delimiter, (often / len(lines), common)
    return best


def _surplus(names: tuple[str, ...], rows: Sequence[_Row]) -> Iterator[tuple[str, Where]]:
    """Rows that say more than there are columns: a delimiter in a value without quotes has shifted what follows."""
    for row in rows:
        further = [cell for cell in row.cells[len(names) :] if cell.text]
        if further:
            yield f"has {len(row.cells)} values in a row of {len(names)} columns; is one lacking its quotes?", row.start


def _rows(string: str, delimiter: str, comment: tuple[str, ...], begin: int = 0) -> Iterator[_Row]:
    field = re.compile(
        rf'[ ]*"(?P<quoted>(?:[^"]|"")*)"[ ]*(?=[{re.escape(delimiter)}\r\n]|\Z)'
        rf"|(?P<plain>[^{re.escape(delimiter)}\r\n]*)"
    )
    position = begin
    while position < len(string):
        start = position
        line_end = string.find("\n", position) + 1 or len(string)
        line = string[position:line_end]
        if not line.strip() or (comment and line.startswith(comment)):
            position = line_end
            continue
        cells: list[_Cell] = []
        while True:
            match = field.match(string, position)
            assert match is not None
            if match["quoted"] is not None:
                cells.append(_Cell(match["quoted"].replace('""', '"'), *match.span("quoted"), True))
            else:
                if match["plain"].lstrip().startswith('"'):
                    raise Unreadable("opens a quote that it does not close", match.start("plain"))
                plain = match["plain"]
                begin = match.start("plain") + len(plain) - len(plain.lstrip())
                cells.append(_Cell(plain.strip(), begin, begin + len(plain.strip()), False))
            position = match.end()
            if position < len(string) and string[position] == delimiter:
                position += 1
                continue
            break
        position = string.find("\n", position) + 1 or len(string)
        yield _Row(tuple(cells), start, position)


def _cells_like(line: str, like: _Csv) -> list[str] | None:
    """The cells of a row that was meant for a table: also where its tabs have become blanks on the way. None for a
    line that is no such row."""
    if not line:
        return []
    wanted = range(max(2, len(like.names) - 1), len(like.names) + 1)
    ways = [like.delimiter, *(mark for mark in _DELIMITERS if mark != like.delimiter)]
    for delimiter in ways:
        try:
            row = next(_rows(line, delimiter, ()))
        except (Unreadable, StopIteration):
            continue
        if len(row.cells) in wanted:
            return [cell.text for cell in row.cells]
    if like.delimiter == "\t":
        for gap in (r"\s{2,}", r"\s+"):
            if len(parts := re.split(gap, line)) in wanted:
                return parts
    return None


class _CsvFormat(Format):
    title: ClassVar[str] = "table of separated values"
    selector: ClassVar[type[Struct]] = CsvSelector
    seat: ClassVar[type[Struct]] = CsvSeat
    options: ClassVar[type[Struct]] = CsvOptions
    bodies: ClassVar[Sequence[str]] = ("record",)
    has_rows: ClassVar[bool] = True
    has_parts: ClassVar[bool] = True
    lined: ClassVar[bool] = True
    largest: ClassVar[int] = 256 << 20

    def pasted(self, _seat: CsvSeat, snippet: Snippet) -> tuple[ExistingEntry, ...]:
        like = snippet.like
        if not isinstance(like, _Csv) or not like.names:
            return ()
        found: list[ExistingEntry] = []
        position = 0
        for line in snippet.text.splitlines(keepends=True):
            start, position = position, position + len(line)
            cells = _cells_like(line.strip(), like)
            if cells is None:
                return ()
            if cells and cells != list(like.names):
                record = {name: cell for name, cell in zip(like.names, cells, strict=False) if cell}
                found.append(ExistingEntry(start, position, Body(record=record)))
        return tuple(found)

    def open(self, source: Text | bytes, options: CsvOptions) -> _Csv:
        assert isinstance(source, Text)
        said = _SAID.match(source.string)
        delimiter = options.delimiter or (said[1] if said else _delimiter(source.string, options.comment))
        rows = tuple(_rows(source.string, delimiter, options.comment, said.end() if said else 0))
        if options.header and rows:
            names = tuple(cell.text for cell in rows[0].cells)
            return _Csv(source, names, rows[1:], delimiter, rows[0], tuple(_surplus(names, rows[1:])))
        width = max((len(row.cells) for row in rows), default=0)
        return _Csv(source, tuple(str(n) for n in range(1, width + 1)), rows, delimiter, None)


FORMAT = _CsvFormat()
