"""Remove entries from a file, or replace them, as if the rest had been set without them.

Entries hold on to each other: one goes below the last, the first of a list brings no comma. So the file is wound back,
entry by entry, to where the first of them came in, and what stays is set again. That is done only where winding back
and forth with nothing left out gives the very file that is there. Where it does not, since the builder has changed
the file around the entries, each is found and taken out by itself.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import Literal

import msgspec
from msgspec import Struct

from hookset.config.layouts import Layout
from hookset.edits.find import EntryState, found, found_exactly, found_plainly, lines_of
from hookset.edits.insertions import Insertions
from hookset.edits.place import Put, put
from hookset.edits.single import ByHand, Replayed, one_by_one, text_for
from hookset.formats import AlreadyThere, Edit, Unreadable, spliced
from hookset.model import CouldNotError
from hookset.project import LedgerEdit, LedgerHook
from hookset.trees import Content, Inline, Overlay, Tree

__all__ = [
    "ByHand",
    "Replayed",
    "Sought",
    "replay",
    "set_again",
    "set_within",
    "text_state",
    "without_later",
    "wound_back",
]

_COPIED = 64 << 10
"""Characters of a text that is copied for each entry without a thought."""
_AROUND = 2_000
"""Characters beside an entry in which its neighbours are looked for."""
_LARGEST = 8 << 20
"""Bytes of a file that is wound back: reading a scene of tens of MB again for each entry would take minutes."""


def replay(
    layout: Layout,
    tree: Tree,
    path: str,
    hooks: Sequence[LedgerHook],
    instead: Mapping[int, LedgerHook | None],
    by_hand: Literal["keep", "drop"],
) -> Replayed:
    """The file with each entry of `instead` (by its order) replaced, or taken out where that says None.

    `hooks` are all entries in that file, of all packs. Raises Unreadable or CouldNotError for a file not edited.
    """
    ordered = sorted(hooks, key=lambda hook: hook.order)
    first = min(instead)
    if tree.size(path) <= _LARGEST:
        wound = _wound(layout, tree, path, ordered, first)
        if wound is not None:
            base, later = wound
            result = _at_once(layout, tree, path, base, later, instead)
            result = result or _in_turn(layout, tree, path, base, later, instead)
            if result is not None:
                before = [hook for hook in ordered if hook.order < first]
                return Replayed(Inline(result[0]), (*before, *result[1]))
    return one_by_one(layout, tree, path, ordered, instead, by_hand)


def text_state(string: str, earlier: Callable[[], Earlier], hook: LedgerHook, hooks: list[LedgerHook]) -> EntryState:
    """How an entry stands in a file now: as its least faithful stretch does. `hooks` are all entries in the file, and
    `earlier` gives the file without those that were set later."""
    # Where its very text stands, there is nothing to search for.
    if (plain := _plainly(string, hook)) is EntryState.AS_SET:
        return plain
    # What another entry has set within this one, or beside it, is nobody's change of it.
    without = earlier().string
    alone = _plainly(without, hook) if without != string else None
    if plain is not None or alone is not None:
        return EntryState.AS_SET if alone is EntryState.AS_SET else plain or EntryState.MOVED
    standing = _worst(string, hook, hooks)
    if standing in (EntryState.CHANGED, EntryState.GONE) and without != string:
        alone = _worst(without, hook, hooks)
        return alone if alone in (EntryState.AS_SET, EntryState.MOVED) else standing
    return standing


def _plainly(string: str, hook: LedgerHook) -> EntryState | None:
    """How it stands where each of its stretches is there word for word; else None."""
    pack_statuses = [found_plainly(string, edit) for edit in hook.edits]
    if any(one is None for one in pack_statuses):
        return None
    return (
        EntryState.MOVED if any(one.standing is EntryState.MOVED for one in pack_statuses if one) else EntryState.AS_SET
    )


def _worst(string: str, hook: LedgerHook, hooks: Sequence[LedgerHook]) -> EntryState:
    others = lines_of(hooks, hook)
    found_ = [found(string, edit, others).standing for edit in hook.edits]
    order = (EntryState.AS_SET, EntryState.MOVED, EntryState.CHANGED, EntryState.GONE)
    return max(found_, key=order.index, default=EntryState.AS_SET)


class Earlier(Struct, frozen=True):
    """A file as it was before some of its entries were set."""

    string: str
    taken: tuple[tuple[LedgerHook, int], ...]
    """The entries that were taken out, each with where a stretch of it was."""


class Sought:
    """Where texts stand in a large one: each is looked for once, however many entries are asked about."""

    def __init__(self, string: str) -> None:
        self.string = string
        self._known: dict[str, tuple[int, int]] = {}

    def first_two(self, text: str) -> tuple[int, int]:
        """Where it begins, and where it begins again; -1 for nowhere."""
        if text not in self._known:
            at = self.string.find(text)
            self._known[text] = (at, self.string.find(text, at + 1) if at >= 0 else -1)
        return self._known[text]


def without_later(sought: Sought, hook: LedgerHook, hooks: Iterable[LedgerHook]) -> Earlier:
    """The file without the entries that were set after this one, as far as they stand as they were set."""
    later = sorted((one for one in hooks if one.order > hook.order), key=lambda one: one.order, reverse=True)
    left = [(one, edit) for one in later for edit in reversed(one.edits)]
    taken: list[tuple[LedgerHook, int]] = []
    pieces: list[str] = []
    length = 0
    for piece, touched in _pieces(sought, [edit for _, edit in left]):
        now, here = _without(piece, left) if touched else (piece, [])
        taken += ((left[number][0], length + at) for number, at in here)
        gone = {number for number, _ in here}
        left = [one for number, one in enumerate(left) if number not in gone]
        pieces.append(now)
        length += len(now)
    return Earlier("".join(pieces), tuple(taken))


def _without(string: str, left: Sequence[tuple[LedgerHook, LedgerEdit]]) -> tuple[str, list[tuple[int, int]]]:
    """A text without those of these edits that stand in it; and the number of each with where it was."""
    taken: list[tuple[int, int]] = []
    for number, (_, edit) in enumerate(left):
        span = found_exactly(string, edit)
        if span is None:
            continue
        string = spliced(string, [Edit(span.start, span.end, edit.old)])
        shorter = len(edit.new) - len(edit.old)
        taken = [(one, max(at - shorter, span.start) if at > span.start else at) for one, at in taken]
        taken.append((number, span.start))
    return string, taken


def _pieces(sought: Sought, edits: Sequence[LedgerEdit]) -> Iterator[tuple[str, bool]]:
    """A text in pieces, each with whether one of the edits can stand in it, so that a large file is not copied for
    each of them. It stays whole where the text of one is there more than once: its neighbours tell which is meant."""
    string = sought.string
    spans = _spans(sought, edits) if len(string) > _COPIED else []
    done = 0
    for start, end in spans:
        yield string[done:start], False
        yield string[start:end], True
        done = end
    yield string[done:], not spans


def _spans(sought: Sought, edits: Sequence[LedgerEdit]) -> list[tuple[int, int]]:
    """Where the edits stand, with as much around each as all of them take up: those that others were set within come
    to light there. None where that is not sure."""
    around = sum(len(edit.new) + len(edit.old) for edit in edits) + _AROUND
    string = sought.string
    found_: list[tuple[int, int]] = []
    places = [sought.first_two(edit.new) for edit in edits]
    if any(again >= 0 for _, again in places):
        return []
    for at in sorted(at for at, _ in places if at >= 0):
        start, end = _line_start(string, at - around), _line_end(string, at + around)
        if found_ and start <= found_[-1][1]:
            found_[-1] = (found_[-1][0], end)
        else:
            found_.append((start, end))
    blank = any(not string[start:end].strip() for start, end in found_)
    return [] if blank else found_


def _line_start(string: str, at: int) -> int:
    return string.rfind("\n", 0, max(at, 0)) + 1


def _line_end(string: str, at: int) -> int:
    return string.find("\n", min(at, len(string))) + 1 or len(string)


def set_within(earlier: Earlier, hook: LedgerHook) -> tuple[LedgerHook, ...]:
    """The later entries that were set within the very text of this one."""
    spans = [found_plainly(earlier.string, edit) for edit in hook.edits]
    inside = [(span.start, span.end) for span in spans if span is not None]
    return tuple(other for other, at in earlier.taken if any(start < at < end for start, end in inside))


def _wound(
    layout: Layout, tree: Tree, path: str, hooks: Sequence[LedgerHook], first: int
) -> tuple[bytes, list[LedgerHook]] | None:
    """The file as it was before entry `first`, and the entries from there on; None where one is not as it was set."""
    later = [hook for hook in hooks if hook.order >= first]
    base = wound_back(layout, tree, path, later)
    return None if base is None else (base, later)


def wound_back(layout: Layout, tree: Tree, path: str, later: Sequence[LedgerHook]) -> bytes | None:
    """The file as it was before some entries were set, which come in the order in which they were; None where one is
    not as it was set."""
    text = text_for(layout, tree, path, later[0])
    if text is None:
        return None
    string = text.string
    for hook in reversed(later):
        spans = [(edit, found_exactly(string, edit)) for edit in hook.edits]
        if any(span is None for _, span in spans):
            return None
        back = [Edit(span.start, span.end, edit.old) for edit, span in spans if span is not None]
        if any(one.end > other.start for one, other in itertools.pairwise(back)):
            return None
        string = spliced(string, back)
    return text.encode(string)


_Result = tuple[bytes, tuple[LedgerHook, ...]]


def _at_once(
    layout: Layout,
    tree: Tree,
    path: str,
    base: bytes,
    later: Sequence[LedgerHook],
    instead: Mapping[int, LedgerHook | None],
) -> _Result | None:
    """The file with those entries that stay, where all of them are plain insertions into what it was before: each is
    looked for in that once, and once in the result."""
    if any(hook is not None for hook in instead.values()):
        return None
    insertions = Insertions(layout, Overlay(tree, {path: Inline(base)}), large=0)
    try:
        again = insertions.together(later)
        if again is None or again[0] != tree.read(path):
            return None
        stay = [hook for hook in later if hook.order not in instead]
        result = insertions.together(stay) if stay else (base, ())
    except (Unreadable, CouldNotError):
        return None
    if result is None or not insertions.stand(Overlay(tree, {path: Inline(result[0])}), result[1]):
        return None
    return result


def _in_turn(
    layout: Layout,
    tree: Tree,
    path: str,
    base: bytes,
    later: Sequence[LedgerHook],
    instead: Mapping[int, LedgerHook | None],
) -> _Result | None:
    """The file with the entries set one after the other, others in the place of some; None where setting all of them
    as they were does not give the file that is there."""
    again = set_again(layout, tree, path, base, later)
    if again is None or again[0] != tree.read(path):
        return None
    chosen = [
        hook if one.order in instead and hook is not None else one
        for one in later
        if (hook := instead.get(one.order, one)) is not None
    ]
    return set_again(layout, tree, path, base, chosen)


def set_again(layout: Layout, tree: Tree, path: str, base: bytes, hooks: Sequence[LedgerHook]) -> _Result | None:
    """Entries set one after the other; None where one cannot be."""
    done: list[LedgerHook] = []
    insertions = Insertions(layout, Overlay(tree, {path: Inline(base)}), large=0)
    for hook in hooks:
        if (more := insertions.take(hook)) is not None:
            insertions = more
            continue
        settled = _settled(layout, insertions, path)
        if settled is None:
            return None
        content, set_here = settled
        try:
            result = put(layout, Overlay(tree, {path: content}), hook)
        except (Unreadable, CouldNotError):
            return None
        done += set_here
        if isinstance(result, AlreadyThere):
            done.append(msgspec.structs.replace(hook, was_there=True, edits=()))
        elif isinstance(result, Put):
            content = result.content
            done.append(result.hook)
        else:
            return None
        insertions = Insertions(layout, Overlay(tree, {path: content}), large=0)
    settled = _settled(layout, insertions, path)
    return None if settled is None else (settled[0].read(), (*done, *settled[1]))


def _settled(layout: Layout, insertions: Insertions, path: str) -> tuple[Content, tuple[LedgerHook, ...]] | None:
    """The file with all that waited in it; set one by one where that does not come out as it should."""
    if not insertions.waiting:
        return Inline(insertions.tree.read(path)), ()
    result = insertions.written()
    if result is not None:
        return result[0][path], result[1]
    content: Content = Inline(insertions.tree.read(path))
    done: list[LedgerHook] = []
    for one in insertions.waiting:
        try:
            single = put(layout, Overlay(insertions.tree, {path: content}), one.hook)
        except (Unreadable, CouldNotError):
            return None
        if not isinstance(single, Put):
            return None
        content = single.content
        done.append(single.hook)
    return content, tuple(done)
