"""A folder on disk as a tree."""

from __future__ import annotations

import os
import stat
import struct
import time
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from operator import itemgetter
from pathlib import Path, PurePosixPath
from typing import BinaryIO

from hookset.model import CouldNotError

__all__ = ["FolderTree"]


_STAMP = struct.Struct("<QQqq").pack
_SETTLES = 2_000_000_000
"""Nanoseconds. File systems count time in steps of up to two seconds."""


_NO_CHANGE_TIME = os.name == "nt"
"""Whether the system keeps no time of change."""

_Listed = tuple[dict[str, os.stat_result | None], tuple[str, ...], int]
"""(files, links to folders, the time in nanoseconds before which files were as they are)"""


def _nothing(_: str) -> bool:
    return False


@dataclass(frozen=True)
class FolderTree:
    """The files below `root`, listed once. Links to folders are not followed: a loop would never end."""

    root: Path
    skip: Callable[[str], bool] = field(default=_nothing)
    """Paths (of folders too) that are not part of this tree."""
    known: _Listed | None = field(default=None, compare=False, repr=False)
    """What there is, if that is known."""

    @cached_property
    def _listed(self) -> _Listed:
        if self.known is not None:
            return self.known
        settled = time.time_ns() - _SETTLES
        files, links = _walked(self.root, self.skip)
        return dict(sorted(files.items(), key=itemgetter(0))), tuple(sorted(links)), settled

    @property
    def _files(self) -> dict[str, os.stat_result | None]:
        return self._listed[0]

    @property
    def links(self) -> tuple[str, ...]:
        return self._listed[1]

    def paths(self) -> tuple[str, ...]:
        return tuple(self._files)

    def has(self, path: str) -> bool:
        return path in self._files

    def size(self, path: str) -> int:
        state = self._files[path]
        return state.st_size if state is not None else 0

    @property
    def total(self) -> int:
        """The bytes of all files."""
        return sum(map(self.size, self.paths()))

    def stamp(self, path: str) -> bytes:
        """Size, number and times. A file that was written just now may be written again within the same tick of its
        clock; and where the system keeps no time of change, one time that can be set at will is not enough."""
        files, _, settled = self._listed
        state = files[path]
        if state is None or _NO_CHANGE_TIME:
            return b""
        written, changed = state.st_mtime_ns, state.st_ctime_ns
        return b"" if written > settled or changed > settled else _STAMP(state.st_size, state.st_ino, written, changed)

    def again(self, paths: Iterable[str]) -> FolderTree | None:
        """The same folder listed once more, where only some `paths` may have changed; None where one of them is, or
        was, no plain file: then all of it has to be listed."""
        settled = time.time_ns() - _SETTLES
        files, links, _ = self._listed
        files = dict(files)
        for path in paths:
            try:
                state = (self.root / path).lstat()
            except (FileNotFoundError, NotADirectoryError):
                if files.pop(path, None) is None:
                    return None
                continue
            if not stat.S_ISREG(state.st_mode) or self.skip(path):
                return None
            if path not in files and any(self.skip(above.as_posix()) for above in PurePosixPath(path).parents):
                return None
            files[path] = state
        if len(files) != len(self._files) or files.keys() != self._files.keys():
            files = dict(sorted(files.items()))
        return FolderTree(self.root, self.skip, (files, links, settled))

    def differs_in(self, earlier: FolderTree) -> frozenset[str]:
        """The files that are not as they were when the same folder was listed `earlier`, as far as sizes, numbers and
        times show."""
        before, after = earlier._files, self._files
        # What was taken over when it was listed once more is the same without a look at it.
        others = [path for path in before.keys() | after.keys() if before.get(path, 0) is not after.get(path, 1)]
        return frozenset(path for path in others if _state(before, path) != _state(after, path))

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


def _state(files: Mapping[str, os.stat_result | None], path: str) -> tuple[int, ...]:
    """What tells a file from what it was; nothing for one that is not there."""
    state = files.get(path)
    if state is None:
        return (int(path in files),)
    return state.st_size, state.st_ino, state.st_mtime_ns, state.st_ctime_ns, state.st_mode


def _walked(top: Path, skip: Callable[[str], bool]) -> tuple[dict[str, os.stat_result | None], list[str]]:
    """Files with their state, and links to folders."""
    files: dict[str, os.stat_result | None] = {}
    links: list[str] = []
    waiting: list[tuple[str, str]] = [(str(top), "")]
    while waiting:
        folder, inner = waiting.pop()
        try:
            entries = list(os.scandir(folder))
        except OSError as error:
            raise _unreadable(inner or folder, error) from error
        for entry in entries:
            path = inner + entry.name
            if skip(path):
                continue
            if entry.is_file(follow_symlinks=False):
                # Nearly all are: it is asked first.
                try:
                    files[path] = entry.stat(follow_symlinks=False)
                except OSError:
                    files[path] = None
            elif entry.is_dir(follow_symlinks=False):
                waiting.append((entry.path, f"{path}/"))
            elif entry.is_symlink() and Path(entry.path).is_dir():
                links.append(path)
            else:
                files.update(_other(path, entry))
    return files, links


def _other(path: str, entry: os.DirEntry[str]) -> dict[str, os.stat_result | None]:
    """A link to a file; or one that leads nowhere, which is told when somebody reads it. Other things are no part of a
    map."""
    try:
        if entry.is_file():
            return {path: entry.stat()}
        return {path: None} if entry.is_symlink() and not Path(entry.path).exists() else {}
    except OSError:
        return {path: None}


def _unreadable(path: str, error: OSError) -> CouldNotError:
    return CouldNotError(
        "unreadable-file",
        f"cannot be read: {error.strerror or error}",
        where=path,
        why="what it defines and refers to is unknown, so nothing about this map can be said for sure",
        remedy="make the file readable, or move it out of the map",
    )
