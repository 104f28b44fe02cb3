"""Listings of changes: unified diffs (as POSIX has them for `diff -u`), whole ones or the lines of one only. What is
new begins with +, what goes with -."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace

from hookset.authoring.draft.notes.line import Line

__all__ = ["with_signs"]

_FROM = re.compile(r"--- \S.*")
_TO = re.compile(r"\+\+\+ (?P<path>[^\t]+?)(?:\t.*)?\s*")
_HUNK = re.compile(r"@@+ .*@@.*|@@+")
_ABOUT = re.compile(r"(?:diff|index|(?:new|deleted) file mode|similarity index|rename (?:from|to)) .*|\\ No newline.*")
_SIGNS = "+- "


def with_signs(lines: Iterable[Line]) -> Iterator[Line]:
    """The lines, those of listings of changes with their sign; the file that they are of is a line of its own."""
    every = list(lines)
    start = 0
    while start < len(every):
        end = _whole(every, start) or _part(every, start)
        if end:
            yield from (_signed(every, number) for number in range(start, end))
            start = end
        else:
            yield every[start]
            start += 1


def _whole(lines: Sequence[Line], start: int) -> int:
    """Where a diff with its head ends, that begins here; 0 for none."""
    at = start
    while at < len(lines) and _ABOUT.fullmatch(lines[at].text):
        at += 1
    if at + 2 >= len(lines) or not _FROM.fullmatch(lines[at].text) or not _TO.fullmatch(lines[at + 1].text):
        return 0
    while at < len(lines) and _belongs(lines[at].text):
        at += 1
    while not lines[at - 1].text.strip():
        at -= 1
    return at


def _belongs(text: str) -> bool:
    known = (_FROM, _TO, _HUNK, _ABOUT)
    return not text or text[0] in _SIGNS or any(pattern.fullmatch(text) for pattern in known)


def _part(lines: Sequence[Line], start: int) -> int:
    """Where a text to be copied ends, that begins here and is such a listing without a head; 0 for none."""
    if not lines[start].code or (start and lines[start - 1].code):
        return 0
    end = start
    while end < len(lines) and lines[end].code:
        end += 1
    said = [line.text for line in lines[start:end] if line.text.strip()]
    signs = {text[0] for text in said if not _HUNK.fullmatch(text)}
    if not signs <= set(_SIGNS) or not signs & {"+", "-"}:
        return 0
    hunks = any(_HUNK.fullmatch(text) for text in said)
    # A list of YAML has a dash before each.
    return end if hunks or ("+" in signs and not all(text.startswith(("+ ", "- ")) for text in said)) else 0


def _signed(lines: Sequence[Line], number: int) -> Line:
    line = lines[number]
    path = _TO.fullmatch(line.text)
    if path is not None and number and _FROM.fullmatch(lines[number - 1].text):
        return replace(line, text=f"{re.sub(r'^[ab]/', '', path['path'])}:", code=False)
    # `--- ` is a remark of Lua that goes as well.
    head = _FROM.fullmatch(line.text) and number + 1 < len(lines) and _TO.fullmatch(lines[number + 1].text)
    if head or _HUNK.fullmatch(line.text) or _ABOUT.fullmatch(line.text):
        return replace(line, text="", code=False)
    return replace(line, text=line.text[1:], code=True, heading=False, sign=line.text[:1].strip() or " ")
