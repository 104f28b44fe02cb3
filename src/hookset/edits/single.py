"""Entries out of a file that the builder has changed around them: each is found and taken out by itself."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Literal

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from hookset.config.layouts import Layout
from hookset.edits.find import EntryState, Found, found, found_exactly, lines_of
from hookset.edits.merge import Conflict, kept_by_hand, merged, merged_data
from hookset.edits.place import Put, how_read, line_above, line_below, opened, put, spot_of
from hookset.formats import (
    AlreadyThere,
    Body,
    Clash,
    Edit,
    NoSeat,
    Unreadable,
    format_named,
    open_file,
    spliced,
    text_of,
)
from hookset.formats.document import Reshaping, standing_at
from hookset.model import CouldNotError
from hookset.project import LedgerHook
from hookset.trees import Content, Inline, Overlay, Text, Tree

__all__ = ["ByHand", "Replayed", "one_by_one", "text_for"]


_SPARE = " \t\r\n,;"


class ByHand(Struct, frozen=True):
    """An entry that the builder has changed: what it was, and what stands there now."""

    hook: LedgerHook
    was: str
    now: str
    number: int = 0
    """Which of the entry's stretches it is."""
    conflicts: tuple[Conflict, ...] = ()


class Replayed(Struct, frozen=True):
    """A file with some of its entries removed or replaced."""

    content: Content
    hooks: tuple[LedgerHook, ...]
    """The entries that stay, with what they changed in this file."""
    by_hand: tuple[ByHand, ...] = ()
    """Entries that the builder had changed, with what became of it as it was chosen."""
    gone: tuple[LedgerHook, ...] = ()
    """Entries that were to be taken out and are not there."""


def text_for(layout: Layout, tree: Tree, path: str, hook: LedgerHook) -> Text | None:
    """Return the text of the file of an entry; None if the layout has no such seat any more."""
    place = how_read(layout, hook)
    if place is None:
        return None
    form, data = format_named(place.format), tree.read(path)
    try:
        return open_file(form, data, place.encodings, place.options)[0]
    except Unreadable:
        return text_of(form, data, place.encodings)


def one_by_one(
    layout: Layout,
    tree: Tree,
    path: str,
    hooks: Sequence[LedgerHook],
    instead: Mapping[int, LedgerHook | None],
    by_hand: Literal["keep", "drop"],
) -> Replayed:
    """Remove or replace entries in a file that the builder has changed around them, each found by itself."""
    state = Replayed(Inline(tree.read(path)), tuple(hooks))
    ways = [hook for hook in hooks if hook.order in instead]
    # Removals, the last first; replacements in the order in which they were set.
    going = [hook for hook in reversed(ways) if instead[hook.order] is None]
    for hook in (*going, *(hook for hook in ways if instead[hook.order] is not None)):
        state = _without(layout, Overlay(tree, {path: state.content}), hook, instead[hook.order], by_hand, state)
    return state


def _without(
    layout: Layout,
    tree: Tree,
    hook: LedgerHook,
    new: LedgerHook | None,
    by_hand: Literal["keep", "drop"],
    state: Replayed,
) -> Replayed:
    others = tuple(one for one in state.hooks if one.order != hook.order)
    heir = next((one for one in others if one.was_there and _same(one, hook) and hook.edits), None)
    if new is None and heir is not None:
        # Another pack brings the same entry: it stays, and is that pack's from now on.
        taken_over = msgspec.structs.replace(heir, was_there=False, edits=hook.edits)
        return replace(state, hooks=tuple(taken_over if one is heir else one for one in others))
    text = text_for(layout, tree, hook.path, hook)
    if text is None:
        raise CouldNotError(
            "unknown-seat",
            f"the layout has no seat `{hook.seat}` any more, by which {hook.path} was edited",
            where=hook.path,
            remedy="bring the seat back into the layout",
        )
    beside = lines_of(state.hooks, hook)
    spans = [found(text.string, edit, beside) for edit in hook.edits]
    changed: list[ByHand] = []
    edits: list[Edit] = []
    for number, (edit, span) in enumerate(zip(hook.edits, spans, strict=True)):
        if span.standing is EntryState.CHANGED:
            one, way = _by_hand(text, hook, edit.new, span, by_hand)
            changed.append(replace(one, number=number))
            edits.append(way)
        elif span.standing is not EntryState.GONE:
            edits.append(Edit(span.start, span.end, edit.old))
    whole = _taken_whole(layout, tree, hook, spans, edits, changed and by_hand == "keep" and new is None)
    edits = _apart(edits if whole is None else whole)
    # A comma may have been set beside the entry itself.
    wordy = [n for n, edit in enumerate(hook.edits) if any(letter.isalnum() for letter in edit.new)]
    left = any(spans[n].standing is not EntryState.GONE for n in wordy)
    gone = (hook,) if hook.edits and (not edits or (wordy and not left)) else ()
    string = _mended_commas(layout, tree, hook, text, spliced(text.string, edits), edits)
    content: Content = Inline(text.encode(string))
    kept = others
    if new is not None:
        bare = content
        result = put(layout, Overlay(tree, {hook.path: bare}), new)
        stays = _in_its_place(layout, tree, text, hook, spans, result.hook) if isinstance(result, Put) else None
        if stays is not None:
            content, kept = stays[0], (*others, stays[1])
        elif isinstance(result, Put):
            content, kept = result.content, (*others, _as_before(result.hook, hook))
            if by_hand == "keep" and changed:
                data = _merged_record(layout, tree, hook, new, [(span.start, span.end) for span in spans])
                again = put(layout, Overlay(tree, {hook.path: bare}), data[0]) if data is not None else None
                if data is not None and isinstance(again, Put):
                    content = again.content
                    told = (Conflict(0, (), (), ()),) if data[1] else ()
                    changed = [replace(one, conflicts=told) for one in changed]
                else:
                    content, changed = _carried_over(text, content, result.hook, changed)
        elif isinstance(result, AlreadyThere | Clash):
            kept = (*others, msgspec.structs.replace(new, was_there=True))
    return Replayed(content, kept, (*state.by_hand, *changed), (*state.gone, *gone))


