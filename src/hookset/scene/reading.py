"""From the records of files to the things that stand in a map."""

from __future__ import annotations

import functools
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from hookset.config.layouts import Layout
from hookset.config.layouts.positions import NumberWay, PlacedRule, TrackRule, VolumeRule
from hookset.formats import Unreadable, is_kept
from hookset.formats.document import HasParts
from hookset.formats.parts import Part, PartTable, TextColumn
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
from hookset.scene.rows import FileRecords, Link, ThingRows
from hookset.scene.things import Misplaced, Things
from hookset.scene.words import FewWords, NoWords
from hookset.space.transforms import depths
from hookset.symbols.reading import open_document
from hookset.trees import Tree

__all__ = ["open_with_parts", "things_of"]

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]


def things_of(tree: Tree, layout: Layout) -> Things:
    """Everything that the layout's `[[placed]]` find in a map. Files that cannot be read have none."""
    parts: list[_FileThings] = []
    for rule in layout.positions.placed:
        for path in tree.paths():
            if rule.asked.files.matches(path) and (document := open_with_parts(tree, path, rule)) is not None:
                # To keep what is as large as that would be to keep the document, which nobody does.
                read = _read_file if is_kept(tree.size(path)) else _read_file.__wrapped__
                parts.append(read(_Same(document), _Same(rule), path))
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


class _FileThings(Struct, frozen=True):
    """The things of one file, by one rule."""

    records: FileRecords
    at: Floats
    sizes: Floats
    whole: dict[int, Floats]
    """By the row of the record, as in all that follows."""
    outer: Whole
    """The record of this file that each stands by; -1 for none."""
    misplaced: list[Misplaced]


@functools.lru_cache(maxsize=16)
def _read_file(document: _Same, rule: _Same, path: str) -> _FileThings:
    """One file by one rule. Documents never change: to keep the latest is the same as to read them again."""
    return _Reading(rule.what, path, document.what).things()


def _joined(parts: Sequence[_FileThings]) -> Things:
    rows = ThingRows(tuple(part.records for part in parts))
    outers: list[Whole] = []
    whole: dict[int, Floats] = {}
    first = 0
    for part in parts:
        outers.append(np.where(part.outer >= 0, part.outer + first, -1) if first else part.outer)
        whole |= {first + row: matrix for row, matrix in part.whole.items()}
        first += len(part.records)
    outer = np.concatenate([np.zeros(0, dtype=np.int64), *outers])
    misplaced = [one for part in parts for one in part.misplaced]
    for row in depths(outer)[1] if (outer >= 0).any() else ():
        thing = rows[row]
        misplaced.append(Misplaced("circle", thing.path, thing.where, thing.called))
        outer[row] = -1
    return Things(
        rows=rows,
        local_at=_stacked([part.at for part in parts]),
        local_sizes=_stacked([part.sizes for part in parts]),
        whole=whole,
        outer=outer,
        misplaced=tuple(misplaced),
    )


def _stacked(parts: Sequence[Floats]) -> Floats:
    """One below the other. Of most maps one file has nearly all things: then it is not copied."""
    some = [part for part in parts if len(part)]
    return some[0] if len(some) == 1 else np.vstack([*some, np.zeros((0, 3))])


