"""What is known of an archive that was written before: which files it holds, as they were then."""

from __future__ import annotations

import os
import zipfile
import zlib
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

import msgspec
from msgspec import Struct

from hookset.building.zipped import EarlierZip
from hookset.trees import Member, Tree, sha256_of

__all__ = ["WrittenArchive", "earlier_zip", "remember", "written_archive"]

_FORM = f"2 {zlib.ZLIB_RUNTIME_VERSION}"
"""How members are packed: what another version of the library packs may differ."""


class WrittenArchive(Struct, frozen=True):
    """An archive as it was when it was written, and the files that it was made of."""

    form: str
    state: tuple[int, int, int]
    """Of the archive: size, number, time of the last change in nanoseconds."""
    members: Mapping[str, tuple[bytes, bytes]]
    """Of each member's file: its stamp, empty where nothing short of its bytes tells whether it is as it was; then its
    SHA-256."""


def written_archive(memory: Path) -> WrittenArchive | None:
    """What is remembered; None where that is nothing, or cannot be read."""
    try:
        return msgspec.msgpack.decode(memory.read_bytes(), type=WrittenArchive)
    except (OSError, msgspec.MsgspecError):
        return None


def remember(memory: Path, archive: Path, tree: Tree, members: tuple[str, ...]) -> None:
    """Keep what an archive was made of. Where that cannot be, the next one is packed as a whole."""
    try:
        known = WrittenArchive(_FORM, _state(archive), {path: _known(tree, path) for path in members})
        memory.parent.mkdir(parents=True, exist_ok=True)
        fresh = memory.with_suffix(f".{os.getpid()}")
        fresh.write_bytes(msgspec.msgpack.encode(known))
        fresh.replace(memory)
    except OSError:
        return


@contextmanager
def earlier_zip(memory: Path | None, archive: Path, tree: Tree) -> Iterator[EarlierZip | None]:
    """The archive that is there already, if it is as it was written here, with the members whose files are as they
    were then; None where all is to be packed."""
    known = written_archive(memory) if memory is not None else None
    stream = _as_written(known, archive) if known is not None else None
    if known is None or stream is None:
        yield None
        return
    same = [path for path, was in known.members.items() if tree.has(path) and _as_it_was(tree, path, *was)]
    with stream:
        yield _opened(stream, same)


def _known(tree: Tree, path: str) -> tuple[bytes, bytes]:
    stamp = tree.stamp(path)
    return stamp, b"" if stamp else _digest(tree, path)


def _digest(tree: Tree, path: str) -> bytes:
    return bytes.fromhex(sha256_of(Member(tree, path)))


def _as_it_was(tree: Tree, path: str, stamp: bytes, digest: bytes) -> bool:
    return (stamp != b"" and tree.stamp(path) == stamp) or (digest != b"" and _digest(tree, path) == digest)


def _as_written(known: WrittenArchive, archive: Path) -> BinaryIO | None:
    try:
        return archive.open("rb") if known.form == _FORM and known.state == _state(archive) else None
    except OSError:
        return None


def _opened(stream: BinaryIO, same: Sequence[str]) -> EarlierZip | None:
    try:
        return EarlierZip.of(stream, same)
    except (zipfile.BadZipFile, ValueError):
        return None


def _state(archive: Path) -> tuple[int, int, int]:
    found = archive.stat()
    return found.st_size, found.st_ino, found.st_mtime_ns
