"""A zip archive with some members changed. Every other member keeps its packed bytes, its place and its date."""

from __future__ import annotations

import copy
import io
import shutil
import struct
import tempfile
import zipfile
from collections.abc import Mapping
from typing import IO, BinaryIO, cast

from msgspec import Struct

from hookset.model import CouldNotError
from hookset.trees.archives import ZipTree
from hookset.trees.content import Content

__all__ = ["Rezipped"]

_IN_MEMORY = 32 << 20
_SIZES_FOLLOW = 0x08
"""The flag of a member whose sizes stand behind its bytes (APPNOTE 4.4.4)."""
_EPOCH = (1980, 1, 1, 0, 0, 0)


class Rezipped(Struct, frozen=True):
    """`changes` over an archive; None takes a member out."""

    base: ZipTree
    changes: Mapping[str, Content | None]

    @property
    def size(self) -> int:
        with self.open() as stream:
            return stream.seek(0, io.SEEK_END)

    def read(self) -> bytes:
        with self.open() as stream:
            return stream.read()

    def open(self) -> BinaryIO:
        """Made again each time, on the disk when it is large. Raises CouldNotError for a damaged archive."""
        made = tempfile.SpooledTemporaryFile(max_size=_IN_MEMORY)  # noqa: SIM115 - the caller closes it
        try:
            with zipfile.ZipFile(self.base.file) as old, zipfile.ZipFile(cast(IO[bytes], made), "w") as new:
                self._fill(old, new)
                new.comment = old.comment
        except (zipfile.BadZipFile, struct.error, EOFError) as error:
            made.close()
            raise CouldNotError(
                "damaged-archive",
                "is a damaged zip archive",
                where=str(self.base.file),
                remedy="restore it from a copy",
            ) from error
        made.seek(0)
        return cast(BinaryIO, made)

    def _fill(self, old: zipfile.ZipFile, new: zipfile.ZipFile) -> None:
        paths = {info.orig_filename: path for path, info in self.base.infos.items()}
        for info in old.infolist():
            path = paths.get(info.orig_filename)
            if path is None or path not in self.changes:
                _copy(old, info, new)
            elif (content := self.changes[path]) is not None:
                _write(new, info, content)
        for path in sorted(self.changes.keys() - self.base.infos.keys()):
            if (content := self.changes[path]) is not None:
                info = zipfile.ZipInfo(self.base.top + path, _EPOCH)
                info.external_attr = 0o100644 << 16
                info.compress_type = zipfile.ZIP_DEFLATED
                _write(new, info, content)


def _write(new: zipfile.ZipFile, like: zipfile.ZipInfo, content: Content) -> None:
    info = zipfile.ZipInfo(like.filename, like.date_time)
    info.external_attr, info.compress_type, info.create_system = (
        like.external_attr,
        like.compress_type,
        like.create_system,
    )
    info.file_size = content.size
    with content.open() as source, new.open(info, "w") as member:
        shutil.copyfileobj(source, member, 1 << 20)


def _copy(old: zipfile.ZipFile, info: zipfile.ZipInfo, new: zipfile.ZipFile) -> None:
    """A member as it is packed. The library reads and writes members unpacked only, so this goes by the format."""
    source, target = cast(IO[bytes], old.fp), cast(IO[bytes], new.fp)
    source.seek(info.header_offset + 26)
    name, extra = struct.unpack("<HH", source.read(4))
    source.seek(info.header_offset + 30 + name + extra)
    moved = copy.copy(info)
    moved.flag_bits &= ~_SIZES_FOLLOW
    target.seek(new.start_dir)
    moved.header_offset = target.tell()
    target.write(moved.FileHeader())
    left = info.compress_size
    while left:
        chunk = source.read(min(left, 1 << 20))
        if not chunk:
            raise EOFError(f"{info.filename} ends too early")
        target.write(chunk)
        left -= len(chunk)
    new.start_dir = target.tell()
    new._didModify = True  # type: ignore[attr-defined]
    new.filelist.append(moved)
    new.NameToInfo[moved.filename] = moved