class _Reading:
    """The records of one file into columns, with whatever in them cannot be."""

    def __init__(self, rule: PlacedRule, path: str, document: HasParts) -> None:
        self.rule = rule
        self.path = path
        self.document = document
        self.misplaced: list[Misplaced] = []
        self.every = document.parts(rule.asked.selector, rule.ways)
        self.meant = _meant(rule, self.every)
        """The rows of those that the rule means, of all that its selector names."""
        self.table = self.every.chosen(self.meant)
        self.by_way = dict(zip(rule.ways, self.table.columns, strict=True))

    def things(self) -> _FileThings:
        """The things of the file."""
        rule, count = self.rule, len(self.table)
        at = number_columns(rule.at, self.by_way, count, 0.0)
        sizes = self._sizes(count)
        turn = number_columns(rule.turn.numbers, self.by_way, count, 0.0) if rule.turn is not None else None
        reach = number_columns((NumberWay(rule.entry.reach),), self.by_way, count, 0.0) if rule.entry.reach else None
        read = [one for one in (at, sizes, turn, reach) if one is not None]
        unread = sorted({row for one in read for row in one.wrong})
        for row in unread:
            for one in read:
                self.misplaced += (_misread(self.path, bad) for bad in one.wrong.get(row, ()))
        whole = self._matrices()
        placed = at.there.copy()
        placed[list(whole)] = True
        placed[unread] = False
        turned = np.zeros(count, dtype=np.bool_)
        if turn is not None:
            turned = turn.there.copy()
            turned[list(turn.wrong)] = False
        records = FileRecords(
            rule=rule,
            path=self.path,
            table=self.table,
            keys=self._words(rule.entry.key),
            classes=self._words_of_many(rule.entry.class_),
            groups=self._words_of_many(rule.entry.group),
            links=self._links(),
            reaches=_reaches(reach),
            placed=placed,
            turns=turn.numbers if turn is not None else np.zeros((count, 0)),
            turned=turned,
        )
        return _FileThings(
            records=records,
            at=at.numbers,
            sizes=sizes.numbers,
            whole=whole,
            outer=self._outer(records),
            misplaced=self.misplaced,
        )

    def _words(self, way: str) -> Sequence[str]:
        """What each record says at a way, as a name."""
        if not way:
            return NoWords(len(self.table))
        return list(self._each_word(way))

    def _each_word(self, way: str) -> Iterator[str]:
        column = self.by_way[way]
        if isinstance(column, TextColumn):
            return (text or "" for text in column.texts)
        return (words_of(part) or "" for part in column)

    def _words_of_many(self, way: str) -> Sequence[str]:
        """The same where most records say what others do: of a million things, a class is one text."""
        return FewWords.of(self._each_word(way)) if way else NoWords(len(self.table))

    def _links(self) -> dict[int, tuple[Link, ...]]:
        found: dict[int, tuple[Link, ...]] = {}
        for way in self.rule.entry.links:
            column = self.by_way[way]
            for row in _said(column):
                links = tuple(Link(way, to, place) for to, place in several_words_of(column[row]))
                if links:
                    found[row] = found.get(row, ()) + links
        return found

    def _matrices(self) -> dict[int, Floats]:
        found: dict[int, Floats] = {}
        rule = self.rule
        column = self.by_way[rule.entry.matrix] if rule.matrix else ()
        for row in _said(column):
            part = column[row]
            numbers, wrong, _ = numbers_of_record(rule.matrix, {rule.entry.matrix: part}, 0.0)
            if wrong or part is None:
                self.misplaced += (_misread(self.path, one) for one in wrong[:1])
                continue
            matrix = np.array(numbers).reshape(4, 4).T
            found[row] = matrix
            if abs(np.linalg.det(matrix[:3, :3])) < 1e-12:
                self.misplaced.append(Misplaced("flat", self.path, part.where, "the matrix"))
        return found

    def _sizes(self, count: int) -> NumberColumns:
        rule = self.rule
        if rule.size is None:
            return number_columns((None, None, None), self.by_way, count, 1.0)
        first = rule.size[0]
        column: Sequence[Part | None] = self.by_way[first.way] if first is not None else ()
        alone: dict[int, float] = {}
        by_way: dict[str, Sequence[Part | None]] = self.by_way
        if isinstance(rule.entry.size, str):
            alone = _single_numbers(column)
            if alone and first is not None:
                by_way = {**by_way, first.way: [None if row in alone else part for row, part in enumerate(column)]}
        found = number_columns(rule.size, by_way, count, 1.0)
        if alone:
            numbers, there = found.numbers.copy(), found.there.copy()
            rows = list(alone)
            numbers[rows] = np.array(list(alone.values()))[:, None]
            there[rows] = True
            found = NumberColumns(numbers, there, found.wrong)
        flat = np.nonzero((found.numbers == 0).any(axis=1))[0].tolist()
        for row in flat:
            part = column[row] if column else None
            if part is not None:
                self.misplaced.append(Misplaced("flat", self.path, part.where, "its size"))
        if flat:
            found = NumberColumns(np.where(found.numbers == 0, 1.0, found.numbers), found.there, found.wrong)
        return found

    def _outer(self, records: FileRecords) -> Whole:
        """For each record the one that it stands by."""
        entry = self.rule.entry
        if entry.nested:
            pairs = self._nested()
        elif entry.holds:
            pairs = self._held(self.by_way[entry.holds])
        elif entry.inside:
            pairs = self._inside(self.by_way[entry.inside], records.keys)
        else:
            pairs = iter(())
        outer = np.full(len(records), -1, dtype=np.int64)
        for row, around in pairs:
            outer[row] = around
        return outer

    def _nested(self) -> Iterator[tuple[int, int]]:
        """Records in records, each with the one around it."""
        around = self.document.around(self.rule.asked.selector)
        if all(one is None for one in around):
            return
        row_at = {where: row for row, where in enumerate(self.table.wheres)}
        outers = ((row, around[every]) for row, every in enumerate(self.meant))
        yield from ((row, row_at[outer]) for row, outer in outers if outer is not None and outer in row_at)

    def _inside(self, inside: Sequence[Part | None], of_records: Sequence[str]) -> Iterator[tuple[int, int]]:
        """Records that name another one by its key."""
        keys = {key: row for row, key in enumerate(of_records) if key}
        for row in _said(inside):
            part = inside[row]
            key = words_of(part) or ""
            if key in keys:
                yield row, keys[key]
            elif key and part is not None:
                self.misplaced.append(Misplaced("outer", self.path, part.where, key))

    def _held(self, holds: Sequence[Part | None]) -> Iterator[tuple[int, int]]:
        """Records that another one lists."""
        row_at = {every: row for row, every in enumerate(self.meant)}
        for row in _said(holds):
            part = holds[row]
            for index in _indexes(part):
                inner = row_at.get(index)
                if inner is not None:
                    yield inner, row
                elif part is not None:
                    self.misplaced.append(Misplaced("outer", self.path, part.where, str(index)))


