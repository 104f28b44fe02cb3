"""What became of the references of a map, to be kept for the next time: those of a file that is as it was, to names of
kinds that define what they did, are met or missing as they were."""

from __future__ import annotations

import hashlib
from collections.abc import Collection

from msgspec import Struct

from hookset.symbols.cache import UNREAD
from hookset.symbols.collect import Web
from hookset.symbols.facts import Defined
from hookset.symbols.many_names import ManyNames

__all__ = ["Guessed", "Rest", "Settled", "digest", "digests_of_kinds", "unchanged"]


class Rest(Struct, frozen=True, array_like=True):
    """The references of a block that the map's own definitions do not meet."""

    in_stock: int = 0
    rows: tuple[int, ...] = ()
    """Those that are missing or cannot be checked: they are judged each time, since they are told."""


class Guessed(Struct, frozen=True, array_like=True):
    """What may have been meant by names of a kind that nothing defines."""

    compared: int
    """With how many names each was."""
    found: dict[str, tuple[str, ...]]


class Settled(Struct, frozen=True):
    """What became of all references of a map."""

    kinds: dict[str, bytes]
    """A digest of all that defines names of a kind."""
    loaded: bytes
    """A digest of what the game loads."""
    files: dict[str, bytes]
    """The SHA-256 of the bytes of files, by path; empty for one of which only the path counts."""
    rest: dict[str, dict[int, Rest]]
    """By path and number of the block: where not all are met by the map."""
    repeated: dict[str, tuple[str, ...]]
    """By kind: the names that are defined more than once, as the game compares them; nothing for kinds of which that is
    not known."""
    guessed: dict[str, Guessed]


def unchanged(settled: Settled, web: Web) -> frozenset[str]:
    """The files that say what they said then."""
    return frozenset(path for path, sha in web.digests.items() if sha != UNREAD and settled.files.get(path) == sha)


def digests_of_kinds(web: Web, kinds: Collection[str]) -> dict[str, bytes]:
    """The same where the same files define the same names of a kind on the same sides, in the same order."""
    said: dict[str, list[str]] = {kind: [] for kind in web.layout.kinds if kind in kinds}
    for file in web.files if said else ():
        for block in file.defined:
            if block.kind in said:
                said[block.kind].append(_said(file.path, block))
        for block in file.made:
            if block.kind in said:
                said[block.kind].append(f"made {_said(file.path, block)}")
    return {kind: digest("\0\n".join(parts)) for kind, parts in said.items()}


def _said(path: str, block: Defined) -> str:
    names = block.names
    said = names.digest.hex() if isinstance(names, ManyNames) else "\0".join(names)
    return f"{path}\0{block.side}\0{block.variant}\0{len(names)}\0{said}"


def digest(said: str) -> bytes:
    """A short one of a text."""
    return hashlib.blake2b(said.encode("utf-8", "surrogatepass"), digest_size=16).digest()
