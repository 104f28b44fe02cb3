"""From the records of files to the things that stand in a map."""

from __future__ import annotations

import functools
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hookset.config.layouts import Layout
from hookset.config.layouts.positions import NumberWay, PlacedRule, TrackRule, VolumeRule
from hookset.formats import Unreadable
from hookset.formats.base import Part, Parts
from hookset.formats.document import HasParts
from hookset.model import CouldNotError
from hookset.model.digits import natural_number
from hookset.scene.numbers import (
    Misread,
    NumberColumns,
    number_columns,
    number_of,
    numbers_of_record,
    several_words_of,
    words_of,
)
from hookset.scene.prefabs import with_prefabs
from hookset.scene.things import Link, Misplaced, Thing, Things
from hookset.space.transforms import depths
from hookset.symbols.reading import open_document
from hookset.trees import Tree

__all__ = ["open_with_parts", "things_of"]

Floats = NDArray[np.float64]


def things_of(tree: Tree, layout: Layout) -> Things:
    """Everything that the layout's `[[placed]]` find in a map. Files that cannot be read have none."""
    parts: list[_FileThings] = []
    first = 0
    for rule in layout.positions.placed:
        for path in tree.paths():
            if rule.asked.files.matches(path) and (document := open_with_parts(tree, path, rule)) is not None:
                parts.append(_read_file(_Same(document), _Same(rule), path, first))
                first += len(parts[-1].rows)
    things = _joined(parts)
    return (
        with_prefabs(things, tree, layout.positions)
        if any(rule.entry.prefab for rule in layout.positions.placed)
        else things
    )


def open_with_parts(tree: Tree, path: str, rule: PlacedRule | VolumeRule | TrackRule) -> HasParts | None:
    """A file of a rule, parsed; None for one that cannot be read."""
    try:
        document = open_document(tree, path, rule.asked.rule)
    except (Unreadable, CouldNotError):
        return None
    return document if isinstance(document, HasParts) else None


class _Same:
    """Something that is the same as itself only: what is known of it can be kept."""

    def __init__(self, what: Any) -> None:
        self.what = what

    def __hash__(self) -> int:
        return id(self.what)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.what is self.what


@dataclass(frozen=True, slots=True)
class _FileThings:
    """The things of one file, by one rule."""

    rows: list[Thing]
    at: Floats
    sizes: Floats
    turns: list[tuple[float, ...] | None]
    whole: dict[int, Floats]
    outer: list[int]
    misplaced: list[Misplaced]


@functools.lru_cache(maxsize=16)
def _read_file(document: _Same, rule: _Same, path: str, first: int) -> _FileThings:
    """One file by one rule. Documents never change: to keep the latest is the same as to read them again."""
    reading = _Reading()
    return reading.read(rule.what, path, document.what.parts(rule.what.asked.selector, rule.what.ways), first)


def _joined(parts: Sequence[_FileThings]) -> Things:
    rows = tuple(row for part in parts for row in part.rows)
    outer = np.array([row for part in parts for row in part.outer], dtype=np.int64).reshape(len(rows))
    misplaced = [one for part in parts for one in part.misplaced]
    for row in depths(outer)[1] if (outer >= 0).any() else ():
        misplaced.append(Misplaced("circle", rows[row].path, rows[row].where, rows[row].called))
        outer[row] = -1
    return Things(
        rows=rows,
        local_at=np.vstack([*(part.at for part in parts), np.zeros((0, 3))]),
        local_sizes=np.vstack([*(part.sizes for part in parts), np.zeros((0, 3))]),
        turn_numbers=tuple(turn for part in parts for turn in part.turns),
        whole={row: matrix for part in parts for row, matrix in part.whole.items()},
        outer=outer,
        misplaced=tuple(misplaced),
    )


