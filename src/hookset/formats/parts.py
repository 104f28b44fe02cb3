"""What records say that stand for things: part by part, and of many records in columns."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterable, Iterator, Sequence
from itertools import accumulate
from typing import TYPE_CHECKING, Any, NamedTuple, overload

from msgspec import Struct

from hookset.model import Where

if TYPE_CHECKING:
    # To load NumPy takes as long as to check a small map.
    from numpy.typing import NDArray

__all__ = ["Addresses", "JoinedTexts", "LazyTexts", "Part", "PartTable", "Parts", "TextColumn"]


class Part(Struct, frozen=True, gc=False):
    """A value of a record, and where it stands."""

    where: Where
    value: Any
    """A text, a number, or what else the format has; for several values in a row, a tuple of parts."""


class Parts(Struct, frozen=True, gc=False):
    """What was asked for of one record."""

    where: Where
    """Where the record stands."""
    parts: tuple[Part | None, ...]
    """In the order in which they were asked for; None for what the record lacks."""


class Addresses(Sequence[Where]):
    """Where many values stand, each an address that begins with its number: made when somebody asks."""

    def __init__(self, numbers: Sequence[int], ends: str = "") -> None:
        self._numbers = numbers
        self._ends = ends

    @overload
    def __getitem__(self, row: int) -> Where: ...
    @overload
    def __getitem__(self, row: slice) -> Addresses: ...
    def __getitem__(self, row: int | slice) -> Where | Addresses:
        if isinstance(row, slice):
            return Addresses(self._numbers[row], self._ends)
        return f"{self._numbers[row]}{self._ends}"

    def __len__(self) -> int:
        return len(self._numbers)

    def __contains__(self, where: object) -> bool:
        number = str(where).removesuffix(self._ends)
        return str(where) == f"{number}{self._ends}" and number.isdecimal() and int(number) in self._numbers

    def index(self, where: Where, start: int = 0, stop: int | None = None) -> int:
        """The row of an address. Raises ValueError for one that is not there."""
        if where not in self:
            raise ValueError(where)
        return self._numbers.index(int(str(where).removesuffix(self._ends)), start, len(self) if stop is None else stop)


class JoinedTexts(NamedTuple):
    """Many texts in one, in UTF-8, each with a blank behind it."""

    utf8: bytes
    rows: Sequence[int] | NDArray[Any]
    """Which records have them."""
    ends: Sequence[int] | NDArray[Any]
    """Where the blank behind each stands."""


class LazyTexts(Sequence[str | None]):
    """Texts that are made when somebody asks for them."""

    @abstractmethod
    def rows(self) -> list[int]:
        """The records that have one."""

    @abstractmethod
    def joined(self) -> JoinedTexts:
        """All of them, without making each."""

    @abstractmethod
    def chosen(self, rows: Sequence[int]) -> LazyTexts:
        """Those of some of the records."""


class TextColumn(Sequence[Part | None]):
    """What many records say at one way, all of it text: the parts are made when somebody asks for one."""

    def __init__(self, texts: Sequence[str | None], wheres: Sequence[Where]) -> None:
        self.texts = texts
        self._wheres = wheres

    @overload
    def __getitem__(self, row: int) -> Part | None: ...
    @overload
    def __getitem__(self, row: slice) -> TextColumn: ...
    def __getitem__(self, row: int | slice) -> Part | TextColumn | None:
        if isinstance(row, slice):
            return TextColumn(self.texts[row], self._wheres[row])
        text = self.texts[row]
        return None if text is None else Part(self._wheres[row], text)

    def __len__(self) -> int:
        return len(self.texts)

    def chosen(self, rows: Sequence[int]) -> TextColumn:
        """The same of some of the records."""
        texts = self.texts.chosen(rows) if isinstance(self.texts, LazyTexts) else [self.texts[row] for row in rows]
        return TextColumn(texts, [self._wheres[row] for row in rows])

    def rows(self) -> list[int]:
        """The records that say anything."""
        if isinstance(self.texts, LazyTexts):
            return self.texts.rows()
        return [row for row, text in enumerate(self.texts) if text is not None]

    def joined(self) -> JoinedTexts:
        """All texts as one."""
        if isinstance(self.texts, LazyTexts):
            return self.texts.joined()
        texts = [text.encode("utf-8", "surrogatepass") for text in self.texts if text is not None]
        ends = [end - 1 for end in accumulate(len(text) + 1 for text in texts)]
        return JoinedTexts(b"".join(text + b" " for text in texts), self.rows(), ends)


class PartTable(Struct, frozen=True):
    """What was asked for of many records, a row each: of a large scene a few long lists, not as many objects."""

    wheres: Sequence[Where]
    """Where each record stands."""
    columns: tuple[Sequence[Part | None], ...]
    """By the ways that were asked for."""

    @classmethod
    def of(cls, records: Iterable[Parts], ways: Sequence[str]) -> PartTable:
        """Records that were read one by one."""
        listed = list(records)
        columns = zip(*(one.parts for one in listed), strict=True) if listed else ((),) * len(ways)
        return cls([one.where for one in listed], tuple(columns))

    def __len__(self) -> int:
        return len(self.wheres)

    def __iter__(self) -> Iterator[Parts]:
        return (self.row(row) for row in range(len(self.wheres)))

    def row(self, row: int) -> Parts:
        """One record."""
        return Parts(self.wheres[row], tuple(column[row] for column in self.columns))

    def chosen(self, rows: Sequence[int]) -> PartTable:
        """Some of the records."""
        if len(rows) == len(self.wheres):
            return self
        return PartTable([self.wheres[row] for row in rows], tuple(_chosen(column, rows) for column in self.columns))


def _chosen(column: Sequence[Part | None], rows: Sequence[int]) -> Sequence[Part | None]:
    return column.chosen(rows) if isinstance(column, TextColumn) else [column[row] for row in rows]
