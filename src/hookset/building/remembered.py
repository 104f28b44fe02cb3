"""What is known of an archive that was written before: which files it holds, as they were then."""

from __future__ import annotations

import os
from collections.abc import Mapping
from pathlib import Path

import msgspec
from msgspec import Struct

from hookset.trees import Member, Tree, sha256_of

__all__ = ["WrittenArchive", "remember", "unchanged", "written_archive"]


class WrittenArchive(Struct, frozen=True):
    """An archive as it was when it was written, and the files that it was made of."""

    form: str
    """How its members are packed: what another version of the library packs, or another layout, may differ."""
    state: tuple[int, int, int]
    """Of the archive, as its form tells it: another one after any change."""
    members: Mapping[str, tuple[bytes, bytes]]
    """Of each member's file: its stamp, empty where nothing short of its bytes tells whether it is as it was; then its
    SHA-256."""


def written_archive(memory: Path) -> WrittenArchive | None:
    """What is remembered; None where that is nothing, or cannot be read."""
    try:
        return msgspec.msgpack.decode(memory.read_bytes(), type=WrittenArchive)
    except (OSError, msgspec.MsgspecError):
        return None


def remember(memory: Path, form: str, state: tuple[int, int, int], tree: Tree, members: tuple[str, ...]) -> None:
    """Keep what an archive was made of. Where that cannot be, the next one is packed as a whole."""
    try:
        known = WrittenArchive(form, state, {path: _known(tree, path) for path in members})
        memory.parent.mkdir(parents=True, exist_ok=True)
        fresh = memory.with_suffix(f".{os.getpid()}")
        fresh.write_bytes(msgspec.msgpack.encode(known))
        fresh.replace(memory)
    except OSError:
        return


def unchanged(known: WrittenArchive, tree: Tree) -> frozenset[str]:
    """The members whose files are as they were when the archive was written."""
    return frozenset(path for path, was in known.members.items() if tree.has(path) and _as_it_was(tree, path, *was))


def _known(tree: Tree, path: str) -> tuple[bytes, bytes]:
    stamp = tree.stamp(path)
    return stamp, b"" if stamp else _digest(tree, path)


def _digest(tree: Tree, path: str) -> bytes:
    return bytes.fromhex(sha256_of(Member(tree, path)))


def _as_it_was(tree: Tree, path: str, stamp: bytes, digest: bytes) -> bool:
    return (stamp != b"" and tree.stamp(path) == stamp) or (digest != b"" and _digest(tree, path) == digest)
