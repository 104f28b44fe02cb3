"""What tells a file from what it was, without a look into it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from pathlib import Path

__all__ = ["states_of"]


def states_of(files: Iterable[Path]) -> Mapping[Path, tuple[int, int] | None]:
    """(bytes, nanoseconds of the last change) of each file; None for one that is not there."""
    return {file: _state(file) for file in files}


def _state(file: Path) -> tuple[int, int] | None:
    try:
        found = file.stat()
    except OSError:
        return None
    return found.st_size, found.st_mtime_ns
