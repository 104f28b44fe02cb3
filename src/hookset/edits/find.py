"""Finding again what an entry changed: by its text and its neighbours, also where the builder has moved it since."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator
from difflib import SequenceMatcher
from enum import Enum
from itertools import takewhile

from msgspec import Struct

from hookset.edits.place import line_above, line_below, lines_above, lines_below
from hookset.project import LedgerEdit, LedgerHook

__all__ = ["EntryState", "Found", "found", "found_exactly", "found_plainly", "lines_of"]

_SEVERAL = 2
_BLANKS = re.compile(r"\s*")
_TELLING = 4
"""Letters of a line that says enough to be known again."""
_NEAR = 6
_FURTHER = 40
"""Lines between an entry's neighbours beyond its own that can be what the builder made of it."""


class EntryState(Enum):
    """How an entry stands in a file now."""

    AS_SET = "as set"
    MOVED = "moved"
    """The same, elsewhere or indented otherwise."""
    CHANGED = "changed by hand"
    GONE = "gone"


class Found(Struct, frozen=True):
    """Where it stands, and how."""

    standing: EntryState
    start: int = 0
    end: int = 0


def lines_of(hooks: Iterable[LedgerHook], but: LedgerHook) -> frozenset[str]:
    """The lines that other entries of a file have set."""
    own = {line.strip() for edit in but.edits for line in edit.new.splitlines()}
    every = {line.strip() for hook in hooks if hook is not but for e in hook.edits for line in e.new.splitlines()}
    return frozenset(every - own - {""})


def found_exactly(string: str, edit: LedgerEdit) -> Found | None:
    """Where the text stands between the very neighbours that it was set between."""
    if not edit.new:
        return _between_neighbours(string, edit)
    for start in _occurrences(string, edit.new):
        if _neighbours(string, start, start + len(edit.new), edit) == 2:
            return Found(EntryState.AS_SET, start, start + len(edit.new))
    return None


def _between_neighbours(string: str, edit: LedgerEdit) -> Found | None:
    """Where something was taken out: between the lines on both sides of it, directly before the one below. Where such
    lines are there more than once, between those with as many of the lines beyond them as can be."""
    above, below = edit.above.split("\n"), edit.below.split("\n")
    best: tuple[int, int] | None = None
    for spot in _occurrences(string, above[-1]) if above[-1] else (0,):
        blanks = _BLANKS.match(string, spot + len(above[-1]))
        at = blanks.end() if blanks is not None else 0
        if edit.old[:1].isspace() and not edit.old.endswith("\n"):
            # The end of a line, or the last line without an end.
            at = spot + len(above[-1])
        elif edit.old.endswith("\n") and at < len(string):
            at = string.rfind("\n", 0, at) + 1
        if (line_above(string, at), line_below(string, at)) == (above[-1], below[0]):
            around = lines_above(string, at, len(above)).split("\n"), lines_below(string, at, len(below)).split("\n")
            alike = _as_far(reversed(above), reversed(around[0])) + _as_far(below, around[1])
            best = max(best, (alike, -at)) if best is not None else (alike, -at)
    return Found(EntryState.AS_SET, -best[1], -best[1]) if best is not None else None


def _as_far(one: Iterable[str], other: Iterable[str]) -> int:
    """How many lines are the same, from the first on."""
    return sum(1 for _ in takewhile(lambda pair: pair[0] == pair[1], zip(one, other, strict=False)))


def found(string: str, edit: LedgerEdit, others: frozenset[str] = frozenset()) -> Found:
    """Where it is now. `others` are lines that other entries have set: nobody has made those of this one."""
    if not edit.new.strip():
        return found_exactly(string, edit) or Found(EntryState.GONE)
    return (
        found_plainly(string, edit)
        or _loosely(string, edit)
        or _anchored(string, edit, others)
        or _between(string, edit, others)
        or Found(EntryState.GONE)
    )


def found_plainly(string: str, edit: LedgerEdit) -> Found | None:
    """Where its very text is; where that is there more than once, between as many of its neighbours as can be."""
    if not edit.new.strip():
        return found_exactly(string, edit)
    ranked = [
        (_rank(string, start, start + len(edit.new), edit), -number, start)
        for number, start in enumerate(_occurrences(string, edit.new))
    ]
    rank, _, start = max(ranked, default=(0, 0, 0))
    if not rank:
        return None
    return Found(EntryState.AS_SET if rank > 1 else EntryState.MOVED, start, start + len(edit.new))


def _occurrences(string: str, text: str) -> Iterator[int]:
    at = string.find(text)
    while at >= 0:
        yield at
        at = string.find(text, at + 1)


def _neighbours(string: str, start: int, end: int, edit: LedgerEdit) -> int:
    return (line_above(string, start) == edit.above) + (line_below(string, end) == edit.below)


def _rank(string: str, start: int, end: int, edit: LedgerEdit) -> int:
    """3: with both neighbours. 2: with one. 1: in lines of its own. 0: by chance, inside of something else."""
    beside = _neighbours(string, start, end, edit)
    if beside:
        return beside + 1
    opens = start == 0 or string[start - 1] in "\r\n" or edit.new[0] in "\r\n"
    # What separates it from something behind it was set with that.
    closes = end == len(string) or string[end] in "\r\n,;" or edit.new[-1] in "\r\n"
    return int(opens and closes)


