"""Doing something again whenever a map has changed."""

from __future__ import annotations

import os
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
    project: MapProject,
    settles: int = _SETTLES,
    outside: Sequence[Path] = (),
    folders: Sequence[Path] = (),
    idle: bool = False,
) -> Iterator[tuple[str, ...]]:
    """The paths of what has changed in a map, each time that something has: once for `settles` milliseconds nothing
    more has. What is ours, and what was built, counts as nothing; files `outside` of the map and whatever is in
    `folders` outside of it do, by their way from the map's top: `../library/bell.lua`. With `idle` it gives nothing
    every second as well. Ends when the user ends it."""
    root = project.root.resolve()
    built = project.file.build.folder.strip("/").removeprefix("./")

    def meant(_: object, path: str) -> bool:
        place = Path(path)
        top = next((folder for folder in (root, *folders) if place.is_relative_to(folder)), root)
        inner = place.relative_to(top).as_posix()
        first = inner.split("/")[0]
        if top != root:
            return first not in _VERSIONS
        in_build = built not in ("", ".") and (inner == built or inner.startswith(f"{built}/"))
        return not (in_build or first in _VERSIONS or (is_ours(inner) and inner != "hookset.toml"))

    states = states_of(outside)
    rounds = watch(
        root,
        *folders,
        watch_filter=meant,
        debounce=10 * settles,
        step=settles,
        rust_timeout=_WAKES,
        yield_on_timeout=idle or bool(outside),
    )
    while (found := _next(rounds)) is not None:
        before, states = states, states_of(outside)
        others = [path for path in outside if states[path] != before[path]]
        paths = {_from_top(path, root) for path in (*(Path(path) for _, path in found), *others)}
        if paths or idle:
            yield tuple(sorted(paths))


def _from_top(path: Path, root: Path) -> str:
    """The way to a file from the map's top; on another disk all of it."""
    try:
        return Path(os.path.relpath(path, root)).as_posix()
    except ValueError:
        return path.as_posix()


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
