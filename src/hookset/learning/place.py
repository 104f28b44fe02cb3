"""A place where texts stand in files of one sort: what its format is asked with, and what it says there."""

from __future__ import annotations

import posixpath
from collections import Counter
from collections.abc import Collection, Iterator, Mapping, Sequence
from functools import cached_property
from typing import Any, Literal

from msgspec import Struct

from hookset.learning.material import Sort
from hookset.learning.said import Said
from hookset.model import Where

__all__ = ["Form", "Place", "sample_of", "standing_at", "stands"]

_MOST_ASKED = 2_000
"""Texts of a place that say whether most are what their files are called."""
_SAMPLE = 8
"""Texts of a place that stand for it where it is compared with another."""
_OWNERS = 4
"""Folders in which it is looked at what a text means there."""
Form = Literal["value", "key", "name", "function", "call", "module", "thing", "folder"]
"""What texts are there: values; the keys of a table; what blocks, sections or columns of names are called; functions;
what is given to a call; scripts, by the dotted way to their file; files in folders that are called like them, and
folders with files that are called alike."""


class Place(Struct, frozen=True, eq=False, dict=True):
    """A place, generalised over all files of a sort."""

    sort: Sort
    asked: Mapping[str, Any]
    form: Form
    word: str
    """The word that stands nearest: a key, an attribute, a call."""
    around: str
    """What it stands in: a record, an element, a block."""
    said: Said
    when: Mapping[str, str] = {}
    """What stands beside it everywhere."""
    general: Place | None = None
    """The place of which this one is a part: that of records of all sorts."""
    used: bool = False
    """Whether what stands there is surely a use and defines nothing."""
    parts: tuple[Place, ...] = ()
    """Places that this one sees all at once, if they mean the same: the same key at any depth."""
    segment: int = 0
    """Which of several names in each text it is, from one; 0 for whole texts."""

    @cached_property
    def owners(self) -> Mapping[str, Sequence[str]]:
        """A few of the files that say each text, in different folders, in the same order."""
        folder_of = {path: posixpath.dirname(path) for path in self.said.paths.different}
        found: dict[str, list[str]] = {}
        folders: dict[str, set[str]] = {}
        for path, start, end in self.said.runs:
            folder = folder_of[path]
            # Of what a file says again and again, once is enough.
            for text in dict.fromkeys(self.said.texts[start:end]):
                mine = found.get(text)
                if mine is None:
                    found[text], folders[text] = [path], {folder}
                elif len(mine) < _OWNERS and folder not in folders[text]:
                    mine.append(path)
                    folders[text].add(folder)
        return found

    @cached_property
    def counts(self) -> Mapping[str, int]:
        """How often each text is there, in the order of the first time."""
        return Counter(self.said.texts)

    @cached_property
    def folders(self) -> frozenset[str]:
        """Where its files lie."""
        return frozenset(map(posixpath.dirname, self.said.paths.different))

    @cached_property
    def by_path(self) -> Mapping[str, Sequence[tuple[int, int]]]:
        """Which texts each file says, in as many rows as there are."""
        found: dict[str, list[tuple[int, int]]] = {}
        for path, start, end in self.said.runs:
            found.setdefault(path, []).append((start, end))
        return found

    @cached_property
    def says_its_own(self) -> bool:
        """Whether most texts are what their own file is called, or the folder that it lies in."""
        step = len(self.said.texts) // _MOST_ASKED + 1
        said = zip(self.said.texts[::step], self.said.paths[::step], strict=True)
        own = [text in _called(path) for text, path in said]
        return 2 * sum(own) > len(own)


def _called(path: str) -> tuple[str, str]:
    """What a file is called without its ending, and its folder."""
    folder, name = posixpath.split(path)
    return posixpath.splitext(name)[0], posixpath.basename(folder)


def sample_of(place: Place) -> tuple[tuple[str, Where], ...]:
    """A few of the texts at a place, by where they stand."""
    said = place.said
    step = max(1, len(said.texts) // _SAMPLE)
    return tuple(zip(said.paths[::step], said.wheres[::step], strict=True))


def standing_at(place: Place, wanted: Collection[tuple[str, Where]]) -> frozenset[tuple[str, Where]]:
    """Those of some texts, by where they stand, that stand at a place."""
    wheres = place.said.wheres
    return frozenset(
        (path, where)
        for path, where in wanted
        if any(where in wheres[start:end] for start, end in place.by_path.get(path, ()))
    )


def stands(place: Place) -> Iterator[tuple[str, Where]]:
    """Where each text of a place stands: path and place."""
    yield from zip(place.said.paths, place.said.wheres, strict=True)
