"""What all forms of notes are read into."""

from __future__ import annotations

from msgspec import Struct

__all__ = ["LONGEST_LINE", "MOST_LINES", "Line", "Notes"]

MOST_LINES = 4000
"""Nobody wrote more, and what is longer is there to keep a reader busy."""
LONGEST_LINE = 2000
"""Characters of a line that are looked at."""


class Line(Struct, frozen=True):
    """One line of notes."""

    number: int
    """From one, as an editor counts in the file; for PDF as its pages are read."""
    text: str
    code: bool = False
    """Marked as something to copy: a fence, an indented block, `<pre>`, a typewriter face."""
    heading: bool = False
    sign: str = ""
    """In a listing of changes: `+` for what is new, `-` for what goes, a blank for what stands there."""


class Notes(Struct, frozen=True):
    """One file of notes."""

    path: str
    lines: tuple[Line, ...]
    cut: bool = False
    """Longer than notes are; the rest was not read."""
