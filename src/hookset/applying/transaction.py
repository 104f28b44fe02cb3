"""Stage, journal, put in place, close. What the next run does when this one was killed in between is in `recovery`."""

from __future__ import annotations

import contextlib
import hashlib
import io
import os
from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from pathlib import Path, PurePosixPath

import msgspec

from hookset.applying.change import Change
from hookset.applying.disk import Disk
from hookset.applying.history import HISTORY, JOURNAL, WORK, JournalEntry, Step, history, next_id, signed
from hookset.model import CouldNotError, RefusedError
from hookset.project import our_folder, real_place
from hookset.trees.room import need_room

__all__ = ["apply_changes", "close", "current", "put_back", "put_in_place", "write_journal"]

_Stamp = tuple[int, int, int] | None
"""Size, number and time of a file; None for none. As long as it is the same, so are the bytes."""


class _EditedError(Exception):
    """Another program has written a file between the plan and the moment it was to be replaced."""

    def __init__(self, path: str) -> None:
        super().__init__(path)
        self.path = path


def apply_changes(
    root: Path, changes: Sequence[Change], *, action: str, title: str, time: str, disk: Disk, undoes: str = ""
) -> JournalEntry:
    """Write the changes, all or none of them. The caller holds the lock and has recovered.

    Raises RefusedError when a file is not as it was when the plan was made, or lies outside of the map; CouldNotError
    when the disk does not let us. In both cases the map is as it was before.
    """
    our_folder(root)
    work = root / WORK
    changes = _in_the_map(root, changes)
    try:
        steps, stamps = _staged(root, work, changes, disk)
        made = folders_to_make(root, [step.path for step in steps if step.after is not None])
        plain = JournalEntry(
            id=next_id(root), action=action, title=title, time=time, steps=steps, made=made, undoes=undoes
        )
        entry = signed(plain)
        write_journal(work, entry, disk)
    except BaseException as error:
        _clear(work, disk)
        if isinstance(error, OSError):
            raise _disk_error(error) from error
        raise
    try:
        put_in_place(root, work, entry, disk, stamps)
        close(root, work, entry, disk)
    except BaseException as error:
        if not work.is_dir():
            # It was stopped after its last step: the change is complete.
            raise
        # Somebody who stops the program wants the map as it was, too.
        _give_up(root, work, entry, disk)
        if isinstance(error, OSError):
            raise _disk_error(error) from error
        if isinstance(error, _EditedError):
            raise _moved((error.path,)) from error
        raise
    return entry


def _in_the_map(root: Path, changes: Sequence[Change]) -> tuple[Change, ...]:
    """The changes under the names that their files really have. Raises RefusedError for one that leads elsewhere."""
    places = [real_place(root, change.path) for change in changes]
    refused = [f"{change.path} {place.refused}" for change, place in zip(changes, places, strict=True) if place.refused]
    counts = Counter(place.path for place in places)
    refused += (f"{path} would be written twice, under two names" for path, count in counts.items() if count > 1)
    if refused:
        raise RefusedError(
            "path-outside-map",
            "a change would be written outside of the map; nothing was written",
            details=tuple(refused),
            why="nothing that a pack, a map or a layout says may reach files that are not the map's",
            remedy="replace the link by a real file or folder, or correct the path in the hook sheet or the answers",
        )
    return tuple(
        change if change.path == place.path else _renamed(change, place.path)
        for change, place in zip(changes, places, strict=True)
    )


def _renamed(change: Change, path: str) -> Change:
    return Change(path=path, before=change.before, after=change.after, mode=change.mode, mtime_ns=change.mtime_ns)


def _staged(
    root: Path, work: Path, changes: Sequence[Change], disk: Disk
) -> tuple[tuple[Step, ...], dict[int, _Stamp]]:
    """The steps of the change, with all bytes that they need beside each other; and how each file is now, by number."""
    # The bytes from before and those from after lie beside each other until the change is complete.
    sizes = [change.after.size for change in changes if change.after is not None]
    sizes += (path.stat().st_size for change in changes if (path := root / change.path).is_file())
    need_room(root, sum(sizes), "this change")
    disk.make_folder(work)
    disk.make_folder(work / "old")
    disk.make_folder(work / "new")
    steps: list[Step] = []
    moved: list[str] = []
    stamps: dict[int, _Stamp] = {}
    for number, change in enumerate(changes):
        target = root / change.path
        stamps[number] = _stamp(target)
        mode = mtime = None
        before = None
        state = None
        if target.is_file():
            state = target.stat()
            mode, mtime = state.st_mode & 0o777, state.st_mtime_ns
            with target.open("rb") as stream:
                before = disk.write(work / "old" / str(number), stream)
            disk.set_times_and_mode(work / "old" / str(number), mtime, mode)
        if before != change.before or stamps[number] != _stamp(target):
            moved.append(change.path)
        after = None
        if change.after is not None:
            new = work / "new" / str(number)
            with change.after.open() as stream:
                after = disk.write(new, stream)
            if state is not None:
                disk.set_owner(new, state.st_uid, state.st_gid)
            disk.set_times_and_mode(new, change.mtime_ns, change.mode if change.mode is not None else mode)
        steps.append(Step(path=change.path, before=before, after=after, mode=mode, mtime_ns=mtime))
    if moved:
        raise _moved(tuple(moved))
    disk.sync_folder(work / "old")
    disk.sync_folder(work / "new")
    return tuple(steps), stamps


def _stamp(target: Path) -> _Stamp:
    try:
        state = target.lstat()
    except OSError:
        return None
    return state.st_size, state.st_ino, state.st_mtime_ns


