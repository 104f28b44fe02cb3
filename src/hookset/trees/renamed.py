"""Files of a tree under other paths."""

from __future__ import annotations

from collections.abc import Mapping
from typing import BinaryIO

from msgspec import Struct

from hookset.trees.tree import Tree

__all__ = ["RenamedTree"]


class RenamedTree(Struct, frozen=True):
    """Some files of `base`, by the paths that they have here."""

    base: Tree
    was: Mapping[str, str]
    """By the path here: the path there."""

    def paths(self) -> tuple[str, ...]:
        return tuple(self.was)

    @property
    def links(self) -> tuple[str, ...]:
        return ()

    def has(self, path: str) -> bool:
        return path in self.was

    def size(self, path: str) -> int:
        return self.base.size(self.was[path])

    def stamp(self, path: str) -> bytes:
        return self.base.stamp(self.was[path])

    def read(self, path: str) -> bytes:
        return self.base.read(self.was[path])

    def open(self, path: str) -> BinaryIO:
        return self.base.open(self.was[path])
