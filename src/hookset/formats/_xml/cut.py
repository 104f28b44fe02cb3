"""Elements whose values are cut out of the text when somebody asks: until then, columns of where they stand."""

from __future__ import annotations

import re
from array import array
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import chain, islice
from typing import NamedTuple, overload

import numpy as np
from numpy.typing import NDArray

from hookset.formats._xml.elements import Elements
from hookset.formats.parts import JoinedTexts, LazyTexts
from hookset.trees import Text

__all__ = ["CutElements", "Names", "Places", "TagColumns", "Values", "places_where"]

Places = NDArray[np.int32]
"""Bytes of the text, or numbers of elements."""

_SINGLY = 100
"""What is asked for one by one before all of it is made at once."""
_SPARSE = 50
"""Of so many elements one is a few."""
_TOGETHER = 10_000
"""Elements, or values, of which all texts are cut out at once."""
_JOINED = 1 << 16
"""Texts that are joined at once."""
_BLANK = ord(" ")
_PIECE = 1 << 24
"""Bytes that are looked at together: for more, what is worked out in between takes more memory than the file."""
_OTHERWISE = np.zeros(256, dtype=np.bool_)
_OTHERWISE[list(b"&\t\n\r")] = True
_REFERENCE = re.compile("&(?:#x([0-9a-fA-F]+)|#([0-9]+)|([a-z]+));")
_NAMED = {"lt": "<", "gt": ">", "amp": "&", "quot": '"', "apos": "'"}
_AS_BLANKS = str.maketrans("\t\n\r", "   ")


class Names(NamedTuple):
    """Names of many, each as the number of one of a few."""

    codes: NDArray[np.integer]
    few: Sequence[str]


class Values(NamedTuple):
    """The attributes of all elements, in file order; columns of the same length."""

    names: Names
    owners: Places
    """The number of the element that has each."""
    starts: Places
    """Bytes within the quotes."""
    ends: Places


class TagColumns(NamedTuple):
    """All elements of a file, in file order."""

    names: Names
    starts: Places
    """Where each start tag begins."""
    parents: Places
    """The number of the element around each; -1 for the outermost."""
    values: Values


@dataclass(frozen=True, eq=False)
class CutElements(Elements):
    """All elements of a file, whose attributes are cut out of its text."""

    attributes: Attributes
    columns: TagColumns

    @classmethod
    def of(cls, text: Text, columns: TagColumns) -> CutElements:
        """The elements of a text by their columns."""
        tags = list(map(columns.names.few.__getitem__, columns.names.codes.tolist()))
        return cls(tags, Attributes(text, len(tags), columns.values), _numbers(columns.parents), columns)

    @cached_property
    def named(self) -> Mapping[str, Sequence[int]]:
        codes, few = self.columns.names
        return {name: _numbers(np.flatnonzero(codes == code)) for code, name in enumerate(few)}

    @property
    def starts(self) -> Sequence[int]:
        found: list[int] = self.columns.starts.tolist()
        return found

    @cached_property
    def children(self) -> Mapping[int, list[int]]:
        return _Children(self.columns.parents)

    @cached_property
    def _latest(self) -> dict[str, tuple[Sequence[int], list[str | None]]]:
        """The column that was asked for last: who looks for one thing after the other asks for it again and again."""
        return {}

    def said(self, numbers: Sequence[int], name: str) -> list[str | None]:
        asked, texts = self._latest.get(name, (None, []))
        if asked is not numbers:
            texts = self.attributes.of(numbers, name)
            self._latest.clear()
            self._latest[name] = (numbers, texts)
        return texts

    def column(self, numbers: Sequence[int], name: str) -> Sequence[str | None]:
        return CutTexts(self.attributes, self.attributes.rows(numbers, name))

    def each(self, numbers: Sequence[int]) -> Iterator[dict[str, str]]:
        for begin in range(0, len(numbers), _TOGETHER):
            yield from self.attributes.each(numbers[begin : begin + _TOGETHER])

    def saying(self, numbers: Sequence[int], names: Collection[str]) -> Iterable[Mapping[str, str]]:
        columns = [self.said(numbers, name) for name in names]
        for texts in zip(*columns, strict=True) if columns else ((),) * len(numbers):
            yield {name: text for name, text in zip(names, texts, strict=True) if text is not None}


