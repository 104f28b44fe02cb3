"""A line on the terminal that says what is going on, from half a second on. Away from a terminal there is none."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from threading import Event, Thread

__all__ = ["busy"]

_AFTER = 0.5
_EVERY = 0.2
_MARKS = "|/-\\"


@contextmanager
def busy(words: str | Callable[[], str]) -> Iterator[None]:
    """Show `words` and the seconds that have passed, as long as the work below takes. Words that change meanwhile are
    asked for each time."""
    if not sys.stderr.isatty():
        yield
        return
    over = Event()
    line = Thread(target=_shown, args=(words, over), daemon=True)
    line.start()
    try:
        yield
    finally:
        over.set()
        line.join()


def _shown(words: str | Callable[[], str], over: Event) -> None:
    begun, turn, longest = time.monotonic(), 0, 0
    if over.wait(_AFTER):
        return
    while True:
        passed = time.monotonic() - begun
        line = f"{_MARKS[turn % len(_MARKS)]} {words if isinstance(words, str) else words()} … {passed:.0f} s "
        longest = max(longest, len(line))
        sys.stderr.write(f"\r{line:<{longest}}")
        sys.stderr.flush()
        turn += 1
        if over.wait(_EVERY):
            break
    # The line goes again: what the work came to stands where it was.
    sys.stderr.write("\r" + " " * longest + "\r")
    sys.stderr.flush()
