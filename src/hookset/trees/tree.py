"""What everything above reads from: bytes by path, `/` between folders, no leading `/`."""

from __future__ import annotations

import io
from collections.abc import Iterable
from typing import BinaryIO, Protocol

__all__ = ["EmptyTree", "Tree", "spelled_otherwise"]


class Tree(Protocol):
    """A read-only tree of files."""

    def paths(self) -> tuple[str, ...]:
        """Every file, sorted."""

    @property
    def links(self) -> tuple[str, ...]:
        """Links to folders, which are not followed: they may lead in circles, and players do not have them."""

    def has(self, path: str) -> bool:
        """Whether a file of exactly this spelling is there, whatever the file system thinks of letter case."""

    def size(self, path: str) -> int:
        """Bytes."""

    def stamp(self, path: str) -> bytes:
        """What is the same as long as the file is; empty where nothing short of its bytes can tell."""

    def read(self, path: str) -> bytes:
        """The whole file. Raises CouldNotError when it cannot be read."""

    def open(self, path: str) -> BinaryIO:
        """The file as a stream, for what may be too large to hold."""


class EmptyTree:
    """No files: what a pack is laid over when there is no map at hand."""

    links: tuple[str, ...] = ()

    def paths(self) -> tuple[str, ...]:
        return ()

    def has(self, path: str) -> bool:  # noqa: ARG002
        return False

    def size(self, path: str) -> int:
        raise KeyError(path)

    def stamp(self, path: str) -> bytes:
        raise KeyError(path)

    def read(self, path: str) -> bytes:
        raise KeyError(path)

    def open(self, path: str) -> BinaryIO:
        return io.BytesIO(self.read(path))


def spelled_otherwise(path: str, paths: Iterable[str]) -> str | None:
    """The one of `paths` that differs from `path` in letter case only, if there is one."""
    folded = path.casefold()
    return next((other for other in paths if other != path and other.casefold() == folded), None)
