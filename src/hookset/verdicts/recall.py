"""A verdict on the very same map, by the very same terms, is the very same verdict."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping

import msgspec
from msgspec import Struct

from hookset.model import CouldNotError
from hookset.trees import Tree
from hookset.verdicts.ground import Ground
from hookset.verdicts.kept import KeptVerdict, VerdictCache
from hookset.verdicts.summary import Summary

__all__ = ["recall", "recalled", "remember"]


class _FileStates(Struct, frozen=True, array_like=True):
    """What files were, in columns: thousands of them are read for each verdict that is kept."""

    paths: str
    """With a character between them that none has."""
    stamps: list[bytes]
    """Each empty where it is not known, as the next."""
    shas: list[bytes]
    """SHA-256 of the bytes."""


def recalled(ground: Ground, cache: VerdictCache) -> Summary | None:
    """What was told of a map whose files have the same stamps, if it is kept."""
    said = cache.recalled(ground.key) if ground.key else None
    return _told(said) if said is not None else None


def recall(ground: Ground, cache: VerdictCache) -> Summary | None:
    """What was told of the very same map, if it is kept. Files that look changed are read."""
    if not ground.rest:
        return None
    if (same := recalled(ground, cache)) is not None:
        return same
    decode, read = msgspec.msgpack.Decoder(_FileStates).decode, dict[str, bytes]()
    for kept in cache.resting_on(ground.rest):
        try:
            states = decode(kept.files)
        except msgspec.MsgspecError:
            continue
        if _same_files(ground, states, read):
            summary = _told(kept.said)
            if summary is not None and ground.key:
                # By their stamps they are known at once the next time.
                digests = dict(zip(ground.stamps, states.shas, strict=True))
                cache.remember(KeptVerdict(ground.key, ground.rest, _states(ground, digests), kept.said))
            return summary
    return None


def remember(ground: Ground, cache: VerdictCache, summary: Summary, digests: Mapping[str, bytes]) -> None:
    """For the next time. `digests` are the SHA-256 of what files are, by path."""
    if not ground.rest:
        return
    try:
        said = msgspec.msgpack.encode(summary)
        states = _states(ground, digests)
    except UnicodeEncodeError:
        # A file's name that is no text cannot be kept as one: such a map is judged each time.
        return
    cache.remember(KeptVerdict(ground.key, ground.rest, states, said))


def _told(said: bytes) -> Summary | None:
    try:
        return msgspec.msgpack.decode(said, type=Summary)
    except msgspec.MsgspecError:
        return None


def _states(ground: Ground, digests: Mapping[str, bytes]) -> bytes:
    shas = [digests.get(path, b"") for path in ground.stamps]
    return msgspec.msgpack.encode(_FileStates("\0".join(ground.stamps), [*ground.stamps.values()], shas))


def _same_files(ground: Ground, states: _FileStates, read: dict[str, bytes]) -> bool:
    """Whether these are the files: by their stamps, and where those differ, by their bytes, of which what was `read`
    is not read again."""
    if "\0".join(ground.stamps) != states.paths:
        return False
    for (path, stamp), before, sha in zip(ground.stamps.items(), states.stamps, states.shas, strict=True):
        if stamp and stamp == before:
            continue
        if path not in read and sha:
            read[path] = _digest(ground.tree, path)
        if not sha or read[path] != sha:
            return False
    return True


def _digest(tree: Tree, path: str) -> bytes:
    try:
        return hashlib.sha256(tree.read(path)).digest()
    except CouldNotError:
        return b""
