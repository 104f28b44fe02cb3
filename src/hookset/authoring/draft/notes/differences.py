"""Listings of changes: unified diffs (as POSIX has them for `diff -u`), whole ones or the lines of one only. What is
new begins with +, what goes with -."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence

from msgspec.structs import replace

from hookset.authoring.draft.notes.line import Line
from hookset.authoring.draft.words import words

__all__ = ["with_signs"]

_FROM = re.compile(r"--- \S.*")
_TO = re.compile(r"\+\+\+ (?P<path>[^\t]+?)(?:\t.*)?\s*")
_HUNK = re.compile(r"@@+ .*@@.*|@@+")
_ABOUT = re.compile(r"(?:diff|index|(?:new|deleted) file mode|similarity index|rename (?:from|to)) .*|\\ No newline.*")
_SIGNS = "+- "


def with_signs(lines: Iterable[Line]) -> Iterator[Line]:
    """The lines, those of listings of changes with their sign; the file that they are of is a line of its own."""
    every = _with_additions(_with_marks(list(lines)))
    start = 0
    while start < len(every):
        end = 0 if every[start].sign else _whole(every, start) or _part(every, start)
        if end:
            yield from (_signed(every, number) for number in range(start, end))
            start = end
        else:
            yield every[start]
            start += 1


def _with_marks(lines: list[Line]) -> list[Line]:
    """The lines; where the notes say that those with a mark are new, these and the ones around them as a listing."""
    marked = re.compile(words()["becomes"]["marked"], re.IGNORECASE)
    said = next(((n, match) for n, line in enumerate(lines) if (match := marked.search(line.text))), None)
    if said is None:
        return lines
    first, mark = said[0] + 1, said[1]["mark"]
    found = list(lines)
    for number in range(first, len(lines)):
        if not _has(lines[number], mark):
            continue
        found[number] = _marked(lines[number], mark)
        for step in (-1, 1):
            at = number + step
            while (
                first <= at < len(lines) and _is_shown(lines[at]) and not found[at].sign and not _has(lines[at], mark)
            ):
                found[at] = replace(lines[at], code=True, heading=False, sign=" ")
                at += step
    return found


def _with_additions(lines: list[Line]) -> list[Line]:
    """The lines; what is shown as it was and as it is to be, where only something comes to it, as listings."""
    found = list(lines)
    for number, line in enumerate(lines):
        if not _is_label(line, "old"):
            continue
        old, label = _shown(lines, number + 1)
        if not old or label == len(lines) or not _is_label(lines[label], "new"):
            continue
        new, _ = _shown(lines, label + 1)
        added = _additions([lines[n].text for n in old], [lines[n].text for n in new])
        for n in (*old, *new) if added else ():
            sign = "+" if n in new and new.index(n) in added else " "
            found[n] = replace(lines[n], code=True, heading=False, sign=sign)
    return found


def _is_label(line: Line, word: str) -> bool:
    source = words()["becomes"][word]
    end = r"\W*" if line.heading else r"\W*:\W*"
    return not line.code and re.fullmatch(rf"\W*(?:{source}){end}", line.text, re.IGNORECASE) is not None


def _shown(lines: Sequence[Line], start: int) -> tuple[list[int], int]:
    """The lines from here on that are shown rather than said, and where the first other one is."""
    found: list[int] = []
    for number in range(start, len(lines)):
        left = bool(found) and _lead(lines[number]) < _lead(lines[found[0]]) and not lines[number].code
        if _is_shown(lines[number]) and not left and not any(_is_label(lines[number], word) for word in ("old", "new")):
            found.append(number)
        elif lines[number].text.strip():
            return found, number
    return found, len(lines)


def _lead(line: Line) -> int:
    return len(line.text.expandtabs(4)) - len(line.text.expandtabs(4).lstrip())


def _additions(old: Sequence[str], new: Sequence[str]) -> frozenset[int]:
    """Which of the new lines come to the old ones, that are all among them in their order; none otherwise."""
    rest = iter(enumerate(new))
    there: set[int] = set()
    for text in old:
        at = next((number for number, other in rest if other.strip() == text.strip()), None)
        if at is None:
            return frozenset()
        there.add(at)
    return frozenset(range(len(new))) - there


def _has(line: Line, mark: str) -> bool:
    return re.match(rf"\s*{re.escape(mark)}\s*\S", line.text) is not None


def _marked(line: Line, mark: str) -> Line:
    text = line.text.replace(mark, " " * len(mark), 1)
    return replace(line, text=text, code=True, heading=False, sign="+")


def _is_shown(line: Line) -> bool:
    """Whether a line can be one of a listing: marked as code, or indented."""
    return bool(line.text.strip()) and (line.code or line.text[:1].isspace())


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
