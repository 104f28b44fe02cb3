"""The records that stand for things, in columns, and the things that they stand for."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import chain
from typing import overload

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from hookset.config.layouts.positions import PlacedRule
from hookset.formats.parts import Part, PartTable
from hookset.model import Where

__all__ = ["FileRecords", "InPrefab", "Link", "Thing", "ThingRows"]

Floats = NDArray[np.float64]


class Link(Struct, frozen=True, gc=False):
    """What a thing says that it works on."""

    way: str
    to: str
    """A key."""
    where: Where


class FileRecords(Struct, frozen=True, eq=False):
    """The records of one file that one rule means."""

    rule: PlacedRule
    path: str
    table: PartTable
    """By the ways of the rule."""
    keys: Sequence[str]
    classes: Sequence[str]
    groups: Sequence[str]
    links: Mapping[int, tuple[Link, ...]]
    """By row, of those that have any."""
    reaches: Mapping[int, float]
    placed: NDArray[np.bool_]
    """(n,): whether a record says where the thing stands; otherwise it is where the thing around it is."""
    turns: Floats
    """(n, k): the numbers of their turns, or of shape (n, 0) where the layout has none."""
    turned: NDArray[np.bool_]
    """(n,): which of them are there."""

    def __len__(self) -> int:
        return len(self.keys)

    def first_said(self, way: str) -> Part | None:
        """What the first of the records says at a way that says anything there: how others write it."""
        column = dict(zip(self.rule.ways, self.table.columns, strict=True)).get(way, ())
        return next((part for part in column if part is not None), None)


class Thing(Struct, frozen=True, gc=False):
    """One thing that stands somewhere."""

    index: int
    records: FileRecords
    row: int
    """Which of these records is its own."""
    within: str = ""
    """What the thing is called that stands for the file in which this one stands."""
    prefab: int = -1
    """The row of that thing."""

    @property
    def rule(self) -> PlacedRule:
        """By which it was found."""
        return self.records.rule

    @property
    def path(self) -> str:
        """The file in which its record stands."""
        return self.records.path

    @property
    def where(self) -> Where:
        """Where its record stands."""
        return self.records.table.wheres[self.row]

    @property
    def key(self) -> str:
        """Its name; empty for a thing without one."""
        return self.records.keys[self.row]

    @property
    def class_(self) -> str:
        """What it is one of."""
        return self.records.classes[self.row]

    @property
    def group(self) -> str:
        """The group that its record names."""
        return self.records.groups[self.row]

    @property
    def links(self) -> tuple[Link, ...]:
        """What it works on."""
        return self.records.links.get(self.row, ())

    @property
    def reach(self) -> float | None:
        """How far it reaches."""
        return self.records.reaches.get(self.row)

    @property
    def placed(self) -> bool:
        """Whether its record says where it stands; otherwise it is where the thing around it is."""
        return bool(self.records.placed[self.row])

    @property
    def turn_numbers(self) -> tuple[float, ...] | None:
        """How it is turned, as its record says."""
        records = self.records
        return tuple(records.turns[self.row].tolist()) if records.turned[self.row] else None

    def part(self, way: str) -> Part | None:
        """What its record says at a way; None where that is nothing, or none of the rule's ways."""
        ways = self.rule.ways
        return self.records.table.columns[ways.index(way)][self.row] if way in ways else None

    @property
    def sort(self) -> str:
        """What its class has in common with others that are the same to the game."""
        return self.class_.casefold() if self.rule.folded else self.class_

    @property
    def called(self) -> str:
        """What it goes by in messages."""
        own = self.key or self.class_ or "something without a name"
        return f"{own} of {self.within}" if self.within else own


class InPrefab(Struct, frozen=True):
    """A thing that stands in a prefab, by the record that the file has of it."""

    source: int
    """The row of the record, of all files."""
    within: str
    prefab: int