class Attributes(Sequence[dict[str, str]]):
    """What each element says, cut out of the text."""

    def __init__(self, text: Text, count: int, values: Values) -> None:
        self._text = text
        self._count = count
        self.values = values
        self._code_of = {name: code for code, name in enumerate(values.names.few)}

    def __len__(self) -> int:
        return self._count

    @overload
    def __getitem__(self, number: int) -> dict[str, str]: ...
    @overload
    def __getitem__(self, number: slice) -> list[dict[str, str]]: ...
    def __getitem__(self, number: int | slice) -> dict[str, str] | list[dict[str, str]]:
        if isinstance(number, slice):
            return [self[one] for one in range(*number.indices(self._count))]
        number = range(self._count)[number]
        first, last = self._first[number], self._first[number + 1]
        names = map(self.values.names.few.__getitem__, self.values.names.codes[first:last].tolist())
        return dict(zip(names, self._cut(slice(first, last)), strict=True))

    def each(self, numbers: Sequence[int]) -> Iterator[dict[str, str]]:
        """All that some elements say: their values are cut out together."""
        rows, counts = self._values_of(numbers)
        names = map(self.values.names.few.__getitem__, self.values.names.codes[rows].tolist())
        pairs = zip(names, self._cut(rows), strict=True)
        return (dict(islice(pairs, count)) for count in counts.tolist())

    def _values_of(self, numbers: Sequence[int]) -> tuple[Places, NDArray[np.integer]]:
        """The rows of all values of some elements, one element after the other, and how many each has."""
        bounds, asked = np.asarray(self._first), np.asarray(numbers, dtype=np.int64)
        counts = bounds[asked + 1] - bounds[asked]
        before = np.cumsum(counts) - counts
        rows = np.repeat(bounds[asked] - before, counts) + np.arange(int(counts.sum()))
        return rows.astype(np.int32), counts

    def of(self, numbers: Sequence[int], name: str) -> list[str | None]:
        """What some elements say at an attribute; None for one that does not have it."""
        return self.cut(self.rows(numbers, name))

    def rows(self, numbers: Sequence[int], name: str) -> Places:
        """Which values those are; -1 for none."""
        code = self._code_of.get(name)
        if code is None or not len(numbers):
            return np.full(len(numbers), -1, dtype=np.int32)
        if len(numbers) * _SPARSE < self._count:
            # Of a few, all others need not be looked at.
            some, counts = self._values_of(numbers)
            owners = np.repeat(np.arange(len(numbers)), counts)
            has = self.values.names.codes[some] == code
            found = np.full(len(numbers), -1, dtype=np.int32)
            found[owners[has]] = some[has]
            return found
        mine = np.flatnonzero(self.values.names.codes == code)
        rows = np.full(self._count, -1, dtype=np.int32)
        rows[self.values.owners[mine]] = mine
        asked: Places = rows[np.asarray(numbers)]
        return asked

    def cut(self, rows: Places) -> list[str | None]:
        """The texts of some values; None where there is none."""
        has = rows >= 0
        if has.all():
            return list(self._cut(rows))
        found: list[str | None] = [None] * len(rows)
        for at, text in zip(np.flatnonzero(has).tolist(), self._cut(rows[has]), strict=True):
            found[at] = text
        return found

    def joined(self, rows: Places) -> tuple[bytes, Places]:
        """The texts of values, each with a blank behind it, and where those blanks stand."""
        if self.otherwise[rows].any() or not (np.diff(rows) > 0).all():
            texts = [text.encode() for text in self._cut(rows)]
            utf8, sizes = b"".join(text + b" " for text in texts), np.array([len(text) for text in texts])
        else:
            utf8 = b"".join(self._joined(rows[begin : begin + _JOINED]) for begin in range(0, len(rows), _JOINED))
            sizes = self.values.ends[rows] - self.values.starts[rows]
        return utf8, (np.cumsum(sizes + 1) - 1).astype(np.int32)

    def _joined(self, rows: Places) -> bytes:
        """Texts that are copied as they stand, each with a blank behind it."""
        starts, ends = self.values.starts[rows], self.values.ends[rows]
        begin, end = int(starts[0]), int(ends[-1]) + 1
        data = self._bytes(begin, end)
        # One more where a text begins and one less behind the quote after it: what is not 0 in between is text.
        inside = np.zeros(len(data) + 1, dtype=np.int8)
        inside[starts - begin] = 1
        inside[ends + 1 - begin] -= 1
        kept = data[np.cumsum(inside[:-1], dtype=np.int8).view(np.bool_)]
        kept[np.cumsum(ends - starts + 1) - 1] = _BLANK
        return kept.tobytes()

    @cached_property
    def _first(self) -> Sequence[int]:
        """By the number of an element: the row of its first value; one more for the end."""
        return _numbers(np.searchsorted(self.values.owners, np.arange(self._count + 1)))

    def _cut(self, rows: NDArray[np.integer] | slice) -> Iterator[str]:
        starts, ends = self.values.starts[rows], self.values.ends[rows]
        other = self.otherwise[rows]
        if not self._text.string.isascii():
            # What follows on the first byte of a character is no character of its own.
            starts = starts - np.searchsorted(self._continuations, starts)
            ends = ends - np.searchsorted(self._continuations, ends)
        piece = self._text.string.__getitem__
        # A part after the other: a number of Python's for each would take as much memory as the texts.
        cut = chain.from_iterable(
            map(piece, map(slice, starts[at : at + _TOGETHER].tolist(), ends[at : at + _TOGETHER].tolist()))
            for at in range(0, len(starts), _TOGETHER)
        )
        if not other.any():
            return cut
        return (_meant(text) if differs else text for text, differs in zip(cut, other.tolist(), strict=True))

    def _bytes(self, begin: int, end: int) -> NDArray[np.uint8]:
        """Some of the text's."""
        ascii_ = self._text.string.isascii()
        data = self._text.string[begin:end].encode() if ascii_ else memoryview(self._text.utf8)[begin:end]
        return np.frombuffer(data, dtype=np.uint8)

    @cached_property
    def _continuations(self) -> Places:
        return places_where(np.frombuffer(self._text.utf8, dtype=np.uint8), lambda piece: piece & 0xC0 == 0x80)

    @cached_property
    def otherwise(self) -> NDArray[np.bool_]:
        """Which values mean something else than what stands within their quotes."""
        size = len(self._text.string) if self._text.string.isascii() else len(self._text.utf8)
        pieces = ((begin, self._bytes(begin, min(begin + _PIECE, size))) for begin in range(0, size, _PIECE))
        found_in = [(np.flatnonzero(_OTHERWISE[data]) + begin).astype(np.int32) for begin, data in pieces]
        at = np.concatenate([np.zeros(0, dtype=np.int32), *found_in])
        at = at[np.searchsorted(self.values.starts, at, side="right") > 0]
        rows = np.searchsorted(self.values.starts, at, side="right") - 1
        found = np.zeros(len(self.values.starts), dtype=np.bool_)
        found[rows[at < self.values.ends[rows]]] = True
        return found


