"""Where our own files lie in a map's folder. Nothing there is ever part of the map."""

from __future__ import annotations

__all__ = ["KEPT", "LEDGER", "OUR_FOLDER", "PROJECT_FILE", "is_ours"]

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
