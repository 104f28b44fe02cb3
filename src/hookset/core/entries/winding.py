"""Taking entries out of a file, or setting others in their stead, as if the rest had been set without them.

Entries hold on to each other: one goes below the last, the first of a list brings no comma. So the file is wound back,
entry by entry, to where the first of them came in, and what stays is set anew. That is done only where winding back
and forth with nothing left out gives the very file that is there. Where it does not, since the builder has changed
the file around the entries, each is found and taken out by itself.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import msgspec

from hookset.core.entries.finding import Found, Standing, found, found_exactly, lines_of
from hookset.core.entries.merging import Conflict, kept_by_hand, merged
from hookset.core.entries.putting import Put, opened, put
from hookset.core.formats import AlreadyThere, Clash, Edit, Unreadable, format_named, spliced, text_of
from hookset.core.layouts import Layout
from hookset.core.model import CouldNotError
from hookset.core.project import LedgerHook
from hookset.core.trees import Content, Inline, Overlay, Text, Tree

__all__ = ["ByHand", "Rewound", "rewound", "standing_of"]

_LARGEST = 8 << 20
"""Bytes of a file that is wound back: reading a scene of tens of MB anew for each entry would take minutes."""


@dataclass(frozen=True, slots=True)
class ByHand:
    """An entry that the builder has changed: what it was, and what stands there now."""

    hook: LedgerHook
    was: str
    now: str
    conflicts: tuple[Conflict, ...] = ()


@dataclass(frozen=True, slots=True)
class Rewound:
    """A file without some of its entries, or with others in their stead."""

    content: Content
    hooks: tuple[LedgerHook, ...]
    """The entries that stay, with what they changed in this file."""
    by_hand: tuple[ByHand, ...] = ()
    """Entries that the builder had changed, with what became of it as it was chosen."""
    gone: tuple[LedgerHook, ...] = ()
    """Entries that were to be taken out and are not there."""


def rewound(
    layout: Layout,
    tree: Tree,
    path: str,
    hooks: Sequence[LedgerHook],
    instead: Mapping[int, LedgerHook | None],
    by_hand: Literal["keep", "drop"],
) -> Rewound:
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
                    return Rewound(Inline(result[0]), (*before, *result[1]))
    return _one_by_one(layout, tree, path, ordered, instead, by_hand)


def standing_of(string: str, hook: LedgerHook, hooks: Iterable[LedgerHook] = ()) -> Standing:
    """How an entry stands in a file now: as its least faithful stretch does. `hooks` are all entries in the file."""
    others = lines_of(hooks, hook)
    worst = [found(string, edit, others).standing for edit in hook.edits]
    order = (Standing.AS_SET, Standing.MOVED, Standing.CHANGED, Standing.GONE)
    return max(worst, key=order.index, default=Standing.AS_SET)


def _text(layout: Layout, tree: Tree, path: str, hook: LedgerHook) -> Text | None:
    place = layout.seats.get(hook.seat) if hook.ask is None else layout.text_rule(path)
    if place is None:
        return None
    return text_of(format_named(place.format), tree.read(path), place.encodings)


def _wound(
    layout: Layout, tree: Tree, path: str, hooks: Sequence[LedgerHook], first: int
) -> tuple[bytes, list[LedgerHook]] | None:
    """The file as it was before entry `first`, and the entries from there on; None where one is not as it was set."""
    later = [hook for hook in hooks if hook.order >= first]
    text = _text(layout, tree, path, later[0])
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
    content: Content = Inline(base)
    done: list[LedgerHook] = []
    for hook in hooks:
        try:
            result = put(layout, Overlay(tree, {path: content}), hook)
        except (Unreadable, CouldNotError):
            return None
        if isinstance(result, AlreadyThere):
            done.append(msgspec.structs.replace(hook, was_there=True, edits=()))
        elif isinstance(result, Put):
            content = result.content
            done.append(result.hook)
        else:
            return None
    return content.read(), tuple(done)


def _one_by_one(
    layout: Layout,
    tree: Tree,
    path: str,
    hooks: Sequence[LedgerHook],
    instead: Mapping[int, LedgerHook | None],
    by_hand: Literal["keep", "drop"],
) -> Rewound:
    state = Rewound(Inline(tree.read(path)), tuple(hooks))
    for hook in reversed([hook for hook in hooks if hook.order in instead]):
        state = _without(layout, Overlay(tree, {path: state.content}), hook, instead[hook.order], by_hand, state)
    return state


def _without(
    layout: Layout,
    tree: Tree,
    hook: LedgerHook,
    new: LedgerHook | None,
    by_hand: Literal["keep", "drop"],
    state: Rewound,
) -> Rewound:
    others = tuple(one for one in state.hooks if one.order != hook.order)
    heir = next((one for one in others if one.was_there and _same(one, hook) and hook.edits), None)
    if new is None and heir is not None:
        # Another pack brings the same entry: it stays, and is that pack's from now on.
        taken_over = msgspec.structs.replace(heir, was_there=False, edits=hook.edits)
        return replace(state, hooks=tuple(taken_over if one is heir else one for one in others))
    text = _text(layout, tree, hook.path, hook)
    if text is None:
        raise CouldNotError(
            f"the layout has no seat `{hook.seat}` any more, by which {hook.path} was edited",
            where=hook.path,
            remedy="bring the seat back into the layout",
        )
    beside = lines_of(state.hooks, hook)
    spans = [found(text.string, edit, beside) for edit in hook.edits]
    changed: list[ByHand] = []
    edits: list[Edit] = []
    for edit, span in zip(hook.edits, spans, strict=True):
        if span.standing is Standing.CHANGED:
            one, way = _by_hand(text, hook, edit.new, span, by_hand)
            changed.append(one)
            edits.append(way)
        elif span.standing is not Standing.GONE:
            edits.append(Edit(span.start, span.end, edit.old))
    edits = _apart(edits)
    gone = (hook,) if hook.edits and not edits else ()
    string = _mended_commas(layout, tree, hook, text, spliced(text.string, edits), edits)
    content: Content = Inline(text.encode(string))
    kept = others
    if new is not None:
        result = put(layout, Overlay(tree, {hook.path: content}), new)
        if isinstance(result, Put):
            content, kept = result.content, (*others, result.hook)
            if by_hand == "keep":
                content, changed = _carried_over(text, content, result.hook, changed)
        elif isinstance(result, AlreadyThere | Clash):
            kept = (*others, msgspec.structs.replace(new, was_there=True))
    return Rewound(content, kept, (*state.by_hand, *changed), (*state.gone, *gone))


def _by_hand(
    text: Text, hook: LedgerHook, was: str, span: Found, by_hand: Literal["keep", "drop"]
) -> tuple[ByHand, Edit]:
    now = text.string[span.start : span.end]
    kept = kept_by_hand(was, now) if by_hand == "keep" else ""
    if kept and was[0] in "\r\n":
        kept = text.newline + kept.rstrip("\r\n")
    return ByHand(hook, was, now), Edit(span.start, span.end, kept)


def _carried_over(
    text: Text, content: Content, hook: LedgerHook, changed: Sequence[ByHand]
) -> tuple[Content, list[ByHand]]:
    """The builder's changes of an entry, made in the one that takes its place."""
    string = _string(text, content)
    done: list[ByHand] = []
    for one, edit in zip(changed, hook.edits, strict=False):
        span = found_exactly(string, edit)
        result = merged(one.was, one.now, edit.new)
        if span is not None:
            string = spliced(string, [Edit(span.start, span.end, result.text)])
        done.append(replace(one, conflicts=result.conflicts))
    return Inline(text.encode(string)), [*done, *changed[len(done) :]]


