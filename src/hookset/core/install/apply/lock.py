"""One run at a time may change a map."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from hookset.core.model import CouldNotError, RefusedError
from hookset.core.project import OUR_FOLDER

__all__ = ["locked"]

_IGNORED = (
    "# The ledger and what it goes by belong into version control.\n*\n!.gitignore\n!ledger.json\n!kept/\n!kept/*\n"
)


@contextmanager
def locked(root: Path) -> Iterator[None]:
    """Hold the map's lock. Raises RefusedError when another run holds it."""
    # Imported here: it costs 60 ms, which commands that only read need not pay.
    from filelock import FileLock, Timeout

    folder = root / OUR_FOLDER
    try:
        folder.mkdir(exist_ok=True)
        if not (folder / ".gitignore").exists():
            (folder / ".gitignore").write_text(_IGNORED, encoding="utf-8")
        lock = FileLock(folder / "lock", timeout=0)
        lock.acquire()
    except Timeout as error:
        raise RefusedError(
            "another hookset is changing this map right now",
            where=str(root),
            why="two at a time would overwrite each other's changes",
            remedy="wait for the other one to end, and run this again",
        ) from error
    except OSError as error:
        raise CouldNotError(
            f"the map's folder cannot be written to: {error.strerror or error}",
            where=str(folder),
            why="a change needs room for its journal and for the bytes to go back to",
            remedy="check the folder's permissions and the room on the disk; nothing was changed",
        ) from error
    try:
        yield
    finally:
        lock.release()
