"""Stage, journal, put in place, close; and what the next run does when this one was killed in between."""

from __future__ import annotations

import contextlib
import hashlib
import io
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

import msgspec

from hookset.core.install.apply.disk import Disk
from hookset.core.install.apply.history import HISTORY, JOURNAL, WORK, Entry, Step, history, next_id, read_journal
from hookset.core.install.planned.change import Change
from hookset.core.model import CouldNotError, RefusedError

__all__ = ["Recovery", "apply_changes", "recover"]


@dataclass(frozen=True, slots=True)
class Recovery:
    """What was found of an earlier run that did not end, and what became of it."""

    title: str
    completed: bool
    """True: the map is exactly as that run meant it. False: exactly as before it."""


def apply_changes(
    root: Path, changes: Sequence[Change], *, action: str, title: str, time: str, disk: Disk, undoes: str = ""
) -> Entry:
    """Write the changes, all or none of them. The caller holds the lock and has recovered.

    Raises RefusedError when a file is not as it was when the plan was made, CouldNotError when the disk does not
    let us; in both cases the map is as it was before.
    """
    work = root / WORK
    try:
        entry = _staged(root, work, changes, disk, action=action, title=title, time=time, undoes=undoes)
        _write_journal(work, entry, disk)
    except BaseException as error:
        _clear(work, disk)
        if isinstance(error, OSError):
            raise _disk_error(error) from error
        raise
    try:
        _forward(root, work, entry, disk)
        _close(root, work, entry, disk)
    except OSError as error:
        _give_up(root, work, entry, disk)
        raise _disk_error(error) from error
    return entry


def recover(root: Path, disk: Disk) -> Recovery | None:
    """Bring a change that was interrupted to an end. None when there is none."""
    work = root / WORK
    if not work.is_dir():
        return None
    entry = read_journal(work)
    try:
        if entry is None:
            # Nothing of the map had been touched yet.
            disk.remove_tree(work)
            return Recovery("a change", completed=False)
        if entry.back:
            _backward(root, work, entry, disk)
            return Recovery(entry.title, completed=False)
        _forward(root, work, entry, disk)
        _close(root, work, entry, disk)
        return Recovery(entry.title, completed=True)
    except OSError as error:
        raise CouldNotError(
            f"an earlier change ({entry.title if entry else 'not begun'}) was interrupted and cannot be brought to"
            f" an end: {error.strerror or error}",
            where=error.filename or str(work),
            why="until then the map is neither as before nor as after it",
            remedy="make room on the disk, or make the folder writable, and run any command again",
        ) from error


def _staged(
    root: Path,
    work: Path,
    changes: Sequence[Change],
    disk: Disk,
    *,
    action: str,
    title: str,
    time: str,
    undoes: str,
) -> Entry:
    disk.make_folder(work)
    disk.make_folder(work / "old")
    disk.make_folder(work / "new")
    steps: list[Step] = []
    moved: list[str] = []
    for number, change in enumerate(changes):
        target = root / change.path
        mode = mtime = None
        before = None
        if target.is_file():
            state = target.stat()
            mode, mtime = state.st_mode & 0o7777, state.st_mtime_ns
            with target.open("rb") as stream:
                before = disk.write(work / "old" / str(number), stream)
            disk.set_times_and_mode(work / "old" / str(number), mtime, mode)
        if before != change.before:
            moved.append(change.path)
        after = None
        if change.after is not None:
            with change.after.open() as stream:
                after = disk.write(work / "new" / str(number), stream)
            disk.set_times_and_mode(
                work / "new" / str(number), change.mtime_ns, change.mode if change.mode is not None else mode
            )
        steps.append(Step(path=change.path, before=before, after=after, mode=mode, mtime_ns=mtime))
    if moved:
        raise RefusedError(
            "another program changed files of the map in the meantime; nothing was written",
            details=tuple(moved),
            why="what was planned would overwrite that program's work",
            remedy="let it finish, and run this again",
        )
    disk.sync_folder(work / "old")
    disk.sync_folder(work / "new")
    return Entry(
        id=next_id(root),
        action=action,
        title=title,
        time=time,
        steps=tuple(steps),
        made=_folders_to_make(root, [step.path for step in steps if step.after is not None]),
        undoes=undoes,
    )


