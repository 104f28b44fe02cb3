"""Opening an archive by what it is, not by what it is called."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

from hookset.model import CouldNotError, with_article
from hookset.trees.archives.judging import Limits
from hookset.trees.archives.nested import with_inner
from hookset.trees.archives.sevenzip import MAGIC, open_sevenzip
from hookset.trees.archives.source import Source
from hookset.trees.archives.tarred import PACKED, open_tar, tar_magic
from hookset.trees.archives.zipped import ZIP_MAGICS, open_zip
from hookset.trees.regular import open_regular
from hookset.trees.tree import Tree

__all__ = ["is_archive", "look_inside", "open_archive"]

_HEAD = 512
_ENDING = re.compile(r"\.(?:zip|7z|tar|tgz|tbz2?|txz|tar\.(?:gz|bz2|xz))$", re.IGNORECASE)
_CLOSED = {b"Rar!": "RAR", b"MSCF": "cabinet", b"ISc(": "installer cabinet"}


def is_archive(name: str, head: bytes) -> bool:
    """Whether a file of that name that begins so (512 bytes of it) is an archive to be looked into. Much else is a zip
    inside (documents, programs, contents of a game) and stays what it is called."""
    if _ENDING.search(name) is None:
        return False
    return head.startswith((*ZIP_MAGICS, MAGIC, *PACKED)) or tar_magic(head)


def open_archive(file: Path, limits: Limits | None = None) -> Tree:
    """The archive as a tree; archives in it are files. Raises CouldNotError for anything that cannot be looked into
    safely."""
    source = Source(open_regular(file, "a pack is a folder, or a zip, tar or 7z archive", "name a pack"))
    size = source.stream.seek(0, 2)
    return _flat(file, source, size, limits or Limits())


def look_inside(tree: Tree, file: Path, limits: Limits | None, inner: Callable[[str], bool]) -> Tree:
    """The same tree with those of the archives in it opened that `inner` says yes to, and whatever is in those. Raises
    CouldNotError."""
    return _looked_inside(tree, file, limits or Limits(), 0, inner)


def _looked_inside(tree: Tree, file: Path, limits: Limits, depth: int, inner: Callable[[str], bool]) -> Tree:
    def wanted(path: str) -> bool:
        if _ENDING.search(path) is None or not inner(path):
            return False
        with tree.open(path) as member:
            return is_archive(path, member.read(_HEAD))

    def opener(place: Path, source: Source, size: int, limits: Limits, depth: int) -> Tree:
        return _looked_inside(_flat(place, source, size, limits), place, limits, depth, lambda _: True)

    return with_inner(tree, file, wanted, opener, limits, depth)


def _flat(file: Path, source: Source, size: int, limits: Limits) -> Tree:
    """The archive itself."""
    source.stream.seek(0)
    head = source.stream.read(_HEAD)
    if head.startswith(MAGIC):
        return open_sevenzip(file, source, size, limits)
    if head.startswith(tuple(PACKED)) or tar_magic(head):
        tree = open_tar(file, source, size, limits)
        if tree is not None:
            return tree
        raise CouldNotError(
            "unread-archive",
            "is one packed file, not an archive of several",
            where=str(file),
            why="nothing in it says what the file is called or where it goes",
            remedy="unpack it into a folder, and name that",
        )
    for magic, name in _CLOSED.items():
        if head.startswith(magic):
            raise CouldNotError(
                "unread-archive",
                f"is {with_article(name)} archive, which only programs of its own read",
                where=str(file),
                remedy="unpack it into a folder, and name that folder: it is looked into in the same way",
            )
    return open_zip(file, limits, source)
