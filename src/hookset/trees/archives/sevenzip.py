"""7z archives, read by the package py7zr where that is installed."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from msgspec import Struct

from hookset.model import CouldNotError
from hookset.trees.archives.judging import Limits, Listed, damaged, judged, locked
from hookset.trees.archives.sliced import SlicedTree
from hookset.trees.archives.source import Source, temporary
from hookset.trees.room import need_room

__all__ = ["MAGIC", "open_sevenzip"]

MAGIC = b"7z\xbc\xaf\x27\x1c"


def open_sevenzip(file: Path, source: Source, size: int, limits: Limits) -> SlicedTree:
    """The archive as a tree. Its files are packed together, so that all of them are unpacked, into one temporary file
    without a name. Raises CouldNotError."""
    try:
        import py7zr
        from py7zr.exceptions import PasswordRequired
    except ImportError:
        raise CouldNotError(
            "package-missing",
            "is a 7z archive, which the package py7zr reads; it is not installed here",
            where=str(file),
            remedy="install it into the same environment: pip install 'hookset[sevenzip]'; or unpack the archive into a"
            " folder, and name that",
        ) from None
    unpacked = _Unpacked(file, temporary(), {}, {})
    source.stream.seek(0)
    try:
        with py7zr.SevenZipFile(source.stream) as archive:
            if archive.needs_password():
                raise locked(file, "its members are encrypted")
            unpacked.files.update(judged(file, _listed(archive), limits))
            total = sum(member.size for member in unpacked.files.values())
            if limits.too_dense(size, total):
                judged(file, [Listed(name=file.stem or "content", size=total, packed=size)], limits)
            need_room(Path(tempfile.gettempdir()), total, f"unpacking {file.name}")
            archive.extractall(factory=_writers(unpacked))
    except PasswordRequired as error:
        raise locked(file, "its members are encrypted") from error
    except CouldNotError:
        raise
    except Exception as error:
        # The package lets whatever its decoders say of damaged data come through: theirs are not ours to list.
        raise damaged(file, "7z", "its bytes cannot be unpacked") from error
    unpacked.target.stream.flush()
    for path, member in unpacked.files.items():
        if unpacked.slices.get(path, (0, 0))[1] != member.size:
            raise damaged(file, "7z", "it ends too early", path)
    return SlicedTree(file, unpacked.target, {path: unpacked.slices.get(path, (0, 0)) for path in unpacked.files})


class _Unpacked(Struct, frozen=True):
    """What comes out of an archive, all of it in one file."""

    archive: Path
    target: Source
    slices: dict[str, tuple[int, int]]
    """Where each member begins, and how long it is."""
    files: dict[str, Listed]


def _writers(unpacked: _Unpacked) -> Any:
    """What py7zr writes the members with."""
    from py7zr.io import Py7zIO, WriterFactory

    class Writer(Py7zIO):
        """Appends to the one file, and stops at what the archive's list had said."""

        def __init__(self, name: str, most: int) -> None:
            self.start = unpacked.target.stream.tell()
            self.name = name
            self.most = most
            self.written = 0

        def write(self, data: bytes | bytearray) -> int:
            self.written += len(data)
            if self.written > self.most:
                raise damaged(unpacked.archive, "7z", "more of it than its list says", self.name)
            unpacked.target.stream.write(data)
            unpacked.slices[self.name] = (self.start, self.written)
            return len(data)

        def read(self, size: int | None = None) -> bytes:  # noqa: ARG002
            return b""

        def seek(self, offset: int, whence: int = 0) -> int:  # noqa: ARG002
            return 0

        def flush(self) -> None:
            pass

        def size(self) -> int:
            return self.written

    class Writers(WriterFactory):
        def create(self, filename: str) -> Writer:
            name = _stored(filename)
            unpacked.slices[name] = (unpacked.target.stream.tell(), 0)
            return Writer(name, unpacked.files[name].size if name in unpacked.files else 0)

    return Writers()


def _stored(filename: str) -> str:
    return filename.replace("\\", "/")


def _listed(archive: object) -> Iterator[Listed]:
    for info in archive.list():  # type: ignore[attr-defined]
        reason = "a link" if info.is_symlink else "" if info.is_file or info.is_directory else "not a file"
        yield Listed(
            name=info.filename + ("/" if info.is_directory else ""),
            size=info.uncompressed or 0,
            folder=info.is_directory,
            reason=reason,
        )
