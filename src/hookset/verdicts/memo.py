"""What is kept of a map, so that nothing of it has to be opened to see that it is as it was: neither its layout, whose
rules take longer to make ready than to list the map's files, nor its stock."""

from __future__ import annotations

import hashlib
from pathlib import Path

import msgspec
from msgspec import Struct

import hookset
from hookset.model import HooksetError
from hookset.trees import FolderTree, read_regular
from hookset.trees.listing import MapListing
from hookset.trees.ours import LEDGER, OUR_FOLDER, PROJECT_FILE
from hookset.verdicts.ground import Ground, rest_of
from hookset.verdicts.kept import VerdictCache
from hookset.verdicts.recall import recalled
from hookset.verdicts.summary import Summary

__all__ = ["KnownMap", "MapMemo", "keep_memo", "known_map"]

_SHIPPED = Path(hookset.__file__).parent / "config" / "layouts" / "shipped"
_LARGEST = 4 << 20
"""Bytes of hookset.toml, and of a layout."""
_MOST_HIDDEN = 1_000
"""Files where builds go that no rule reads; where there are more, a map is opened each time."""


class MapMemo(Struct, frozen=True, kw_only=True):
    """A map whose hookset.toml and ledger say what they said."""

    title: str
    """Its name and version."""
    layout: str
    """The layout's name."""
    source: str
    """The layout as hookset.toml names it."""
    fingerprint: str
    """SHA-256 of the layout as it is written."""
    stock: tuple[str, ...]
    listing: MapListing
    hidden: frozenset[str] = frozenset()
    """Files where builds go that are no part of the map."""


class KnownMap(Struct, frozen=True):
    """A map that is known before it is opened."""

    memo: MapMemo
    ground: Ground
    """What a verdict on it rests on now."""

    def recalled(self, cache: VerdictCache) -> Summary | None:
        """What was told of the very same map, if it is kept."""
        return recalled(self.ground, cache)

    @property
    def tree(self) -> FolderTree | None:
        """Its files; None where only the layout can say whether some of them are the map's."""
        tree = self.ground.tree
        if not isinstance(tree, FolderTree) or any(map(self.memo.listing.is_in_build, tree.paths())):
            return None
        return tree


class _Shown(Struct, frozen=True):
    """Whether a file where builds go is part of the map, as far as is known: one that is not counts as one, so that a
    verdict that knew it differently is not taken for one on this map."""

    hidden: frozenset[str]

    def __call__(self, path: str) -> bool:
        return path not in self.hidden


def known_map(root: Path, cache: VerdictCache) -> KnownMap | None:
    """The map in this folder; None where it is not known, or where anything that is wrong with it has to be told."""
    if (root / OUR_FOLDER / "work").is_dir():
        # A change was interrupted.
        return None
    try:
        ledger = _ledger(root)
        said = cache.memos.said(_key(root, ledger))
        if said is None:
            return None
        memo = msgspec.msgpack.decode(said, type=MapMemo)
        if hashlib.sha256(_layout(root, memo.source)).hexdigest() != memo.fingerprint:
            return None
        tree = memo.listing.tree(root, _Shown(memo.hidden))
        return KnownMap(memo, Ground(rest_of(root, memo.fingerprint, tree, ledger, memo.stock), tree))
    except (HooksetError, OSError, msgspec.MsgspecError, UnicodeError):
        return None


def keep_memo(root: Path, memo: MapMemo, tree: FolderTree, cache: VerdictCache) -> None:
    """For the next time. `tree` has the files that are the map's."""
    listing = memo.listing
    hidden: frozenset[str] = frozenset()
    folder = root / listing.built
    try:
        if listing.built and not listing.whole and folder.is_dir():
            below = (f"{listing.built}/{path}" for path in FolderTree(folder).paths())
            hidden = frozenset(path for path in below if not tree.has(path))
        if len(hidden) <= _MOST_HIDDEN:
            said = msgspec.msgpack.encode(msgspec.structs.replace(memo, hidden=hidden))
            cache.memos.keep(_key(root, _ledger(root)), said)
    except (HooksetError, OSError, UnicodeError):
        return


def _ledger(root: Path) -> bytes | None:
    place = root / LEDGER
    return place.read_bytes() if place.is_file() else None


def _layout(root: Path, source: str) -> bytes:
    return read_regular(root / source if source.endswith(".toml") else _SHIPPED / f"{source}.toml", _LARGEST)


def _key(root: Path, ledger: bytes | None) -> str:
    digest = hashlib.sha256(f"{hookset.__version__}\n".encode())
    for data in (read_regular(root / PROJECT_FILE, _LARGEST), ledger):
        digest.update(b"none" if data is None else hashlib.sha256(data).digest())
    return digest.hexdigest()
