"""Where notes ask for something, as reasons name it: `README.md:12`."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct

__all__ = ["Cited", "Why", "as_said", "at_line", "because_of"]

_SHOWN = 3
"""Lines, and words, that are told one by one."""
Cited = tuple[str, int]
"""A file and the number of a line in it."""


class Why(Struct, frozen=True):
    """What speaks for something: lines of notes or of other files, and words."""

    lines: tuple[Cited, ...] = ()
    words: tuple[str, ...] = ()
    until: int = 0
    """The last of many lines in a row that begin with the only one that is named."""

    def __str__(self) -> str:
        """`README.md:12, README.md:14`, the words last."""
        shown = [f"{file}:{line}" + (f"-{self.until}" if self.until else "") for file, line in self.lines[:_SHOWN]]
        more = f" and {len(self.lines) - _SHOWN} more" if len(self.lines) > _SHOWN else ""
        return ", ".join(filter(None, (", ".join(shown) + more, *self.words[:_SHOWN])))

    def __bool__(self) -> bool:
        """Whether anything speaks for it."""
        return bool(self.lines or self.words)

    def also(self, *words: str) -> Why:
        """The same with further words."""
        return Why(self.lines, (*self.words, *words), self.until)


def at_line(file: str, line: int) -> Why:
    """A line as a reason."""
    return Why(((file, line),))


def as_said(said: str) -> Why:
    """A reason that no line says."""
    return Why(words=(said,))


def because_of(whys: Iterable[Why]) -> Why:
    """Several reasons as one: each line and each word once, in their order."""
    every = tuple(dict.fromkeys(whys))
    if len(every) == 1:
        return every[0]
    lines = dict.fromkeys(line for why in every for line in why.lines)
    return Why(tuple(lines), tuple(dict.fromkeys(word for why in every for word in why.words)))
