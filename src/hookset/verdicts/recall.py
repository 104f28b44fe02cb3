"""A verdict on the very same map, by the very same terms, is the very same verdict."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping

import msgspec

from hookset.model import CouldNotError
from hookset.trees import Tree
from hookset.verdicts.ground import Ground
from hookset.verdicts.kept import KeptVerdict, VerdictCache
from hookset.verdicts.summary import Summary

__all__ = ["recall", "recalled", "remember"]

_FileState = tuple[bytes, bytes]
"""(stamp, SHA-256 of its bytes), each empty where it is not known"""


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
    decode = msgspec.msgpack.Decoder(dict[str, _FileState]).decode
    for kept in cache.resting_on(ground.rest):
        try:
            states = decode(kept.files)
        except msgspec.MsgspecError:
            continue
        if _same_files(ground, states):
            summary = _told(kept.said)
            if summary is not None and ground.key:
                # By their stamps they are known at once the next time.
                digests = {path: sha for path, (_, sha) in states.items()}
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
    return msgspec.msgpack.encode({path: (stamp, digests.get(path, b"")) for path, stamp in ground.stamps.items()})


def _same_files(ground: Ground, states: Mapping[str, _FileState]) -> bool:
    """Whether these are the files: by their stamps, and where those differ, by their bytes."""
    if ground.stamps.keys() != states.keys():
        return False
    touched = [path for path, stamp in ground.stamps.items() if not stamp or stamp != states[path][0]]
    return all(states[path][1] for path in touched) and all(
        _digest(ground.tree, path) == states[path][1] for path in touched
    )


def _digest(tree: Tree, path: str) -> bytes:
    try:
        return hashlib.sha256(tree.read(path)).digest()
    except CouldNotError:
        return b""
