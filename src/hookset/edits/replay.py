"""Remove entries from a file, or replace them, as if the rest had been set without them.

Entries hold on to each other: one goes below the last, the first of a list brings no comma. So the file is wound back,
entry by entry, to where the first of them came in, and what stays is set again. That is done only where winding back
and forth with nothing left out gives the very file that is there. Where it does not, since the builder has changed
the file around the entries, each is found and taken out by itself.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Mapping, Sequence
from typing import Literal

import msgspec

from hookset.config.layouts import Layout
from hookset.edits.find import EntryState, found, found_exactly, found_plainly, lines_of
from hookset.edits.insertions import Insertions
from hookset.edits.place import Put, put
from hookset.edits.single import ByHand, Replayed, one_by_one, text_for
from hookset.formats import AlreadyThere, Edit, Unreadable, spliced
from hookset.model import CouldNotError
from hookset.project import LedgerHook
from hookset.trees import Content, Inline, Overlay, Tree

__all__ = ["ByHand", "Replayed", "replay", "text_state", "without_later"]

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
            again = _replayed(layout, tree, path, base, later)
            if again is not None and again[0] == tree.read(path):
                chosen = [
                    hook if one.order in instead and hook is not None else one
                    for one in later
                    if (hook := instead.get(one.order, one)) is not None
                ]
                result = _replayed(layout, tree, path, base, chosen)
                if result is not None:
                    before = [hook for hook in ordered if hook.order < first]
                    return Replayed(Inline(result[0]), (*before, *result[1]))
    return one_by_one(layout, tree, path, ordered, instead, by_hand)


def text_state(string: str, hook: LedgerHook, hooks: Iterable[LedgerHook] = ()) -> EntryState:
    """How an entry stands in a file now: as its least faithful stretch does. `hooks` are all entries in the file."""
    hooks = list(hooks)
    # Where its very text stands, there is nothing to search for.
    if (plain := _plainly(string, hook)) is not None:
        return plain
    # What another entry has set within this one is nobody's change of it.
    without = without_later(string, hook, hooks)
    if without != string and (plain := _plainly(without, hook)) is not None:
        return plain
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


def without_later(string: str, hook: LedgerHook, hooks: Sequence[LedgerHook]) -> str:
    """The file without the entries that were set after this one, as far as they stand as they were set."""
    for other in sorted(hooks, key=lambda one: one.order, reverse=True):
        if other.order <= hook.order:
            break
        for edit in reversed(other.edits):
            span = found_exactly(string, edit)
            if span is not None:
                string = spliced(string, [Edit(span.start, span.end, edit.old)])
    return string


def _wound(
    layout: Layout, tree: Tree, path: str, hooks: Sequence[LedgerHook], first: int
) -> tuple[bytes, list[LedgerHook]] | None:
    """The file as it was before entry `first`, and the entries from there on; None where one is not as it was set."""
    later = [hook for hook in hooks if hook.order >= first]
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
    return text.encode(string), later


def _replayed(
    layout: Layout, tree: Tree, path: str, base: bytes, hooks: Sequence[LedgerHook]
) -> tuple[bytes, tuple[LedgerHook, ...]] | None:
    """Entries set one after the other; None where one cannot be."""
    done: list[LedgerHook] = []
    insertions = Insertions(layout, Overlay(tree, {path: Inline(base)}), large=0)
    for hook in hooks:
        if insertions.take(hook):
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
