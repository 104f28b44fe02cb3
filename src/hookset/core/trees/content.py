"""The bytes that a planned file would have: held here, or still where they came from."""

from __future__ import annotations

import hashlib
import io
from dataclasses import dataclass
from typing import BinaryIO, Protocol

from hookset.core.trees.tree import Tree

__all__ = ["Content", "Inline", "Member", "sha256_of"]

_CHUNK = 1 << 20


class Content(Protocol):
    """Bytes that can be read more than once."""

    @property
    def size(self) -> int: ...

    def read(self) -> bytes: ...

    def open(self) -> BinaryIO: ...


@dataclass(frozen=True, slots=True)
class Inline:
    """Bytes computed while planning."""

    data: bytes

    @property
    def size(self) -> int:
        return len(self.data)

    def read(self) -> bytes:
        return self.data

    def open(self) -> BinaryIO:
        return io.BytesIO(self.data)


@dataclass(frozen=True, slots=True)
class Member:
    """A file of a tree, streamed when it is needed: a pack may be larger than memory."""

    tree: Tree
    path: str

    @property
    def size(self) -> int:
        return self.tree.size(self.path)

    def read(self) -> bytes:
        return self.tree.read(self.path)

    def open(self) -> BinaryIO:
        return self.tree.open(self.path)


def sha256_of(content: Content) -> str:
    """Hex SHA-256, read in pieces."""
    digest = hashlib.sha256()
    with content.open() as stream:
        while chunk := stream.read(_CHUNK):
            digest.update(chunk)
    return digest.hexdigest()
