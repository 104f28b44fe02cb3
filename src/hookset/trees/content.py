"""The bytes that a planned file would have: held here, or still where they came from."""

from __future__ import annotations

import hashlib
import io
import os
from collections.abc import Iterable
from functools import cached_property
from typing import BinaryIO, Protocol

from msgspec import Struct

from hookset.trees.tree import Tree

__all__ = ["Content", "Inline", "Member", "digest_all", "sha256_of"]

_CHUNK = 1 << 20
_MUCH = 32 << 20


class Content(Protocol):
    """Bytes that can be read more than once."""

    @property
    def size(self) -> int: ...

    def read(self) -> bytes: ...

    def open(self) -> BinaryIO: ...


class Inline(Struct, frozen=True):
    """Bytes computed while planning."""

    data: bytes

    @property
    def size(self) -> int:
        return len(self.data)

    def read(self) -> bytes:
        return self.data

    def open(self) -> BinaryIO:
        return io.BytesIO(self.data)


class Member(Struct, frozen=True, dict=True):
    """A file of a tree, streamed when it is needed: a pack may be larger than memory. Its digest is worked out once:
    whoever must know what a file has become makes a new one."""

    tree: Tree
    path: str

    @property
    def size(self) -> int:
        return self.tree.size(self.path)

    def read(self) -> bytes:
        return self.tree.read(self.path)

    def open(self) -> BinaryIO:
        return self.tree.open(self.path)

    @cached_property
    def sha256(self) -> str:
        return _digest(self)


def sha256_of(content: Content) -> str:
    """Hex SHA-256, read in pieces."""
    return content.sha256 if isinstance(content, Member) else _digest(content)


def digest_all(members: Iterable[Member]) -> None:
    """Work the digests of many files out, on more than one core where there is much to read."""
    members = list(members)
    if sum(member.size for member in members) < _MUCH:
        return
    # Imported here: few packs are so large.
    from concurrent.futures import ThreadPoolExecutor

    with ThreadPoolExecutor(max_workers=min(os.cpu_count() or 1, 4)) as pool:
        list(pool.map(sha256_of, members))


def _digest(content: Content) -> str:
    digest = hashlib.sha256()
    with content.open() as stream:
        while chunk := stream.read(_CHUNK):
            digest.update(chunk)
    return digest.hexdigest()
