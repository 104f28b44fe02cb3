"""Opening a file that somebody named. A device, a pipe or a socket is refused at once: reading it may never end."""

from __future__ import annotations

import os
import stat
from pathlib import Path
from typing import BinaryIO

from hookset.model import Code, CouldNotError

__all__ = ["open_regular", "read_regular"]

_KINDS = (
    (stat.S_ISDIR, "a folder"),
    (stat.S_ISFIFO, "a pipe"),
    (stat.S_ISSOCK, "a socket"),
    (stat.S_ISCHR, "a device"),
    (stat.S_ISBLK, "a device"),
)


def open_regular(file: Path, why: str = "", remedy: str = "name a plain file") -> BinaryIO:
    """The file, opened for reading. Raises CouldNotError for one that is not there, cannot be read, or is none."""
    try:
        # Without waiting: opening a pipe that nobody writes to would not come back.
        handle = os.open(file, os.O_RDONLY | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_BINARY", 0))
    except (OSError, ValueError) as error:
        said = getattr(error, "strerror", None) or "it is no file's name"
        code: Code = "not-found" if isinstance(error, FileNotFoundError) else "unreadable-file"
        raise CouldNotError(code, f"cannot be read: {said}", where=str(file), why=why, remedy=remedy) from error
    mode = os.fstat(handle).st_mode
    if not stat.S_ISREG(mode):
        os.close(handle)
        kind = next((words for test, words in _KINDS if test(mode)), "no file")
        raise CouldNotError("no-plain-file", f"is {kind}, which is not read", where=str(file), why=why, remedy=remedy)
    return os.fdopen(handle, "rb")


def read_regular(file: Path, limit: int, why: str = "", remedy: str = "name a plain file") -> bytes:
    """The bytes of a file of at most `limit` bytes. Raises CouldNotError as `open_regular`, and for a larger one."""
    with open_regular(file, why, remedy) as stream:
        try:
            data = stream.read(limit + 1)
        except OSError as error:
            said = error.strerror or "it gives no bytes"
            raise CouldNotError(
                "unreadable-file", f"cannot be read: {said}", where=str(file), why=why, remedy=remedy
            ) from error
    if len(data) > limit:
        raise CouldNotError(
            "too-large",
            f"is larger than {limit >> 20} MB; such a file is not read",
            where=str(file),
            why=why,
            remedy=remedy,
        )
    return data
