"""Places in a text as editors count them: lines from zero, and in a line the units of an encoding.

Source: Language Server Protocol 3.17, "Position" and "PositionEncodingKind".
"""

from __future__ import annotations

from typing import Literal

__all__ = ["Units", "offset_of", "position_of"]

Units = Literal["utf-8", "utf-16", "utf-32"]


def position_of(text: str, offset: int, units: Units) -> tuple[int, int]:
    """(line, units before it in the line) of a character."""
    start = text.rfind("\n", 0, offset) + 1
    return text.count("\n", 0, start), _size(text[start:offset], units)


def offset_of(text: str, line: int, column: int, units: Units) -> int:
    """The character at a place; the end of the line, or of the text, for one that is not there."""
    start = 0
    for _ in range(line):
        start = text.find("\n", start) + 1
        if not start:
            return len(text)
    end = text.find("\n", start)
    found = text[start : end if end >= 0 else len(text)]
    if units == "utf-32" or found.isascii():
        return start + min(column, len(found))
    size = 0
    for index, character in enumerate(found):
        if size >= column:
            return start + index
        size += _size(character, units)
    return start + len(found)


def _size(text: str, units: Units) -> int:
    if units == "utf-32" or text.isascii():
        return len(text)
    if units == "utf-8":
        return len(text.encode("utf-8", "surrogatepass"))
    return len(text.encode("utf-16-le", "surrogatepass")) // 2
