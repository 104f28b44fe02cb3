"""The things of a map: what they are called, where they stand, how they are turned, what they are linked to."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hookset.config.layouts import Layout
from hookset.config.layouts.positions import PlacedRule, TrackRule, TurnRule, VolumeRule
from hookset.formats import Unreadable
from hookset.formats.base import Part, Parts
from hookset.formats.document import HasParts
from hookset.model import CouldNotError, Where
from hookset.model.digits import natural_number
from hookset.scene.numbers import Misread, number_of, numbers_of_record, several_words_of, words_of
from hookset.space.transforms import Transform, composed, depths, parted, world_of
from hookset.space.turns import TurnForm, matrices_of
from hookset.symbols.reading import open_document
from hookset.trees import Tree

__all__ = ["Link", "Misplaced", "Thing", "Things", "open_with_parts", "things_of", "turn_form"]

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Link:
    """What a thing says that it works on."""

    way: str
    to: str
    """A key."""
    where: Where


@dataclass(frozen=True, slots=True)
class Misplaced:
    """Something that a record says of its place and that cannot be."""

    what: str
    """`number`, `endless`, `flat`, `circle`, `outer`."""
    path: str
    where: Where
    said: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Thing:
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

    def part(self, way: str) -> Part | None:
        """What its record says at a way; None where that is nothing, or none of the rule's ways."""
        ways = self.rule.ways
        return self.parts[ways.index(way)] if way in ways else None

    @property
    def called(self) -> str:
        """What it goes by in messages."""
        return self.key or self.class_ or "something without a name"


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
        by_rule: dict[int, list[int]] = {}
        for row, numbers in enumerate(self.turn_numbers):
            if numbers is not None:
                by_rule.setdefault(id(self.rows[row].rule), []).append(row)
        for rows in by_rule.values():
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
        """The rows of each key."""
        found: dict[str, tuple[int, ...]] = {}
        for row, thing in enumerate(self.rows):
            if thing.key:
                found[thing.key] = (*found.get(thing.key, ()), row)
        return found

    def transform(self, row: int) -> Transform | None:
        """How a thing stands in the map; None for one that is sheared or flat."""
        return parted(self.world[row])

    def around(self, row: int) -> Floats:
        """The (4, 4) of what a thing stands by, in the space of the map."""
        outer = int(self.outer[row])
        return np.asarray(self.world[outer]) if outer >= 0 else np.eye(4)


def turn_form(rule: TurnRule) -> TurnForm:
    """How a layout says that turns are written."""
    entry = rule.entry
    orders = {"quaternion": "xyzw", "matrix": "rows"}
    return TurnForm(entry.as_, entry.about, entry.order or orders.get(entry.as_, ""), entry.clockwise)


def things_of(tree: Tree, layout: Layout) -> Things:
    """Everything that the layout's `[[placed]]` find in a map. Files that cannot be read have none."""
    reading = _Reading()
    for rule in layout.positions.placed:
        for path in tree.paths():
            if rule.asked.files.matches(path) and (document := open_with_parts(tree, path, rule)) is not None:
                reading.read(rule, path, document.parts(rule.asked.selector, rule.ways))
    return reading.things()


def open_with_parts(tree: Tree, path: str, rule: PlacedRule | VolumeRule | TrackRule) -> HasParts | None:
    """A file of a rule, parsed; None for one that cannot be read."""
    try:
        document = open_document(tree, path, rule.asked.rule)
    except (Unreadable, CouldNotError):
        return None
    return document if isinstance(document, HasParts) else None


@dataclass(frozen=True, slots=True)
class _Stands:
    """What a record says that it stands by."""

    record: Where | None = None
    key: str = ""
    holds: tuple[int, ...] = ()
    where: Where = 0


