"""A pack that was made here, as a folder: all of it, or nothing."""

from __future__ import annotations

import secrets
import shutil
from collections.abc import Mapping
from pathlib import Path

from hookset.model import CouldNotError, RefusedError
from hookset.trees import Content

__all__ = ["save_pack"]


def save_pack(files: Mapping[str, Content], folder: Path) -> None:
    """Write the files into a new folder. Raises RefusedError where there is something already, CouldNotError where it
    cannot be written; then nothing is left of it."""
    if folder.exists():
        raise RefusedError(
            "file-exists",
            "there is something of that name already",
            where=str(folder),
            why="it would be lost, or be mixed up with the new pack",
            remedy="name another folder with --out, or move that one away",
        )
    part = folder.with_name(f".{folder.name}.{secrets.token_hex(6)}")
    try:
        for path, content in files.items():
            target = part / path
            target.parent.mkdir(parents=True, exist_ok=True)
            with content.open() as source, target.open("wb") as stream:
                shutil.copyfileobj(source, stream)
        part.replace(folder)
    except OSError as error:
        raise CouldNotError(
            "not-writable",
            f"cannot be written: {error.strerror or error}",
            where=str(folder),
            remedy="name a folder that can be written to",
        ) from error
    finally:
        shutil.rmtree(part, ignore_errors=True)
