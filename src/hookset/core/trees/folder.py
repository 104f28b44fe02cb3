"""A folder on disk as a tree."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from typing import BinaryIO

from hookset.core.model import CouldNotError

__all__ = ["FolderTree"]


def _nothing(_: str) -> bool:
    return False


@dataclass(frozen=True)
class FolderTree:
    """The files below `root`, listed once. Links to folders are not followed: a loop would never end."""

    root: Path
    skip: Callable[[str], bool] = field(default=_nothing)
    """Paths (of folders too) that are not part of this tree."""

    @cached_property
    def _sizes(self) -> dict[str, int]:
        return {path: size for path, size in sorted(_walk(self.root, "", self.skip)) if not path.endswith("/")}

    @cached_property
    def links(self) -> tuple[str, ...]:
        return tuple(path[:-1] for path, _ in sorted(_walk(self.root, "", self.skip)) if path.endswith("/"))

    def paths(self) -> tuple[str, ...]:
        return tuple(self._sizes)

    def has(self, path: str) -> bool:
        return path in self._sizes

    def size(self, path: str) -> int:
        return self._sizes[path]

    def read(self, path: str) -> bytes:
        try:
            return (self.root / path).read_bytes()
        except OSError as error:
            raise _unreadable(path, error) from error

    def open(self, path: str) -> BinaryIO:
        try:
            return (self.root / path).open("rb")
        except OSError as error:
            raise _unreadable(path, error) from error


def _walk(folder: Path, inner: str, skip: Callable[[str], bool]) -> Iterator[tuple[str, int]]:
    """Files with their sizes; links to folders with a `/` at their end."""
    try:
        entries = list(os.scandir(folder))
    except OSError as error:
        raise _unreadable(inner or str(folder), error) from error
    for entry in entries:
        path = f"{inner}{entry.name}"
        if skip(path):
            continue
        if entry.is_dir(follow_symlinks=False):
            yield from _walk(Path(entry.path), f"{path}/", skip)
        elif entry.is_symlink() and Path(entry.path).is_dir():
            yield f"{path}/", 0
        else:
            yield from _file(path, entry)


def _file(path: str, entry: os.DirEntry[str]) -> Iterator[tuple[str, int]]:
    """A file; or a link that leads nowhere, which is told when somebody reads it. Other things are no part of a map."""
    try:
        if entry.is_file():
            yield path, entry.stat().st_size
        elif entry.is_symlink() and not Path(entry.path).exists():
            yield path, 0
    except OSError:
        yield path, 0


def _unreadable(path: str, error: OSError) -> CouldNotError:
    return CouldNotError(
        f"cannot be read: {error.strerror or error}",
        where=path,
        why="what it defines and refers to is unknown, so nothing about this map can be said for sure",
        remedy="make the file readable, or move it out of the map",
    )
