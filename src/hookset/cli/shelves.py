"""Packs by the name of a file, or by their name on the shelf."""

from __future__ import annotations

from pathlib import Path

from platformdirs import user_data_path

from hookset.model import WrongUseError
from hookset.packs.shelf import taken
from hookset.project import PROJECT_FILE

__all__ = ["shelf_root", "source_of"]


def shelf_root() -> Path:
    """The user's shelf."""
    return user_data_path("hookset", appauthor=False) / "shelf"


def source_of(asked: Path) -> Path:
    """The file or folder, if there is one of that name; otherwise the pack of that name on the shelf.

    Raises WrongUseError where there is neither.
    """
    if not asked.name:
        # `.` and an empty name: a folder has a name of its own, which the sheet beside it is called after.
        asked = asked.resolve()
    if (asked / PROJECT_FILE).is_file():
        raise WrongUseError(
            "unexpected-content",
            "is a map project, not a pack",
            where=str(asked),
            remedy="name a pack: a folder or an archive; an object is taken out of another map with `hookset lift`",
        )
    if asked.exists() or len(asked.parts) != 1:
        return asked
    return taken(shelf_root(), str(asked))
