"""A change that is killed: at each thing that it does to the disk, and what is there afterwards."""

from __future__ import annotations

import gc
import os
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any, BinaryIO

from hookset.applying import Disk

_REALLY = 16
"""Of so many points, one at which a process of its own is really killed. At the others nothing reaches the disk any
more, which is the same for it: all that is done to it goes through one class."""


class _KilledError(BaseException):
    """From here on nothing is done."""


def state(root: Path) -> dict[str, tuple[bytes, int]]:
    """Bytes, and the permission bits, of every file of the map and of the ledger."""
    files = [p for p in root.rglob("*") if p.is_file() and (".hookset" not in p.parts or p.name == "ledger.json")]
    return {p.relative_to(root).as_posix(): (p.read_bytes(), p.stat().st_mode) for p in sorted(files)}


class Counting(Disk):
    """Calls `trip` before and after each thing that is done to the disk, and in the middle of each write."""

    def __init__(self, trip: Callable[[str], None]) -> None:
        self.trip = trip

    def write(self, path: Path, source: BinaryIO) -> str:
        self.trip("before write")
        with path.open("wb") as half:
            half.write(b"half a file")
        self.trip("in write")
        digest = super().write(path, source)
        self.trip("after write")
        return digest

    def __getattribute__(self, name: str) -> Any:
        found = super().__getattribute__(name)
        if name in (
            "make_folder",
            "set_times_and_mode",
            "replace",
            "remove",
            "remove_folder",
            "remove_tree",
            "sync_folder",
        ):

            def tripped(*arguments: Any) -> None:
                self.trip(f"before {name}")
                found(*arguments)
                self.trip(f"after {name}")

            return tripped
        return found


def points(root: Path, act: Callable[[Disk], None]) -> int:
    """How many points there are at which `act` can be interrupted. Leaves the map as it was."""
    return len(trips(root, act))


def trips(root: Path, act: Callable[[Disk], None]) -> list[str]:
    """What is done to the disk at each of them."""
    copy = root.parent / "dry"
    shutil.copytree(root, copy)
    told: list[str] = []
    act(Counting(told.append))
    shutil.rmtree(root)
    copy.rename(root)
    return told


def killed_at(point: int, act: Callable[[Disk], None]) -> None:
    """Run `act` until it is killed at one point."""
    left = point
    child = os.fork() if point % _REALLY == 0 else None

    def trip(_: str) -> None:
        nonlocal left
        if left <= 0 and child == 0:
            os._exit(9)
        if left <= 0:
            raise _KilledError
        left -= 1

    if child:
        assert os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]) == 9
        return
    if child == 0:
        # To tidy up in a copy of a large process copies all of it.
        gc.disable()
    try:
        act(Counting(trip))
    except _KilledError:
        return
    finally:
        if child == 0:
            os._exit(0)
    raise AssertionError(f"point {point} was not reached")


def laid_again(root: Path, fresh: Path) -> None:
    """The map as it was made, if it is not so any more."""
    if _stamps(root) != _stamps(fresh):
        shutil.rmtree(root)
        shutil.copytree(fresh, root)


def _stamps(root: Path) -> dict[str, tuple[int, ...]]:
    """Sizes, times and modes of all there is; of folders the modes."""
    found: dict[str, tuple[int, ...]] = {}
    for path in root.rglob("*"):
        stat = path.lstat()
        found[str(path)[len(str(root)) :]] = (
            (stat.st_mode,) if path.is_dir() else (*stat[:1], stat.st_size, stat.st_mtime_ns)
        )
    return found
