"""Room on a disk, looked at before something large is written to it."""

from __future__ import annotations

import shutil
from pathlib import Path

from hookset.model import CouldNotError

__all__ = ["need_room"]

_SPARE = 64 << 10
"""Bytes that are left to others."""


def need_room(place: Path, size: int, what: str) -> None:
    """Raises CouldNotError where the disk of a folder has no room for so many bytes; `what` they are for."""
    try:
        free = shutil.disk_usage(place).free
    except OSError:
        return
    if free < size + _SPARE:
        raise CouldNotError(
            "disk-full",
            f"the disk has {free >> 10:,} kB free, and {what} takes {size >> 10:,} kB",
            where=str(place),
            why="a full disk stops this program and others in the middle of their work; nothing was changed",
            remedy="make room on the disk",
        )
