"""The things of a map: what they are called, where they stand, how they are turned, what they are linked to."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from collections.abc import Set as AbstractSet
from functools import cached_property

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from hookset.config.layouts.positions import PlacedRule, TurnRule
from hookset.model import Where
from hookset.scene.rows import Thing, ThingRows
from hookset.space.transforms import Transform, composed, depths, parted, world_of
from hookset.space.turns import TurnForm, matrices_of

__all__ = ["Misplaced", "Things", "turn_form"]

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]


class Misplaced(Struct, frozen=True):
    """Something that a record says of its place and that cannot be."""

    what: str
    """`number`, `endless`, `flat`, `circle`, `outer`, `prefab`, `contains`, `crowded`, `unread`, `shape`."""
    path: str
    where: Where
    said: str


class Things(Struct, frozen=True, dict=True):
    """All things of a map, in the order of files, with a row for each in every array."""

    rows: ThingRows
    local_at: Floats
    """(n, 3): as the records say."""
    local_sizes: Floats
    whole: Mapping[int, Floats]
    """By row: the (4, 4) of records that have that instead."""
    outer: Whole
    """The row of the thing that each stands by; -1 for none."""
    misplaced: tuple[Misplaced, ...]

    def __len__(self) -> int:
        return len(self.rows)

    @cached_property
    def nested(self) -> bool:
        """Whether any thing stands by another one."""
        return bool((self.outer >= 0).any())

    @cached_property
    def local(self) -> Floats:
        """(n, 4, 4)"""
        return self._local_of(np.arange(len(self.rows)))

    def _local_of(self, rows: Whole) -> Floats:
        """(k, 4, 4) of k rows, rising, each in the space of what it stands by."""
        turns = np.tile(np.eye(3), (len(rows), 1, 1))
        sources = self.rows.sources[rows]
        first = 0
        for records in self.rows.files:
            turn = records.rule.turn
            here = np.nonzero((sources >= first) & (sources < first + len(records)))[0]
            turned = here[records.turned[sources[here] - first]]
            if turn is not None and len(turned):
                turns[turned] = matrices_of(turn_form(turn), records.turns[sources[turned] - first])
            first += len(records)
        made = composed(self.local_at[rows], turns, self.local_sizes[rows])
        for row, matrix in self.whole.items():
            at = int(np.searchsorted(rows, row))
            if at < len(rows) and rows[at] == row:
                made[at] = matrix
        return made

    @cached_property
    def world(self) -> Floats:
        """(n, 4, 4): each in the space of the map."""
        return world_of(self.local, self.outer, depths(self.outer)[0]) if self.nested else self.local

    @cached_property
    def at(self) -> Floats:
        """(n, 3): where each stands in the map."""
        if not self.nested and not self.whole:
            return self.local_at
        at = self.local_at.copy()
        for row, matrix in self.whole.items():
            at[row] = matrix[:3, 3]
        rows = self._in_chains()
        if len(rows):
            outer = np.where(self.outer[rows] >= 0, np.searchsorted(rows, self.outer[rows]), -1)
            at[rows] = world_of(self._local_of(rows), outer, depths(outer)[0])[:, :3, 3]
        return at

    def _in_chains(self) -> Whole:
        """The rows of what stands by something, and of what that stands by: all others are where they say."""
        chained = self.outer >= 0
        around = self.outer[chained]
        while len(around):
            fresh = np.unique(around[~chained[around]])
            chained[fresh] = True
            around = self.outer[fresh]
            around = around[around >= 0]
        return np.asarray(np.nonzero(chained)[0])

    @property
    def _own_keys(self) -> Sequence[str]:
        """Of what stands in no prefab: the rows of that are before all others."""
        keys, own = self.rows.keys, len(self.rows) - len(self.rows.inner)
        # Of millions of things a part that is all of them would be as much once more.
        return keys if own == len(keys) else keys[:own]

    def keys_among(self, names: AbstractSet[str]) -> frozenset[str]:
        """Which of these are keys: sooner told than the rows of each key are made, and enough for most questions."""
        return frozenset(filter(names.__contains__, self._own_keys))

    def rows_of(self, names: AbstractSet[str]) -> Mapping[str, Sequence[int]]:
        """The rows of some keys, as `by_key` has them."""
        found: dict[str, list[int]] = {}
        for row, key in enumerate(self._own_keys) if names else ():
            if key in names and key:
                found.setdefault(key, []).append(row)
        return found

    @cached_property
    def by_key(self) -> Mapping[str, tuple[int, ...]]:
        """The rows of each key. Nothing in a prefab can be told from its twins by a key, and has none here."""
        keys = self._own_keys
        found: dict[str, tuple[int, ...]] = dict(zip(keys, zip(range(len(keys)), strict=True), strict=True))
        if len(found) < len(keys):
            # The last row of each is there: those before it are few.
            before: dict[str, list[int]] = {}
            for row, key in enumerate(keys):
                if found[key][0] != row:
                    before.setdefault(key, []).append(row)
            found |= {key: (*rows, *found[key]) for key, rows in before.items()}
        found.pop("", None)
        return found

    @cached_property
    def by_sort(self) -> Sequence[tuple[PlacedRule, str, NDArray[np.int64]]]:
        """The rows of each `[[placed]]` and class, in their order."""
        rules = [records.rule for records in self.rows.files]
        numbers = np.array([id(rule) for rule in rules], dtype=np.int64)[self.rows.file_of].tolist() if rules else ()
        found: dict[tuple[int, str], list[int]] = {}
        for row, sort in enumerate(zip(numbers, self.rows.classes, strict=True)):
            found.setdefault(sort, []).append(row)
        return [
            (self.rows[rows[0]].rule, class_, np.array(rows, dtype=np.int64)) for (_, class_), rows in found.items()
        ]

    @cached_property
    def _forward(self) -> frozenset[int]:
        """The `id` of rules of which `forward` holds."""
        ends: dict[int, tuple[float, float]] = {}
        halves: dict[int, float] = {}
        for records in self.rows.files:
            said = records.turns[records.turned]
            if said.size:
                rule = id(records.rule)
                low, high = ends.get(rule, (math.inf, -math.inf))
                ends[rule] = min(low, float(said.min())), max(high, float(said.max()))
                halves[rule] = _half_turn(records.rule)
        return frozenset(rule for rule, (low, high) in ends.items() if low >= 0 and high > halves[rule])

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
        thing = self.rows[row]
        numbers, rule = thing.turn_numbers, thing.rule.turn
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
