"""Where our own files lie in a map's folder. Nothing there is ever part of the map."""

from __future__ import annotations

from pathlib import Path

__all__ = ["KEPT", "LEDGER", "OUR_FOLDER", "PROJECT_FILE", "find_root", "is_ours", "map_above"]

PROJECT_FILE = "hookset.toml"
OUR_FOLDER = ".hookset"
LEDGER = f"{OUR_FOLDER}/ledger.json"
KEPT = f"{OUR_FOLDER}/kept"
"""Files as they were set, by their SHA-256: what an upgrade compares the builder's changes to."""

_FIRST = (".", "h", "H")
"""With what paths of ours begin."""


def is_ours(path: str) -> bool:
    """Whether a path (of any letter case: some file systems do not tell) belongs to the tool."""
    if not path.startswith(_FIRST):
        return False
    first = path.split("/")[0].casefold()
    return first == OUR_FOLDER or path.casefold() == PROJECT_FILE


def map_above(place: Path) -> Path | None:
    """The nearest folder at or above `place` that has a hookset.toml; None where there is none."""
    for folder in (place, *place.parents):
        if (folder / PROJECT_FILE).is_file():
            return folder
    return None


def find_root(start: Path) -> Path | None:
    """The nearest folder at or above `start` (for a zip, its folder) that has a hookset.toml."""
    return map_above(start.parent if start.is_file() else start)
