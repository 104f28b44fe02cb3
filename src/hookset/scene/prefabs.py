"""Prefabs: files with things of their own, which stand wherever a record names the file, and may name others."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from posixpath import dirname
from typing import Any

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from hookset.config.layouts.positions import PlacedRule, Positions, TrackRule, VolumeRule
from hookset.formats import Body
from hookset.model import Where
from hookset.scene.numbers import words_of
from hookset.scene.rows import InPrefab, Thing, ThingRows
from hookset.scene.things import Misplaced, Things
from hookset.scene.values import CannotSay
from hookset.trees import Glob, Tree, joined

__all__ = ["Instances", "instances_of", "prefab_body", "prefab_of", "prefab_word", "with_prefabs"]

_MARK = "\0"
_NOT_THERE = ("prefab", "contains", "crowded")
"""What keeps a record from standing for its file."""
_MOST = 200_000
"""Things that stand in prefabs, in all: ten files of which each names the next one ten times would be without end."""


class Instance(Struct, frozen=True):
    """A thing that stands for a file."""

    within: str
    """What it is called."""
    matrix: NDArray[np.float64]
    """The (4, 4) of it in the space of the map."""

    def name(self, key: str) -> str:
        """What something in the file is called there."""
        return f"{key} of {self.within}" if key else self.within


Instances = Mapping[str, Sequence[Instance]]
"""By the path of a prefab: what stands for it."""


def instances_of(things: Things) -> Instances:
    """What stands for each prefab in which anything could stand."""
    found: dict[str, list[Instance]] = {}
    wrong = {(one.path, one.where) for one in things.misplaced if one.what in _NOT_THERE}
    for thing in things.rows:
        path = prefab_of(thing)
        if path and (thing.path, _place(thing)) not in wrong:
            within = thing.called if thing.key or thing.class_ else path
            found.setdefault(path, []).append(Instance(within, np.asarray(things.world[thing.index])))
    return found


def _place(thing: Thing) -> Where:
    part = thing.part(thing.rule.entry.prefab)
    return thing.where if part is None else part.where


def prefab_of(thing: Thing) -> str:
    """The path of the file for which a thing stands; empty for none."""
    way = thing.rule.entry.prefab
    said = words_of(thing.part(way)) if way else None
    if not said:
        return ""
    return thing.rule.prefab_path(said, thing.path)


def prefab_word(rule: PlacedRule, path: str, file: str) -> str:
    """What a record of a file says to stand for the file of that path. Raises CannotSay."""
    before, _, behind = rule.prefab_file.of({"value": _MARK, "folder": dirname(file)}).partition(_MARK)
    stem = path.removesuffix(behind)
    starts = joined("", before.removeprefix("/") + "x") or "x"
    said = stem.removeprefix(starts[:-1])
    if rule.prefab_path(said, file) != path:
        raise CannotSay(f"the layout has no words for {path}: such records name {rule.entry.prefab_file}")
    return said


def prefab_body(rule: PlacedRule, word: str) -> Body:
    """A record that stands for a file, as the layout has it."""
    if rule.entry.text:
        return Body(text=rule.entry.text.replace("{prefab}", word))
    return Body(record={key: _named(value, word) for key, value in rule.entry.record.items()})


def _named(value: Any, word: str) -> Any:
    if isinstance(value, Mapping):
        return {key: _named(inner, word) for key, inner in value.items()}
    if isinstance(value, list | tuple):
        return [_named(inner, word) for inner in value]
    return value.replace("{prefab}", word) if isinstance(value, str) else value


def with_prefabs(things: Things, tree: Tree, positions: Positions) -> Things:
    """The things of a map, with those of each prefab where a record names its file, and nowhere else: the map's own
    first, in their order, then what stands in them."""
    own = [thing.index for thing in things.rows if not thing.rule.entry.in_prefabs]
    inner: dict[str, list[int]] = {}
    for thing in things.rows:
        if thing.rule.entry.in_prefabs:
            inner.setdefault(thing.path, []).append(thing.index)
    rules: tuple[PlacedRule | VolumeRule | TrackRule, ...] = (*positions.placed, *positions.volumes, *positions.tracks)
    files = tuple(rule.asked.files for rule in rules if rule.entry.in_prefabs)
    expanding = _Expanding(things, tree, inner, files, len(own))
    new = {row: index for index, row in enumerate(own)}
    for row in own:
        expanding.add(row, new.get(int(things.outer[row]), -1))
    for row in own:
        expanding.expand(new[row], (things.rows[row].path,))
    return expanding.result()


@dataclass
class _Expanding:
    """The rows that there are so far: which record each is of, what it stands by, and in which prefab."""

    things: Things
    tree: Tree
    inner: Mapping[str, Sequence[int]]
    files: Sequence[Glob]
    """In which the layout looks for what stands in prefabs."""
    own: int
    """How many stand in the map by themselves."""
    source: list[int] = field(default_factory=list)
    outer: list[int] = field(default_factory=list)
    within: list[str] = field(default_factory=list)
    prefab: list[int] = field(default_factory=list)
    misplaced: dict[tuple[str, object, str], Misplaced] = field(default_factory=dict)
    known: dict[int, tuple[Thing, str]] = field(default_factory=dict)
    """By the row of a record: itself, and the file that it stands for."""

    def add(self, row: int, outer: int, within: str = "", prefab: int = -1) -> int:
        self.source.append(row)
        self.outer.append(outer)
        self.within.append(within)
        self.prefab.append(prefab)
        return len(self.source) - 1

    def expand(self, first: int, chain: tuple[str, ...]) -> None:
        """All that stands in the prefab of a row, and in theirs; `chain` are the files around it."""
        waiting = [(first, chain)]
        while waiting:
            row, files = waiting.pop()
            thing, path = self.record(row)
            if not path:
                if thing.rule.entry.prefab and (part := thing.part(thing.rule.entry.prefab)) is not None:
                    self.tell("prefab", thing, words_of(part) or "")
            elif path in files:
                self.tell("contains", thing, path)
            elif not self.tree.has(path):
                self.tell("prefab", thing, path)
            elif len(self.source) - self.own + len(self.inner.get(path, ())) > _MOST:
                self.tell("crowded", thing, path)
            elif not any(files.matches(path) for files in self.files):
                self.tell("unread", thing, path)
            else:
                waiting += [(one, (*files, path)) for one in self.instance(row, path)]

    def instance(self, row: int, path: str) -> Iterator[int]:
        """One more of each thing of a prefab, by the row that stands for it."""
        name, _ = self.record(row)
        within = name.key or name.class_ or path
        within = f"{within} of {self.within[row]}" if self.within[row] else within
        first = len(self.source)
        rows = self.inner.get(path, ())
        new = {one: index for index, one in enumerate(rows, first)}
        for one in rows:
            yield self.add(one, new.get(int(self.things.outer[one]), row), within, row)

    def record(self, row: int) -> tuple[Thing, str]:
        """The record that a row is of, and the path of the file that it stands for. Of a record there may be thousands
        of rows."""
        source = self.source[row]
        if source not in self.known:
            thing = self.things.rows[source]
            self.known[source] = thing, prefab_of(thing)
        return self.known[source]

    def tell(self, what: str, thing: Thing, said: str) -> None:
        where = _place(thing)
        self.misplaced.setdefault((thing.path, where, what), Misplaced(what, thing.path, where, said))

    def result(self) -> Things:
        things, source = self.things, np.array(self.source, dtype=np.int64)
        inner = zip(self.source[self.own :], self.within[self.own :], self.prefab[self.own :], strict=True)
        return replace(
            things,
            rows=ThingRows(things.rows.files, source[: self.own], tuple(InPrefab(*one) for one in inner)),
            local_at=things.local_at[source],
            local_sizes=things.local_sizes[source],
            whole={index: things.whole[row] for index, row in enumerate(self.source) if row in things.whole},
            outer=np.array(self.outer, dtype=np.int64).reshape(len(source)),
            misplaced=(*things.misplaced, *self.misplaced.values()),
        )
