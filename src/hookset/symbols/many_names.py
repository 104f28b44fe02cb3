"""The names of a long block as one text: the 400,000 objects of a scene are one value to keep and to hand over, and are
taken apart only where somebody looks at them one by one."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Sequence
from functools import cached_property
from itertools import chain
from typing import overload

from msgspec import Struct

__all__ = ["ManyNames", "Names", "names_of", "rows_of"]

_MANY = 1_000
_SEPARATORS = ("\n", "\0", "\x1e", "\x1f", *map(chr, range(0xE000, 0xF8FF)))
"""A name may hold any character; none holds all of these."""


class ManyNames(Struct, frozen=True, dict=True):
    """A sequence of names."""

    text: str
    """All of them, with a separator before each and after the last."""
    count: int

    @cached_property
    def parts(self) -> list[str]:
        """The names one by one."""
        return self.text[1:-1].split(self.text[0])

    @cached_property
    def digest(self) -> bytes:
        """Of all names, in their order."""
        return hashlib.blake2b(self.text.encode("utf-8", "surrogatepass"), digest_size=16).digest()

    def __len__(self) -> int:
        return self.count

    @overload
    def __getitem__(self, row: int) -> str: ...

    @overload
    def __getitem__(self, row: slice) -> list[str]: ...

    def __getitem__(self, row: int | slice) -> str | list[str]:
        return self.parts[row]

    def __iter__(self) -> Iterator[str]:
        return iter(self.parts)

    def __reversed__(self) -> Iterator[str]:
        return reversed(self.parts)

    def __contains__(self, name: object) -> bool:
        return isinstance(name, str) and self._at(name, 0) >= 0

    def rows(self, name: str) -> Iterator[int]:
        """Where a name stands, without taking all of them apart."""
        at, row, counted = self._at(name, 0), 0, 0
        while at >= 0:
            row += self.text.count(self.text[0], counted, at)
            counted = at
            yield row
            at = self._at(name, at + 1)

    def _at(self, name: str, start: int) -> int:
        separator = self.text[0]
        return -1 if separator in name else self.text.find(f"{separator}{name}{separator}", start)


Names = tuple[str, ...] | ManyNames


def names_of(names: Sequence[str]) -> Names:
    """A few names as they are, many as one text."""
    if len(names) < _MANY:
        return tuple(names)
    whole = "".join(names)
    separator = next((one for one in _SEPARATORS if one not in whole), None)
    if separator is None:
        return tuple(names)
    return ManyNames(separator.join(chain(("",), names, ("",))), len(names))


def rows_of(names: Names, name: str) -> Iterator[int]:
    """Where a name stands among others."""
    if isinstance(names, ManyNames):
        return names.rows(name)
    return (row for row, one in enumerate(names) if one == name)
