"""A tree as a plan would leave it: some files written over or taken out, the rest as they are."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import BinaryIO

from msgspec import Struct

from hookset.trees.content import Content
from hookset.trees.tree import Tree

__all__ = ["Overlay"]


class Overlay(Struct, frozen=True, dict=True):
    """`changes` over `base`; None takes a file out."""

    base: Tree
    changes: Mapping[str, Content | None]

    @cached_property
    def _paths(self) -> dict[str, None]:
        kept = {path for path in self.base.paths() if path not in self.changes}
        kept.update(path for path, content in self.changes.items() if content is not None)
        return dict.fromkeys(sorted(kept))

    def paths(self) -> tuple[str, ...]:
        return tuple(self._paths)

    @property
    def links(self) -> tuple[str, ...]:
        return self.base.links

    def has(self, path: str) -> bool:
        return self.changes[path] is not None if path in self.changes else self.base.has(path)

    def size(self, path: str) -> int:
        content = self._change(path)
        return self.base.size(path) if content is None else content.size

    def stamp(self, path: str) -> bytes:
        return self.base.stamp(path) if self._change(path) is None else b""

    def read(self, path: str) -> bytes:
        content = self._change(path)
        return self.base.read(path) if content is None else content.read()

    def open(self, path: str) -> BinaryIO:
        content = self._change(path)
        return self.base.open(path) if content is None else content.open()

    def differs_from(self, tree: Tree) -> frozenset[str] | None:
        """The paths at which this tree can differ from one that it lies over, or from another one over the same; None
        where it does neither."""
        if isinstance(tree, Overlay) and tree.base is self.base and tree is not self:
            both = self.changes.keys() | tree.changes.keys()
            return frozenset(path for path in both if self._differs(tree, path))
        below = frozenset[str]() if self.base is tree else None
        if isinstance(self.base, Overlay):
            below = self.base.differs_from(tree)
        return None if below is None else below | self.changes.keys()

    def _differs(self, other: Overlay, path: str) -> bool:
        if (path in self.changes) != (path in other.changes):
            return True
        return self.changes[path] is not other.changes[path]

    def _change(self, path: str) -> Content | None:
        if path in self.changes and self.changes[path] is None:
            raise KeyError(path)
        return self.changes.get(path)
