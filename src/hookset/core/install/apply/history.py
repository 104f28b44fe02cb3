"""The journal of one change, which becomes its entry in the history."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from hookset.core.model import CouldNotError
from hookset.core.project import OUR_FOLDER
from hookset.core.sheets import read_record

__all__ = [
    "HISTORY",
    "JOURNAL",
    "WORK",
    "Entry",
    "Step",
    "history",
    "next_id",
    "read_journal",
    "standing",
]

WORK = f"{OUR_FOLDER}/work"
HISTORY = f"{OUR_FOLDER}/history"
JOURNAL = "journal.json"


class Step(Struct, frozen=True, kw_only=True):
    """One file of a change. Its old bytes are `old/N`, its new ones `new/N` until they are in place."""

    path: str
    before: str | None
    """SHA-256 of the old bytes; None where there was no file."""
    after: str | None
    mode: int | None = None
    """Of the old file."""
    mtime_ns: int | None = None


class Entry(Struct, frozen=True, kw_only=True):
    """One change of a map."""

    entry: int = 1
    """The version of this form."""
    id: str
    action: str
    """install, undo …"""
    title: str
    time: str
    """UTC, ISO 8601."""
    steps: tuple[Step, ...]
    made: tuple[str, ...] = ()
    """Folders that were not there before, outermost first."""
    back: bool = False
    """It could not be completed and is being taken back."""
    undoes: str = ""
    """The id of the change that this one took back."""


def read_journal(folder: Path) -> Entry | None:
    """The journal in a folder of work or history; None where there is none. Raises CouldNotError when damaged."""
    file = folder / JOURNAL
    why = "what the change did, and how to take it back, stands only there"
    remedy = "restore .hookset from a copy of the map; the bytes from before are in `old` beside it"
    try:
        data = file.read_bytes()
    except FileNotFoundError:
        return None
    except OSError as error:
        raise CouldNotError(
            f"the journal of a change cannot be read: {error.strerror}", where=str(file), why=why, remedy=remedy
        ) from error
    return read_record(data, Entry, str(file), title="journal of a change", why=why, remedy=remedy)


def history(root: Path) -> tuple[Entry, ...]:
    """Every completed change, the oldest first."""
    folder = root / HISTORY
    if not folder.is_dir():
        return ()
    entries = [read_journal(one) for one in sorted(folder.iterdir()) if one.is_dir()]
    return tuple(entry for entry in entries if entry is not None)


def standing(root: Path) -> tuple[Entry, ...]:
    """The changes that were not taken back, the oldest first. Taking back is a change, and can be taken back itself."""
    gone: set[str] = set()
    found: list[Entry] = []
    for entry in reversed(history(root)):
        if entry.id not in gone:
            found.append(entry)
            gone.add(entry.undoes)
    return tuple(reversed(found))


def next_id(root: Path) -> str:
    """Ids are numbers in the order of the changes."""
    folder = root / HISTORY
    taken = [int(one.name) for one in folder.iterdir() if one.name.isdigit()] if folder.is_dir() else []
    return f"{max(taken, default=0) + 1:04d}"