@dataclass(frozen=True, eq=False)
class ThingRows(Sequence[Thing]):
    """The things of a map, in the order of files: each is made when somebody asks for it."""

    files: tuple[FileRecords, ...]
    own: NDArray[np.int64] | None = None
    """The records, of all files, of which a thing stands in the map by itself; None for all."""
    inner: Sequence[InPrefab] = field(default=())
    """The things behind those, which stand in prefabs."""

    @cached_property
    def _first(self) -> list[int]:
        """The row of each file's first record."""
        return [0, *np.cumsum([len(one) for one in self.files]).tolist()]

    @property
    def record_count(self) -> int:
        """How many records there are."""
        return self._first[-1]

    @cached_property
    def sources(self) -> NDArray[np.int64]:
        """(n,): the record of each thing, of all files."""
        own = np.arange(self.record_count) if self.own is None else self.own
        return np.concatenate([own, np.array([one.source for one in self.inner], dtype=np.int64)])

    @cached_property
    def _outside(self) -> int:
        """How many stand in the map by themselves."""
        return self.record_count if self.own is None else len(self.own)

    def __len__(self) -> int:
        return self._outside + len(self.inner)

    @overload
    def __getitem__(self, row: int) -> Thing: ...
    @overload
    def __getitem__(self, row: slice) -> tuple[Thing, ...]: ...
    def __getitem__(self, row: int | slice) -> Thing | tuple[Thing, ...]:
        if isinstance(row, slice):
            return tuple(self[one] for one in range(*row.indices(len(self))))
        count, outside = len(self), self._outside
        row = row + count if row < 0 else int(row)
        if not 0 <= row < count:
            raise IndexError(row)
        source = row if self.own is None and not self.inner else int(self.sources[row])
        at = bisect_right(self._first, source) - 1
        inside = self.inner[row - outside] if row >= outside else None
        within, prefab = ("", -1) if inside is None else (inside.within, inside.prefab)
        return Thing(row, self.files[at], source - self._first[at], within, prefab)

    def __iter__(self) -> Iterator[Thing]:
        if self.own is not None or self.inner:
            yield from (self[row] for row in range(len(self)))
            return
        for first, records in zip(self._first, self.files, strict=False):
            yield from (Thing(first + row, records, row) for row in range(len(records)))

    @cached_property
    def keys(self) -> Sequence[str]:
        """Of each thing."""
        return self._of_things([records.keys for records in self.files])

    @cached_property
    def classes(self) -> Sequence[str]:
        """Of each thing."""
        return self._of_things([records.classes for records in self.files])

    @cached_property
    def groups(self) -> Sequence[str]:
        """Of each thing."""
        return self._of_things([records.groups for records in self.files])

    @property
    def paths(self) -> tuple[str, ...]:
        """The files in which records of things stand."""
        return tuple(dict.fromkeys(self.files[one].path for one in np.unique(self.file_of).tolist()))

    @cached_property
    def placed(self) -> NDArray[np.bool_]:
        """(n,): of which it is said where they stand."""
        placed = [np.zeros(0, dtype=np.bool_), *(records.placed for records in self.files)]
        return np.concatenate(placed)[self.sources]

    @cached_property
    def named(self) -> NDArray[np.bool_]:
        """(n,): which have a key or a class."""
        pairs = zip(self.keys, self.classes, strict=True)
        return np.fromiter((bool(key or class_) for key, class_ in pairs), dtype=np.bool_, count=len(self))

    @cached_property
    def file_of(self) -> NDArray[np.int64]:
        """(n,): which of the files."""
        files = np.repeat(np.arange(len(self.files)), [len(one) for one in self.files])
        return np.asarray(files[self.sources])

    @property
    def linking(self) -> Iterator[Thing]:
        """The things of the map itself that work on others, in their order."""
        if self.own is None:
            for first, records in zip(self._first, self.files, strict=False):
                yield from (Thing(first + row, records, row) for row in sorted(records.links))
        elif any(records.links for records in self.files):
            own = (self[row] for row in range(self._outside))
            yield from (thing for thing in own if thing.links)

    def _of_things(self, of_files: Sequence[Sequence[str]]) -> Sequence[str]:
        # Of most maps one file has nearly all things: then nothing is copied.
        some = [of_records for of_records in of_files if of_records]
        of_all = some[0] if len(some) == 1 else list(chain.from_iterable(some))
        if self.own is None and not self.inner:
            return of_all
        return [of_all[row] for row in self.sources.tolist()]