def _meant(rule: PlacedRule, every: PartTable) -> Sequence[int]:
    """The rows that the conditions of a rule let through."""
    if not rule.when:
        return range(len(every))
    columns = [every.columns[rule.ways.index(one.way)] for one in rule.when]
    return [
        row
        for row in range(len(every))
        if all(one.holds(words_of(column[row])) for one, column in zip(rule.when, columns, strict=True))
    ]


def _reaches(reach: NumberColumns | None) -> dict[int, float]:
    """The one number of each row that has it."""
    rows = reach.there.nonzero()[0].tolist() if reach is not None else []
    return {row: float(reach.numbers[row, 0]) for row in rows} if reach is not None else {}


def _said(column: Sequence[Part | None]) -> list[int]:
    """The rows that say anything."""
    if isinstance(column, TextColumn):
        return column.rows()
    return [row for row, one in enumerate(column) if one is not None]


def _single_numbers(column: Sequence[Part | None]) -> dict[int, float]:
    """The rows of values that are one number, with it. Of the same text it is found out once: most sizes are alike."""
    known: dict[str, float | None] = {}
    found: dict[int, float] = {}
    for row in _said(column):
        text = column.texts[row] if isinstance(column, TextColumn) else None
        if text is not None and text in known:
            single = known[text]
        else:
            read = number_of(column[row], None)
            single = read if isinstance(read, float) else None
            if text is not None:
                known[text] = single
        if single is not None:
            found[row] = single
    return found


def _misread(path: str, one: Misread) -> Misplaced:
    return Misplaced("number" if one.finite else "endless", path, one.where, one.said)


def _indexes(part: Part | None) -> Iterator[int]:
    for text, _ in several_words_of(part):
        if (index := natural_number(text)) is not None:
            yield index
