"""A line on the terminal that says what is going on, from half a second on. Away from a terminal there is none."""

from __future__ import annotations

import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Event, Thread

__all__ = ["busy"]

_AFTER = 0.5
_EVERY = 0.2
_MARKS = "|/-\\"


@contextmanager
def busy(words: str) -> Iterator[None]:
    """Show `words` and the seconds that have passed, as long as the work below takes."""
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


def _shown(words: str, over: Event) -> None:
    begun, turn = time.monotonic(), 0
    if over.wait(_AFTER):
        return
    while True:
        passed = time.monotonic() - begun
        sys.stderr.write(f"\r{_MARKS[turn % len(_MARKS)]} {words} … {passed:.0f} s ")
        sys.stderr.flush()
        turn += 1
        if over.wait(_EVERY):
            break
    # The line goes again: what the work came to stands where it was.
    sys.stderr.write("\r" + " " * (len(words) + 20) + "\r")
    sys.stderr.flush()
