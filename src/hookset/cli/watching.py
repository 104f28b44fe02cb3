"""Doing something again whenever a map has changed."""

from __future__ import annotations

import signal
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from threading import Event
from typing import NoReturn

from watchfiles import watch

from hookset.project import MapProject
from hookset.project.places import is_ours

__all__ = ["changes_of", "noting_interrupts"]

_SETTLES = 300
"""Milliseconds without a further change, after which what is written counts as written."""
_VERSIONS = (".git", ".hg", ".svn")


def changes_of(project: MapProject) -> Iterator[tuple[str, ...]]:
    """The paths of what has changed in a map, each time that something has; what is ours, and what was built, counts as
    nothing. Ends when the user ends it."""
    root = project.root.resolve()
    built = project.file.build.folder.strip("/").removeprefix("./")

    def meant(_: object, path: str) -> bool:
        inner = Path(path).relative_to(root).as_posix()
        first = inner.split("/")[0]
        in_build = built not in ("", ".") and (inner == built or inner.startswith(f"{built}/"))
        return not (in_build or first in _VERSIONS or (is_ours(inner) and inner != "hookset.toml"))

    for found in watch(root, watch_filter=meant, debounce=10 * _SETTLES, step=_SETTLES, raise_interrupt=False):
        yield tuple(sorted({Path(path).relative_to(root).as_posix() for _, path in found}))


@contextmanager
def noting_interrupts() -> Iterator[Callable[[], bool]]:
    """Whether the user has asked to end it: what is being done then ends as ever, and what would come next is not
    begun."""
    seen = Event()
    before = signal.getsignal(signal.SIGINT)

    def note(_number: int, _frame: object) -> NoReturn:
        seen.set()
        raise KeyboardInterrupt

    if before is not signal.SIG_IGN:
        signal.signal(signal.SIGINT, note)
    try:
        yield seen.is_set
    finally:
        signal.signal(signal.SIGINT, before)
