"""Entries that go above each other, such as those at the start of a list: set with the last first, they stand in the
order in which they are asked for."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import msgspec

from hookset.config.layouts import Layout
from hookset.edits.find import found_plainly
from hookset.edits.replay import set_again, wound_back
from hookset.edits.single import text_for
from hookset.formats import Unreadable
from hookset.model import CouldNotError
from hookset.project import LedgerHook
from hookset.trees import Content, Inline, Overlay, Tree

__all__ = ["in_given_order"]

_SEVERAL = 2


def in_given_order(
    layout: Layout, tree: Tree, path: str, hooks: Sequence[LedgerHook]
) -> tuple[Content, tuple[LedgerHook, ...]] | None:
    """The file with these entries of one seat in the order in which they are given, and each as it was set then; None
    where they do not stand each above the one before it, or cannot be set otherwise. They share out their orders again,
    so that setting them again gives the same file."""
    orders = sorted(hook.order for hook in hooks)
    if len(hooks) < _SEVERAL or not _upwards(layout, tree, path, hooks):
        return None
    try:
        wound = wound_back(layout, tree, path, sorted(hooks, key=lambda hook: hook.order))
        if wound is None:
            return None
        turned = [
            msgspec.structs.replace(hook, order=order, edits=())
            for hook, order in zip(reversed(hooks), orders, strict=True)
        ]
        result = set_again(layout, tree, path, wound, turned)
    except (Unreadable, CouldNotError):
        return None
    if result is None:
        return None
    content, done = Inline(result[0]), tuple(reversed(result[1]))
    return (content, done) if _upwards(layout, Overlay(tree, {path: content}), path, result[1]) else None


def _upwards(layout: Layout, tree: Tree, path: str, hooks: Sequence[LedgerHook]) -> bool:
    """Whether each of them stands above the one before it."""
    text = text_for(layout, tree, path, hooks[0])
    if text is None:
        return False
    starts: list[int] = []
    for hook in hooks:
        edit = max(hook.edits, key=lambda one: len(one.new), default=None)
        spot = found_plainly(text.string, edit) if edit is not None else None
        if spot is None:
            return False
        starts.append(spot.start)
    return all(later < earlier for earlier, later in pairwise(starts))