def _string(text: Text, content: Content) -> str:
    return content.read()[len(text.bom) :].decode(text.encoding)


def _same(one: LedgerHook, other: LedgerHook) -> bool:
    return (one.path, one.seat, one.ask, one.text, one.record) == (
        other.path,
        other.seat,
        other.ask,
        other.text,
        other.record,
    )


def _apart(edits: list[Edit]) -> list[Edit]:
    kept: list[Edit] = []
    for edit in sorted(edits, key=lambda edit: edit.start):
        if not kept or kept[-1].end <= edit.start:
            kept.append(edit)
    return kept


def _mended_commas(layout: Layout, tree: Tree, hook: LedgerHook, text: Text, string: str, edits: Sequence[Edit]) -> str:
    """Where taking an entry out leaves a comma too many or one too few, the one that makes the file read again."""
    if _reads(layout, tree, hook, text, string):
        return string
    shift = 0
    for edit in edits:
        at = edit.start + shift
        shift += len(edit.text) - (edit.end - edit.start)
        head, tail = string[:at].rstrip(), string[at:].lstrip()
        before, behind = len(head), len(string) - len(tail)
        tries = []
        if head.endswith(","):
            tries.append(string[: before - 1] + string[before:])
        if tail.startswith(","):
            tries.append(string[:behind] + string[behind + 1 :])
        tries.append(string[:before] + "," + string[before:])
        for one in tries:
            if _reads(layout, tree, hook, text, one):
                return one
    raise CouldNotError(
        f"taking the entry `{hook.shown[:60]}` out would damage the file",
        where=hook.path,
        why="the file was changed around the entry, so that it does not read without it",
        remedy="take the entry out by hand, and run this again",
    )


def _reads(layout: Layout, tree: Tree, hook: LedgerHook, text: Text, string: str) -> bool:
    try:
        content = Inline(text.encode(string))
        return opened(layout, Overlay(tree, {hook.path: content}), hook) is not None
    except (Unreadable, CouldNotError):
        return False
