"""Putting an archive where a game looks: whole or not at all, one copy only, the earlier one kept aside."""

from __future__ import annotations

import contextlib
import os
import secrets
import shutil
from collections.abc import Iterator, Sequence
from pathlib import Path

from msgspec import Struct

from hookset.config.layouts import Layout
from hookset.config.layouts.descriptor import map_words
from hookset.model import CouldNotError, HooksetError
from hookset.project.saving import replacing
from hookset.trees import FolderTree, Member, sha256_of
from hookset.trees.archives import open_archive

__all__ = ["Aside", "Delivery", "deliver", "other_copies", "put_back", "users_of"]

_CHUNK = 1 << 20
_MOST_ASIDE = 5
"""Earlier copies of a map that are kept for each destination."""


class Aside(Struct, frozen=True):
    """An archive that was there before, and where it is kept."""

    was: Path
    kept: Path


class Delivery(Struct, frozen=True):
    """What was done."""

    target: Path
    same: bool
    """It lay there already, the same in every byte, and nothing else of the map: nothing was done."""
    aside: tuple[Aside, ...] = ()
    left: tuple[Path, ...] = ()
    """Other copies of the map that could not be taken away: the game may load one of them."""


def other_copies(folder: Path, layout: Layout, name: str, own: str) -> tuple[Path, ...]:
    """Archives in a folder that are the same map by their own descriptors, under other names than `own`."""
    ending, whole = Path(layout.archive.source).suffix, layout.build.form == "folder"
    found = []
    for file in sorted(folder.iterdir()) if folder.is_dir() else ():
        meant = file.is_dir() and not file.is_symlink() if whole else file.is_file() and file.suffix == ending
        if meant and file.name != own and not file.name.startswith("."):
            with contextlib.suppress(HooksetError, OSError):
                tree = FolderTree(file) if whole else open_archive(file)
                if name and map_words(tree, layout)["map"] == name:
                    found.append(file)
    return tuple(found)


def users_of(file: Path) -> tuple[str, ...]:
    """The programs that have a file open, by name, as far as the system tells."""
    found: dict[str, None] = {}
    with contextlib.suppress(OSError):
        real = file.stat()
        for process in Path("/proc").iterdir():
            if process.name.isdecimal() and process.name != str(os.getpid()):
                found |= dict.fromkeys(_holding(process, (real.st_dev, real.st_ino)))
    return tuple(found)


def _holding(process: Path, file: tuple[int, int]) -> Iterator[str]:
    with contextlib.suppress(OSError):
        for opened in (process / "fd").iterdir():
            with contextlib.suppress(OSError):
                state = opened.stat()
                if (state.st_dev, state.st_ino) == file:
                    yield (process / "comm").read_text(errors="replace").strip()


def deliver(archive: Path, folder: Path, others: Sequence[Path], aside: Path, stamp: str) -> Delivery:
    """Put an archive into a folder. What it replaces, and the `others`, are kept in `aside`, under `stamp`: they are
    copied first, so that at every moment a whole map lies where the game looks. Raises CouldNotError."""
    target = folder / archive.name
    if not folder.is_dir():
        raise CouldNotError(
            "not-found",
            f"the folder {folder} is not there any more",
            why="its disk may not be there, or the game has moved: nobody would look into a new folder in its place",
            remedy="bring it back, or name another: hookset deliver NAME --to FOLDER; hookset deliver NAME --forget",
        )
    try:
        if target.exists() and not others and _same(archive, target):
            return Delivery(target, same=True)
        kept = []
        for was in [one for one in (target, *others) if one.exists()]:
            kept_at = aside / f"{stamp} {was.name}"
            _copied(was, kept_at)
            kept.append(Aside(was, kept_at))
        _copied(archive, target)
    except OSError as error:
        raise CouldNotError(
            "not-writable",
            f"the map could not be put there: {error.strerror or error}",
            where=str(target),
            why="what lay there before still does; a game that has it open may not let it be replaced",
            remedy="end the game, make room on the disk or the folder writable, and deliver once more",
        ) from error
    left = tuple(other for other in others if not _gone(other))
    with contextlib.suppress(OSError):
        _tidied(aside)
    return Delivery(target, same=False, aside=tuple(one for one in kept if one.was not in left), left=left)


def put_back(aside: Sequence[Aside], target: Path) -> None:
    """What lay there before the last delivery lies there again, and the delivered archive does not. Raises
    CouldNotError where what was kept is gone, or cannot be written."""
    lacking = [one.kept for one in aside if not one.kept.exists()]
    if lacking:
        raise CouldNotError(
            "not-found",
            "the earlier map is not there any more",
            where=str(lacking[0]),
            why="it was kept there, and somebody has taken it away",
            remedy="build the earlier version again and deliver that",
        )
    try:
        for one in aside:
            _copied(one.kept, one.was)
        if target not in [one.was for one in aside]:
            _taken(target)
    except OSError as error:
        raise CouldNotError(
            "not-writable",
            f"the earlier map could not be put back: {error.strerror or error}",
            where=str(target),
            remedy=f"copy it by hand: it lies at {aside[0].kept}" if aside else "end the game, and try once more",
        ) from error


def _gone(file: Path) -> bool:
    try:
        _taken(file)
    except OSError:
        return False
    return True


def _taken(place: Path) -> None:
    """Take a file or a folder away; a folder out of sight first: no part of it is ever loaded for the whole."""
    if not place.is_dir() or place.is_symlink():
        place.unlink(missing_ok=True)
        return
    hidden = place.with_name(f".{place.name[:100]}.{secrets.token_hex(6)}")
    place.rename(hidden)
    shutil.rmtree(hidden)


def _same(one: Path, other: Path) -> bool:
    if one.is_dir() or other.is_dir():
        return one.is_dir() and other.is_dir() and _digests(one) == _digests(other)
    if one.stat().st_size != other.stat().st_size:
        return False
    return sha256_of(Member(FolderTree(one.parent), one.name)) == sha256_of(
        Member(FolderTree(other.parent), other.name)
    )


def _digests(folder: Path) -> dict[str, str]:
    tree = FolderTree(folder)
    return {path: sha256_of(Member(tree, path)) for path in tree.paths()}


def _copied(source: Path, target: Path) -> None:
    if source.is_dir():
        _copied_folder(source, target)
        return
    with source.open("rb") as reading, replacing(target) as stream:
        shutil.copyfileobj(reading, stream, _CHUNK)
        stream.flush()
        os.fsync(stream.fileno())
    shutil.copystat(source, target)


def _copied_folder(source: Path, target: Path) -> None:
    """A folder in place of the one that is there, if one is: made beside it first."""
    target.parent.mkdir(parents=True, exist_ok=True)
    fresh = target.with_name(f".{target.name[:100]}.{secrets.token_hex(6)}")
    try:
        shutil.copytree(source, fresh)
        if target.exists():
            _taken(target)
        fresh.rename(target)
    finally:
        shutil.rmtree(fresh, ignore_errors=True)


def _tidied(aside: Path) -> None:
    """Of the earlier copies the latest are kept; their names begin with when they were put aside."""
    kept = sorted(aside.iterdir(), reverse=True) if aside.is_dir() else []
    stamps = sorted({one.name.partition(" ")[0] for one in kept}, reverse=True)[:_MOST_ASIDE]
    for one in kept:
        if one.name.partition(" ")[0] not in stamps:
            _taken(one)
