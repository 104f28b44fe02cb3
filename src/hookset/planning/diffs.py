"""What each file that a plan edits would look like, as unified diffs."""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterable, Iterator
from functools import partial
from itertools import islice

from msgspec import Struct

from hookset.applying.change import Change
from hookset.model import CouldNotError
from hookset.planning.plan import Plan
from hookset.trees import Tree, decode

__all__ = ["FileDiff", "adapted_diffs", "diff_of", "text_diffs"]

_AROUND = 2
"""Lines that are shown around a change."""
_LONG = 4_000
"""Lines of two states of a file together, from which on only what lies around changes is compared."""
_NEAR, _ALIKE, _MOST = 200, 8, 100
"""How many lines may be new at a place, how many are alike after that, and at how many places."""
_HUNK = re.compile(r"^@@ -(?P<one>\d+)(?P<ones>,\d+)? \+(?P<other>\d+)(?P<others>,\d+)? @@$")


class FileDiff(Struct, frozen=True):
    """A unified diff of one text file."""

    path: str
    lines: tuple[str, ...]


def text_diffs(
    tree: Tree, changes: Iterable[Change], encodings: tuple[str, ...] = ("utf-8", "cp1252")
) -> Iterator[FileDiff]:
    """The files of the map that would be edited. New files are not shown: they come as the pack has them."""
    for change in changes:
        if change.before is None or change.after is None or not tree.has(change.path):
            continue
        try:
            old = decode(tree.read(change.path), encodings).string
            new = decode(change.after.read(), encodings).string
        except CouldNotError:
            yield FileDiff(change.path, ("(not text: its bytes would be replaced)",))
            continue
        lines = _unified(old.splitlines(), new.splitlines(), f"{change.path}  (now)", f"{change.path}  (afterwards)")
        yield FileDiff(change.path, lines)


def adapted_diffs(plan: Plan) -> Iterator[FileDiff]:
    """What of the packs' own files differs in this map: renamed things, settings."""
    for pack in plan.packs:
        for path, published, here in pack.adapted:
            lines = diff_of(path, published.read(), here.read(), "as published", "here")
            if lines:
                yield FileDiff(path, lines)


def diff_of(path: str, old: bytes, new: bytes, was: str = "now", becomes: str = "afterwards") -> tuple[str, ...]:
    """A unified diff of two states of one file; empty where either is no text."""
    try:
        one, other = (decode(data, ("utf-8", "cp1252")).string.splitlines() for data in (old, new))
    except CouldNotError:
        return ()
    return _unified(one, other, f"{path}  ({was})", f"{path}  ({becomes})")


def _unified(one: list[str], other: list[str], was: str, becomes: str) -> tuple[str, ...]:
    """A unified diff with two lines around each change. Of long files only what lies around changes is compared: all
    of it would take many times as long as reading them."""
    if len(one) + len(other) < _LONG:
        return tuple(difflib.unified_diff(one, other, was, becomes, n=_AROUND, lineterm=""))
    found: list[str] = []
    for first, last, start, end in _stretches(one, other):
        lines = difflib.unified_diff(one[first:last], other[start:end], was, becomes, n=_AROUND, lineterm="")
        moved = partial(_moved_down, before=first, after=start)
        told = [_HUNK.sub(moved, line) for line in lines]
        found += told[2:] if found else told
    return tuple(found)


def _stretches(one: list[str], other: list[str]) -> Iterator[tuple[int, int, int, int]]:
    """Where lines differ, with some around them: from where to where in the one, and in the other. After some lines
    that are only in one of them both go on alike; where they do not, all the rest is one stretch."""
    at = to = count = 0
    shorter = min(len(one), len(other))
    tail = next((n for n in range(shorter) if one[-1 - n] != other[-1 - n]), shorter)
    while at < len(one) or to < len(other):
        same = next(
            (n for n, (a, b) in enumerate(zip(islice(one, at, None), islice(other, to, None), strict=False)) if a != b),
            min(len(one) - at, len(other) - to),
        )
        at, to = at + same, to + same
        if at == len(one) and to == len(other):
            return
        begin = max(at - _AROUND, 0), max(to - _AROUND, 0)
        count += 1
        resumed = _resumed(one, at, other, to) if count < _MOST else None
        if resumed is None:
            alike = min(tail, len(one) - at, len(other) - to)
            resumed = len(one) - alike - at, len(other) - alike - to
        at, to = at + resumed[0], to + resumed[1]
        yield begin[0], min(at + _AROUND, len(one)), begin[1], min(to + _AROUND, len(other))


def _resumed(one: list[str], at: int, other: list[str], to: int) -> tuple[int, int] | None:
    """How many lines are only in the one, or only in the other, before both go on alike for a while."""
    ahead = range(1, _NEAR)
    for lines in ahead:
        if other[to + lines : to + lines + _ALIKE] == one[at : at + _ALIKE] and at + _ALIKE <= len(one):
            return 0, lines
        if one[at + lines : at + lines + _ALIKE] == other[to : to + _ALIKE] and to + _ALIKE <= len(other):
            return lines, 0
    return None


def _moved_down(hunk: re.Match[str], before: int, after: int) -> str:
    """The line numbers of a hunk, so many further down."""
    first, second = int(hunk["one"]) + before, int(hunk["other"]) + after
    return f"@@ -{first}{hunk['ones'] or ''} +{second}{hunk['others'] or ''} @@"
