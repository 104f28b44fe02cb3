"""Doing something again whenever a map has changed."""

from __future__ import annotations

import signal
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from threading import Event
from typing import NoReturn

from watchfiles import Change, watch

from hookset.project import MapProject
from hookset.trees.ours import is_ours
from hookset.trees.stamps import states_of

__all__ = ["changes_of", "noting_interrupts"]

_SETTLES = 300
"""Milliseconds without a further change, after which what is written counts as written."""
_WAKES = 1000
"""Milliseconds after which files outside of the map are looked at."""
_VERSIONS = (".git", ".hg", ".svn")


def changes_of(
    project: MapProject, settles: int = _SETTLES, outside: Sequence[Path] = (), idle: bool = False
) -> Iterator[tuple[str, ...]]:
    """The paths of what has changed in a map, each time that something has: once for `settles` milliseconds nothing
    more has. What is ours, and what was built, counts as nothing, files `outside` of the map that are named do. With
    `idle` it gives nothing every second as well. Ends when the user ends it."""
    root = project.root.resolve()
    built = project.file.build.folder.strip("/").removeprefix("./")

    def meant(_: object, path: str) -> bool:
        inner = Path(path).relative_to(root).as_posix()
        first = inner.split("/")[0]
        in_build = built not in ("", ".") and (inner == built or inner.startswith(f"{built}/"))
        return not (in_build or first in _VERSIONS or (is_ours(inner) and inner != "hookset.toml"))

    states = states_of(outside)
    rounds = watch(
        root,
        watch_filter=meant,
        debounce=10 * settles,
        step=settles,
        rust_timeout=_WAKES,
        yield_on_timeout=idle or bool(outside),
    )
    while (found := _next(rounds)) is not None:
        before, states = states, states_of(outside)
        others = {str(path) for path in outside if states[path] != before[path]}
        paths = {Path(path).relative_to(root).as_posix() for _, path in found} | others
        if paths or idle:
            yield tuple(sorted(paths))


def _next(rounds: Iterator[set[tuple[Change, str]]]) -> set[tuple[Change, str]] | None:
    """What has changed next; None when the user ends it."""
    try:
        return next(rounds, None)
    except KeyboardInterrupt:
        return None


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
