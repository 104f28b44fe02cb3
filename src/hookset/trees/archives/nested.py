"""Archives in archives, seen as folders: `art.zip/models/span.gltf`."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO

from msgspec import Struct
from msgspec.structs import replace

from hookset.trees.archives.judging import Limits, Listed, judged
from hookset.trees.archives.source import Source, temporary
from hookset.trees.room import need_room
from hookset.trees.tree import Tree

__all__ = ["NestedTree", "with_inner"]

_CHUNK = 1 << 20


class NestedTree(Struct, frozen=True):
    """A tree some of whose files are archives that were opened, too."""

    outer: Tree
    inner: dict[str, Tree]
    """By their path."""
    places: dict[str, tuple[Tree, str]]
    """Each file: in which tree, by what path there."""

    def paths(self) -> tuple[str, ...]:
        return tuple(self.places)

    @property
    def links(self) -> tuple[str, ...]:
        return self.outer.links

    def has(self, path: str) -> bool:
        return path in self.places

    def size(self, path: str) -> int:
        tree, inside = self.places[path]
        return tree.size(inside)

    def stamp(self, path: str) -> bytes:
        tree, inside = self.places[path]
        return tree.stamp(inside)

    def read(self, path: str) -> bytes:
        tree, inside = self.places[path]
        return tree.read(inside)

    def open(self, path: str) -> BinaryIO:
        tree, inside = self.places[path]
        return tree.open(inside)

    def below(self, top: str) -> NestedTree:
        """The same seen from one of its folders; `top` ends in `/`."""
        inside = {path[len(top) :]: place for path, place in self.places.items() if path.startswith(top)}
        return replace(self, places=inside)


Opener = Callable[[Path, Source, int, Limits, int], Tree]


def with_inner(
    tree: Tree, file: Path, wanted: Callable[[str], bool], opener: Opener, limits: Limits, depth: int
) -> Tree:
    """The tree with those of its archives opened that are `wanted`, as `opener` opens them. Raises CouldNotError."""
    names = [path for path in tree.paths() if wanted(path)]
    if not names or depth >= limits.depth:
        return tree
    inner: dict[str, Tree] = {}
    for name in names:
        judged(file, [Listed(name=name, size=tree.size(name))], limits)
        inner[name] = opener(file / name, _copied(tree, name), tree.size(name), limits, depth + 1)
    places: dict[str, tuple[Tree, str]] = {}
    for path in tree.paths():
        if path in inner:
            places |= {f"{path}/{below}": (inner[path], below) for below in inner[path].paths()}
        else:
            places[path] = (tree, path)
    members = (Listed(name=path, size=where.size(inside)) for path, (where, inside) in places.items())
    judged(file, members, limits)
    return NestedTree(tree, inner, dict(sorted(places.items())))


def _copied(tree: Tree, path: str) -> Source:
    """An archive that lies in another, where it can be read from any place: in a temporary file without a name."""
    need_room(Path(tempfile.gettempdir()), tree.size(path), f"unpacking {path}")
    target = temporary()
    with tree.open(path) as source:
        while chunk := source.read(_CHUNK):
            target.stream.write(chunk)
    target.stream.flush()
    return target
