"""Packs by the name of a file, or by their name on the shelf."""

from __future__ import annotations

from pathlib import Path

from platformdirs import user_data_path

from hookset.core.packs.shelf import taken

__all__ = ["shelf_root", "source_of"]


def shelf_root() -> Path:
    """The user's shelf."""
    return user_data_path("hookset", appauthor=False) / "shelf"


def source_of(asked: Path) -> Path:
    """The file or folder, if there is one of that name; otherwise the pack of that name on the shelf.

    Raises WrongUseError where there is neither.
    """
    if asked.exists() or len(asked.parts) != 1:
        return asked
    return taken(shelf_root(), str(asked))
