"""A zip archive as a tree, opened as if its maker wished us harm.

Every member is looked at before any is read: where it would land, what it is, how large it says it is. The zip
format is that of PKWARE's APPNOTE 6.3; reading is done by the standard library.
"""

from __future__ import annotations

import stat
import zipfile
import zlib
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path
from typing import IO, BinaryIO, cast

from hookset.core.model import CouldNotError
from hookset.core.trees.paths import unsafe_reason

__all__ = ["Limits", "ZipTree", "open_zip"]

_METHODS = {zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED, zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA}


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """What an archive may ask of this machine."""

    members: int = 100_000
    unpacked_bytes: int = 16 << 30
    member_bytes: int = 8 << 30
    ratio: int = 1000
    """Unpacked over packed size of one member, counted from 10 MB on: text of blanks packs well, bombs pack better."""


@dataclass(frozen=True)
class ZipTree:
    """The files of an archive that `open_zip` found safe. Paths are below `top`."""

    file: Path
    infos: dict[str, zipfile.ZipInfo]
    top: str = ""
    """The folder of the archive that is seen; ends in `/` where it is not all of it."""

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
        except (zipfile.BadZipFile, OSError, NotImplementedError, RuntimeError) as error:
            raise _damaged(self.file, str(error), path) from error
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
        return ZipTree(self.file, inside, self.top + top)

    @cached_property
    def _archive(self) -> zipfile.ZipFile:
        return zipfile.ZipFile(self.file)


class _Checked:
    """A member's stream whose damage is told as ours: a wrong checksum shows only when its end is read."""

    def __init__(self, stream: IO[bytes], file: Path, path: str) -> None:
        self._stream = stream
        self._file = file
        self._path = path

    def read(self, size: int = -1) -> bytes:
        try:
            return self._stream.read(size)
        except (zipfile.BadZipFile, zlib.error, EOFError, OSError) as error:
            raise _damaged(self._file, str(error) or "it ends too early", self._path) from error

    def __enter__(self) -> _Checked:
        return self

    def __exit__(self, *_: object) -> None:
        self._stream.close()

    def close(self) -> None:
        self._stream.close()


_ENCRYPTED = 0x1
"""A flag of a member: APPNOTE.TXT 6.3, 4.4.4."""


def open_zip(file: Path, limits: Limits | None = None) -> ZipTree:
    """The archive as a tree. Raises CouldNotError naming every member that makes it unsafe."""
    limits = limits or Limits()
    try:
        with zipfile.ZipFile(file) as archive:
            members = archive.infolist()
    except (zipfile.BadZipFile, NotImplementedError, ValueError) as error:
        if _looks_like_zip(file):
            raise _damaged(file, str(error)) from error
        raise CouldNotError(
            "is not a zip archive",
            where=str(file),
            why="a pack is a folder or a zip; nothing else can be looked into safely",
            remedy="check that the download is complete and really is the pack, not a page about it",
        ) from error
    except OSError as error:
        raise CouldNotError(f"cannot be opened: {error.strerror or error}", where=str(file)) from error
    infos, bad = _judge_members(members, limits)
    locked = sum(info.flag_bits & _ENCRYPTED for info in members)
    if bad and locked == len(bad):
        raise CouldNotError(
            f"is locked: {locked} of its {len(members)} members are encrypted",
            where=str(file),
            why="what cannot be read can be neither checked nor edited",
            remedy="unlock it with what locked it, or use what it was made of",
        )
    if bad:
        raise CouldNotError(
            f"is not safe to open: {len(bad)} of its members would do harm",
            where=str(file),
            details=tuple(bad[:20]) + ((f"and {len(bad) - 20} more",) if len(bad) > 20 else ()),
            why="an archive like this writes where it should not or fills the disk; nothing of it was unpacked",
            remedy="ask its author for a clean one; what is fine in it can be put into a folder by hand",
        )
    return ZipTree(file, dict(sorted(infos.items())))


def _judge_members(members: list[zipfile.ZipInfo], limits: Limits) -> tuple[dict[str, zipfile.ZipInfo], list[str]]:
    infos: dict[str, zipfile.ZipInfo] = {}
    folded: dict[str, str] = {}
    bad: list[str] = []
    if len(members) > limits.members:
        bad.append(f"{len(members):,} members; the limit is {limits.members:,}")
    if (total := sum(info.file_size for info in members)) > limits.unpacked_bytes:
        bad.append(f"{total:,} bytes when unpacked; the limit is {limits.unpacked_bytes:,}")
    for info in members:
        # `orig_filename` is the name as stored: the library cuts `filename` at a NUL and turns separators around.
        path = info.orig_filename.replace("\\", "/")
        folder = path.endswith("/")
        path = path.rstrip("/") if folder else path
        if reason := _member_reason(info, path, limits):
            bad.append(f"{info.orig_filename!r}: {reason}")
        elif not folder:
            if (other := folded.setdefault(path.casefold(), path)) != path:
                bad.append(f"{path!r}: differs from {other!r} in letter case only; one of them would be lost")
            elif path in infos:
                bad.append(f"{path!r}: there twice")
            infos[path] = info
    return infos, bad


def _member_reason(info: zipfile.ZipInfo, path: str, limits: Limits) -> str | None:
    if reason := unsafe_reason(path):
        return reason
    mode = info.external_attr >> 16
    if stat.S_ISLNK(mode):
        return "a link"
    if stat.S_IFMT(mode) not in (0, stat.S_IFREG, stat.S_IFDIR):
        return "a device, not a file"
    if info.flag_bits & _ENCRYPTED:
        return "encrypted"
    if info.compress_type not in _METHODS:
        return f"packed by an unknown method ({info.compress_type})"
    if info.file_size > limits.member_bytes:
        return f"{info.file_size:,} bytes when unpacked; the limit is {limits.member_bytes:,}"
    if info.file_size > 10_000_000 and info.file_size > limits.ratio * max(info.compress_size, 1):
        return f"{info.compress_size:,} bytes that unpack to {info.file_size:,}: made to fill a disk"
    return None


def _looks_like_zip(file: Path) -> bool:
    with file.open("rb") as stream:
        return stream.read(4) in (b"PK\x03\x04", b"PK\x05\x06", b"PK\x07\x08")


def _damaged(file: Path, error: str, member: str = "") -> CouldNotError:
    return CouldNotError(
        f"is a damaged zip archive: {f'{member}: ' if member else ''}{error}",
        where=str(file),
        why="parts of the pack would be missing without a word",
        remedy="download it again; if it stays so, tell its author",
    )
