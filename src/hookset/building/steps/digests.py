"""What files hold, by their SHA-256: of those that are as they were, it is known."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

import msgspec

from hookset.trees import FolderTree, Member, sha256_of

__all__ = ["FileDigests"]

_Known = dict[str, tuple[bytes, str]]


class FileDigests:
    """The digests of files below a folder, each worked out once, and remembered in a file by the files' stamps."""

    def __init__(self, tree: FolderTree, memory: Path | None) -> None:
        self.tree = tree
        self._memory = memory
        self._known: _Known = _read(memory) if memory is not None else {}
        self._fresh: _Known = {}

    def of(self, path: str) -> str:
        """The SHA-256 of a file, in hexadecimal; empty for one that is not there. Raises CouldNotError."""
        if path not in self._fresh:
            if not self.tree.has(path):
                return ""
            stamp = self.tree.stamp(path)
            known = self._known.get(path)
            same = known is not None and stamp != b"" and known[0] == stamp
            self._fresh[path] = known if same and known is not None else (stamp, sha256_of(Member(self.tree, path)))
        return self._fresh[path][1]

    def of_program(self, place: Path) -> str:
        """The SHA-256 of a program, wherever it lies; empty where it cannot be read."""
        try:
            state = place.stat()
            stamp = f"{state.st_size} {state.st_ino} {state.st_mtime_ns} {state.st_ctime_ns}".encode()
            key = f"/{place}"
            known = self._fresh.get(key) or self._known.get(key)
            if known is None or known[0] != stamp:
                with place.open("rb") as stream:
                    known = (stamp, hashlib.file_digest(stream, "sha256").hexdigest())
            self._fresh[key] = known
            return known[1]
        except OSError:
            return ""

    def listed_again(self) -> FileDigests:
        """The same of the folder as it is now."""
        fresh = FileDigests(FolderTree(self.tree.root, self.tree.skip), None)
        fresh._memory, fresh._known = self._memory, self._known | self._fresh
        return fresh

    def remember(self) -> None:
        """Keep what is known. Where that cannot be, it is worked out again."""
        if self._memory is None:
            return
        try:
            self._memory.parent.mkdir(parents=True, exist_ok=True)
            fresh = self._memory.with_suffix(f".{os.getpid()}")
            fresh.write_bytes(msgspec.msgpack.encode({**self._known, **self._fresh}))
            fresh.replace(self._memory)
        except OSError:
            return


def _read(memory: Path) -> _Known:
    try:
        return msgspec.msgpack.decode(memory.read_bytes(), type=_Known)
    except (OSError, msgspec.MsgspecError):
        return {}