class _Reading:
    """Records, one after the other, into columns."""

    def __init__(self) -> None:
        self.rows: list[Thing] = []
        self.at: list[list[float]] = []
        self.sizes: list[list[float]] = []
        self.turns: list[tuple[float, ...] | None] = []
        self.whole: dict[int, Floats] = {}
        self.outer: list[int] = []
        self.misplaced: list[Misplaced] = []

    def read(self, rule: PlacedRule, path: str, records: Iterable[Parts]) -> None:
        """One file by one rule."""
        first = len(self.rows)
        stands: list[_Stands] = []
        row_at: dict[Where, int] = {}
        places: list[int | None] = []
        columns = {way: column for column, way in enumerate(rule.ways)}
        for record in records:
            if not all(one.holds(words_of(record.parts[columns[one.way]])) for one in rule.when):
                places.append(None)
                continue
            row_at[record.where] = len(self.rows)
            places.append(len(self.rows))
            stands.append(self._record(rule, path, record, columns))
        self.outer += self._outer(rule, path, stands, row_at, places, first)

    def _record(self, rule: PlacedRule, path: str, record: Parts, columns: Mapping[str, int]) -> _Stands:
        entry, parts = rule.entry, record.parts
        row = len(self.rows)

        def part(way: str) -> Part | None:
            return parts[columns[way]] if way else None

        known = dict(zip(columns, parts, strict=True))
        at, wrong, placed = numbers_of_record(rule.at, known, 0.0)
        if rule.matrix and part(entry.matrix) is not None:
            wrong += self._matrix(rule, path, row, known)
            placed = True
        sizes, unread = self._sizes(rule, known, path)
        wrong += unread
        numbers: tuple[float, ...] | None = None
        if rule.turn is not None:
            turn, unread, turned = numbers_of_record(rule.turn.numbers, known, 0.0)
            wrong += unread
            numbers = tuple(turn) if turned and not unread else None
        reach = number_of(part(entry.reach), None)
        if isinstance(reach, Misread):
            wrong.append(reach)
        self.misplaced += (Misplaced("number" if one.finite else "endless", path, one.where, one.said) for one in wrong)
        self.at.append(at)
        self.sizes.append(sizes)
        self.turns.append(numbers)
        self.rows.append(
            Thing(
                index=row,
                rule=rule,
                path=path,
                where=record.where,
                key=words_of(part(entry.key)) or "",
                class_=words_of(part(entry.class_)) or "",
                group=words_of(part(entry.group)) or "",
                links=tuple(Link(way, to, at) for way in entry.links for to, at in several_words_of(part(way))),
                reach=reach if isinstance(reach, float) else None,
                placed=placed and not wrong,
                parts=parts,
            )
        )
        inside = part(entry.inside)
        return _Stands(
            record.outer if entry.nested else None,
            words_of(inside) or "",
            tuple(_indexes(part(entry.holds))),
            record.where if inside is None else inside.where,
        )

    def _matrix(self, rule: PlacedRule, path: str, row: int, known: Mapping[str, Part | None]) -> list[Misread]:
        numbers, wrong, _ = numbers_of_record(rule.matrix, known, 0.0)
        if wrong:
            return wrong[:1]
        matrix = np.array(numbers).reshape(4, 4).T
        self.whole[row] = matrix
        part = known[rule.entry.matrix]
        if part is not None and abs(np.linalg.det(matrix[:3, :3])) < 1e-12:
            self.misplaced.append(Misplaced("flat", path, part.where, "the matrix"))
        return []

    def _sizes(
        self, rule: PlacedRule, known: Mapping[str, Part | None], path: str
    ) -> tuple[list[float], list[Misread]]:
        if rule.size is None:
            return [1.0, 1.0, 1.0], []
        first = rule.size[0]
        part = known.get(first.way) if first is not None else None
        alone = number_of(part, None) if isinstance(rule.entry.size, str) else None
        if isinstance(alone, float):
            sizes, wrong = [alone] * 3, list[Misread]()
        else:
            sizes, wrong, _ = numbers_of_record(rule.size, known, 1.0)
        if 0.0 in sizes and part is not None:
            self.misplaced.append(Misplaced("flat", path, part.where, "its size"))
            sizes = [one or 1.0 for one in sizes]
        return sizes, wrong

    def _outer(
        self,
        rule: PlacedRule,
        path: str,
        stands: Sequence[_Stands],
        row_at: Mapping[Where, int],
        places: Sequence[int | None],
        first: int,
    ) -> Iterator[int]:
        """For each row of a file the row that it stands by."""
        held: dict[int, int] = {}
        for row, one in enumerate(stands, first):
            for index in one.holds:
                inner = places[index] if index < len(places) else None
                if inner is None:
                    self.misplaced.append(Misplaced("outer", path, one.where, str(index)))
                else:
                    held[inner] = row
        keys = {thing.key: thing.index for thing in self.rows[first:] if thing.key} if rule.entry.inside else {}
        for row, one in enumerate(stands, first):
            if one.record is not None:
                yield row_at.get(one.record, -1)
            elif one.key:
                if one.key not in keys:
                    self.misplaced.append(Misplaced("outer", path, one.where, one.key))
                yield keys.get(one.key, -1)
            else:
                yield held.get(row, -1)

    def things(self) -> Things:
        count = len(self.rows)
        outer = np.array(self.outer, dtype=np.int64).reshape(count)
        for row in depths(outer)[1] if (outer >= 0).any() else ():
            thing = self.rows[row]
            self.misplaced.append(Misplaced("circle", thing.path, thing.where, thing.called))
            outer[row] = -1
        return Things(
            rows=tuple(self.rows),
            local_at=np.array(self.at, dtype=np.float64).reshape(count, 3),
            local_sizes=np.array(self.sizes, dtype=np.float64).reshape(count, 3),
            turn_numbers=tuple(self.turns),
            whole=self.whole,
            outer=outer,
            misplaced=tuple(self.misplaced),
        )


def _indexes(part: Part | None) -> Iterator[int]:
    for text, _ in several_words_of(part):
        if (index := natural_number(text)) is not None:
            yield index
