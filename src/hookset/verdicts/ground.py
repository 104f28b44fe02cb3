"""What a verdict rests on. The very same ground, the very same verdict."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterable, Mapping
from functools import cache, cached_property
from pathlib import Path

from msgspec import Struct

from hookset import __version__
from hookset.trees import Tree
from hookset.trees.ours import PROJECT_FILE

__all__ = ["Ground", "code_state", "rest_of"]

_JUDGING = (
    "checks", "config", "edits", "formats", "model", "packs", "project", "scene", "space", "symbols", "trees",
    "verdicts",
)  # fmt: skip
"""The packages that a verdict depends on."""


class Ground(Struct, frozen=True, dict=True):
    """What a verdict rests on."""

    rest: str
    """Of all but the files of the map. Empty where something cannot be told without reading it."""
    tree: Tree

    @cached_property
    def stamps(self) -> Mapping[str, bytes]:
        """Of the files, by path."""
        return {path: self.tree.stamp(path) for path in self.tree.paths()}

    @cached_property
    def key(self) -> str:
        """The same key, the same verdict. Empty where a file has no stamp."""
        if not self.rest or not all(self.stamps.values()):
            return ""
        digest = hashlib.sha256(self.rest.encode())
        # No path holds the character between them; stamps are of one length, or hold it neither.
        digest.update("\0".join(self.stamps).encode("utf-8", "surrogatepass"))
        digest.update(b"\0\0".join(self.stamps.values()))
        return digest.hexdigest()


def rest_of(root: Path, fingerprint: str, tree: Tree, ledger: bytes | None, stock: Iterable[str]) -> str:
    """All that a verdict rests on but the map's files: the layout of that fingerprint, hookset.toml, the ledger, the
    stock lists by their names, and the code that judges. Raises OSError."""
    # The judging code itself is among it: what an earlier version told may be told otherwise now.
    packages = Path(__file__).parent.parent
    code = "".join(code_state(str(packages / name)) for name in _JUDGING)
    digest = hashlib.sha256(repr((__version__, fingerprint, tree.links, code)).encode())
    place = root / PROJECT_FILE
    for data in (place.read_bytes() if place.is_file() else None, ledger):
        digest.update(b"none" if data is None else hashlib.sha256(data).digest())
    for name in stock:
        state = (root / name).stat()
        digest.update(f"{name} {state.st_size} {state.st_mtime_ns} {state.st_ctime_ns} {state.st_ino}".encode())
    return digest.hexdigest()


@cache
def code_state(folder: str) -> str:
    """Names, sizes and times of the modules in a folder and below it, as they are when it is first asked for: what is
    written afterwards does not judge in this run."""
    states: list[str] = []
    waiting = [folder]
    while waiting:
        with os.scandir(waiting.pop()) as entries:
            for entry in entries:
                if entry.name.endswith(".py"):
                    state = entry.stat()
                    states.append(f"{entry.path} {state.st_size} {state.st_mtime_ns}\n")
                elif entry.is_dir() and entry.name != "__pycache__":
                    waiting.append(entry.path)
    return "".join(sorted(states))
