"""Archives whose files are slices of one stream: plain tar as it lies there, and what is packed as a whole once it is
unpacked into one nameless temporary file. No name of a member is ever used on the disk."""

from __future__ import annotations

import io
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any, BinaryIO

from msgspec import Struct
from msgspec.structs import replace

from hookset.trees.archives.source import Source

__all__ = ["SlicedTree"]


class SlicedTree(Struct, frozen=True):
    """The files of an archive that was found safe. Paths are below `top`."""

    file: Path
    source: Source
    slices: dict[str, tuple[int, int]]
    """Where each begins, and how many bytes it has."""
    top: str = ""

    def paths(self) -> tuple[str, ...]:
        return tuple(self.slices)

    @property
    def links(self) -> tuple[str, ...]:
        return ()

    def has(self, path: str) -> bool:
        return path in self.slices

    def size(self, path: str) -> int:
        return self.slices[path][1]

    def stamp(self, path: str) -> bytes:  # noqa: ARG002
        return b""

    def read(self, path: str) -> bytes:
        with self.open(path) as stream:
            return stream.read()

    def open(self, path: str) -> BinaryIO:
        return io.BufferedReader(_Reader(self.source, *self.slices[path]))

    def below(self, top: str) -> SlicedTree:
        """The same archive seen from one of its folders; `top` ends in `/`."""
        inside = {path[len(top) :]: span for path, span in self.slices.items() if path.startswith(top)}
        return replace(self, slices=inside, top=self.top + top)

    def without(self, skip: Callable[[str], bool]) -> SlicedTree:
        return replace(self, slices={path: span for path, span in self.slices.items() if not skip(path)})


class _Reader(io.RawIOBase):
    """A part of a file as a file of its own. Any number of them can be read at once."""

    def __init__(self, source: Source, start: int, size: int) -> None:
        self._source = source
        self._start = start
        self._size = size
        self._position = 0

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def seek(self, offset: int, whence: int = os.SEEK_SET) -> int:
        base = {os.SEEK_SET: 0, os.SEEK_CUR: self._position, os.SEEK_END: self._size}[whence]
        self._position = max(0, base + offset)
        return self._position

    def tell(self) -> int:
        return self._position

    def readinto(self, buffer: Any) -> int:
        wanted = min(len(buffer), max(0, self._size - self._position))
        with self._source.lock:
            self._source.stream.seek(self._start + self._position)
            data = self._source.stream.read(wanted)
        buffer[: len(data)] = data
        self._position += len(data)
        return len(data)
