"""The things of a map: what they are called, where they stand, how they are turned, what they are linked to."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from hookset.config.layouts.positions import PlacedRule, TurnRule
from hookset.formats.base import Part
from hookset.model import Where
from hookset.space.transforms import Transform, composed, depths, parted, world_of
from hookset.space.turns import TurnForm, matrices_of

__all__ = ["Link", "Misplaced", "Thing", "Things", "turn_form"]

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]


class Link(Struct, frozen=True, gc=False):
    """What a thing says that it works on."""

    way: str
    to: str
    """A key."""
    where: Where


@dataclass(frozen=True, slots=True)
class Misplaced:
    """Something that a record says of its place and that cannot be."""

    what: str
    """`number`, `endless`, `flat`, `circle`, `outer`, `prefab`, `contains`, `crowded`, `unread`, `shape`."""
    path: str
    where: Where
    said: str


class Thing(Struct, frozen=True, kw_only=True, gc=False):
    """One thing that stands somewhere."""

    index: int
    rule: PlacedRule
    path: str
    where: Where
    key: str
    class_: str
    group: str
    links: tuple[Link, ...]
    reach: float | None
    placed: bool
    """Whether its record says where it stands; otherwise it is where the thing around it is."""
    parts: tuple[Part | None, ...]
    """By the ways of its rule."""
    within: str = ""
    """What the thing is called that stands for the file in which this one stands."""
    prefab: int = -1
    """The row of that thing."""

    def part(self, way: str) -> Part | None:
        """What its record says at a way; None where that is nothing, or none of the rule's ways."""
        ways = self.rule.ways
        return self.parts[ways.index(way)] if way in ways else None

    @property
    def sort(self) -> str:
        """What its class has in common with others that are the same to the game."""
        return self.class_.casefold() if self.rule.folded else self.class_

    @property
    def called(self) -> str:
        """What it goes by in messages."""
        own = self.key or self.class_ or "something without a name"
        return f"{own} of {self.within}" if self.within else own


