"""One run at a time may change a map."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from hookset.model import CouldNotError, RefusedError
from hookset.project import our_folder
from hookset.project.saving import save_file

__all__ = ["locked"]

_IGNORED = (
    "# The ledger and what it goes by belong into version control.\n*\n!.gitignore\n!ledger.json\n!kept/\n!kept/*\n"
)


@contextmanager
def locked(root: Path, wait: float = 0) -> Iterator[None]:
    """Hold the map's lock; `wait` is how many seconds to wait for it. Raises RefusedError when another run holds it,
    CouldNotError where the map cannot be written to."""
    # Imported here: it costs 60 ms, which commands that only read need not pay.
    from filelock import FileLock, Timeout

    folder = our_folder(root)
    try:
        folder.mkdir(exist_ok=True)
        for name in (".gitignore", "lock"):
            if (folder / name).is_symlink():
                (folder / name).unlink()
        if not (folder / ".gitignore").exists():
            save_file(folder / ".gitignore", _IGNORED.encode())
        lock = FileLock(folder / "lock", timeout=wait)
        lock.acquire()
    except Timeout as error:
        raise RefusedError(
            "map-busy",
            "another hookset is changing this map right now",
            where=str(root),
            why="two at a time would overwrite each other's changes",
            remedy="wait for the other one to end, and run this again",
        ) from error
    except OSError as error:
        raise CouldNotError(
            "not-writable",
            f"the map's folder cannot be written to: {error.strerror or error}",
            where=str(folder),
            why="a change needs room for its journal and for the bytes to go back to",
            remedy="check the folder's permissions and the room on the disk; nothing was changed",
        ) from error
    try:
        yield
    finally:
        lock.release()
