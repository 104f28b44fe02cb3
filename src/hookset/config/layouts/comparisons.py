"""The rules of a layout that compare values: equal, ordered, bounded, counted, numbered, standing on the ground."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from hookset.config.layouts.rules import ValueQuery
from hookset.config.layouts.schema import (
    BoundsEntry,
    CalledEntry,
    CountEntry,
    GroundEntry,
    KeyedEntry,
    OrderEntry,
    PairedEntry,
    SeriesEntry,
    StandingEntry,
)
from hookset.config.layouts.template import Template
from hookset.trees import Glob, Pattern

__all__ = [
    "AgreeRule",
    "Bound",
    "BoundsRule",
    "CalledRule",
    "Compared",
    "CountRule",
    "GroundRule",
    "KeyedQuery",
    "OrderRule",
    "PairedRule",
    "PositionQuery",
    "SeriesRule",
]


class AgreeRule(Struct, frozen=True):
    """Values that must be the same."""

    may_be_empty: bool
    title: str
    why: str
    values: tuple[ValueQuery, ...]
    equal: Template | None
    """What they must be; None: the same as the first."""
    take: Mapping[str, ValueQuery]


class Compared(Struct, frozen=True):
    """Values of which some rule says how they must be."""

    title: str
    asked: ValueQuery
    key: str = ""
    """For whole records: whose value it is."""


Bound = int | float | str | ValueQuery | None
"""A number; `players`; or where the number stands in the map."""


class CountRule(Struct, frozen=True):
    """How many definitions of a kind there must be."""

    entry: CountEntry
    group: Pattern | None
    least: Bound
    most: Bound


class BoundsRule(Struct, frozen=True):
    """Numbers that must lie between others."""

    entry: BoundsEntry
    values: tuple[ValueQuery, ...]
    least: Bound
    most: Bound


class OrderRule(Struct, frozen=True):
    """Values that stand in an order."""

    entry: OrderEntry
    values: tuple[ValueQuery, ...]


class CalledRule(Struct, frozen=True):
    """Files that are called after the map."""

    entry: CalledEntry
    files: Glob
    name: Template


class KeyedQuery(Struct, frozen=True):
    """Records by a key."""

    entry: KeyedEntry
    asked: ValueQuery


class PairedRule(Struct, frozen=True):
    """Values by the same key that must be the same."""

    entry: PairedEntry
    one: KeyedQuery
    other: KeyedQuery


class SeriesRule(Struct, frozen=True):
    """Numbered things."""

    entry: SeriesEntry
    name: Pattern
    owners: tuple[Glob, ...]


class PositionQuery(Struct, frozen=True):
    """Where records say that something stands."""

    entry: StandingEntry
    asked: ValueQuery

    @property
    def height(self) -> str:
        """The key that the height stands in: of `at 2` it is `at`."""
        return self.entry.height.partition(" ")[0].partition("/")[0]


class GroundRule(Struct, frozen=True):
    """Things that stand on the ground."""

    entry: GroundEntry
    table: PositionQuery | None
    """None where a picture has the heights."""
    things: tuple[PositionQuery, ...]

    @property
    def queries(self) -> tuple[PositionQuery, ...]:
        """All that is asked of records."""
        return self.things if self.table is None else (self.table, *self.things)
