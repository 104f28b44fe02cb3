"""A change that was interrupted: what it is, and bringing it to an end without losing what others wrote since."""

from __future__ import annotations

from enum import Enum
from pathlib import Path

import msgspec
from msgspec import Struct

from hookset.applying.disk import Disk
from hookset.applying.history import WORK, JournalEntry, is_own, read_journal, signed
from hookset.applying.transaction import close, current, put_back, put_in_place, write_journal
from hookset.model import CouldNotError, RefusedError
from hookset.project import KEPT, OUR_FOLDER, our_folder, real_place

__all__ = ["Ending", "Interrupted", "Recovery", "interrupted", "recover"]

_ASIDE = f"{OUR_FOLDER}/set-aside"


class Ending(Enum):
    """How an interrupted change is brought to an end."""

    FINISH = "finish"
    TAKE_BACK = "take back"
    GIVE_UP = "give up"
    """Every file stays as it is; what the change had in hand is kept aside."""


class Interrupted(Struct, frozen=True):
    """A change that has not come to its end."""

    title: str
    begun: bool
    """Whether files of the map may have been touched."""
    own: bool
    """Whether this user's run wrote it on this machine."""
    before: tuple[str, ...] = ()
    """Files that are as they were before it."""
    after: tuple[str, ...] = ()
    """Files that are as it meant them."""
    edited: tuple[str, ...] = ()
    """Files that are neither: somebody has edited them since."""


class Recovery(Struct, frozen=True):
    """What became of an interrupted change."""

    title: str
    ending: Ending
    edited: tuple[str, ...] = ()
    """Files that somebody has edited since it was interrupted, and that were left as they are."""
    aside: str = ""
    """Where the bytes are that were not put into those files, from the map's folder."""


def interrupted(root: Path) -> Interrupted | None:
    """The change that an earlier run left behind; None where there is none. Raises CouldNotError for a damaged one."""
    our_folder(root)
    work = root / WORK
    if not work.is_dir():
        return None
    entry = read_journal(work)
    if entry is None:
        return Interrupted("a change that had not begun", begun=False, own=True)
    found: dict[str, list[str]] = {"before": [], "after": [], "edited": []}
    for step in entry.steps:
        now = current(root / step.path) if not real_place(root, step.path).refused else ""
        found["before" if now == step.before else "after" if now == step.after else "edited"].append(step.path)
    return Interrupted(entry.title, True, is_own(entry), *(tuple(found[key]) for key in ("before", "after", "edited")))


def recover(root: Path, disk: Disk, ending: Ending | None = None, *, asked: bool = False) -> Recovery | None:
    """Bring an interrupted change to an end; None where there is none. The caller holds the lock.

    Without an `ending` it is finished, or taken back where that is what it was doing or where finishing would leave
    its other half out of a file that somebody has edited. Raises RefusedError for a change of somebody else that
    nobody has `asked` to follow, CouldNotError where the disk does not let us.
    """
    our_folder(root)
    work = root / WORK
    if not work.is_dir():
        return None
    try:
        entry = read_journal(work)
        if entry is None:
            # Nothing of the map had been touched yet.
            disk.remove_tree(work)
            return Recovery("a change", Ending.TAKE_BACK)
        if ending is Ending.GIVE_UP:
            return Recovery(entry.title, ending, (), _set_aside(root, work, disk, "given-up"))
        if not asked and not is_own(entry):
            raise _not_own(entry)
        _judge_paths(root, entry)
        return _ended(root, work, entry, disk, ending)
    except OSError as error:
        raise CouldNotError(
            "change-unfinished",
            f"an earlier change was interrupted and cannot be brought to an end: {error.strerror or error}",
            where=str(error.filename or work),
            why="until then the map is neither as before nor as after it",
            remedy="make room on the disk, or make the folder writable, and run any command again; or leave the files"
            " as they are: hookset recover --give-up",
        ) from error


