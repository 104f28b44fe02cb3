"""Markdown, and plain text, which is the same with fewer marks (CommonMark 0.31: fences, headings, indented code)."""

from __future__ import annotations

import re
from collections.abc import Iterator

from hookset.authoring.draft.notes.line import Line

__all__ = ["lines_of"]

_FENCE = re.compile(r"\s{0,12}(?P<mark>`{3,}|~{3,})")
_HEADING = re.compile(r"\s{0,3}#{1,6}\s+(?P<text>.*?)\s*#*\s*$")
_UNDERLINE = re.compile(r"\s{0,3}(?:=+|-{3,}|\*{3,}|~{3,})\s*$")


def lines_of(text: str) -> Iterator[Line]:
    """Lines, with what is fenced marked as code. Indented blocks are not: in plain text people indent anything."""
    fence = ""
    lines = text.splitlines()
    for number, line in enumerate(lines, 1):
        found = _FENCE.match(line)
        if fence:
            if found and found["mark"].startswith(fence) and not line.strip(" \t`~"):
                fence = ""
                yield Line(number, "")
            else:
                yield Line(number, line, code=True)
        elif found:
            fence = found["mark"][:3]
            yield Line(number, "")
        elif heading := _HEADING.match(line):
            yield Line(number, heading["text"], heading=True)
        elif _UNDERLINE.match(line):
            yield Line(number, "")
        else:
            below = lines[number] if number < len(lines) else ""
            yield Line(number, line, heading=bool(line.strip() and _UNDERLINE.match(below) and len(below.strip()) > 2))