def _moved(paths: tuple[str, ...]) -> RefusedError:
    return RefusedError(
        "changed-meanwhile",
        "another program changed files of the map in the meantime; nothing was written",
        details=paths,
        why="what was planned would overwrite that program's work",
        remedy="let it finish, and run this again",
    )


def folders_to_make(root: Path, paths: Sequence[str]) -> tuple[str, ...]:
    """The folders that the paths lie in and that are not there, outermost first."""
    parents = {str(parent) for path in paths for parent in PurePosixPath(path).parents if str(parent) != "."}
    return tuple(sorted(parent for parent in parents if not (root / parent).is_dir()))


def write_journal(work: Path, entry: JournalEntry, disk: Disk) -> None:
    """The journal, whole or as it was before."""
    fresh = work / f"{JOURNAL}.new"
    disk.write(fresh, io.BytesIO(msgspec.json.format(msgspec.json.encode(entry), indent=1) + b"\n"))
    disk.replace(fresh, work / JOURNAL)
    disk.sync_folder(work)


def put_in_place(
    root: Path,
    work: Path,
    entry: JournalEntry,
    disk: Disk,
    stamps: Mapping[int, _Stamp] | None = None,
    leave: Collection[int] = (),
) -> None:
    """Put every new file in place. Whatever an interrupted run did already is left as it is, and so are the steps in
    `leave`. `stamps` are the files as they were staged: one that is another now stops everything."""
    for folder in entry.made:
        if not (root / folder).is_dir():
            disk.make_folder(root / folder)
    touched: set[Path] = set()
    for number, step in enumerate(entry.steps):
        target, new = root / step.path, work / "new" / str(number)
        if number in leave:
            continue
        if new.exists():
            _stop_if_edited(step, target, stamps, number)
            disk.replace(new, target)
            touched.add(target.parent)
        elif step.after is None and target.is_file() and current(target) == step.before:
            _stop_if_edited(step, target, stamps, number)
            disk.remove(target)
            touched.add(target.parent)
    for parent in sorted(touched):
        disk.sync_folder(parent)
    _remove_empty(root, entry, disk)


def _stop_if_edited(step: Step, target: Path, stamps: Mapping[int, _Stamp] | None, number: int) -> None:
    """The last look before a file is replaced. Where its stamp is as it was, so are its bytes."""
    if stamps is not None and _stamp(target) != stamps[number] and current(target) != step.before:
        raise _EditedError(step.path)


def _remove_empty(root: Path, entry: JournalEntry, disk: Disk) -> None:
    """Folders that were made for what goes out now, if nothing else has come into them."""
    gone = [step.path for step in entry.steps if step.after is None]
    made = {folder for past in history(root) for folder in past.made} if gone else set()
    left = {str(parent) for path in gone for parent in PurePosixPath(path).parents if str(parent) in made}
    for folder in sorted(left, key=len, reverse=True):
        path = root / folder
        if path.is_dir() and not path.is_symlink() and not any(path.iterdir()):
            disk.remove_folder(path)


def close(root: Path, work: Path, entry: JournalEntry, disk: Disk) -> None:
    """Everything is in place: one rename ends the change."""
    past = root / HISTORY
    if not past.is_dir():
        disk.make_folder(past)
    if (work / "new").is_dir():
        disk.remove_tree(work / "new")
    disk.replace(work, past / entry.id)
    # The change is complete. Should this last rename not survive a power cut, the next run does it once more.
    with contextlib.suppress(OSError):
        disk.sync_folder(past)


def _give_up(root: Path, work: Path, entry: JournalEntry, disk: Disk) -> None:
    """It cannot be completed: take back what was done. Where even that fails, the next run goes on with it."""
    try:
        back = signed(msgspec.structs.replace(entry, back=True))
        write_journal(work, back, disk)
        put_back(root, work, back, disk)
        disk.remove_tree(work)
    except OSError as error:
        raise CouldNotError(
            "change-unfinished",
            f"the disk failed in the middle of a change, and again while taking it back: {error.strerror or error}",
            where=error.filename or str(work),
            why="until it is brought to an end the map is neither as before nor as after the change",
            remedy="make room on the disk, or make the folder writable, and run any command: it ends the change first;"
            " or leave the files as they are: hookset recover --give-up",
        ) from error


def put_back(root: Path, work: Path, entry: JournalEntry, disk: Disk, leave: Collection[int] = ()) -> tuple[str, ...]:
    """Put every old file back, by renames and folders only: a full disk is no obstacle. What was never replaced is not
    touched; what somebody has edited since is left, as are the steps in `leave`. Gives the paths of the edited ones."""
    edited: list[str] = []
    for number, step in enumerate(entry.steps):
        target, old = root / step.path, work / "old" / str(number)
        now = current(target)
        if number in leave or now == step.before:
            continue
        if now != step.after:
            edited.append(step.path)
        elif step.before is None:
            disk.remove(target)
        elif old.exists():
            for folder in folders_to_make(root, [step.path]):
                # It was empty already, and had gone.
                disk.make_folder(root / folder)
            disk.replace(old, target)
    for folder in reversed(entry.made):
        path = root / folder
        if path.is_dir() and not path.is_symlink() and not any(path.iterdir()):
            disk.remove_folder(path)
    return tuple(edited)


def current(path: Path) -> str | None:
    """The SHA-256 of a file as it is; None where there is none."""
    if not path.is_file():
        return None
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
        "not-writable",
        f"the change could not be written: {error.strerror or error}",
        where=os.fsdecode(error.filename) if error.filename else "",
        why="the map is exactly as it was before",
        remedy="make room on the disk, or make the file and its folder writable, and run this again",
    )
