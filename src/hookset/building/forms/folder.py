"""A folder: made beside the one that is there, and put in its place."""

from __future__ import annotations

import os
import secrets
import shutil
import zlib
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path

from hookset.trees import Glob, Tree

__all__ = ["FOLDER"]

_CHUNK = 1 << 20


class _Folder:
    """Files of which nothing is packed."""

    version = "folder 1"

    def write(
        self,
        tree: Tree,
        members: Sequence[str],
        stored: Sequence[Glob],  # noqa: ARG002
        target: Path,
        same: frozenset[str],  # noqa: ARG002
    ) -> int:
        if target.exists() and not target.is_dir():
            raise NotADirectoryError(20, "there is a file of that name")
        fresh = target.with_name(f".{target.name[:100]}.{secrets.token_hex(6)}")
        old = fresh.with_name(f"{fresh.name}.old")
        try:
            for path in members:
                place = fresh / path
                place.parent.mkdir(parents=True, exist_ok=True)
                with tree.open(path) as source, place.open("xb") as stream:
                    shutil.copyfileobj(source, stream, _CHUNK)
            fresh.mkdir(parents=True, exist_ok=True)
            if target.exists():
                target.rename(old)
            fresh.rename(target)
        except OSError:
            if old.exists() and not target.exists():
                old.rename(target)
            raise
        finally:
            shutil.rmtree(fresh, ignore_errors=True)
            shutil.rmtree(old, ignore_errors=True)
        return len(members)

    def listed(self, target: Path, fresh: frozenset[str]) -> Mapping[str, int]:  # noqa: ARG002
        return {path: state.st_size for path, state in _files(target)}

    def state(self, target: Path) -> tuple[int, int, int]:
        size, latest, names = 0, 0, 0
        for path, found in _files(target):
            size += found.st_size
            latest = max(latest, found.st_mtime_ns)
            names = zlib.crc32(f"{path}\0{found.st_size}\0{found.st_mtime_ns}\0{found.st_ino}\n".encode(), names)
        return size, names, latest


def _files(folder: Path) -> Iterator[tuple[str, os.stat_result]]:
    for place, folders, names in os.walk(folder):
        folders.sort()
        for name in sorted(names):
            file = Path(place) / name
            yield file.relative_to(folder).as_posix(), file.stat()


FOLDER = _Folder()
