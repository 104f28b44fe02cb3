"""The rules of a layout that say where things stand, ready for use."""

from __future__ import annotations

import fnmatch
import re
from collections.abc import Iterator, Sequence
from collections.abc import Set as AbstractSet
from functools import cached_property
from posixpath import dirname
from typing import Literal

from msgspec import Struct, field

from hookset.config.layouts.placing import (
    CopiesEntry,
    PlacedEntry,
    SpaceEntry,
    StandEntry,
    TrackEntry,
    TurnEntry,
    VolumeEntry,
)
from hookset.config.layouts.rules import ValueQuery
from hookset.config.layouts.template import Template
from hookset.trees import joined

__all__ = [
    "Axis",
    "NumberWay",
    "PartCondition",
    "PlacedRule",
    "Point",
    "Positions",
    "StandRule",
    "TrackRule",
    "TurnRule",
    "VolumeRule",
    "fits",
    "fitting",
    "is_one_name",
]

Axis = Literal["x", "y", "z"]


_WILD = re.compile(r"[*?\[]")


def is_one_name(pattern: str) -> bool:
    """Whether it means itself only."""
    return _WILD.search(pattern) is None


def fits(word: str, patterns: str | Sequence[str]) -> bool:
    """Whether a word is what a pattern, or one of several, means."""
    for one in (patterns,) if isinstance(patterns, str) else patterns:
        if one == word or (not is_one_name(one) and fnmatch.fnmatchcase(word, one)):
            return True
    return False


def fitting(words: AbstractSet[str], pattern: str) -> AbstractSet[str]:
    """Those of many words that a pattern means, as `fits` says of each."""
    return {word for word in words if fits(word, pattern)} if not is_one_name(pattern) else words & {pattern}


class NumberWay(Struct, frozen=True):
    """A number of a record."""

    way: str
    nth: int | None = None
    """Which of several in one value, from 0."""


Point = tuple[NumberWay | None, NumberWay | None, NumberWay | None]
"""Numbers for x, y and z; None for one that is always 0 (of sizes: 1)."""


class TurnRule(Struct, frozen=True):
    """How a turn is written."""

    entry: TurnEntry
    numbers: tuple[NumberWay, ...]


class PartCondition(Struct, frozen=True):
    """What a record must say to be meant."""

    way: str
    words: frozenset[str] | None = None
    """One of these; None: whether there is any."""
    there: bool = True

    def holds(self, text: str | None) -> bool:
        """Whether it does, by what the record says there; None where it says nothing."""
        return (text is not None) is self.there if self.words is None else text in self.words


class PlacedRule(Struct, frozen=True, dict=True):
    """Things that stand somewhere."""

    entry: PlacedEntry
    asked: ValueQuery
    at: Point
    size: Point | None
    turn: TurnRule | None
    matrix: tuple[NumberWay, ...]
    when: tuple[PartCondition, ...]
    prefab_file: Template
    folded: bool
    """Whether classes that differ in letter case only are the same."""

    @property
    def new(self) -> bool:
        """Whether it is known how a further record is written that stands for a file."""
        return bool(self.entry.text or self.entry.record)

    def is_of(self, class_: str, patterns: str | Sequence[str]) -> bool:
        """Whether a class of these things is what a pattern means."""
        if not self.folded:
            return fits(class_, patterns)
        listed = (patterns,) if isinstance(patterns, str) else patterns
        return fits(class_.casefold(), [one.casefold() for one in listed])

    def prefab_path(self, said: str, file: str) -> str:
        """The path of the file that a record of a file names; empty for one outside of the map."""
        values = {"value": said.replace("\\", "/"), "folder": dirname(file)}
        return joined("", self.prefab_file.of(values).removeprefix("/")) or ""

    @property
    def copies(self) -> CopiesEntry:
        """How names of further copies are made."""
        return self.entry.copies

    @cached_property
    def ways(self) -> tuple[str, ...]:
        """The ways to all that a record says, each once."""
        entry = self.entry
        single = (entry.key, entry.class_, entry.group, entry.reach, entry.holds, entry.inside, entry.prefab)
        named = (*single, *entry.links, *entry.ties, *entry.numbered)
        turn = self.turn.numbers if self.turn is not None else ()
        numbers = [one.way for one in (*self.at, *(self.size or ()), *turn, *self.matrix) if one is not None]
        return tuple(dict.fromkeys([*filter(None, named), *numbers, *(one.way for one in self.when)]))


class VolumeRule(Struct, frozen=True, dict=True):
    """Spaces of the map that mean something."""

    entry: VolumeEntry
    asked: ValueQuery
    at: Point | None
    size: Point | None
    half: Point | None
    low: Point | None
    high: Point | None
    turn: TurnRule | None
    when: tuple[PartCondition, ...]

    @cached_property
    def ways(self) -> tuple[str, ...]:
        """The ways to all that a record says, each once."""
        entry = self.entry
        points = (self.at, self.size, self.half, self.low, self.high)
        numbers = [one.way for point in points if point is not None for one in point if one is not None]
        numbers += (one.way for one in (self.turn.numbers if self.turn is not None else ()))
        texts = (
            entry.key,
            entry.points,
            *(one for one in (entry.radius, entry.height, entry.foot) if isinstance(one, str)),
        )
        return tuple(dict.fromkeys([*filter(None, texts), *numbers, *(one.way for one in self.when)]))


class TrackRule(Struct, frozen=True, dict=True):
    """Lines along the ground."""

    entry: TrackEntry
    asked: ValueQuery
    when: tuple[PartCondition, ...]

    @cached_property
    def ways(self) -> tuple[str, ...]:
        """The ways to all that a record says, each once."""
        width = self.entry.width if isinstance(self.entry.width, str) else ""
        named = filter(None, (self.entry.key, self.entry.points, width))
        return tuple(dict.fromkeys([*named, *(one.way for one in self.when)]))


class StandRule(Struct, frozen=True):
    """How things must stand."""

    entry: StandEntry

    def means(self, rule: PlacedRule, class_: str) -> bool:
        """Whether it is about a thing of a `[[placed]]` and a class."""
        return self.entry.of in ("", rule.entry.name) and rule.is_of(class_, self.entry.class_)


class Positions(Struct, frozen=True):
    """All that a layout says of where things stand."""

    space: SpaceEntry = field(default_factory=SpaceEntry)
    placed: tuple[PlacedRule, ...] = ()
    volumes: tuple[VolumeRule, ...] = ()
    tracks: tuple[TrackRule, ...] = ()
    stands: tuple[StandRule, ...] = ()

    def named(self, name: str) -> PlacedRule | None:
        """The `[[placed]]` of a name."""
        return next((rule for rule in self.placed if rule.entry.name == name), None)

    @property
    def asked(self) -> Iterator[tuple[str, ValueQuery]]:
        """Whatever is asked of files, by the title of what asks."""
        rules: tuple[PlacedRule | VolumeRule | TrackRule, ...] = (*self.placed, *self.volumes, *self.tracks)
        yield from ((rule.entry.title, rule.asked) for rule in rules)
