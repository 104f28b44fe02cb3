"""Which texts are written for people, in any language: they hold no names, whatever their lines look like."""

from __future__ import annotations

import re
from collections.abc import Sequence

__all__ = ["SEEN", "are_for_people", "is_for_people", "prosaic"]

SEEN = 400
"""Characters of a line that are looked at to find out what it is."""
_PROSE = re.compile(r"\b(?:the|and|you|with|der|die|und|les|des)\b", re.I)
_QUOTED = re.compile(r"\"[^\"]*\"|`[^`]*`")
_SENTENCE = re.compile(r"(?:[^\W\d_]+[,;:]?[ \t]+){5}")
"""Words of any language, one behind the other."""
_WORDS = 6
"""How many words lines for people have, on the average."""
_WRITTEN = re.compile(
    r"\w[ \t]*[=({;:]|[;{}\])][ \t]*$|[\w\"][ \t]+\"[\w./]"
    r"|^[ \t]*(?:[*+-][ \t]*)?\[\+?\w[\w.-]*\][ \t]*[^\s\[\]]"
    r"|^[ \t]*#[ \t]*(?:define|include|ifdef|ifndef|endif)\b"
)
"""What lines in languages for programs have: something that is set, called or ended, a text behind a word, a key in
brackets before its value, an order to what reads the file first."""
_REMARK = re.compile(r"[ \t]*(?:#|//|--|;)(?!\w)")
"""What is written for people in files for programs, too, and may be most of such a file."""
_MOST, _FEW = 0.8, 0.1
"""Of the lines: how many are for programs in a file for those, and how few in one that is not."""
_ENOUGH = 40
"""Lines that say by what few of them have that it is nothing for programs."""


def prosaic(lines: Sequence[str]) -> bool:
    """Whether lines are sentences, by and large."""
    words = sum(len(line.split()) for line in lines)
    sentences = sum(1 for line in lines if _SENTENCE.search(_QUOTED.sub("", line)))
    told = sum(1 for line in lines if _PROSE.search(line))
    return words > _WORDS * len(lines) and (told * 4 > len(lines) or sentences * 8 > len(lines))


def are_for_people(lines: Sequence[str]) -> bool:
    """Whether lines are for people, though a few of them may be for programs, as in a manual. What looks like a remark
    says nothing of the others."""
    lines = [line for line in lines if _REMARK.match(line) is None] or lines
    written = sum(1 for line in lines if _WRITTEN.search(line))
    manual = prosaic(lines) and written < _MOST * len(lines)
    return manual or (len(lines) >= _ENOUGH and written < _FEW * len(lines))


def is_for_people(text: str) -> bool:
    """The same of a whole file."""
    lines = [line[:SEEN] for line in text.splitlines() if line.strip()]
    return bool(lines) and are_for_people(lines)