class _Children(Mapping[int, list[int]]):
    """Of each element that has some: those that stand in it. Of a few, each is looked for by itself."""

    def __init__(self, parents: Places) -> None:
        self._parents = parents
        self._asked = 0

    @cached_property
    def _all(self) -> dict[int, list[int]]:
        order = np.argsort(self._parents, kind="stable")
        parents, first = np.unique(self._parents[order], return_index=True)
        each = np.split(order, first[1:])
        return {parent: inside.tolist() for parent, inside in zip(parents.tolist(), each, strict=True)}

    def __getitem__(self, number: int) -> list[int]:
        self._asked += 1
        if self._asked > _SINGLY:
            return self._all[number]
        found: list[int] = np.flatnonzero(self._parents == number).tolist()
        if not found:
            raise KeyError(number)
        return found

    def __iter__(self) -> Iterator[int]:
        return iter(self._all)

    def __len__(self) -> int:
        return len(self._all)


class CutTexts(LazyTexts):
    """What some elements say at one attribute."""

    def __init__(self, attributes: Attributes, at: Places) -> None:
        self._attributes = attributes
        self._at = at
        """The row of each value; -1 for none."""
        self._asked = 0

    def __len__(self) -> int:
        return len(self._at)

    @overload
    def __getitem__(self, row: int) -> str | None: ...
    @overload
    def __getitem__(self, row: slice) -> Sequence[str | None]: ...
    def __getitem__(self, row: int | slice) -> str | Sequence[str | None] | None:
        self._asked += 1
        if isinstance(row, slice) or self._asked > _SINGLY:
            return self._all[row]
        return self._attributes.cut(self._at[[row]])[0]

    def __iter__(self) -> Iterator[str | None]:
        # Who goes through all of them keeps what it makes of them; the texts need not be there twice.
        return iter(self._all if "_all" in self.__dict__ else self._attributes.cut(self._at))

    @cached_property
    def _all(self) -> list[str | None]:
        return self._attributes.cut(self._at)

    def rows(self) -> list[int]:
        found: list[int] = np.flatnonzero(self._at >= 0).tolist()
        return found

    def chosen(self, rows: Sequence[int]) -> LazyTexts:
        return CutTexts(self._attributes, self._at[np.asarray(rows, dtype=np.int64)])

    def joined(self) -> JoinedTexts:
        has = np.flatnonzero(self._at >= 0)
        utf8, ends = self._attributes.joined(self._at[has])
        return JoinedTexts(utf8, has, ends)


def _numbers(found: NDArray[np.integer]) -> Sequence[int]:
    """Python's numbers, each made when somebody asks: millions of them take ten times the memory."""
    numbers = array("i")
    numbers.frombytes(found.astype(np.intc).tobytes())
    return numbers


def places_where(data: NDArray[np.uint8], test: Callable[[NDArray[np.uint8]], NDArray[np.bool_]]) -> Places:
    """Where the bytes are that pass a test."""
    begins = range(0, len(data), _PIECE)
    found = [(np.flatnonzero(test(data[begin : begin + _PIECE])) + begin).astype(np.int32) for begin in begins]
    return np.concatenate([np.zeros(0, dtype=np.int32), *found])


def _meant(text: str) -> str:
    """An attribute's value as XML 1.0 has it (2.11, 3.3.3, 4.6): blanks of all kinds are blanks, references are what
    they stand for."""
    return _REFERENCE.sub(_referred, text.replace("\r\n", "\n").translate(_AS_BLANKS))


def _referred(match: re.Match[str]) -> str:
    hexadecimal, decimal, name = match.groups()
    if name:
        return _NAMED[name]
    return chr(int(hexadecimal, 16) if hexadecimal else int(decimal))
