"""Three-way merge of texts, by lines: what was set, what the builder made of it, what is to be set now.

As in S. Khanna, K. Kunal, B. C. Pierce, "A Formal Investigation of Diff3" (2007): stretches that only one side has
changed are taken from that side; those that both changed in the same way are taken once; the rest are conflicts. Beyond
that, lines that one side has changed and the other has only added some beside are no conflict: there is one way to have
both.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from difflib import SequenceMatcher
from typing import Any, Literal

from msgspec import Struct

__all__ = ["Conflict", "Merged", "kept_by_hand", "merged", "merged_data"]


_NOTHING = object()


class Conflict(Struct, frozen=True):
    """Lines that both sides have changed, each in its own way."""

    line: int
    """In the builder's text, from one."""
    was: tuple[str, ...]
    mine: tuple[str, ...]
    theirs: tuple[str, ...]


class Merged(Struct, frozen=True):
    """The outcome of a three-way merge."""

    text: str
    conflicts: tuple[Conflict, ...]
    """In `text` each of them is settled by the side that was to be preferred."""


def merged(was: str, mine: str, theirs: str, prefer: Literal["mine", "theirs"] = "mine") -> Merged:
    """`theirs`, with what `mine` changed of `was`."""
    base, ours, new = (text.splitlines(keepends=True) for text in (was, mine, theirs))
    here, there = _kept(base, ours), _kept(base, new)
    result: list[str] = []
    conflicts: list[Conflict] = []
    at = mine_at = their_at = 0
    for stable in [*(line for line in here if line in there), len(base)]:
        mine_to = here.get(stable, len(ours)) if stable < len(base) else len(ours)
        their_to = there.get(stable, len(new)) if stable < len(base) else len(new)
        parts = base[at:stable], ours[mine_at:mine_to], new[their_at:their_to]
        if parts[1] == parts[0]:
            result += parts[2]
        elif parts[2] in (parts[0], parts[1]):
            result += parts[1]
        elif (both := _beside(*parts)) is not None:
            result += both
        else:
            conflicts.append(Conflict(mine_at + 1, tuple(parts[0]), tuple(parts[1]), tuple(parts[2])))
            result += parts[1] if prefer == "mine" else parts[2]
        if stable < len(base):
            result.append(ours[mine_to])
        at, mine_at, their_at = stable + 1, mine_to + 1, their_to + 1
    return Merged("".join(result), tuple(conflicts))


def _beside(was: Sequence[str], mine: Sequence[str], theirs: Sequence[str]) -> list[str] | None:
    """Lines that one side has changed, with what the other has only added above or below them; None where the two did
    more than that."""
    for changed, added in ((mine, theirs), (theirs, mine)):
        if was and len(changed) == len(was) < len(added):
            if added[: len(was)] == was:
                return [*changed, *added[len(was) :]]
            if added[-len(was) :] == was:
                return [*added[: -len(was)], *changed]
    return None


def merged_data(was: Any, mine: Any, theirs: Any) -> tuple[Any, bool]:
    """The same for data, value by value: (what comes of it, whether both changed one value; mine is taken then)."""
    if mine == was:
        return theirs, False
    if theirs in (was, mine):
        return mine, False
    if not all(isinstance(one, Mapping) for one in (was, mine, theirs)):
        return mine, True
    result: dict[str, Any] = {}
    clash = False
    for key in dict.fromkeys((*theirs, *mine)):
        value, both = merged_data(*(one.get(key, _NOTHING) for one in (was, mine, theirs)))
        clash = clash or both
        if value is not _NOTHING:
            result[key] = value
    return result, clash


def kept_by_hand(was: str, mine: str) -> str:
    """What of `mine` the builder has written: without the lines that were set."""
    base, ours = was.splitlines(keepends=True), mine.splitlines(keepends=True)
    matcher = SequenceMatcher(None, [line.strip() for line in base], [line.strip() for line in ours], autojunk=False)
    own = [ours[j1:j2] for tag, _, _, j1, j2 in matcher.get_opcodes() if tag in ("replace", "insert")]
    return "".join(line for lines in own for line in lines if line.strip())


def _kept(base: Sequence[str], other: Sequence[str]) -> dict[int, int]:
    """Lines of `base` that `other` has as well, with their number there."""
    matcher = SequenceMatcher(None, base, other, autojunk=False)
    return {a + i: b + i for a, b, size in matcher.get_matching_blocks() for i in range(size)}