@dataclass(frozen=True)
class Things:
    """All things of a map, in the order of files, with a row for each in every array."""

    rows: tuple[Thing, ...]
    local_at: Floats
    """(n, 3): as the records say."""
    local_sizes: Floats
    turn_numbers: tuple[tuple[float, ...] | None, ...]
    whole: Mapping[int, Floats]
    """By row: the (4, 4) of records that have that instead."""
    outer: Whole
    """The row of the thing that each stands by; -1 for none."""
    misplaced: tuple[Misplaced, ...]

    def __len__(self) -> int:
        return len(self.rows)

    @cached_property
    def local_turns(self) -> Floats:
        """(n, 3, 3)"""
        turns = np.tile(np.eye(3), (len(self.rows), 1, 1))
        turned = [row for row, numbers in enumerate(self.turn_numbers) if numbers is not None]
        for _, alike in itertools.groupby(turned, lambda row: id(self.rows[row].rule)):
            rows = list(alike)
            rule = self.rows[rows[0]].rule.turn
            if rule is not None:
                turns[rows] = matrices_of(turn_form(rule), np.array([self.turn_numbers[row] for row in rows]))
        return turns

    @cached_property
    def nested(self) -> bool:
        """Whether any thing stands by another one."""
        return bool((self.outer >= 0).any())

    @cached_property
    def local(self) -> Floats:
        """(n, 4, 4)"""
        made = composed(self.local_at, self.local_turns, self.local_sizes)
        for row, matrix in self.whole.items():
            made[row] = matrix
        return made

    @cached_property
    def world(self) -> Floats:
        """(n, 4, 4): each in the space of the map."""
        return world_of(self.local, self.outer, depths(self.outer)[0]) if self.nested else self.local

    @cached_property
    def at(self) -> Floats:
        """(n, 3): where each stands in the map."""
        if self.nested:
            return np.asarray(self.world[:, :3, 3])
        if not self.whole:
            return self.local_at
        at = self.local_at.copy()
        for row, matrix in self.whole.items():
            at[row] = matrix[:3, 3]
        return at

    @cached_property
    def by_key(self) -> Mapping[str, tuple[int, ...]]:
        """The rows of each key. Nothing in a prefab can be told from its twins by a key, and has none here."""
        found: dict[str, tuple[int, ...]] = {}
        further: dict[str, list[int]] = {}
        for row, thing in enumerate(self.rows):
            key = thing.key
            if not key or thing.within:
                continue
            if key in found:
                further.setdefault(key, []).append(row)
            else:
                found[key] = (row,)
        for key, rows in further.items():
            found[key] += tuple(rows)
        return found

    @cached_property
    def by_sort(self) -> Sequence[tuple[PlacedRule, str, NDArray[np.int64]]]:
        """The rows of each `[[placed]]` and class, in their order."""
        found: dict[tuple[int, str], list[int]] = {}
        for row, thing in enumerate(self.rows):
            found.setdefault((id(thing.rule), thing.class_), []).append(row)
        return [
            (self.rows[rows[0]].rule, class_, np.array(rows, dtype=np.int64)) for (_, class_), rows in found.items()
        ]

    @cached_property
    def placed(self) -> NDArray[np.bool_]:
        """(n,): of which it is said where they stand."""
        return np.fromiter((thing.placed for thing in self.rows), dtype=np.bool_, count=len(self.rows))

    @cached_property
    def _forward(self) -> frozenset[int]:
        """The `id` of rules of which `forward` holds."""
        numbers: dict[int, list[float]] = {}
        for thing, turn in zip(self.rows, self.turn_numbers, strict=True):
            if turn:
                numbers.setdefault(id(thing.rule), []).extend(turn)
        halves = {id(rule): _half_turn(rule) for rule, _, _ in self.by_sort}
        return frozenset(one for one, said in numbers.items() if min(said) >= 0 and max(said) > halves[one])

    def forward(self, rule: PlacedRule) -> bool:
        """Whether the angles of a rule go from 0 to a whole turn, rather than half a turn either way."""
        return id(rule) in self._forward

    def by_class(self, class_: str) -> tuple[Thing, ...]:
        """The things of a sort; without those in prefabs, whose records are of several things."""
        folded = class_.casefold()
        alike = (thing for thing in self.rows if not thing.within)
        return tuple(thing for thing in alike if thing.sort == (folded if thing.rule.folded else class_))

    def standing_by(self, row: int) -> Iterator[Thing]:
        """What stands by a thing."""
        return (self.rows[one] for one in np.nonzero(self.outer == row)[0].tolist())

    def standing_after(self, row: int) -> Iterator[tuple[int, int]]:
        """What comes after a thing and stands by it or by what comes after it, with what it stands by: by row."""
        later = row + 1 + np.nonzero(self.outer[row + 1 :] >= row)[0]
        yield from zip(later.tolist(), self.outer[later].tolist(), strict=True)

    @cached_property
    def _in_prefabs(self) -> Mapping[tuple[int, str], tuple[int, ...]]:
        """The rows of each key in each prefab, by the row that stands for it."""
        found: dict[tuple[int, str], list[int]] = {}
        for row, thing in enumerate(self.rows):
            if thing.key and thing.within:
                found.setdefault((thing.prefab, thing.key), []).append(row)
        return {key: tuple(rows) for key, rows in found.items()}

    def linked(self, row: int, key: str) -> tuple[int, ...]:
        """The rows that a thing means by a key: of things in the same prefab, then in those around it, then of the
        map."""
        thing = self.rows[row]
        while thing.within:
            if rows := self._in_prefabs.get((thing.prefab, key)):
                return rows
            thing = self.rows[thing.prefab]
        return self.by_key.get(key, ())

    def matrix(self, row: int) -> Floats:
        """The (4, 4) of one thing in the space of the map: of one alone, all others need not be worked out."""
        found, outer = self.local_matrix(row), int(self.outer[row])
        while outer >= 0:
            found, outer = self.local_matrix(outer) @ found, int(self.outer[outer])
        return found

    def local_matrix(self, row: int) -> Floats:
        """The (4, 4) of one thing in the space of what it stands by."""
        if row in self.whole:
            return self.whole[row]
        numbers, rule = self.turn_numbers[row], self.rows[row].rule.turn
        turn = np.eye(3)[None] if numbers is None or rule is None else matrices_of(turn_form(rule), np.array([numbers]))
        return np.asarray(composed(self.local_at[row : row + 1], turn, self.local_sizes[row : row + 1])[0])

    def transform(self, row: int) -> Transform | None:
        """How a thing stands in the map; None for one that is sheared or flat."""
        return parted(self.matrix(row))

    def around(self, row: int) -> Floats:
        """The (4, 4) of what a thing stands by, in the space of the map."""
        outer = int(self.outer[row])
        return self.matrix(outer) if outer >= 0 else np.eye(4)


def _half_turn(rule: PlacedRule) -> float:
    form = rule.turn.entry.as_ if rule.turn is not None else ""
    return {"degrees": 180.0, "radians": math.pi}.get(form, math.inf)


def turn_form(rule: TurnRule) -> TurnForm:
    """How a layout says that turns are written."""
    entry = rule.entry
    orders = {"quaternion": "xyzw", "matrix": "rows"}
    return TurnForm(entry.as_, entry.about, entry.order or orders.get(entry.as_, ""), entry.clockwise)
