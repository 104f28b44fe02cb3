"""A tree below a folder that it does not have itself: an archive that the game looks for under another path."""

from __future__ import annotations

from typing import BinaryIO

from msgspec import Struct

from hookset.trees.tree import Tree

__all__ = ["PrefixedTree"]


class PrefixedTree(Struct, frozen=True):
    """`base` with `prefix/` before each path."""

    base: Tree
    prefix: str

    def paths(self) -> tuple[str, ...]:
        return tuple(f"{self.prefix}/{path}" for path in self.base.paths())

    @property
    def links(self) -> tuple[str, ...]:
        return tuple(f"{self.prefix}/{path}" for path in self.base.links)

    def has(self, path: str) -> bool:
        return path.startswith(f"{self.prefix}/") and self.base.has(self._inner(path))

    def size(self, path: str) -> int:
        return self.base.size(self._inner(path))

    def stamp(self, path: str) -> bytes:
        return self.base.stamp(self._inner(path))

    def read(self, path: str) -> bytes:
        return self.base.read(self._inner(path))

    def open(self, path: str) -> BinaryIO:
        return self.base.open(self._inner(path))

    def _inner(self, path: str) -> str:
        """Raises KeyError for a path that is not below the folder."""
        if not path.startswith(f"{self.prefix}/"):
            raise KeyError(path)
        return path[len(self.prefix) + 1 :]
