"""Taking back a change: the bytes, modes and times that were there before it."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from hookset.core.install.apply.history import HISTORY, Entry, latest_standing
from hookset.core.install.change import Change
from hookset.core.model import CouldNotError, RefusedError
from hookset.core.trees import FolderTree, Member, sha256_of

__all__ = ["UndoPlan", "plan_undo"]


@dataclass(frozen=True, slots=True)
class UndoPlan:
    """What undoing would do."""

    entry: Entry
    changes: tuple[Change, ...]


def plan_undo(root: Path) -> UndoPlan:
    """Undo the newest change that stands. Raises RefusedError when there is none, or when files changed since."""
    entry = latest_standing(root)
    if entry is None:
        raise RefusedError(
            "there is nothing to undo",
            where=str(root),
            remedy="only what hookset itself changed in this map can be undone",
        )
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
            remedy="copy your changes elsewhere and put these files back as they were, or take the entries out by hand",
        )
    return UndoPlan(entry, tuple(changes))