class _Reading:
    """The records of one file into columns, with whatever in them cannot be."""

    def __init__(self) -> None:
        self.misplaced: list[Misplaced] = []

    def read(self, rule: PlacedRule, path: str, records: Iterable[Parts], first: int) -> _FileThings:
        """The things of a file; `first` is the row of the first of them."""
        columns = {way: column for column, way in enumerate(rule.ways)}
        every = list(records)
        meant = [
            record
            for record in every
            if not rule.when or all(one.holds(words_of(record.parts[columns[one.way]])) for one in rule.when)
        ]
        count = len(meant)
        by_way = {way: [record.parts[column] for record in meant] for way, column in columns.items()}
        at = number_columns(rule.at, by_way, count, 0.0)
        sizes = self._sizes(rule, path, by_way, count)
        turn = number_columns(rule.turn.numbers, by_way, count, 0.0) if rule.turn is not None else None
        reach = number_columns((NumberWay(rule.entry.reach),), by_way, count, 0.0) if rule.entry.reach else None
        read = [one for one in (at, sizes, turn, reach) if one is not None]
        unread = {row for one in read for row in one.wrong}
        for row in sorted(unread):
            for one in read:
                self.misplaced += (_misread(path, bad) for bad in one.wrong.get(row, ()))
        whole = self._matrices(rule, path, by_way, first)
        there = at.there.tolist()
        for row in whole:
            there[row - first] = True
        facts = _Facts(
            placed=[is_there and row not in unread for row, is_there in enumerate(there)],
            reaches=_each(reach, count),
        )
        rows = list(_things(rule, path, meant, by_way, facts, first))
        return _FileThings(
            rows=rows,
            at=at.numbers,
            sizes=sizes.numbers,
            turns=_turns(turn, count),
            whole=whole,
            outer=list(self._outer(rule, path, rows, _Records(every, meant, by_way, first))),
            misplaced=self.misplaced,
        )

    def _matrices(
        self, rule: PlacedRule, path: str, by_way: Mapping[str, Sequence[Part | None]], first: int
    ) -> dict[int, Floats]:
        found: dict[int, Floats] = {}
        parts = by_way.get(rule.entry.matrix, ()) if rule.matrix else ()
        for row, part in enumerate(parts):
            if part is None:
                continue
            numbers, wrong, _ = numbers_of_record(rule.matrix, {rule.entry.matrix: part}, 0.0)
            if wrong:
                self.misplaced.append(_misread(path, wrong[0]))
                continue
            matrix = np.array(numbers).reshape(4, 4).T
            found[first + row] = matrix
            if abs(np.linalg.det(matrix[:3, :3])) < 1e-12:
                self.misplaced.append(Misplaced("flat", path, part.where, "the matrix"))
        return found

    def _sizes(
        self, rule: PlacedRule, path: str, by_way: Mapping[str, Sequence[Part | None]], count: int
    ) -> NumberColumns:
        if rule.size is None:
            return number_columns((None, None, None), by_way, count, 1.0)
        first = rule.size[0]
        parts = by_way[first.way] if first is not None else []
        alone = {}
        if isinstance(rule.entry.size, str):
            alone = {row: one for row, part in enumerate(parts) if isinstance(one := number_of(part, None), float)}
            by_way = {**by_way, first.way if first else "": [None if i in alone else p for i, p in enumerate(parts)]}
        found = number_columns(rule.size, by_way, count, 1.0)
        for row, one in alone.items():
            found.numbers[row] = one
            found.there[row] = True
        for row in np.nonzero((found.numbers == 0).any(axis=1))[0].tolist():
            part = parts[row] if parts else None
            if part is not None:
                self.misplaced.append(Misplaced("flat", path, part.where, "its size"))
            found.numbers[row] = np.where(found.numbers[row] == 0, 1.0, found.numbers[row])
        return found

    def _outer(self, rule: PlacedRule, path: str, rows: Sequence[Thing], records: _Records) -> Iterator[int]:
        """For each row of a file the row that it stands by."""
        entry, first = rule.entry, records.first
        if entry.nested:
            around = {record.outer for record in records.meant if record.outer is not None}
            row_at = {record.where: row for row, record in enumerate(records.meant, first) if record.where in around}
            yield from (-1 if record.outer is None else row_at.get(record.outer, -1) for record in records.meant)
        elif entry.holds:
            yield from self._held(path, records, records.by_way[entry.holds])
        elif entry.inside:
            keys = {thing.key: thing.index for thing in rows if thing.key}
            for part in records.by_way[entry.inside]:
                key = _word(part)
                if key and key not in keys and part is not None:
                    self.misplaced.append(Misplaced("outer", path, part.where, key))
                yield keys.get(key, -1) if key else -1
        else:
            yield from (-1 for _ in records.meant)

    def _held(self, path: str, records: _Records, holds: Sequence[Part | None]) -> Iterator[int]:
        row_at = {record.where: row for row, record in enumerate(records.meant, records.first)}
        held: dict[int, int] = {}
        for row, part in enumerate(holds, records.first):
            for index in _indexes(part) if part is not None else ():
                inner = row_at.get(records.every[index].where) if index < len(records.every) else None
                if inner is None and part is not None:
                    self.misplaced.append(Misplaced("outer", path, part.where, str(index)))
                elif inner is not None:
                    held[inner] = row
        yield from (held.get(row, -1) for row in range(records.first, records.first + len(records.meant)))


