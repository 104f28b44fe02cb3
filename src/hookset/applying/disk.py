"""The few things that are done to a disk, in one small class, so that each can be made to fail in a test."""

from __future__ import annotations

import contextlib
import hashlib
import os
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO

__all__ = ["Disk"]

_CHUNK = 1 << 20


def _large(source: BinaryIO, chunk: bytes, target: BinaryIO, digest: Callable[[bytes], None]) -> None:
    """Written on one core while the other works the digest out."""
    # Imported here: few files are so large.
    from concurrent.futures import ThreadPoolExecutor

    with ThreadPoolExecutor(max_workers=1) as pool:
        while chunk:
            digested = pool.submit(digest, chunk)
            target.write(chunk)
            chunk = source.read(_CHUNK)
            digested.result()


class Disk:
    """Every write of the tool goes through here."""

    def make_folder(self, path: Path) -> None:
        """Create a folder; its parents must exist."""
        path.mkdir()

    def write(self, path: Path, source: BinaryIO) -> str:
        """A new file from a stream, safely on the disk when this returns. Gives its SHA-256 in hex."""
        digest = hashlib.sha256()
        with open(path, "wb", opener=_no_link) as target:
            chunk = source.read(_CHUNK)
            if len(chunk) < _CHUNK:
                digest.update(chunk)
                target.write(chunk)
            else:
                _large(source, chunk, target, digest.update)
            target.flush()
            os.fsync(target.fileno())
        return digest.hexdigest()

    def set_times_and_mode(self, path: Path, mtime_ns: int | None, mode: int | None) -> None:
        """Of the mode only reading, writing and running: a file gets no power over other users."""
        if mode is not None:
            path.chmod(mode & 0o777)
        if mtime_ns is not None:
            os.utime(path, ns=(mtime_ns, mtime_ns))

    def set_owner(self, path: Path, user: int, group: int) -> None:
        """Where the system allows it; whoever may not has been told before."""
        if hasattr(os, "chown"):
            with contextlib.suppress(OSError):
                os.chown(path, user, group)

    def replace(self, source: Path, target: Path) -> None:
        """Move a file over another one in a single step."""
        os.replace(source, target)

    def remove(self, path: Path) -> None:
        """Delete a file."""
        path.unlink()

    def remove_folder(self, path: Path) -> None:
        """Delete an empty folder."""
        path.rmdir()

    def remove_tree(self, path: Path) -> None:
        """Delete a folder with everything in it."""
        shutil.rmtree(path)

    def sync_folder(self, path: Path) -> None:
        """Make renames in a folder last through a power cut, where the system can."""
        if os.name == "nt":
            return
        handle = os.open(path, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _no_link(path: str, flags: int) -> int:
    """Open a file of our own for writing: somebody else may have put a link where it goes."""
    return os.open(path, flags | getattr(os, "O_NOFOLLOW", 0), 0o666)
