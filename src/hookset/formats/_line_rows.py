"""The lines of a file that say anything, in columns: there may be millions, of which each is made when it is asked
for."""

from __future__ import annotations

from array import array
from collections.abc import Iterable, Iterator, Sequence
from typing import overload

from msgspec import Struct

__all__ = ["Field", "Row", "Rows"]


class Field(Struct, frozen=True, gc=False):
    """A field of a line."""

    text: str
    start: int
    end: int


class Row(Struct, frozen=True, gc=False):
    """A line."""

    entry: str
    start: int
    """Of the entry itself."""
    words: tuple[str, ...] = ()
    """What its fields say; none where lines are one field."""
    quoted: tuple[Field, ...] = ()
    """The fields, where they are more than what stands between blanks: their places do not go by their words alone."""

    @property
    def fields(self) -> tuple[Field, ...]:
        """With their places."""
        return self.quoted or tuple(self._between_blanks())

    def place(self, number: int) -> int:
        """Where the field of a number begins, from zero."""
        if self.quoted:
            return self.quoted[number].start
        return self.start + _place(self.entry, 0, self.words, number)

    def _between_blanks(self) -> Iterator[Field]:
        at = 0
        for word in self.words:
            at = self.entry.index(word, at)
            yield Field(word, self.start + at, self.start + at + len(word))
            at += len(word)


class Rows(Sequence[Row]):
    """The lines of one file."""

    __slots__ = ("_ends", "_quoted", "_starts", "_string", "words")

    def __init__(self, string: str) -> None:
        self._string = string
        self._starts, self._ends = array("q"), array("q")
        self._quoted: dict[int, tuple[Field, ...]] = {}
        self.words: list[tuple[str, ...]] = []
        """What the fields of each say."""

    def add(self, start: int, end: int, words: tuple[str, ...], quoted: tuple[Field, ...] = ()) -> None:
        """One more, behind the others."""
        if quoted:
            self._quoted[len(self.words)] = quoted
        self._starts.append(start)
        self._ends.append(end)
        self.words.append(words)

    def start(self, number: int) -> int:
        """Where the line of a number begins."""
        return self._starts[number]

    def places(self, field: int, numbers: Iterable[int]) -> list[int]:
        """Where a field begins in the lines of some numbers, all from zero; -1 where there is none."""
        string, starts, words, quoted = self._string, self._starts, self.words, self._quoted
        found = []
        for number in numbers:
            if field >= len(words[number]):
                found.append(-1)
            elif number in quoted:
                found.append(quoted[number][field].start)
            else:
                found.append(_place(string, starts[number], words[number], field) if field else starts[number])
        return found

    def __len__(self) -> int:
        return len(self.words)

    def __iter__(self) -> Iterator[Row]:
        string, quoted = self._string, self._quoted
        for number, (start, end, words) in enumerate(zip(self._starts, self._ends, self.words, strict=True)):
            yield Row(string[start:end], start, words, quoted.get(number, ()))

    @overload
    def __getitem__(self, number: int) -> Row: ...
    @overload
    def __getitem__(self, number: slice) -> list[Row]: ...
    def __getitem__(self, number: int | slice) -> Row | list[Row]:
        if isinstance(number, slice):
            return [self[one] for one in range(*number.indices(len(self)))]
        start, end = self._starts[number], self._ends[number]
        return Row(self._string[start:end], start, self.words[number], self._quoted.get(number % len(self), ()))


def _place(string: str, at: int, words: tuple[str, ...], field: int) -> int:
    """Where one of the words begins that stand in a text one after the other, from a place in it on."""
    for word in words[:field]:
        at = string.index(word, at) + len(word)
    return string.index(words[field], at)