@dataclass(frozen=True, slots=True)
class _Facts:
    """What the numbers of records come to, by row."""

    placed: Sequence[bool]
    reaches: Sequence[float | None]


def _each(numbers: NumberColumns | None, count: int) -> list[float | None]:
    """The one number of each row."""
    if numbers is None:
        return [None] * count
    there = numbers.there.tolist()
    return [number if there[row] else None for row, number in enumerate(numbers.numbers[:, 0].tolist())]


def _turns(turn: NumberColumns | None, count: int) -> list[tuple[float, ...] | None]:
    if turn is None:
        return [None] * count
    found: list[tuple[float, ...] | None] = [None] * count
    rows = turn.there.nonzero()[0]
    for row, numbers in zip(rows.tolist(), turn.numbers[rows].tolist(), strict=True):
        if row not in turn.wrong:
            found[row] = tuple(numbers)
    return found


def _things(
    rule: PlacedRule,
    path: str,
    records: Sequence[Parts],
    by_way: Mapping[str, Sequence[Part | None]],
    facts: _Facts,
    first: int,
) -> Iterator[Thing]:
    entry, nothing = rule.entry, [""] * len(records)
    keys, classes, groups = (
        [_word(part) for part in by_way[way]] if way else nothing for way in (entry.key, entry.class_, entry.group)
    )
    linked = [(way, parts) for way in entry.links if any(parts := by_way[way])]
    for row, record in enumerate(records):
        yield Thing(
            index=first + row,
            rule=rule,
            path=path,
            where=record.where,
            key=keys[row],
            class_=classes[row],
            group=groups[row],
            links=tuple(_links(linked, row)) if linked else (),
            reach=facts.reaches[row],
            placed=facts.placed[row],
            parts=record.parts,
        )


def _links(linked: Sequence[tuple[str, Sequence[Part | None]]], row: int) -> Iterator[Link]:
    for way, parts in linked:
        if parts[row] is not None:
            yield from (Link(way, to, place) for to, place in several_words_of(parts[row]))


@dataclass(frozen=True, slots=True)
class _Records:
    """The records of one file."""

    every: Sequence[Parts]
    meant: Sequence[Parts]
    by_way: Mapping[str, Sequence[Part | None]]
    first: int
    """The row of the first that is meant."""


def _misread(path: str, one: Misread) -> Misplaced:
    return Misplaced("number" if one.finite else "endless", path, one.where, one.said)


def _word(part: Part | None) -> str:
    if part is None:
        return ""
    return part.value if type(part.value) is str else words_of(part) or ""


def _indexes(part: Part | None) -> Iterator[int]:
    for text, _ in several_words_of(part):
        if (index := natural_number(text)) is not None:
            yield index
