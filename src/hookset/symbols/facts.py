"""What files say, in columns: a scene of 400,000 objects is a few long lists rather than as many objects."""

from __future__ import annotations

import functools
from collections.abc import Collection, Iterable, Iterator, Sequence
from typing import TypeVar

from msgspec import Struct, msgpack
from msgspec.structs import replace

from hookset.model import Definition, Problem, Reference, Where
from hookset.symbols.many_names import Names, names_of

__all__ = ["Defined", "FileFacts", "Places", "Referred", "packed"]

T = TypeVar("T")


class Places(Struct, frozen=True, array_like=True):
    """Where the values of a block stand, packed up: they are asked for only where something is wrong."""

    packed: bytes
    at: str = ""
    """What stands behind each of them in an address."""

    def where(self, row: int) -> Where:
        """Return where the name of a row stands."""
        found = _unpacked(self.packed)[row]
        return f"{found}{self.at}" if self.at else found

    def without(self, rows: Collection[int]) -> Places:
        """The others, in their order."""
        return packed(_others(_unpacked(self.packed), rows), self.at)


def packed(wheres: Sequence[Where], at: str = "") -> Places:
    """Encode many places compactly; they are decoded when asked for."""
    return Places(msgpack.encode(list(wheres)), at)


@functools.lru_cache(maxsize=1024)
def _unpacked(packed: bytes) -> tuple[Where, ...]:
    return msgpack.decode(packed, type=tuple[Where, ...])


def _others(values: Iterable[T], rows: Collection[int]) -> list[T]:
    kept = list(values)
    for row in sorted(rows, reverse=True):
        del kept[row]
    return kept


class Defined(Struct, frozen=True, array_like=True):
    """Definitions that one rule saw in one file."""

    kind: str
    side: str
    variant: str
    names: Names
    places: Places

    def where(self, row: int) -> Where:
        """Return where the name of a row stands."""
        return self.places.where(row)

    def without(self, rows: Collection[int]) -> Defined:
        """The others, in their order."""
        if not rows:
            return self
        return replace(self, names=names_of(_others(self.names, rows)), places=self.places.without(rows))

    def definition(self, path: str, row: int) -> Definition:
        """Return the definition of a row."""
        return Definition(
            kind=self.kind,
            name=self.names[row],
            side=self.side,
            path=path,
            where=self.where(row),
            variant=self.variant,
        )


class Referred(Struct, frozen=True, array_like=True):
    """References that one rule saw in one file."""

    kind: str
    side: str
    use: bool
    names: Names
    places: Places
    written: Names = ()
    """As they stand in the file; empty where all of them are written as they are called."""
    others: dict[int, tuple[str, ...]] = {}
    """By row: what is looked up next."""
    patterns: frozenset[int] = frozenset()
    """Rows that are built at run time."""
    least: dict[int, int] = {}
    """By row: how many bytes the file must have at least."""
    severity: str = ""
    """How grave it is that one of them is missing, where the rule says so."""
    optional: bool = False
    """Whether they may be missing."""
    says: str = ""
    """What a finding says where one is missing, with `{name}` for what it names."""
    guards: dict[int, tuple[tuple[str, str], ...]] = {}
    """By row: (kind, name) of what must be there for it to count."""

    def where(self, row: int) -> Where:
        """Return where the name of a row stands."""
        return self.places.where(row)

    def reference(self, path: str, row: int) -> Reference:
        """Return the reference of a row."""
        return Reference(
            kind=self.kind,
            name=self.names[row],
            written=self.written[row] if self.written else self.names[row],
            others=self.others.get(row, ()),
            side=self.side,
            path=path,
            where=self.where(row),
            pattern=row in self.patterns,
            use=self.use,
            severity=self.severity,
            optional=self.optional,
            says=self.says,
            guards=self.guards.get(row, ()),
        )


class FileFacts(Struct, frozen=True, kw_only=True):
    """All that one file says. It depends only on the file's path and bytes, the layout, and what the map says
    of itself."""

    path: str
    side: str = ""
    """The one side that the file is for; empty for every side."""
    defined: tuple[Defined, ...] = ()
    made: tuple[Defined, ...] = ()
    """Definitions whose names are made at run time: `*` stands in them for what only the game knows."""
    referred: tuple[Referred, ...] = ()
    problems: tuple[Problem, ...] = ()
    saved: tuple[Problem, ...] = ()
    """How the file is saved otherwise than the game reads it."""
    opened: bool = False
    """Whether any rule looked into it, rather than at its path only."""
    by_rule: tuple[tuple[int, tuple[int, ...], tuple[int, ...]], ...] = ()
    """For each rule that means this file: its number from one, and how many names each of its `defines` and each of its
    `refers` saw; nothing of these where the file could not be opened."""

    @property
    def definitions(self) -> Iterator[Definition]:
        """One by one: for what looks at few of them."""
        return (block.definition(self.path, row) for block in self.defined for row in range(len(block.names)))

    @property
    def references(self) -> Iterator[Reference]:
        """Yield the references one by one: for what looks at few of them."""
        return (block.reference(self.path, row) for block in self.referred for row in range(len(block.names)))
