"""Taking back a change: the bytes, modes and times that were there before it."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from hookset.applying.change import Change
from hookset.applying.history import HISTORY, JournalEntry, is_own, standing
from hookset.model import CouldNotError, RefusedError
from hookset.packs.control import control_reason
from hookset.project import is_ours, real_place
from hookset.trees import FolderTree, Member, sha256_of

__all__ = ["UndoPlan", "plan_redo", "plan_undo"]


class UndoPlan(Struct, frozen=True):
    """What undoing would do."""

    entry: JournalEntry
    changes: tuple[Change, ...]


def plan_undo(root: Path, *, of_others: bool = False) -> UndoPlan:
    """Undo the newest change that stands. Raises RefusedError when there is none, when files changed since, or when it
    is not this user's and `of_others` is not said."""
    entry = next((one for one in reversed(standing(root)) if not one.undoes), None)
    if entry is None:
        raise RefusedError(
            "nothing-to-undo",
            "there is nothing to undo",
            where=str(root),
            remedy="only what hookset itself changed in this map can be undone",
        )
    return _plan(root, entry, of_others)


def plan_redo(root: Path, *, of_others: bool = False) -> UndoPlan:
    """Take back the last undo. Raises RefusedError when there is none, or when something was changed after it."""
    newest = next((one for one in reversed(standing(root)) if one.action != "redo"), None)
    if newest is None or not newest.undoes:
        raise RefusedError(
            "nothing-to-undo",
            "there is no undo to take back",
            where=str(root),
            why="only what was undone last, with nothing changed by hookset since, can be done again",
            remedy="run again what you want to have done again",
        )
    return _plan(root, newest, of_others)


def _plan(root: Path, entry: JournalEntry, of_others: bool) -> UndoPlan:
    place = root / HISTORY / entry.id
    _judge(root, entry, of_others)
    if not (place / "old").is_dir() or (place / "old").is_symlink():
        raise RefusedError(
            "bytes-not-kept",
            f"{entry.title} cannot be undone: the bytes from before it are no longer kept",
            where=str(place),
            why="older changes were forgotten to make room",
            remedy="`hookset remove NAME` takes a pack out without them",
        )
    old = FolderTree(place / "old")
    now = FolderTree(root)
    changes: list[Change] = []
    edited: list[str] = []
    for number, step in enumerate(entry.steps):
        target = root / step.path
        current = sha256_of(Member(now, step.path)) if target.is_file() else None
        if current != step.after:
            edited.append(f"{step.path} ({'changed by hand' if current else 'deleted'} since)")
        after = None if step.before is None else Member(old, str(number))
        if after is not None and (not old.has(after.path) or sha256_of(after) != step.before):
            raise CouldNotError(
                "bytes-not-kept",
                f"the bytes from before are gone or are others: {step.path}",
                where=str(place),
                why="what would be put back is not what was there",
                remedy="restore .hookset/history from a copy of the map",
            )
        changes.append(Change(path=step.path, before=step.after, after=after, mode=step.mode, mtime_ns=step.mtime_ns))
    if edited:
        raise RefusedError(
            "changed-by-you",
            f"{entry.title} cannot be undone as a whole: files that it wrote were changed afterwards",
            details=tuple(edited),
            why="undoing would lose what was changed since",
            remedy=_other_way(entry),
        )
    return UndoPlan(entry, tuple(changes))


def _judge(root: Path, entry: JournalEntry, of_others: bool) -> None:
    """Raises RefusedError for a change that this user did not make, and for what no change may write."""
    own = is_own(entry)
    places = {step.path: real_place(root, step.path) for step in entry.steps}
    refused = [f"{path} {place.refused}" for path, place in places.items() if place.refused]
    if not own:
        refused += (f"{path} is {reason}" for path in places if not is_ours(path) and (reason := control_reason(path)))
    if refused:
        raise RefusedError(
            "path-outside-map",
            f"{entry.title} cannot be undone: it names files that are no part of the map",
            details=tuple(refused),
            why="somebody has made or changed the history by hand",
            remedy=f"remove {HISTORY}/{entry.id} to do without it",
        )
    if not own and not of_others:
        raise RefusedError(
            "change-not-yours",
            f"{entry.title} was not done by you on this machine",
            where=f"{HISTORY}/{entry.id}",
            details=tuple(places)[:20],
            why="undoing it would write what somebody else has put into the map's folder",
            remedy="if you trust whoever gave you the map: hookset undo --of-others",
        )


def _other_way(entry: JournalEntry) -> str:
    """What does the same and carries changes over."""
    if entry.action == "install":
        names = entry.title.removeprefix("install ").replace(",", "")
        return f"`hookset remove {names}` takes out what was set and keeps what you changed"
    return "copy your changes elsewhere and put these files back as they were, then undo"
