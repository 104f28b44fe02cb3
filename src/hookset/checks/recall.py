"""A verdict on the very same map, by the very same terms, is the very same verdict."""

from __future__ import annotations

import hashlib
from pathlib import Path

import msgspec

from hookset import __version__
from hookset.checks.judge import Summary
from hookset.project import LEDGER, PROJECT_FILE, MapProject
from hookset.symbols import FactsCache
from hookset.symbols.cache import code_state
from hookset.trees import Tree

_JUDGING = ("checks", "config", "edits", "formats", "model", "packs", "project", "symbols", "trees")
"""The packages that a verdict depends on."""

__all__ = ["recall", "remember", "verdict_key"]


def recall(key: str, cache: FactsCache) -> Summary | None:
    """What was told under this key, if it is what was told last."""
    data = cache.recalled(key) if key else None
    try:
        return None if data is None else msgspec.msgpack.decode(data, type=Summary)
    except msgspec.MsgspecError:
        return None


def remember(key: str, cache: FactsCache, summary: Summary) -> None:
    """For the next time."""
    if not key:
        return
    try:
        said = msgspec.msgpack.encode(summary)
    except UnicodeEncodeError:
        # A file's name that is no text cannot be kept as one: such a map is judged each time.
        return
    cache.remember(key, said)


def verdict_key(project: MapProject, tree: Tree) -> str:
    """Of all that a verdict rests on: the same key, the same verdict. Empty where something cannot be told without
    reading it."""
    if not project.layout.fingerprint or project.file.content.roots:
        return ""
    stamps: list[bytes] = []
    for path in tree.paths():
        stamp = tree.stamp(path)
        if not stamp:
            return ""
        stamps += (path.encode("utf-8", "surrogatepass"), stamp)
    # The judging code itself is among it: what an earlier version told may be told otherwise now.
    packages = Path(__file__).parent.parent
    code = "".join(code_state(str(packages / name)) for name in _JUDGING)
    digest = hashlib.sha256(repr((__version__, project.layout.fingerprint, tree.links, code)).encode())
    digest.update(b"\0".join(stamps))
    for file in (PROJECT_FILE, LEDGER):
        place = project.root / file
        digest.update(place.read_bytes() if place.is_file() else b"none")
    for name in project.file.content.stock:
        state = (project.root / name).stat()
        digest.update(f"{name} {state.st_size} {state.st_mtime_ns} {state.st_ctime_ns} {state.st_ino}".encode())
    return digest.hexdigest()