def _loosely(string: str, edit: LedgerEdit) -> Found | None:
    """The same words with other blanks between them, in one place only."""
    pattern = r"\s+".join(re.escape(word) for word in edit.new.split())
    matches = [match.span() for match in re.finditer(rf"(?<!\S){pattern}(?!\S)", string)]
    if len(matches) != 1:
        return None
    start, end = matches[0]
    if edit.new[0] in "\r\n":
        start = len(string[:start].rstrip(" \t"))
        start -= 2 if string[:start].endswith("\r\n") else 1 if string[:start].endswith("\n") else 0
    else:
        line = string.rfind("\n", 0, start) + 1
        start = line if not string[line:start].strip() else start
    if edit.new[-1] in "\r\n":
        rest = re.compile(r"[ \t]*(?:\r?\n)?").match(string, end)
        end = rest.end() if rest else end
    # Another newline, or another indentation in the same place, moves nothing.
    there = EntryState.AS_SET if _neighbours(string, start, end, edit) == 2 else EntryState.MOVED
    return Found(there, start, end)


def _anchored(string: str, edit: LedgerEdit, others: frozenset[str]) -> Found | None:
    """What stands around lines of the entry that are nowhere else in the file: most of it is as it was set."""
    fragments = edit.new.split("\n")
    # A comma behind what stands before it is no line of the entry.
    inline = len(fragments) > 1 and not any(letter.isalnum() for letter in fragments[0])
    own = [_bare(one) for one in (fragments[1:] if inline else fragments)]
    while own and not own[-1]:
        own.pop()
    lines = string.splitlines(keepends=True)
    bare = [_bare(line) for line in lines]
    counts = Counter(bare)
    rare = [i for i, line in enumerate(own) if len(line) > _TELLING and counts[line] == 1 and line not in others]
    if len(own) < _SEVERAL or not rare:
        return None
    # The place that most of these lines speak for.
    places = Counter(bare.index(own[i]) - i for i in rare)
    first = max(places, key=lambda place: (places[place], -place))
    window = range(max(first - _NEAR, 0), min(first + len(own) + _NEAR, len(lines)))
    matcher = SequenceMatcher(None, own, [bare[i] for i in window], autojunk=False)
    blocks = [block for block in matcher.get_matching_blocks() if block.size]
    if sum(block.size for block in blocks) * 2 < len(own):
        return None
    top = window[0] + max(blocks[0].b - blocks[0].a, 0)
    last = blocks[-1]
    bottom = min(window[0] + last.b + last.size + len(own) - last.a - last.size, len(lines))
    start = sum(len(line) for line in lines[:top])
    end = start + sum(len(line) for line in lines[top:bottom])
    if not edit.new.endswith("\n"):
        end -= len(string[start:end]) - len(string[start:end].rstrip("\r\n,"))
    if inline:
        head = string[:start].removesuffix("\n").removesuffix("\r").removesuffix(fragments[0].strip())
        start = len(head)
    return Found(EntryState.CHANGED, start, end)


def _bare(line: str) -> str:
    return line.strip().rstrip(",")


def _between(string: str, edit: LedgerEdit, others: frozenset[str]) -> Found | None:
    """What stands between its neighbours, where both are still there: what the builder has made of it."""
    if not edit.above and not edit.below:
        return None
    lines = string.splitlines(keepends=True)
    bare = [line.strip() for line in lines]
    above = [i for i, line in enumerate(bare) if line == edit.above] if edit.above else [-1]
    below = [i for i, line in enumerate(bare) if line == edit.below] if edit.below else [len(lines)]
    widest = edit.new.count("\n") + _FURTHER
    spans = [(a, b) for a in above for b in below if a < b <= a + widest]
    if not spans:
        return None
    first, last = min(spans, key=lambda span: span[1] - span[0])
    # Entries of others at either end were set beside this one.
    while first + 1 < last and bare[first + 1] in others:
        first += 1
    while first + 1 < last and bare[last - 1] in others:
        last -= 1
    if not any(bare[first + 1 : last]) or not _akin(edit.new, "".join(lines[first + 1 : last])):
        return None
    start = sum(len(line) for line in lines[: first + 1])
    end = start + sum(len(line) for line in lines[first + 1 : last])
    if edit.new[0] in "\r\n":
        # Its own newline came first; so does that of what stands there now.
        ending = len(lines[first]) - len(lines[first].rstrip("\r\n")) if first >= 0 else 0
        closing = len(string[:end]) - len(string[:end].rstrip("\r\n"))
        start, end = start - ending, end - min(closing, ending)
    return Found(EntryState.CHANGED, start, end)


def _akin(one: str, other: str) -> bool:
    """Whether what stands there can have come of the entry, rather than be something else of the builder's."""
    words = set(re.findall(r"\w+", one))
    return bool(words) and len(words & set(re.findall(r"\w+", other))) * 2 >= len(words)
