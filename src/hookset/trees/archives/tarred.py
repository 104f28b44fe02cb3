"""tar archives (POSIX pax, ustar and GNU forms), plain or packed by gzip, bzip2 or xz."""

from __future__ import annotations

import bz2
import gzip
import lzma
import tarfile
import tempfile
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import IO, BinaryIO, cast

from hookset.trees.archives.judging import Limits, Listed, damaged, judged
from hookset.trees.archives.sliced import SlicedTree
from hookset.trees.archives.source import Source, temporary
from hookset.trees.room import need_room

__all__ = ["PACKED", "open_tar", "tar_magic"]

PACKED = {b"\x1f\x8b": "gzip", b"BZh": "bzip2", b"\xfd7zXZ\x00": "xz"}
"""What a packed stream begins with."""
_CHUNK = 1 << 20
_WATCHED = 256 << 20
"""Bytes between two looks at the room on the disk."""
_HEADER = 1 << 20
"""Bytes that the name of one member may take; what says that it takes more is no tar that somebody made."""
_KINDS = {
    tarfile.SYMTYPE: "a link",
    tarfile.LNKTYPE: "a link",
    tarfile.CHRTYPE: "a device, not a file",
    tarfile.BLKTYPE: "a device, not a file",
    tarfile.FIFOTYPE: "a pipe, not a file",
    tarfile.GNUTYPE_SPARSE: "a file with holes, which can grow without end",
}


def tar_magic(head: bytes) -> bool:
    """Whether a file that begins so (at least 512 bytes) is a tar."""
    return head[257:262] == b"ustar" or (len(head) >= 512 and _old_style(head))


def _old_style(head: bytes) -> bool:
    """A tar of before POSIX says nothing of itself but its first member's checksum."""
    try:
        return tarfile.nti(head[148:156]) in tarfile.calc_chksums(head[:512]) and any(head[:100])  # type: ignore[attr-defined]
    except tarfile.TarError:
        return False


class _Careful:
    """A stream that refuses to give much at once: only headers are read while listing, never contents."""

    def __init__(self, stream: BinaryIO) -> None:
        self._stream = stream

    def read(self, size: int = -1) -> bytes:
        if not 0 <= size <= _HEADER:
            raise tarfile.ReadError(f"a header of {size:,} bytes")
        return self._stream.read(size)

    def seek(self, offset: int, whence: int = 0) -> int:
        return self._stream.seek(offset, whence)

    def tell(self) -> int:
        return self._stream.tell()


def open_tar(file: Path, source: Source, size: int, limits: Limits) -> SlicedTree | None:
    """The archive as a tree; None for a packed stream that is no tar. Raises CouldNotError."""
    packing = next((name for magic, name in PACKED.items() if _begins(source.stream, magic)), None)
    if packing is not None:
        source, size = _unpacked(file, source.stream, size, packing, limits)
        source.stream.seek(0)
        if not tar_magic(source.stream.read(512)):
            return None
    slices: dict[str, tuple[int, int]] = {}
    files = judged(file, _listed(file, source.stream, size, slices), limits)
    return SlicedTree(file, source, {path: slices[member.name] for path, member in files.items()})


def _begins(stream: BinaryIO, magic: bytes) -> bool:
    stream.seek(0)
    return stream.read(len(magic)) == magic


def _listed(file: Path, stream: BinaryIO, size: int, slices: dict[str, tuple[int, int]]) -> Iterator[Listed]:
    stream.seek(0)
    try:
        archive = tarfile.TarFile(fileobj=cast(IO[bytes], _Careful(stream)), errorlevel=1)
        for member in archive:
            # A list of its own would hold all of them in memory once more.
            archive.members = []  # type: ignore[attr-defined]
            name = member.name + ("/" if member.isdir() else "")
            reason = _KINDS.get(member.type, "" if member.isreg() or member.isdir() else "not a file of a kind we know")
            if member.sparse:
                reason = _KINDS[tarfile.GNUTYPE_SPARSE]
            if not reason and member.isreg() and member.offset_data + member.size > size:
                raise damaged(file, "tar", "it ends too early", member.name)
            slices.setdefault(name, (member.offset_data, member.size))
            yield Listed(name=name, size=member.size, folder=member.isdir(), reason=reason)
    except (tarfile.TarError, EOFError, OSError, UnicodeError, ValueError, OverflowError) as error:
        raise damaged(file, "tar", "its list cannot be read") from error


def _unpacked(file: Path, stream: BinaryIO, size: int, packing: str, limits: Limits) -> tuple[Source, int]:
    """The stream without its packing, in a temporary file that has no name. Stops as soon as it is too much."""
    stream.seek(0)
    target = temporary()
    total = watched = 0
    try:
        with _reader(packing, stream) as packed:
            while chunk := packed.read(_CHUNK):
                total += len(chunk)
                if limits.too_dense(size, total) or total > limits.unpacked_bytes:
                    judged(file, [Listed(name=file.stem or "content", size=total, packed=size)], limits)
                    raise damaged(file, packing, f"more than {limits.unpacked_bytes:,} bytes when unpacked")
                if total >= watched:
                    # How large it will be is known to its maker only.
                    need_room(Path(tempfile.gettempdir()), _WATCHED, f"unpacking {file.name}")
                    watched = total + _WATCHED
                target.stream.write(chunk)
    except (OSError, EOFError, zlib.error, lzma.LZMAError) as error:
        raise damaged(file, packing, "it ends too early, or its bytes are wrong") from error
    target.stream.flush()
    return target, total


def _reader(packing: str, stream: BinaryIO) -> BinaryIO:
    if packing == "gzip":
        return cast(BinaryIO, gzip.open(stream, "rb"))
    return cast(BinaryIO, bz2.open(stream, "rb") if packing == "bzip2" else lzma.open(stream, "rb"))
