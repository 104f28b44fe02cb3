"""What a path of a change really names. Whoever wrote the path (a pack, a journal, a project file), it stays inside."""

from __future__ import annotations

import os
import re
from pathlib import Path

from msgspec import Struct

from hookset.model import CouldNotError
from hookset.trees import unsafe_reason
from hookset.trees.ours import KEPT, LEDGER, OUR_FOLDER, PROJECT_FILE

__all__ = ["RealPlace", "our_folder", "real_place"]

_KEPT_FILE = re.compile(rf"{re.escape(KEPT)}/[0-9a-f]{{64}}")


class RealPlace(Struct, frozen=True):
    """Where the bytes of a map's file really lie, or why nobody may write there."""

    path: str
    """From the map's folder, with links followed."""
    refused: str = ""
    """What is wrong with it, as the rest of a sentence; empty for a good one."""
    hard_links: int = 1
    """How many names the file has."""
    owner: int | None = None
    """The number of its user, where that is not the one who runs this."""


def real_place(root: Path, path: str) -> RealPlace:
    """Follow the links of a path below `root`, a real folder. What leads out of it is refused, and so is a link in the
    tool's own folder."""
    first = path.split("/", 1)[0].casefold()
    if first == OUR_FOLDER and path != LEDGER and _KEPT_FILE.fullmatch(path) is None:
        return RealPlace(path, "lies in the tool's own folder")
    if first == PROJECT_FILE and path != PROJECT_FILE:
        return RealPlace(path, "differs from the project's own file in letter case only")
    if reason := unsafe_reason(path):
        return RealPlace(path, f"is {reason}")
    here = root
    linked = False
    for part in path.split("/"):
        here = here / part
        if here.is_symlink():
            if first == OUR_FOLDER:
                return RealPlace(path, "leads through a link in the tool's own folder")
            linked = True
    real = path
    if linked:
        place = Path(os.path.realpath(root / path))
        top = Path(os.path.realpath(root))
        if not place.is_relative_to(top):
            return RealPlace(path, f"leads out of the map through a link, to {place}")
        real = place.relative_to(top).as_posix()
        if real.split("/", 1)[0].casefold() == OUR_FOLDER:
            return RealPlace(path, "leads into the tool's own folder through a link")
    try:
        state = (root / real).lstat()
    except OSError:
        return RealPlace(real)
    # Where the system has users: Windows has no such number.
    user = getattr(os, "geteuid", lambda: 0)()
    # Who may do everything keeps each file's owner.
    return RealPlace(real, "", state.st_nlink, state.st_uid if user not in (0, state.st_uid) else None)


def our_folder(root: Path) -> Path:
    """The map's `.hookset`. Raises CouldNotError where it, or a folder of ours in it, is a link or no folder."""
    folder = root / OUR_FOLDER
    for place in (folder, folder / "work", folder / "history", folder / "kept"):
        if place.is_symlink() or (place.exists() and not place.is_dir()):
            raise CouldNotError(
                "link",
                f"{place.relative_to(root).as_posix()} is {'a link' if place.is_symlink() else 'no folder'}",
                where=str(place),
                why="what is written there would be written somewhere else",
                remedy="remove it; `hookset` makes a real folder when it needs one",
            )
    return folder
