"""The journal of one change, which becomes its entry in the history."""

from __future__ import annotations

import re
import shutil
from collections.abc import Sequence
from pathlib import Path

import msgspec
from msgspec import Struct

from hookset.applying.seal import Seal, own_seal
from hookset.config.sheets import read_record
from hookset.model import CouldNotError
from hookset.project import OUR_FOLDER, our_folder
from hookset.trees import unsafe_reason

__all__ = [
    "HISTORY",
    "JOURNAL",
    "WORK",
    "JournalEntry",
    "Room",
    "Step",
    "forget",
    "history",
    "history_size",
    "is_own",
    "next_id",
    "read_journal",
    "signed",
    "standing",
]

WORK = f"{OUR_FOLDER}/work"
HISTORY = f"{OUR_FOLDER}/history"
JOURNAL = "journal.json"
_ID = re.compile(r"[0-9]{1,12}")
_SHA256 = re.compile(r"[0-9a-f]{64}")


class Step(Struct, frozen=True, kw_only=True):
    """One file of a change. Its old bytes are `old/N`, its new ones `new/N` until they are in place."""

    path: str
    before: str | None
    """SHA-256 of the old bytes; None where there was no file."""
    after: str | None
    mode: int | None = None
    """Of the old file."""
    mtime_ns: int | None = None


class JournalEntry(Struct, frozen=True, kw_only=True):
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
    signature: str = ""
    """By the secret of the user whose run it was: see `seal.py`."""


def _signed_bytes(entry: JournalEntry) -> bytes:
    return msgspec.json.encode(msgspec.structs.replace(entry, signature=""))


def signed(entry: JournalEntry, seal: Seal | None = None) -> JournalEntry:
    """The journal with this user's signature."""
    return msgspec.structs.replace(entry, signature=(seal or own_seal()).sign(_signed_bytes(entry)))


def is_own(entry: JournalEntry, seal: Seal | None = None) -> bool:
    """Whether a run of this user on this machine wrote it, and nobody has changed it since."""
    return bool(entry.signature) and (seal or own_seal()).verifies(_signed_bytes(entry), entry.signature)


def read_journal(folder: Path) -> JournalEntry | None:
    """The journal in a folder of work or history; None where there is none. Raises CouldNotError when it is damaged
    or says something that no journal of ours says."""
    file = folder / JOURNAL
    why = "what the change did, and how to take it back, stands only there"
    remedy = f"restore {OUR_FOLDER} from a copy of the map, or remove {folder} to do without it"
    if file.is_symlink() or not file.is_file():
        if not file.is_symlink() and not file.exists():
            return None
        raise CouldNotError(
            "journal-damaged", "the journal of a change is no plain file", where=str(file), why=why, remedy=remedy
        )
    try:
        data = file.read_bytes()
    except OSError as error:
        raise CouldNotError(
            "journal-damaged",
            f"the journal of a change cannot be read: {error.strerror}",
            where=str(file),
            why=why,
            remedy=remedy,
        ) from error
    entry = read_record(data, JournalEntry, str(file), title="journal of a change", why=why, remedy=remedy)
    if mistakes := _mistakes(entry):
        raise CouldNotError(
            "journal-damaged",
            "the journal says what no journal of Hook Set says",
            where=str(file),
            details=tuple(mistakes[:10]),
            why="somebody has made or changed it by hand; following it could reach files outside of the map",
            remedy=f"do without it: remove {folder}",
        )
    return entry


def _mistakes(entry: JournalEntry) -> list[str]:
    found = [f"{path!r} is {reason}" for path in entry.made if (reason := unsafe_reason(path))]
    if _ID.fullmatch(entry.id) is None:
        found.append(f"its id is {entry.id!r}, which is no number")
    if entry.undoes and _ID.fullmatch(entry.undoes) is None:
        found.append(f"it takes back {entry.undoes!r}, which is no number")
    for step in entry.steps:
        reason = unsafe_reason(step.path)
        if reason:
            found.append(f"{step.path!r} is {reason}")
        if any(sha is not None and _SHA256.fullmatch(sha) is None for sha in (step.before, step.after)):
            found.append(f"{step.path!r} has a digest that is none")
        if step.mode is not None and not 0 <= step.mode <= 0o7777:
            found.append(f"{step.path!r} has a mode that is none")
        if step.mtime_ns is not None and not 0 <= step.mtime_ns < 1 << 63:
            found.append(f"{step.path!r} has a time that is none")
    if len({step.path for step in entry.steps}) < len(entry.steps):
        found.append("it names a file twice")
    return found


def _numbered(root: Path) -> list[Path]:
    """The folders of the history, the oldest first."""
    folder = our_folder(root) / "history"
    if not folder.is_dir():
        return []
    named = [one for one in folder.iterdir() if _ID.fullmatch(one.name) and one.is_dir() and not one.is_symlink()]
    return sorted(named, key=lambda one: int(one.name))


def history(root: Path) -> tuple[JournalEntry, ...]:
    """Every completed change, the oldest first."""
    entries: list[JournalEntry] = []
    for folder in _numbered(root):
        entry = read_journal(folder)
        if entry is not None and entry.id != folder.name:
            raise CouldNotError(
                "journal-damaged",
                f"the journal is that of change {entry.id}, in the folder of change {folder.name}",
                where=str(folder),
                why="the bytes to go back to would be those of another change",
                remedy=f"do without it: remove {folder}",
            )
        entries += [entry] if entry is not None else []
    return tuple(entries)


def standing(root: Path) -> tuple[JournalEntry, ...]:
    """The changes that were not taken back, the oldest first. Taking back is a change, and can be taken back itself."""
    gone: set[str] = set()
    found: list[JournalEntry] = []
    for entry in reversed(history(root)):
        if entry.id not in gone:
            found.append(entry)
            gone.add(entry.undoes)
    return tuple(reversed(found))


def next_id(root: Path) -> str:
    """Ids are numbers in the order of the changes."""
    return f"{max((int(one.name) for one in _numbered(root)), default=0) + 1:04d}"


class Room(Struct, frozen=True):
    """What the history takes on the disk."""

    changes: int
    """That can be taken back."""
    size: int
    """Bytes."""


def history_size(root: Path) -> Room:
    """How many changes keep their bytes from before, and how much room all of them take."""
    whole = [folder for folder in _numbered(root) if (folder / "old").is_dir()]
    files = (file for folder in whole for file in folder.rglob("*"))
    return Room(len(whole), sum(file.lstat().st_size for file in files if not file.is_symlink() and file.is_file()))


def forget(root: Path, keep: int) -> Sequence[str]:
    """Remove the bytes from before of all but the newest `keep` changes; gives the ids of those that lost them. Their
    journals stay: they say which folders are the tool's own. The caller holds the lock."""
    whole = [folder for folder in _numbered(root) if (folder / "old").is_dir() and not (folder / "old").is_symlink()]
    old = whole[: len(whole) - keep] if keep else whole
    for folder in old:
        shutil.rmtree(folder / "old")
    return [folder.name for folder in old]
