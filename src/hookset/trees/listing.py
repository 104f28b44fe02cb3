"""Which files in a map's folder are the map."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from msgspec import Struct

from hookset.trees.folder import FolderTree
from hookset.trees.globs import Globs
from hookset.trees.ours import is_ours

__all__ = ["MapListing"]


class MapListing(Struct, frozen=True):
    """What a layout, hookset.toml and the ledger say of it."""

    ignore: Globs
    built: str
    """The folder that builds go into; empty where that is the map's own."""
    ending: str
    """Of what is built."""
    whole: bool
    """Whether what is built is a folder: then all that lies where builds go is built."""
    installed: frozenset[str]
    """What packs have brought: that is the map, whatever the layout ignores."""

    def tree(self, root: Path, reads: Callable[[str], bool]) -> FolderTree:
        """The map's files below `root`. `reads` is asked about files where builds go: a build folder hides what a build
        has put there, and nothing that the layout reads."""
        folders = frozenset(parent for path in self.installed for parent in _parents(path))
        return FolderTree(root, _Skipped(root, self, self.installed | folders, reads))

    def is_in_build(self, path: str) -> bool:
        """Whether a path lies where builds go."""
        return bool(self.built) and path.startswith(f"{self.built}/")


class _Skipped(Struct, frozen=True):
    """Which paths are no part of the map. A value and no function, so that other processes can be given the tree."""

    root: Path
    listing: MapListing
    installed: frozenset[str]
    """What packs have brought, and the folders that it is in."""
    reads: Callable[[str], bool]

    def __call__(self, path: str) -> bool:
        if is_ours(path):
            return True
        if path in self.installed:
            return False
        listing = self.listing
        if listing.ignore.matches(path):
            return True
        if not listing.built or not listing.is_in_build(path):
            return False
        built = path.casefold().endswith(f".{listing.ending}")
        return listing.whole or built or not (self.reads(path) or (self.root / path).is_dir())


def _parents(path: str) -> list[str]:
    parts = path.split("/")
    return ["/".join(parts[:depth]) for depth in range(1, len(parts))]
