"""One word of each of millions of records, in less room than a list of them takes."""

from __future__ import annotations

from array import array
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import repeat
from typing import overload

__all__ = ["FewWords", "NoWords"]

_ROOMS = ((1 << 8, "B"), (1 << 16, "H"), (1 << 32, "I"))
"""How many words there can be for numbers of one, two and four bytes."""


@dataclass(frozen=True)
class NoWords(Sequence[str]):
    """No word of any of some records."""

    records: int

    def __len__(self) -> int:
        return self.records

    @overload
    def __getitem__(self, row: int) -> str: ...
    @overload
    def __getitem__(self, row: slice) -> NoWords: ...
    def __getitem__(self, row: int | slice) -> str | NoWords:
        if isinstance(row, slice):
            return NoWords(len(range(*row.indices(self.records))))
        if not -self.records <= row < self.records:
            raise IndexError(row)
        return ""

    def __iter__(self) -> Iterator[str]:
        return repeat("", self.records)

    def __contains__(self, word: object) -> bool:
        return word == "" and self.records > 0


@dataclass(frozen=True, eq=False)
class FewWords(Sequence[str]):
    """Words most of which are the same as others."""

    codes: array[int]
    few: Sequence[str]

    @classmethod
    def of(cls, words: Iterable[str]) -> FewWords:
        """Each word as the number of one of a few."""
        known: defaultdict[str, int] = defaultdict()
        # A word that is new gets the next number.
        known.default_factory = known.__len__
        codes = array("I", map(known.__getitem__, words))
        room = next(code for most, code in _ROOMS if len(known) <= most)
        return cls(array(room, codes), tuple(known))

    def __len__(self) -> int:
        return len(self.codes)

    @overload
    def __getitem__(self, row: int) -> str: ...
    @overload
    def __getitem__(self, row: slice) -> FewWords: ...
    def __getitem__(self, row: int | slice) -> str | FewWords:
        if isinstance(row, slice):
            return FewWords(self.codes[row], self.few)
        return self.few[self.codes[row]]

    def __iter__(self) -> Iterator[str]:
        return map(self.few.__getitem__, self.codes)

    def __contains__(self, word: object) -> bool:
        return word in self.few and any(one == word for one in self)
