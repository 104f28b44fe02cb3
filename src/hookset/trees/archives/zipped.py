"""A zip archive as a tree, opened as if its maker wished us harm.

Every member is looked at before any is read: where it would land, what it is, how large it says it is. The zip
format is that of PKWARE's APPNOTE 6.3; reading is done by the standard library.
"""

from __future__ import annotations

import lzma
import stat
import struct
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path
from typing import IO, Any, BinaryIO, cast

from hookset.model import CouldNotError
from hookset.trees.archives.judging import Limits, Listed, damaged, judged
from hookset.trees.archives.source import Source
from hookset.trees.regular import open_regular

__all__ = ["ZIP_MAGICS", "ZipTree", "open_zip"]

ZIP_MAGICS = (b"PK\x03\x04", b"PK\x05\x06", b"PK\x07\x08")
_SPANNED = b"PK\x07\x08"
"""What the first part of an archive in several parts begins with: APPNOTE.TXT 6.3, 8.5.3."""

_METHODS = {zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED, zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA}


@dataclass(frozen=True)
class ZipTree:
    """The files of an archive that `open_zip` found safe. Paths are below `top`."""

    file: Path
    infos: dict[str, zipfile.ZipInfo]
    top: str = ""
    """The folder of the archive that is seen; ends in `/` where it is not all of it."""
    source: Source | None = None
    """What it is read from, where it is no file of its own."""

    def __reduce__(self) -> tuple[Any, ...]:
        """Without the open file, so that another process can be given it."""
        return ZipTree, (self.file, self.infos, self.top, self.source)

    def paths(self) -> tuple[str, ...]:
        return tuple(self.infos)

    @property
    def links(self) -> tuple[str, ...]:
        return ()

    def has(self, path: str) -> bool:
        return path in self.infos

    def size(self, path: str) -> int:
        return self.infos[path].file_size

    def stamp(self, path: str) -> bytes:
        info = self.infos[path]
        return f"zip {info.CRC} {info.file_size}".encode()

    def read(self, path: str) -> bytes:
        with self.open(path) as stream:
            return stream.read()

    def open(self, path: str) -> BinaryIO:
        try:
            member = self._archive.open(self.infos[path])
        except (zipfile.BadZipFile, OSError, NotImplementedError, RuntimeError, ValueError, struct.error) as error:
            raise damaged(self.file, "zip", _words(error), path) from error
        return cast(BinaryIO, _Checked(member, self.file, path))

    def without(self, skip: Callable[[str], bool]) -> ZipTree:
        """The same archive without some of its files, or all of a folder's (then `skip` is asked for the folder)."""

        def skipped(path: str) -> bool:
            parts = path.split("/")
            return any(skip("/".join(parts[:depth])) for depth in range(1, len(parts) + 1))

        return replace(self, infos={path: info for path, info in self.infos.items() if not skipped(path)})

    def below_top(self) -> ZipTree:
        """Archives are often made of a folder rather than of what is in it."""
        first = {path.split("/", 1)[0] for path in self.infos}
        top = f"{first.pop()}/" if len(first) == 1 else ""
        return self.below(top) if top and all(path.startswith(top) for path in self.infos) else self

    def below(self, top: str) -> ZipTree:
        """The same archive seen from one of its folders; `top` ends in `/`."""
        inside = {p[len(top) :]: i for p, i in self.infos.items() if p.startswith(top)}
        return replace(self, infos=inside, top=self.top + top)

    @cached_property
    def _archive(self) -> zipfile.ZipFile:
        return zipfile.ZipFile(self.source.stream if self.source is not None else self.file)


def _words(error: Exception) -> str:
    """What an error of the library means; its own words differ from release to release."""
    if isinstance(error, EOFError):
        return "it ends too early"
    if isinstance(error, NotImplementedError):
        return "it is packed in a way that cannot be unpacked"
    if isinstance(error, OSError) and error.strerror:
        return error.strerror
    return "its bytes are not what its list or its checksum says"


class _Checked:
    """A member's stream whose damage is told as ours: a wrong checksum shows only when its end is read."""

    def __init__(self, stream: IO[bytes], file: Path, path: str) -> None:
        self._stream = stream
        self._file = file
        self._path = path

    def read(self, size: int = -1) -> bytes:
        try:
            return self._stream.read(size)
        except (zipfile.BadZipFile, zlib.error, lzma.LZMAError, EOFError, OSError, ValueError) as error:
            raise damaged(self._file, "zip", _words(error), self._path) from error

    def __enter__(self) -> _Checked:
        return self

    def __exit__(self, *_: object) -> None:
        self._stream.close()

    def close(self) -> None:
        self._stream.close()


