"""Writing one file that a command was asked for: a report, a text, a list. Whole or not at all, and through no link."""

from __future__ import annotations

import contextlib
import os
import secrets
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

from hookset.model import CouldNotError, RefusedError
from hookset.project.inside import real_place
from hookset.trees.ours import OUR_FOLDER, map_above

__all__ = ["replacing", "save_file", "saved_in_map"]


def saved_in_map(root: Path, path: str, remedy: str) -> Path:
    """Where a file of the map would be written. Raises RefusedError for a path that leads out of it or through a
    link: somebody else may have made the map."""
    place = real_place(root, path)
    if place.refused or place.path != path:
        raise RefusedError(
            "link",
            f"{path} {place.refused or 'leads through a link'}",
            where=str(root),
            why="what the map's own files say, and links in it, may not make Hook Set write somewhere else",
            remedy=remedy,
        )
    return root / path


@contextlib.contextmanager
def replacing(file: Path) -> Iterator[BinaryIO]:
    """A stream to a new file, which takes the place of `file` once all is written; without that, nothing is changed.
    Nobody can have planted a link where the new file begins: its name is random. Raises OSError."""
    file.parent.mkdir(parents=True, exist_ok=True)
    if file.is_dir():
        raise IsADirectoryError(21, "there is a folder of that name")
    fresh = file.with_name(f".{file.name[:100]}.{secrets.token_hex(6)}")
    try:
        with fresh.open("xb") as stream:
            yield stream
        fresh.replace(file)
    finally:
        fresh.unlink(missing_ok=True)


def save_file(file: Path, data: bytes) -> None:
    """Write a file in place of the one that is there; folders that it needs are made.

    Raises RefusedError where it lies in a map and leads out of it through a link, CouldNotError where it cannot be
    written; then nothing has changed.
    """
    # Links stay in it: whether it leads through one is what is looked at.
    whole = Path(os.path.abspath(file))  # noqa: PTH100
    root = map_above(whole.parent)
    if root is not None and OUR_FOLDER not in whole.relative_to(root).parts:
        saved_in_map(root, whole.relative_to(root).as_posix(), "name a file in a real folder")
    try:
        with replacing(whole) as stream:
            stream.write(data)
    except OSError as error:
        raise CouldNotError(
            "not-writable",
            f"cannot be written: {error.strerror or error}",
            where=str(file),
            why="nothing was changed",
            remedy="name a file in a folder that can be written to, with room on its disk",
        ) from error
