"""Whether an entry is gone: the one answer that checks, `status` and installs give."""

from __future__ import annotations

from collections.abc import Iterable

from hookset.core.entries.finding import Standing
from hookset.core.entries.one_by_one import text_for
from hookset.core.entries.putting import Put, put
from hookset.core.entries.winding import standing_of
from hookset.core.formats import Unreadable
from hookset.core.layouts import Layout
from hookset.core.model import CouldNotError
from hookset.core.project import LedgerHook
from hookset.core.trees import Tree

__all__ = ["how_it_stands"]


def how_it_stands(layout: Layout, tree: Tree, hook: LedgerHook, hooks: Iterable[LedgerHook]) -> Standing:
    """How an entry stands in a file now; `hooks` are all entries in that file, of all packs.

    It is gone where its text is nowhere and setting it again would set something: the builder may have written the
    same in other words. A file that cannot be read is changed.
    """
    if not tree.has(hook.path):
        return Standing.GONE
    try:
        text = text_for(layout, tree, hook.path, hook)
        if text is None:
            # The layout has no such seat any more: nobody can look.
            return Standing.AS_SET
        if hook.edits and (standing := standing_of(text.string, hook, hooks)) is not Standing.GONE:
            return standing
        if isinstance(put(layout, tree, hook), Put):
            return Standing.GONE
    except (Unreadable, CouldNotError):
        return Standing.CHANGED
    return Standing.CHANGED if hook.edits else Standing.AS_SET