def _ended(root: Path, work: Path, entry: JournalEntry, disk: Disk, ending: Ending | None) -> Recovery:
    states = [current(root / step.path) for step in entry.steps]
    edited = [
        number
        for number, (step, now) in enumerate(zip(entry.steps, states, strict=True))
        if now not in (step.before, step.after)
    ]
    waiting = [number for number in edited if (work / "new" / str(number)).exists()]
    if ending is None:
        back = entry.back or (bool(waiting) and len(waiting) == len(edited))
        ending = Ending.TAKE_BACK if back else Ending.FINISH
    paths = tuple(entry.steps[number].path for number in edited)
    _judge_bytes(work, entry, ending, edited)
    if ending is Ending.TAKE_BACK:
        if not entry.back:
            write_journal(work, signed(msgspec.structs.replace(entry, back=True)), disk)
        put_back(root, work, entry, disk, edited)
        aside = _set_aside(root, work, disk, entry.id) if paths else ""
        if not aside:
            disk.remove_tree(work)
        return Recovery(entry.title, ending, paths, aside)
    put_in_place(root, work, entry, disk, None, edited)
    aside = ""
    if waiting:
        aside = f"{_ASIDE}/{entry.id}"
        _make_aside(root, disk)
        disk.replace(work / "new", _free(root / aside))
    close(root, work, entry, disk)
    return Recovery(entry.title, ending, paths, aside)


def _judge_paths(root: Path, entry: JournalEntry) -> None:
    """Raises RefusedError for a journal that would reach out of the map, whoever wrote it."""
    made = [path for path in entry.made if path != KEPT]
    places = {path: real_place(root, path) for path in (*(step.path for step in entry.steps), *made)}
    refused = [f"{path} {place.refused}" for path, place in places.items() if place.refused]
    refused += (
        f"{path} leads through a link" for path, place in places.items() if not place.refused and place.path != path
    )
    if refused:
        raise RefusedError(
            "path-outside-map",
            f"the interrupted change ({entry.title}) would write outside of the map",
            where=WORK,
            details=tuple(refused),
            why="no change that Hook Set makes does so",
            remedy="drop it, and leave every file as it is: hookset recover --give-up",
        )


def _judge_bytes(work: Path, entry: JournalEntry, ending: Ending, leave: list[int]) -> None:
    """Raises RefusedError where what would be put into files is not what the journal says."""
    wrong: list[str] = []
    for number, step in enumerate(entry.steps):
        side, sha = ("new", step.after) if ending is Ending.FINISH else ("old", step.before)
        file = work / side / str(number)
        if number not in leave and (file.is_symlink() or (file.exists() and current(file) != sha)):
            wrong.append(step.path)
    if wrong:
        raise RefusedError(
            "journal-damaged",
            f"the interrupted change ({entry.title}) holds other bytes than its journal says",
            where=WORK,
            details=tuple(wrong),
            why="somebody has changed them: what would be written is not what was planned",
            remedy="drop it, and leave every file as it is: hookset recover --give-up",
        )


def _make_aside(root: Path, disk: Disk) -> None:
    if not (root / _ASIDE).is_dir():
        disk.make_folder(root / _ASIDE)


def _free(place: Path) -> Path:
    """A name of which nothing is there yet."""
    number, free = 1, place
    while free.exists():
        number += 1
        free = place.with_name(f"{place.name}-{number}")
    return free


def _set_aside(root: Path, work: Path, disk: Disk, name: str) -> str:
    """The change's folder out of the way, with all that it has in it; gives where it is now."""
    _make_aside(root, disk)
    place = _free(root / _ASIDE / name)
    disk.replace(work, place)
    return place.relative_to(root).as_posix()


def _not_own(entry: JournalEntry) -> RefusedError:
    return RefusedError(
        "change-not-yours",
        f"the map holds an interrupted change ({entry.title}) that you did not begin on this machine",
        where=WORK,
        details=tuple(step.path for step in entry.steps[:20]),
        why="bringing it to an end would write what somebody else has put into the map's folder",
        remedy="`hookset recover` shows it; `hookset recover --give-up` drops it and leaves every file as it is;"
        " `hookset recover --finish` or `--take-back` follow it",
    )