def _folders_to_make(root: Path, paths: Sequence[str]) -> tuple[str, ...]:
    parents = {str(parent) for path in paths for parent in PurePosixPath(path).parents if str(parent) != "."}
    return tuple(sorted(parent for parent in parents if not (root / parent).is_dir()))


def _write_journal(work: Path, entry: Entry, disk: Disk) -> None:
    fresh = work / f"{JOURNAL}.new"
    disk.write(fresh, io.BytesIO(msgspec.json.format(msgspec.json.encode(entry), indent=1) + b"\n"))
    disk.replace(fresh, work / JOURNAL)
    disk.sync_folder(work)


def _forward(root: Path, work: Path, entry: Entry, disk: Disk) -> None:
    """Put every new file in place. Whatever an interrupted run did already is left as it is."""
    for folder in entry.made:
        if not (root / folder).is_dir():
            disk.make_folder(root / folder)
    touched: set[Path] = set()
    for number, step in enumerate(entry.steps):
        target, new = root / step.path, work / "new" / str(number)
        if new.exists():
            disk.replace(new, target)
            touched.add(target.parent)
        elif step.after is None and target.is_file() and _sha256(target) == step.before:
            disk.remove(target)
            touched.add(target.parent)
    for parent in sorted(touched):
        disk.sync_folder(parent)
    _remove_empty(root, entry, disk)


def _remove_empty(root: Path, entry: Entry, disk: Disk) -> None:
    """Folders that were made for what goes out now, if nothing else has come into them."""
    gone = [step.path for step in entry.steps if step.after is None]
    made = {folder for past in history(root) for folder in past.made} if gone else set()
    left = {str(parent) for path in gone for parent in PurePosixPath(path).parents if str(parent) in made}
    for folder in sorted(left, key=len, reverse=True):
        path = root / folder
        if path.is_dir() and not any(path.iterdir()):
            disk.remove_folder(path)


def _close(root: Path, work: Path, entry: Entry, disk: Disk) -> None:
    """Everything is in place: one rename ends the change."""
    past = root / HISTORY
    if not past.is_dir():
        disk.make_folder(past)
    if (work / "new").is_dir():
        disk.remove_folder(work / "new")
    disk.replace(work, past / entry.id)
    # The change is complete. Should this last rename not survive a power cut, the next run does it once more.
    with contextlib.suppress(OSError):
        disk.sync_folder(past)


def _give_up(root: Path, work: Path, entry: Entry, disk: Disk) -> None:
    """It cannot be completed: take back what was done. Where even that fails, the next run goes on with it."""
    try:
        _write_journal(work, msgspec.structs.replace(entry, back=True), disk)
        _backward(root, work, entry, disk)
    except OSError as error:
        raise CouldNotError(
            f"the disk failed in the middle of a change, and again while taking it back: {error.strerror or error}",
            where=error.filename or str(work),
            why="until it is brought to an end the map is neither as before nor as after the change",
            remedy="make room on the disk, or make the folder writable, and run any command: it ends the change first",
        ) from error


def _backward(root: Path, work: Path, entry: Entry, disk: Disk) -> None:
    """Put every old file back, by renames and folders only: a full disk is no obstacle."""
    for number, step in enumerate(entry.steps):
        target, old = root / step.path, work / "old" / str(number)
        if old.exists():
            for folder in _folders_to_make(root, [step.path]):
                # It was empty already, and had gone.
                disk.make_folder(root / folder)
            disk.replace(old, target)
        elif step.before is None and target.is_file() and _sha256(target) == step.after:
            disk.remove(target)
    for folder in reversed(entry.made):
        path = root / folder
        if path.is_dir() and not any(path.iterdir()):
            disk.remove_folder(path)
    disk.remove_tree(work)


def _sha256(path: Path) -> str:
    with path.open("rb") as stream:
        return hashlib.file_digest(stream, "sha256").hexdigest()


def _clear(work: Path, disk: Disk) -> None:
    """Staging failed: nothing of the map was touched. What cannot be cleared now, the next run clears."""
    try:
        if work.is_dir():
            disk.remove_tree(work)
    except OSError:
        return


def _disk_error(error: OSError) -> CouldNotError:
    return CouldNotError(
        f"the change could not be written: {error.strerror or error}",
        where=error.filename or "",
        why="the map is exactly as it was before",
        remedy="make room on the disk, or make the file and its folder writable, and run this again",
    )
