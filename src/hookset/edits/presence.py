"""Whether an entry is gone: the one answer that checks, `status` and installs give."""

from __future__ import annotations

import functools
from collections.abc import Callable, Iterable, Iterator
from functools import partial

from hookset.config.layouts import Layout
from hookset.edits.find import EntryState
from hookset.edits.place import placed_in
from hookset.edits.replay import Earlier, Sought, set_within, text_state, without_later
from hookset.edits.single import text_for
from hookset.formats import AlreadyThere, Edits, Unreadable
from hookset.model import CouldNotError
from hookset.project import LedgerHook
from hookset.trees import EmptyTree, Inline, Overlay, Text, Tree

__all__ = ["entry_state", "entry_states"]


def entry_state(layout: Layout, tree: Tree, hook: LedgerHook, hooks: Iterable[LedgerHook]) -> EntryState:
    """How an entry stands in a file now; `hooks` are all entries in that file, of all packs.

    Two things count: where its text is, and whether setting it again would set something. Only together they tell an
    entry that is commented out (its text is there) from one that is written in other words (its text is not), and
    both from one that another entry was set within. A file that cannot be read is changed.
    """
    return next(entry_states(layout, tree, hook.path, (hook,), hooks))


def entry_states(
    layout: Layout, tree: Tree, path: str, asked: Iterable[LedgerHook], hooks: Iterable[LedgerHook]
) -> Iterator[EntryState]:
    """The same of several entries of one file, which is read once."""
    if not tree.has(path):
        yield from (EntryState.GONE for _ in asked)
        return
    within, every = Overlay(EmptyTree(), {path: Inline(tree.read(path))}), list(hooks)
    sought = functools.cache(Sought)
    yield from (_standing(layout, within, hook, every, sought) for hook in asked)


def _standing(
    layout: Layout, tree: Tree, hook: LedgerHook, hooks: list[LedgerHook], sought: Callable[[str], Sought]
) -> EntryState:
    path = hook.path
    try:
        text = text_for(layout, tree, path, hook)
        if text is None:
            # The layout has no such seat any more: nobody can look.
            return EntryState.AS_SET
        earlier = functools.cache(partial(without_later, sought(text.string), hook, hooks))
        by_text = text_state(text.string, earlier, hook, hooks) if hook.edits else None
        if not _would_set(layout, tree, text, hook, earlier):
            return EntryState.CHANGED if by_text is EntryState.GONE else by_text or EntryState.AS_SET
    except (Unreadable, CouldNotError):
        return EntryState.CHANGED
    return EntryState.CHANGED if by_text is EntryState.CHANGED else EntryState.GONE


def _would_set(layout: Layout, tree: Tree, text: Text, hook: LedgerHook, before: Callable[[], Earlier]) -> bool:
    if hook.ask is not None:
        # A value is there as long as somebody can read it; another one is a change.
        return isinstance(placed_in(layout, tree, hook), Edits) and not hook.edits
    if not isinstance(placed_in(layout, tree, hook), Edits):
        return False
    earlier = before()
    if earlier.string == text.string:
        return True
    # What stands within it is read as part of the file, and so is it: that spares reading a large file once more.
    if any(isinstance(placed_in(layout, tree, other), AlreadyThere) for other in set_within(earlier, hook)):
        return False
    alone = Overlay(tree, {hook.path: Inline(text.encode(earlier.string))})
    return isinstance(placed_in(layout, alone, hook), Edits)