_ENCRYPTED = 0x1
"""A flag of a member: APPNOTE.TXT 6.3, 4.4.4."""
_LOCAL_HEADER = 30
"""Bytes in front of each member, its name not counted: 4.3.7."""
_END = struct.Struct("<4s4H2LH")
_ENTRY = b"PK\x01\x02"
"""What each member's place in the list begins with: 4.3.12."""
_END_WITHIN = 22 + 65_535 + 76
"""The record at the end, the longest comment behind it, and those of ZIP64 in front of it."""


def open_zip(file: Path, limits: Limits | None = None, source: Source | None = None) -> ZipTree:
    """The archive as a tree, read from `source` where it is no file of its own. Raises CouldNotError naming every
    member that makes it unsafe."""
    limits = limits or Limits()
    held = source or Source(open_regular(file))
    try:
        held.stream.seek(0)
        begins = held.stream.read(len(_SPANNED))
        if (count := _told_members(held.stream)) > limits.members:
            # Before the list itself is read, which would take the memory that it was made to take.
            judged(file, (Listed(name=str(number), size=0) for number in range(count)), limits)
        with zipfile.ZipFile(held.stream) as archive:
            members = archive.infolist()
            start = archive.start_dir
    except (zipfile.BadZipFile, NotImplementedError, ValueError, struct.error, OverflowError, OSError) as error:
        if begins in ZIP_MAGICS:
            raise damaged(file, "zip", _words(error)) from error
        raise CouldNotError(
            "unread-archive",
            "is not an archive that can be looked into",
            where=str(file),
            why="a pack is a folder, or a zip, tar or 7z archive",
            remedy="check that the download is complete and really is the pack, not a page about it",
        ) from error
    if begins == _SPANNED or any(info.volume for info in members):
        raise CouldNotError(
            "unread-archive",
            "is one of several parts of a zip archive",
            where=str(file),
            why="the rest of it lies in the other parts",
            remedy="join the parts with the program that made them, and name what comes of it",
        )
    files = judged(file, _listed(members, start), limits)
    infos = {info.orig_filename: info for info in members}
    return ZipTree(file, {path: infos[member.name] for path, member in files.items()}, source=source)


def _told_members(source: BinaryIO) -> int:
    """How many members the archive's list has, counted in the list itself: the number in the record at its end
    (APPNOTE.TXT 6.3, 4.3.16) may lie."""
    size = source.seek(0, 2)
    start = max(0, size - _END_WITHIN)
    source.seek(start)
    tail = source.read()
    at = tail.rfind(b"PK\x05\x06")
    if at < 0 or len(tail) - at < _END.size:
        return 0
    listed: int = _END.unpack_from(tail, at)[5]
    wide = tail.rfind(b"PK\x06\x06")
    if listed == 0xFFFFFFFF and 0 <= wide <= len(tail) - 56:
        listed, at = struct.unpack_from("<Q", tail, wide + 40)[0], wide
    if listed > start + at:
        # Nor is its size believed: so much memory would be asked for to read it.
        raise zipfile.BadZipFile("its list would be larger than all of it")
    source.seek(start + at - listed)
    left, count, before = min(listed, start + at), 0, b""
    while left > 0 and (chunk := source.read(min(left, 1 << 20))):
        count += (before + chunk).count(_ENTRY)
        left, before = left - len(chunk), chunk[1 - len(_ENTRY) :]
    return count


def _listed(members: list[zipfile.ZipInfo], start_dir: int) -> Iterator[Listed]:
    overlapping = _overlapping(members, start_dir)
    for info in members:
        # `orig_filename` is the name as stored: the library cuts `filename` at a NUL and turns separators around.
        name = info.orig_filename
        folder = name.replace("\\", "/").endswith("/")
        yield Listed(
            name=name,
            size=info.file_size,
            packed=info.compress_size,
            folder=folder,
            encrypted=bool(info.flag_bits & _ENCRYPTED),
            reason="shares its bytes with another member: made to fill a disk"
            if info.header_offset in overlapping
            else _reason(info),
        )


def _overlapping(members: list[zipfile.ZipInfo], start_dir: int) -> set[int]:
    """Where members begin before the one in front of them ends."""
    found: set[int] = set()
    end = 0
    for info in sorted(members, key=lambda info: info.header_offset):
        if info.header_offset < end:
            found.add(info.header_offset)
        end = max(end, info.header_offset + _LOCAL_HEADER + info.compress_size)
    return found | {info.header_offset for info in members if info.header_offset >= start_dir}


def _reason(info: zipfile.ZipInfo) -> str:
    mode = info.external_attr >> 16
    if stat.S_ISLNK(mode):
        return "a link"
    if stat.S_IFMT(mode) not in (0, stat.S_IFREG, stat.S_IFDIR):
        return "a device, not a file"
    if not info.flag_bits & _ENCRYPTED and info.compress_type not in _METHODS:
        return f"packed by an unknown method ({info.compress_type})"
    return ""
