"""What stands at a place: texts in file order, with where they stand. There may be millions."""

from __future__ import annotations

import itertools
from array import array
from bisect import bisect_right
from collections.abc import Iterator, MutableSequence, Sequence
from dataclasses import dataclass, field
from typing import Any, overload

from hookset.model import Where

__all__ = ["Paths", "Run", "Said", "joined"]

Run = tuple[str, int, int]
"""Texts that one file says one after the other: its path, the first, and the one behind the last."""


@dataclass(slots=True)
class Said:
    """Texts in file order, with where they stand."""

    texts: list[str] = field(default_factory=list)
    wheres: MutableSequence[Any] = field(default_factory=lambda: array("q"))
    """An array of numbers where all of them are some."""
    _files: list[str] = field(default_factory=list)
    """The file of each run."""
    _firsts: list[int] = field(default_factory=list)

    def add(self, text: str, path: str, where: Where) -> None:
        """One more."""
        if not self._files or path is not self._files[-1]:
            self._begin(path)
        self.texts.append(text)
        try:
            self.wheres.append(where)
        except TypeError:
            self.wheres = [*self.wheres, where]

    def extend(self, path: str, texts: Sequence[str], wheres: Sequence[Any]) -> None:
        """Several more of one file."""
        if texts:
            self._begin(path)
            self.texts += texts
            try:
                self.wheres += wheres if isinstance(self.wheres, list) else array("q", wheres)
            except TypeError:
                self.wheres = [*self.wheres, *wheres]

    def _begin(self, path: str) -> None:
        if not self._files or (path is not self._files[-1] and path != self._files[-1]):
            self._files.append(path)
            self._firsts.append(len(self.texts))

    @property
    def paths(self) -> Paths:
        """The file of each text."""
        return Paths(self._files, self._firsts, len(self.texts))

    @property
    def runs(self) -> Iterator[Run]:
        """Which texts each file says, in order."""
        return zip(self._files, self._firsts, [*self._firsts[1:], len(self.texts)], strict=False)


class Paths(Sequence[str]):
    """The path of the file of each text."""

    __slots__ = ("_count", "_files", "_firsts")

    def __init__(self, files: Sequence[str], firsts: Sequence[int], count: int) -> None:
        self._files, self._firsts, self._count = files, firsts, count

    def __len__(self) -> int:
        return self._count

    def __iter__(self) -> Iterator[str]:
        ends = itertools.chain(self._firsts[1:], (self._count,))
        runs = zip(self._files, self._firsts, ends, strict=False)
        return itertools.chain.from_iterable(itertools.repeat(file, end - first) for file, first, end in runs)

    @overload
    def __getitem__(self, index: int) -> str: ...
    @overload
    def __getitem__(self, index: slice) -> list[str]: ...
    def __getitem__(self, index: int | slice) -> str | list[str]:
        if isinstance(index, slice):
            return [self[one] for one in range(*index.indices(self._count))]
        at = range(self._count)[index]
        return self._files[bisect_right(self._firsts, at) - 1]

    @property
    def different(self) -> tuple[str, ...]:
        """Each once, in the order of the first time."""
        return tuple(dict.fromkeys(self._files))


def joined(parts: Sequence[Said]) -> Said:
    """The texts of several places as those of one."""
    if len(parts) == 1:
        return parts[0]
    whole = Said()
    for part in parts:
        for path, start, end in part.runs:
            whole.extend(path, part.texts[start:end], part.wheres[start:end])
    return whole