def _taken_whole(
    layout: Layout, tree: Tree, hook: LedgerHook, spans: Sequence[Found], edits: list[Edit], stays: object
) -> list[Edit] | None:
    """For seats of which more than the entry's text has to change."""
    spot = spot_of(layout, hook)
    found_ = opened(layout, tree, hook)
    if isinstance(spot, NoSeat) or found_ is None or not edits or not isinstance(found_[1], Reshaping):
        return None
    near = [(span.start, span.end) for span in spans if span.standing is not EntryState.GONE]
    taken = found_[1].take(spot, Body(text=hook.text, record=hook.record), near)
    if taken is None:
        return None
    return [] if stays else list(taken.edits)


def _by_hand(
    text: Text, hook: LedgerHook, was: str, span: Found, by_hand: Literal["keep", "drop"]
) -> tuple[ByHand, Edit]:
    now = text.string[span.start : span.end]
    kept = kept_by_hand(was, now) if by_hand == "keep" else ""
    if kept and was[0] in "\r\n":
        kept = text.newline + kept.rstrip("\r\n")
    return ByHand(hook, was, now), Edit(span.start, span.end, kept)


def _merged_record(
    layout: Layout, tree: Tree, hook: LedgerHook, new: LedgerHook, near: Sequence[tuple[int, int]]
) -> tuple[LedgerHook, bool] | None:
    """The new entry with the values that the builder has changed in the earlier one; None for what is no data."""
    here, spot = opened(layout, tree, hook), spot_of(layout, hook)
    if here is None or isinstance(spot, NoSeat) or hook.record is None or new.record is None:
        return None
    mine = standing_at(here[1], spot, Body(record=hook.record), near)
    if mine is None:
        return None
    record, clash = merged_data(hook.record, mine, new.record)
    return msgspec.structs.replace(new, record=record), clash


def _in_its_place(
    layout: Layout, tree: Tree, text: Text, hook: LedgerHook, spans: Sequence[Found], new: LedgerHook
) -> tuple[Content, LedgerHook] | None:
    """A new entry where the old one stands word for word, if the two are one stretch each with the same around their
    words; None for others, which go to their seat."""
    if len(spans) != 1 or len(new.edits) != 1:
        return None
    (span,), (was,), (edit,) = spans, hook.edits, new.edits
    as_set = span.standing is not EntryState.GONE and text.string[span.start : span.end] == was.new
    if not as_set or was.old or edit.old or _frame(was.new) != _frame(edit.new):
        return None
    content = Inline(text.encode(text.string[: span.start] + edit.new + text.string[span.end :]))
    if not isinstance(put(layout, Overlay(tree, {hook.path: content}), new), AlreadyThere):
        return None
    above, below = line_above(text.string, span.start), line_below(text.string, span.end)
    return content, msgspec.structs.replace(new, edits=(msgspec.structs.replace(edit, above=above, below=below),))


def _frame(text: str) -> tuple[str, str]:
    """What stands before the words of an entry, and behind them."""
    return text[: len(text) - len(text.lstrip(_SPARE))], text[len(text.rstrip(_SPARE)) :]


def _as_before(hook: LedgerHook, earlier: LedgerHook) -> LedgerHook:
    """A value that was written over keeps what it was before any of it, whatever the builder made of it since."""
    if hook.ask is None or len(hook.edits) != 1 or len(earlier.edits) != 1:
        return hook
    edits = (msgspec.structs.replace(hook.edits[0], old=earlier.edits[0].old),)
    return msgspec.structs.replace(hook, edits=edits)


def _carried_over(
    text: Text, content: Content, hook: LedgerHook, changed: Sequence[ByHand]
) -> tuple[Content, list[ByHand]]:
    """The builder's changes of an entry, made in the one that takes its place."""
    string = _string(text, content)
    done: list[ByHand] = []
    for one in changed:
        if one.number >= len(hook.edits):
            done.append(one)
            continue
        edit = hook.edits[one.number]
        span = found_exactly(string, edit)
        result = merged(one.was, one.now, edit.new)
        if span is not None:
            string = spliced(string, [Edit(span.start, span.end, result.text)])
        done.append(replace(one, conflicts=result.conflicts))
    return Inline(text.encode(string)), done


def _string(text: Text, content: Content) -> str:
    return content.read()[len(text.bom) :].decode(text.encoding)


def _same(one: LedgerHook, other: LedgerHook) -> bool:
    return (one.path, one.seat, one.ask, one.anchor, one.text, one.record) == (
        other.path,
        other.seat,
        other.ask,
        other.anchor,
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
        "damaging-edit",
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
