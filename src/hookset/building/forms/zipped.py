"""A zip whose members are in order, with the same bytes for the same content; what an earlier one has is copied."""

from __future__ import annotations

import contextlib
import copy
import os
import zipfile
import zlib
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import IO, BinaryIO

from msgspec import Struct

from hookset.building.forms.form import is_stored
from hookset.project.saving import replacing
from hookset.trees import Glob, Tree

__all__ = ["ZIP", "EarlierZip", "zip_tree"]

_CHUNK = 1 << 20
_COPIED = 1 << 26
_EPOCH = (1980, 1, 1, 0, 0, 0)


class EarlierZip(Struct, frozen=True):
    """A zip that was written here before, open to be read."""

    stream: BinaryIO
    members: Mapping[str, tuple[zipfile.ZipInfo, int, int]]
    """Those whose content is as it was: the entry, and where its bytes begin and end in the file."""

    @classmethod
    def of(cls, stream: BinaryIO, same: frozenset[str]) -> EarlierZip:
        """`same` are the members whose content has not changed. Raises zipfile.BadZipFile, ValueError."""
        with zipfile.ZipFile(stream) as archive:
            infos = sorted(archive.infolist(), key=lambda info: info.header_offset)
            ends = [*(info.header_offset for info in infos[1:]), archive.start_dir]
        found = {
            info.filename: (info, info.header_offset, end)
            for info, end in zip(infos, ends, strict=True)
            if info.filename in same
        }
        return cls(stream, found)


def zip_tree(
    tree: Tree,
    members: Sequence[str],
    target: Path | BinaryIO,
    earlier: EarlierZip | None = None,
    stored: Sequence[Glob] = (),
) -> int:
    """Write members with fixed times and modes, so that equal content gives equal bytes; those that an earlier archive
    has are copied as they lie there. Gives how many were packed."""
    packed = 0
    known = earlier.members if earlier is not None else {}
    with zipfile.ZipFile(target, "w") as archive:
        run: list[str] = []
        for path in members:
            if path in known:
                if run and known[run[-1]][2] != known[path][1]:
                    _copy(archive, earlier, run)
                    run = []
                run.append(path)
                continue
            _copy(archive, earlier, run)
            run = []
            _pack(archive, tree, path, is_stored(path, stored))
            packed += 1
        _copy(archive, earlier, run)
    return packed


def _pack(archive: zipfile.ZipFile, tree: Tree, path: str, stored: bool) -> None:
    info = zipfile.ZipInfo(path, _EPOCH)
    info.external_attr = 0o100644 << 16
    info.create_system = 3
    info.compress_type = zipfile.ZIP_STORED if stored else zipfile.ZIP_DEFLATED
    info.file_size = tree.size(path)
    with tree.open(path) as source, archive.open(info, "w") as member:
        while chunk := source.read(_CHUNK):
            member.write(chunk)


def _copy(archive: zipfile.ZipFile, earlier: EarlierZip | None, run: Sequence[str]) -> None:
    """Members that lie one behind the other in the earlier archive, with their headers."""
    if not run or earlier is None:
        return
    stream = archive.fp
    assert stream is not None
    begin, end = earlier.members[run[0]][1], earlier.members[run[-1]][2]
    stream.seek(archive.start_dir)
    shift = archive.start_dir - begin
    _copied(earlier.stream, begin, end, stream)
    for path in run:
        info = copy.copy(earlier.members[path][0])
        info.header_offset += shift
        # What was said there of offsets beyond 4 GB is said again by whoever writes the directory.
        info.extra = b""
        archive.filelist.append(info)
        archive.NameToInfo[info.filename] = info
    archive.start_dir = stream.tell()


def _copied(source: BinaryIO, begin: int, end: int, target: IO[bytes]) -> None:
    """A stretch of one file behind what another one has so far; by the system itself where it can."""
    target.flush()
    at, into = begin, target.tell()
    copy_range = getattr(os, "copy_file_range", None)
    while copy_range is not None and at < end:
        try:
            count = copy_range(source.fileno(), target.fileno(), min(end - at, _COPIED), at, into)
        except OSError:
            break
        if not count:
            break
        at, into = at + count, into + count
    target.seek(into)
    source.seek(at)
    while at < end:
        chunk = source.read(min(end - at, _CHUNK))
        if not chunk:
            raise EOFError("the earlier archive is shorter than it was")
        target.write(chunk)
        at += len(chunk)
    target.flush()


class _Zip:
    """Members that have not changed are copied as they lie there."""

    version = f"zip 2 {zlib.ZLIB_RUNTIME_VERSION}"

    def write(
        self, tree: Tree, members: Sequence[str], stored: Sequence[Glob], target: Path, same: frozenset[str]
    ) -> int:
        with contextlib.ExitStack() as opened:
            earlier = None
            if same:
                with contextlib.suppress(OSError, zipfile.BadZipFile, ValueError):
                    earlier = EarlierZip.of(opened.enter_context(target.open("rb")), same)
            with replacing(target) as stream:
                return zip_tree(tree, members, stream, earlier, stored)

    def listed(self, target: Path, fresh: frozenset[str]) -> Mapping[str, int]:
        try:
            with zipfile.ZipFile(target) as archive:
                for path in fresh:
                    with archive.open(path) as member:
                        while member.read(_CHUNK):
                            pass
                return {info.filename: info.file_size for info in archive.infolist()}
        except (zipfile.BadZipFile, zlib.error, KeyError) as error:
            raise ValueError(str(error)) from error

    def state(self, target: Path) -> tuple[int, int, int]:
        found = target.stat()
        return found.st_size, found.st_ino, found.st_mtime_ns


ZIP = _Zip()
