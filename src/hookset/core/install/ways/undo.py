"""Taking back a change: the bytes, modes and times that were there before it."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from hookset.core.install.apply.history import HISTORY, Entry, standing
from hookset.core.install.planned.change import Change
from hookset.core.model import CouldNotError, RefusedError
from hookset.core.trees import FolderTree, Member, sha256_of

__all__ = ["UndoPlan", "plan_redo", "plan_undo"]


@dataclass(frozen=True, slots=True)
class UndoPlan:
    """What undoing would do."""

    entry: Entry
    changes: tuple[Change, ...]


def plan_undo(root: Path) -> UndoPlan:
    """Undo the newest change that stands. Raises RefusedError when there is none, or when files changed since."""
    entry = next((one for one in reversed(standing(root)) if not one.undoes), None)
    if entry is None:
        raise RefusedError(
            "there is nothing to undo",
            where=str(root),
            remedy="only what hookset itself changed in this map can be undone",
        )
    return _plan(root, entry)


def plan_redo(root: Path) -> UndoPlan:
    """Take back the last undo. Raises RefusedError when there is none, or when something was changed after it."""
    newest = next((one for one in reversed(standing(root)) if one.action != "redo"), None)
    if newest is None or not newest.undoes:
        raise RefusedError(
            "there is no undo to take back",
            where=str(root),
            why="only what was undone last, with nothing changed by hookset since, can be done again",
            remedy="run again what you want to have done again",
        )
    return _plan(root, newest)


def _plan(root: Path, entry: Entry) -> UndoPlan:
    old = FolderTree(root / HISTORY / entry.id / "old")
    now = FolderTree(root)
    changes: list[Change] = []
    edited: list[str] = []
    for number, step in enumerate(entry.steps):
        target = root / step.path
        current = sha256_of(Member(now, step.path)) if target.is_file() else None
        if current != step.after:
            edited.append(f"{step.path} ({'changed by hand' if current else 'deleted'} since)")
        after = None if step.before is None else Member(old, str(number))
        if after is not None and not old.has(after.path):
            raise CouldNotError(
                f"the bytes from before are gone: {step.path}",
                where=str(root / HISTORY / entry.id),
                remedy="restore .hookset/history from a copy of the map",
            )
        changes.append(Change(path=step.path, before=step.after, after=after, mode=step.mode, mtime_ns=step.mtime_ns))
    if edited:
        raise RefusedError(
            f"{entry.title} cannot be undone as a whole: files that it wrote were changed afterwards",
            details=tuple(edited),
            why="undoing would lose what was changed since",
            remedy=_other_way(entry),
        )
    return UndoPlan(entry, tuple(changes))


def _other_way(entry: Entry) -> str:
    """What does the same and carries changes over."""
    if entry.action == "install":
        names = entry.title.removeprefix("install ").replace(",", "")
        return f"`hookset remove {names}` takes out what was set and keeps what you changed"
    return "copy your changes elsewhere and put these files back as they were, then undo"
