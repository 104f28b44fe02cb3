"""One entry into one file: where it would go, and what of the file that changes."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import msgspec

from hookset.core.entries.literals import respelt
from hookset.core.formats import (
    AlreadyThere,
    Body,
    Document,
    Edit,
    Edits,
    Misfit,
    NoSeat,
    Placement,
    Unreadable,
    format_named,
    spliced,
    text_of,
)
from hookset.core.layouts import Layout, Seat
from hookset.core.layouts.layout import ReadRule
from hookset.core.project import LedgerEdit, LedgerHook
from hookset.core.trees import Content, Inline, Text, Tree

__all__ = ["Put", "edited", "line_above", "line_below", "opened", "placed", "put", "value_written", "with_edits"]

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
    text = text_of(form, tree.read(hook.path), place.encodings)
    document = form.open(text, place.options)
    if document.problems:
        what, _ = document.problems[0]
        raise Unreadable(what)
    return text, document


def placed(layout: Layout, text: Text, document: Document, hook: LedgerHook) -> Placement:
    """How the entry would be set."""
    if hook.ask is not None:
        return _written(layout, text, document, hook)
    seat = layout.seats[hook.seat]
    try:
        spot = seat_at(seat, hook.at)
    except KeyError as error:
        return NoSeat(f"a value for {{{error.args[0]}}}, which the hook has to give with `at`")
    except msgspec.ValidationError as error:
        own = f": {error.__cause__}" if isinstance(error.__cause__, ValueError) else ""
        return NoSeat(f"a spot that can be looked for{own}")
    return document.put(spot, Body(text=hook.text, record=hook.record))


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
    head = string[:at].rstrip()
    return head[max(head.rfind("\n"), head.rfind("\r")) + 1 :].strip()


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
    selector = msgspec.convert(hook.ask, format_named(rule.format).selector)
    return value_written(text, document, selector, (hook.record or {}).get("value"), _said(hook.ask))


def value_written(text: Text, document: Document, selector: Any, value: Any, said: str) -> Placement:
    """`value` where the one that `selector` names stands, written the way that is. `said` is for messages."""
    values = list(document.select(selector))
    if len(values) != 1:
        often = f" (it is there {len(values)} times)" if values else ""
        return NoSeat(f"one value at {said}{often}", tuple(value.text for value in values))
    span = document.spans([values[0].where]).get(values[0].where)
    if span is None:
        return NoSeat(f"a value at {said} that can be written")
    old = text.string[slice(*span)]
    new = respelt(old, value)
    if new is None:
        return Misfit(f"a value like {old.strip()[:40]!r}")
    return AlreadyThere(values[0].where) if new == old else Edits((Edit(*span, new),))


def _said(ask: Mapping[str, Any] | None) -> str:
    return ", ".join(f"{key} {value}" for key, value in (ask or {}).items())
