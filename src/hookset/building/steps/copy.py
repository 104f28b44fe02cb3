"""The folder in which a step runs: copies of what it reads, so that nothing of the map can be spoilt; and what of it
becomes part of the map."""

from __future__ import annotations

import os
import shutil
import stat
from collections.abc import Iterable, Iterator, Mapping
from contextlib import suppress
from pathlib import Path

from msgspec import Struct

from hookset.building.steps.record import StepRun
from hookset.config.layouts.rules import Step
from hookset.model import CouldNotError, RefusedError
from hookset.project import OUR_FOLDER, saved_in_map
from hookset.trees import unsafe_reason
from hookset.trees.ours import is_ours

__all__ = ["WorkingCopy", "clear_copies", "made_working_copy", "put_into_map", "taken_away"]

_FOLDER = f"{OUR_FOLDER}/steps"


class WorkingCopy(Struct, frozen=True):
    """Where a step runs."""

    folder: Path
    own: Path
    """A folder for what it needs in between."""
    log: Path
    copied: Mapping[str, tuple[int, int]]
    """What was copied into it: size, and time of the last change in nanoseconds."""

    def made(self, step: Step) -> tuple[dict[str, Path], tuple[str, ...]]:
        """(what the step has made of what it is to make, by its path in the map; what else it has written)"""
        outputs: dict[str, Path] = {}
        strayed: list[str] = []
        for path, file, state in _walked(self.folder):
            if step.makes(path) and stat.S_ISREG(state.st_mode) and not _unfit(path):
                outputs[path] = file
            elif self.copied.get(path) != (state.st_size, state.st_mtime_ns):
                strayed.append(path)
        return outputs, tuple(strayed)

    def clear(self) -> None:
        """Take it away; the log stays."""
        shutil.rmtree(self.folder, ignore_errors=True)
        shutil.rmtree(self.own, ignore_errors=True)


def made_working_copy(root: Path, step: Step, files: Iterable[str]) -> WorkingCopy:
    """A new one. Raises CouldNotError where a file cannot be copied."""
    place = _own_folder(root, step.entry.name)
    found = WorkingCopy(place / "copy", place / "own", place / "log.txt", {})
    found.clear()
    copied: dict[str, tuple[int, int]] = {}
    try:
        for folder in (found.folder, found.own):
            folder.mkdir(parents=True)
        for path in files:
            target = found.folder / path
            target.parent.mkdir(parents=True, exist_ok=True)
            shutil.copy2(root / path, target)
            state = target.stat()
            copied[path] = (state.st_size, state.st_mtime_ns)
        for pattern in step.entry.writes:
            _folder_of(pattern, found.folder).mkdir(parents=True, exist_ok=True)
    except OSError as error:
        found.clear()
        raise CouldNotError(
            "unreadable-file",
            f"cannot be copied for the step `{step.entry.name}`: {error.strerror or error}",
            where=str(error.filename or root),
            why="steps work on copies, so that they cannot spoil the map",
            remedy="make room on the disk, or make the file readable",
        ) from error
    return WorkingCopy(found.folder, found.own, found.log, copied)


def _own_folder(root: Path, name: str) -> Path:
    """Where a step runs. Raises RefusedError where a link stands for it: somebody else may have made the map."""
    place = root
    for part in (*_FOLDER.split("/"), name):
        place /= part
        if place.is_symlink():
            raise RefusedError(
                "link",
                "is a link",
                where=place.relative_to(root).as_posix(),
                why="links in a map may not make Hook Set write somewhere else",
                remedy="take the link away",
            )
    return place


def clear_copies(root: Path) -> None:
    """Take away what was left over where a build was killed."""
    folder = root / _FOLDER
    for place in folder.iterdir() if folder.is_dir() else ():
        for name in ("copy", "own"):
            shutil.rmtree(_own_folder(root, place.name) / name, ignore_errors=True)


def put_into_map(root: Path, outputs: Mapping[str, Path]) -> None:
    """Move files to their places in the map, each whole. Raises CouldNotError, RefusedError."""
    for path, file in outputs.items():
        target = saved_in_map(root, path, "take the link away")
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
            file.replace(target)
        except OSError as error:
            raise CouldNotError(
                "not-writable",
                f"cannot be written: {error.strerror or error}",
                where=path,
                remedy="make room on the disk, or close what has it open; the next build makes it again",
            ) from error


def taken_away(root: Path, run: StepRun, stale: Mapping[str, str]) -> tuple[str, ...]:
    """Take away what a step made before and makes no longer, by its path with the SHA-256 that is there now. Gives
    those that stay, as somebody has changed them."""
    stay: list[str] = []
    for path, digest in stale.items():
        if not run.made(path, digest):
            stay.append(path)
            continue
        with suppress(OSError):
            saved_in_map(root, path, "").unlink()
    return tuple(stay)


def _folder_of(pattern: str, root: Path) -> Path:
    """The folder that all files of a pattern are in: programs expect that the place they write to is there."""
    fixed: list[str] = []
    for part in pattern.split("/")[:-1]:
        if any(mark in part for mark in "*?{"):
            break
        fixed.append(part)
    return root.joinpath(*fixed)


def _unfit(path: str) -> bool:
    return is_ours(path) or unsafe_reason(path) is not None


def _walked(folder: Path) -> Iterator[tuple[str, Path, os.stat_result]]:
    for place, _, names in os.walk(folder):
        for name in names:
            file = Path(place) / name
            with suppress(OSError):
                yield file.relative_to(folder).as_posix(), file, file.lstat()
