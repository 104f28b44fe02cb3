"""Regular expressions that somebody else wrote: each has a limit on the time that it may take.

A pattern of a layout, a pack or a project can be made to take years over one line. The engine (`regex`) stops when it
is told to. What one pattern takes is added up over all that it is looked for in, less what any honest one takes: a map
may be large.
"""

from __future__ import annotations

import math
import re
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, TypeVar

from hookset.model import CouldNotError

__all__ = ["Pattern", "SlowPatternError", "pattern_of"]

T = TypeVar("T")

SECONDS = 4.0
"""For one pattern in one run of the program, beyond what is free."""
_FREE_EACH = 50e-6
"""Seconds that are free each time that a pattern is looked for: about ten times what the call takes."""
_FREE_CHARACTER = 0.5e-6
"""Seconds that are free for each character that it is looked for in: about ten times what an honest one takes."""
_LONGEST = 10_000
"""Characters of a pattern."""
_MOST_REPEATS = 50_000
"""All counts of a pattern multiplied: the engine writes out what is repeated a number of times."""
_COUNT = re.compile(r"\{(\d{1,20})?,?(\d{1,20})?\}")
_PLAIN = re.compile(r"[^?{]*")
# The time that other programs take is not the pattern's; where the processor's time is told too roughly, it has to do.
_seconds = time.process_time if time.get_clock_info("process_time").resolution < _FREE_EACH else time.perf_counter
_SHORT = 1_000
"""Characters in which a plain pattern is looked for at once."""


class SlowPatternError(CouldNotError):
    """A pattern took longer than any honest one does. `source` is the pattern as it is written."""

    def __init__(self, source: str) -> None:
        shown = source if len(source) <= 80 else f"{source[:77]}…"
        super().__init__(
            "slow-pattern",
            f"the pattern `{shown}` takes too long: it was stopped after {SECONDS:g} seconds",
            why="it tries the same characters in more ways than there is time for; nothing was changed",
            remedy="use fewer `*`, `+` and nested groups in it",
        )
        self.source = source


@dataclass(slots=True)
class _Clock:
    """What is left of a pattern's time, in seconds."""

    left: float = SECONDS


@dataclass(frozen=True)
class Pattern:
    """A pattern that compiles. Every method raises SlowPatternError when its time is over."""

    source: str
    flags: re.RegexFlag
    groups: frozenset[str]
    """The names of its groups."""
    _clock: _Clock = field(default_factory=_Clock, compare=False, repr=False)

    @cached_property
    def _compiled(self) -> Any:
        """Anything with the methods of `re.Pattern`."""
        # Imported here: it takes a tenth of the start-up, and most patterns of layouts repeat nothing.
        import regex

        return regex.compile(self.source, int(self.flags) | regex.VERSION0)

    @cached_property
    def _plain(self) -> re.Pattern[str] | None:
        """For a pattern that repeats one thing at most and has few choices: over a short text that takes no time, so
        that nobody need look at the clock."""
        source = self.source
        few = source.count("*") + source.count("+") <= 1 and source.count("|") <= 8
        return re.compile(source, self.flags) if few and _PLAIN.fullmatch(source) else None

    def search(self, string: str) -> re.Match[str] | None:
        """The first match."""
        if self._plain is not None and len(string) <= _SHORT:
            return self._plain.search(string)
        found: re.Match[str] | None = self._timed(string, lambda left: self._compiled.search(string, timeout=left))
        return found

    def fullmatch(self, string: str) -> re.Match[str] | None:
        """The match of the whole string."""
        if self._plain is not None and len(string) <= _SHORT:
            return self._plain.fullmatch(string)
        found: re.Match[str] | None = self._timed(string, lambda left: self._compiled.fullmatch(string, timeout=left))
        return found

    def finditer(self, string: str) -> Iterator[re.Match[str]]:
        """Every match, in order."""
        return iter(self._timed(string, lambda left: list(self._compiled.finditer(string, timeout=left))))

    def split(self, string: str) -> list[str]:
        """What stands between its matches."""
        if self._plain is not None and len(string) <= _SHORT:
            return [part or "" for part in self._plain.split(string)]
        return [part or "" for part in self._timed(string, lambda left: self._compiled.split(string, timeout=left))]

    def _timed(self, string: str, work: Callable[[float], T]) -> T:
        free = _FREE_EACH + _FREE_CHARACTER * len(string)
        begun = _seconds()
        try:
            if self._clock.left <= 0:
                raise TimeoutError
            return work(self._clock.left + free)
        except (TimeoutError, MemoryError) as error:
            self._clock.left = 0
            raise SlowPatternError(self.source) from error
        finally:
            self._clock.left -= max(0.0, _seconds() - begun - free)


def pattern_of(source: str, flags: re.RegexFlag = re.NOFLAG) -> Pattern:
    """Check a pattern. Raises ValueError, in words, for what is none or is too large to be compiled."""
    if len(source) > _LONGEST:
        raise ValueError(f"it has {len(source):,} characters; {_LONGEST:,} are the most")
    counts = (max(int(low or 0), int(high or 0), 1) for low, high in _COUNT.findall(source))
    if math.prod(counts) > _MOST_REPEATS:
        raise ValueError(f"it repeats more than {_MOST_REPEATS:,} times")
    try:
        groups = frozenset(re.compile(source, flags).groupindex)
    except re.error as error:
        place = error.pos or 0
        raise ValueError(f"it cannot be read {f'from {source[place:][:20]!r} on' if place else 'as one'}") from error
    except (RecursionError, OverflowError) as error:
        raise ValueError("it nests more than can be looked for") from error
    return Pattern(source, flags, groups)
