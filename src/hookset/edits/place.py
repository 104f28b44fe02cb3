"""One entry into one file: where it would go, and what of the file that changes."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import msgspec

from hookset.config.layouts import Layout, Seat
from hookset.config.layouts.rules import ReadRule
from hookset.formats import (
    AlreadyThere,
    Body,
    Document,
    Edit,
    Edits,
    NoSeat,
    Placement,
    Unreadable,
    WrongBody,
    format_named,
    open_file,
    spliced,
)
from hookset.formats._values import means
from hookset.formats.document import Writable, placement_at
from hookset.model import CouldNotError
from hookset.project import LedgerEdit, LedgerHook
from hookset.trees import Content, Inline, Text, Tree

__all__ = [
    "RENAMED",
    "Put",
    "edited",
    "line_above",
    "line_below",
    "opened",
    "placed",
    "put",
    "spot_of",
    "value_written",
    "with_edits",
]

_SHOWN = 12
RENAMED = "renamed"
"""The key by which the ledger tells what an upgrade has renamed in a file of the builder's."""
_PARAMETER = re.compile(r"\{(\w[\w-]*)\}")


@dataclass(frozen=True)
class Put:
    """The file with the entry in it, and the entry with what it changed."""

    content: Content
    hook: LedgerHook


def opened(layout: Layout, tree: Tree, hook: LedgerHook) -> tuple[Text, Document] | None:
    """The file that the entry is for; None where the layout has no such seat any more.

    Raises Unreadable or CouldNotError for a file that is not edited.
    """
    place: Seat | ReadRule | None
    place = layout.seats.get(hook.seat) if hook.ask is None else layout.text_rule(hook.path)
    if place is None or not tree.has(hook.path):
        return None
    form = format_named(place.format)
    text, document = open_file(form, tree.read(hook.path), place.encodings, place.options)
    if document.problems:
        what, _ = document.problems[0]
        raise Unreadable(what)
    return text, document


def placed(layout: Layout, text: Text, document: Document, hook: LedgerHook) -> Placement:
    """How the entry would be set."""
    if hook.ask is not None:
        return _written(layout, text, document, hook)
    spot = spot_of(layout, hook)
    return spot if isinstance(spot, NoSeat) else placement_at(document, spot, Body(text=hook.text, record=hook.record))


def spot_of(layout: Layout, hook: LedgerHook) -> Any | NoSeat:
    """The spot that an entry's seat means for it; NoSeat where that cannot be said."""
    seat = layout.seats.get(hook.seat)
    if seat is None:
        return NoSeat(f"the seat {hook.seat}, which this layout no longer has")
    try:
        return seat_at(seat, hook.at)
    except KeyError as error:
        return NoSeat(f"a value for {{{error.args[0]}}}, which the hook has to give with `at`")
    except msgspec.ValidationError as error:
        own = f": {error.__cause__}" if isinstance(error.__cause__, ValueError) else ""
        return NoSeat(f"a spot that can be looked for{own}")


def put(layout: Layout, tree: Tree, hook: LedgerHook) -> Put | Placement:
    """Set an entry. Raises Unreadable or CouldNotError for a file that is not edited."""
    found = opened(layout, tree, hook)
    if found is None:
        return NoSeat(f"the file {hook.path}")
    text, document = found
    placement = placed(layout, text, document, hook)
    if not isinstance(placement, Edits):
        return placement
    return Put(edited(text, placement.edits), with_edits(hook, text, placement.edits))


def with_edits(hook: LedgerHook, text: Text, edits: tuple[Edit, ...]) -> LedgerHook:
    """The entry, with what it changed in a text."""
    return msgspec.structs.replace(
        hook,
        was_there=False,
        edits=tuple(
            LedgerEdit(
                new=edit.text,
                old=text.string[edit.start : edit.end],
                above=line_above(text.string, edit.start),
                below=line_below(text.string, edit.end),
            )
            for edit in sorted(edits, key=lambda edit: edit.start)
        ),
    )


def edited(text: Text, edits: tuple[Edit, ...]) -> Content:
    """The file with some of its spans replaced."""
    return Inline(text.encode(spliced(text.string, edits)))


def line_above(string: str, at: int) -> str:
    """The nearest line (or what of it stands) before a place that is not empty."""
    # The last non-blank character: a slice of all that is before would copy a large file for each entry.
    while at > 0 and string[at - 1].isspace():
        at -= 1
    return string[max(string.rfind("\n", 0, at), string.rfind("\r", 0, at)) + 1 : at].strip()


def line_below(string: str, at: int) -> str:
    """The nearest line (or what of it stands) behind a place that is not empty."""
    found = re.compile(r"\s*([^\r\n]*)").match(string, at)
    return found[1].strip() if found else ""


def seat_at(seat: Seat, at: Mapping[str, str]) -> Any:
    """The spot that a seat means, with what a hook gives for its `{…}`. Raises KeyError for one that it does not."""
    spot = msgspec.to_builtins(seat.put)
    if not any(isinstance(value, str) and _PARAMETER.search(value) for value in spot.values()):
        return seat.put
    filled = {
        key: _PARAMETER.sub(lambda match: at[match[1]], value) if isinstance(value, str) else value
        for key, value in spot.items()
    }
    return msgspec.convert(filled, type(seat.put))


def _written(layout: Layout, text: Text, document: Document, hook: LedgerHook) -> Placement:
    """A value written where another one stands."""
    rule = layout.text_rule(hook.path)
    if rule is None:
        return NoSeat(f"a rule of the layout that reads {hook.path}")
    if RENAMED in (hook.ask or {}):
        return NoSeat("a name that an upgrade changed: it is not set again")
    try:
        selector = msgspec.convert(hook.ask, format_named(rule.format).selector)
    except msgspec.ValidationError:
        return NoSeat(f"a value by `{_said(hook.ask)}`, which is not how {rule.format} files are asked for one")
    return value_written(
        rule.format, rule.options, text, document, selector, (hook.record or {}).get("value"), _said(hook.ask)
    )


def value_written(
    format_name: str, options: Any, text: Text, document: Document, selector: Any, value: Any, said: str
) -> Placement:
    """`value` where the one that `selector` names stands, as the file's format writes it there. `said` is for
    messages. What is written is read again: it is the same value, or it is not written."""
    if not isinstance(document, Writable):
        return NoSeat(f"a value at {said} that can be written: this format is read only")
    places = list(document.places(selector))
    if len(places) != 1:
        often = f" (it is there {len(places)} times)" if places else ""
        return NoSeat(
            f"one value at {said}{often}", tuple(str(read) for _, read in places[:_SHOWN] if read is not None)
        )
    where, read = places[0]
    if read is not None and means(read, value):
        return AlreadyThere(where)
    span = document.value_span(where)
    if span is None:
        return NoSeat(f"a value at {said} that can be written")
    form = format_named(format_name)
    for edit in document.writings(span, value):
        try:
            changed = form.open(replace(text, string=spliced(text.string, (edit,))), options)
            assert isinstance(changed, Writable)
            text.encode(edit.text)
        except (Unreadable, CouldNotError):
            continue
        again = list(changed.places(selector)) if not changed.problems else []
        if len(again) == 1 and again[0][1] is not None and means(again[0][1], value):
            return Edits((edit,))
    return WrongBody(f"a value that can stand where {text.string[slice(*span)].strip()[:40]!r} stands")


def _said(ask: Mapping[str, Any] | None) -> str:
    return ", ".join(f"{key} {value}" for key, value in (ask or {}).items())
