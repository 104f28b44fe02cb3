"""One entry into one file: where it would go, and what of the file that changes."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from itertools import pairwise
from typing import Any

import msgspec
from msgspec import Struct
from msgspec.structs import replace

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
    open_with_insertions,
    spliced,
)
from hookset.formats._values import means
from hookset.formats._writing import lead_of, written_lines
from hookset.formats.document import Writable, placement_at
from hookset.model import CouldNotError
from hookset.project import LedgerAnchor, LedgerEdit, LedgerHook
from hookset.trees import Content, Inline, Text, Tree, line_and_column, pattern_of

__all__ = [
    "RENAMED",
    "Put",
    "edited",
    "how_read",
    "line_above",
    "line_below",
    "lines_above",
    "lines_below",
    "opened",
    "placed",
    "placed_in",
    "put",
    "spot_of",
    "value_written",
    "with_edits",
    "with_words",
]

_SHOWN = 12
_TOKEN = re.compile(r"\w+|[^\w\s]")
_TOLD_APART = 1_000
"""Words and marks by which a text is told from others."""
_AROUND = 6
"""Lines on either side by which a place is known again at which nothing was left."""
_LONGEST = 8_000
"""Characters of a pattern for them."""
RENAMED = "renamed"
"""The key by which the ledger tells what an upgrade has renamed in a file of the builder's."""
_WORD = re.compile(r"\{(\w[\w-]*)\}")
"""What a hook gives for a seat or a change."""


class Put(Struct, frozen=True):
    """The file with the entry in it, and the entry with what it changed."""

    content: Content
    hook: LedgerHook


def how_read(layout: Layout, hook: LedgerHook) -> Seat | ReadRule | None:
    """What says of which format the file of an entry is: its seat, or for what goes by the file itself the rule that
    reads it; None where the layout has no such seat any more."""
    return layout.seats.get(hook.seat) if hook.seat else layout.text_rule(hook.path)


def opened(layout: Layout, tree: Tree, hook: LedgerHook) -> tuple[Text, Document] | None:
    """The file that the entry is for; None where the layout has no such seat any more.

    Raises Unreadable or CouldNotError for a file that is not edited.
    """
    place = how_read(layout, hook)
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
    if hook.anchor is not None:
        return _beside(layout, text, hook, hook.anchor)
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
        word = str(error.args[0])
        return NoSeat(f"a value for {{{word}}}, which the hook has to give with `at`", unsaid=word)
    except msgspec.ValidationError as error:
        own = f": {error.__cause__}" if isinstance(error.__cause__, ValueError) else ""
        return NoSeat(f"a spot that can be looked for{own}")


def placed_in(layout: Layout, tree: Tree, hook: LedgerHook) -> Placement:
    """Where an entry would go in a map. Raises Unreadable or CouldNotError for a file that is not edited."""
    found = opened(layout, tree, hook)
    return placed(layout, *found, hook) if found is not None else NoSeat(f"the file {hook.path}")


def put(layout: Layout, tree: Tree, hook: LedgerHook) -> Put | Placement:
    """Set an entry. Raises Unreadable or CouldNotError for a file that is not edited."""
    found, place = opened(layout, tree, hook), how_read(layout, hook)
    if found is None or place is None:
        return NoSeat(f"the file {hook.path}")
    text, document = found
    placement = placed(layout, text, document, hook)
    if not isinstance(placement, Edits):
        return placement
    hook = with_edits(hook, text, placement.edits)
    if any(edit.start < edit.end for edit in placement.edits):
        return Put(edited(text, placement.edits), hook)
    form = format_named(place.format)
    return Put(Inline(open_with_insertions(form, found, placement.edits, place.encodings, place.options)), hook)


def with_edits(hook: LedgerHook, text: Text, edits: tuple[Edit, ...]) -> LedgerHook:
    """The entry, with what it changed in a text; the neighbours of each stretch are those that it has afterwards."""
    # One stretch has the neighbours that it had: a large file is not copied for each entry.
    string, shift, made = spliced(text.string, edits) if len(edits) > 1 else text.string, 0, []
    for edit in sorted(edits, key=lambda edit: edit.start):
        start = edit.start + shift
        end = start + len(edit.text) if len(edits) > 1 else edit.end
        # Where something is gone, only what stands around it tells the place.
        rows = _AROUND if not edit.text else 1
        above, below = lines_above(string, start, rows), lines_below(string, end, rows)
        made.append(LedgerEdit(new=edit.text, old=text.string[edit.start : edit.end], above=above, below=below))
        shift += len(edit.text) - (edit.end - edit.start)
    return msgspec.structs.replace(hook, was_there=False, edits=tuple(made))


def edited(text: Text, edits: tuple[Edit, ...]) -> Content:
    """The file with some of its spans replaced."""
    return Inline(text.encode(spliced(text.string, edits)))


def line_above(string: str, at: int) -> str:
    """The nearest line (or what of it stands) before a place that is not empty."""
    # The last non-blank character: a slice of all that is before would copy a large file for each entry.
    while at > 0 and string[at - 1].isspace():
        at -= 1
    return string[max(string.rfind("\n", 0, at), string.rfind("\r", 0, at)) + 1 : at].strip()


def lines_above(string: str, at: int, rows: int) -> str:
    """The nearest lines before a place that are not empty."""
    found: list[str] = []
    while len(found) < rows and (line := line_above(string, at)):
        found.insert(0, line)
        at = string.rfind(line, 0, at)
    return "\n".join(found)


def lines_below(string: str, at: int, rows: int) -> str:
    """The nearest lines behind a place that are not empty."""
    found: list[str] = []
    while len(found) < rows and (line := line_below(string, at)):
        found.append(line)
        at = string.find(line, at) + len(line)
    return "\n".join(found)


def line_below(string: str, at: int) -> str:
    """The nearest line (or what of it stands) behind a place that is not empty."""
    found = re.compile(r"\s*([^\r\n]*)").match(string, at)
    return found[1].strip() if found else ""


def seat_at(seat: Seat, at: Mapping[str, str]) -> Any:
    """The spot that a seat means, with what a hook gives for its `{…}`. Raises KeyError for one that it does not."""
    spot = msgspec.to_builtins(seat.put)
    filled = with_words(spot, at)
    return seat.put if filled == spot else msgspec.convert(filled, type(seat.put))


def with_words(spot: Mapping[str, Any], at: Mapping[str, str]) -> dict[str, Any]:
    """A spot, with what a hook gives for the `{…}` in its texts. Raises KeyError for one that it does not give."""
    return {
        key: _WORD.sub(lambda match: at[match[1]], value) if isinstance(value, str) else value
        for key, value in spot.items()
    }


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


def _beside(layout: Layout, text: Text, hook: LedgerHook, anchor: LedgerAnchor) -> Placement:
    """Text above, below or in place of other text, which stands in the file once. The file reads as before with it."""
    rule = layout.text_rule(hook.path)
    if rule is None:
        return NoSeat(f"a rule of the layout that reads {hook.path}")
    if not _pattern(anchor.text)[1]:
        return WrongBody(
            f"an entry that goes by {_TOLD_APART:,} words at most: a few lines that stand there once will do"
        )
    new = (hook.text or "").strip("\r\n")
    standing = stretches(text.string, new)
    if anchor.way != "instead":
        standing = [span for span in standing if _whole_lines(text.string, span)]
    spans = stretches(text.string, anchor.text)
    if standing and (anchor.way != "instead" or not spans or _within(spans, standing)):
        return AlreadyThere(standing[0][0])
    if not spans and not new:
        # What is to go is not there.
        return AlreadyThere(0)
    if len(spans) != 1:
        lines = ", ".join(str(line_and_column(text.string, start)[0]) for start, _ in spans[:_SHOWN])
        often = f"; it is there {len(spans)} times, in lines {lines}" if spans else ""
        return NoSeat(f"`{anchor.text.strip()}` once{often}")
    edit = _edit_beside(text, spans[0], anchor.way, new)
    try:
        text.encode(edit.text)
        changed = replace(text, string=spliced(text.string, (edit,)))
        problems = format_named(rule.format).open(changed, rule.options).problems
    except Unreadable as error:
        problems = ((error.what, error.where),)
    return WrongBody(f"what can stand there: the file {problems[0][0]} with it") if problems else Edits((edit,))


def _within(spans: Sequence[tuple[int, int]], around: Sequence[tuple[int, int]]) -> bool:
    """Whether each span lies in one of the others."""
    return all(any(low <= start and end <= high for low, high in around) for start, end in spans)


def _edit_beside(text: Text, span: tuple[int, int], way: str, new: str) -> Edit:
    string, (start, end) = text.string, span
    lead = lead_of(string, start)
    if not new:
        return _without_lines(string, span) if _whole_lines(string, span) else _without_words(string, span)
    if way == "instead":
        return Edit(start, end, written_lines(text, new, lead).removeprefix(lead))
    if way == "before":
        at = string.rfind("\n", 0, start) + 1
        return Edit(at, at, written_lines(text, new, lead) + text.newline)
    below = string.find("\n", end)
    at = len(string) if below < 0 else below - (string[below - 1] == "\r")
    return Edit(at, at, text.newline + written_lines(text, new, lead))


def _without_lines(string: str, span: tuple[int, int]) -> Edit:
    """Whole lines go, with the empty ones below them: what stood there is between the lines on both sides."""
    end = string.find("\n", span[1]) + 1 or len(string)
    below = re.compile(r"\s*").match(string, end)
    rest = below.end() if below is not None else end
    start = string.rfind("\n", 0, span[0]) + 1
    if rest < len(string):
        return Edit(start, string.rfind("\n", 0, rest) + 1, "")
    if not string.endswith("\n"):
        # The last line has no end of its own: that of the one above goes with it.
        start = len(string[:start].removesuffix("\n").removesuffix("\r"))
    return Edit(start, rest, "")


def _without_words(string: str, span: tuple[int, int]) -> Edit:
    """A part of a line goes, with the blanks behind it; with those in front of it where nothing stands behind."""
    start, end = span
    while end < len(string) and string[end] in " \t":
        end += 1
    if end == len(string) or string[end] in "\r\n":
        end = span[1]
        while start and string[start - 1] in " \t":
            start -= 1
    return Edit(start, end, "")


def stretches(string: str, wanted: str) -> list[tuple[int, int]]:
    """Where a text stands, blanks and line breaks in it aside: (start, end) of each, in characters. Where it is all of
    some lines, what is only a part of others does not count. Of a long text only the beginning is looked for. Raises
    SlowPatternError."""
    pattern = _pattern(wanted)[0]
    # With a limit on its time: whoever wrote the sheet may have meant us harm.
    spans = [match.span() for match in pattern_of(pattern).finditer(string)] if pattern else []
    whole = [span for span in spans if _whole_lines(string, span)]
    return whole or spans


def _pattern(wanted: str) -> tuple[str, bool]:
    """A pattern for a text, whatever blanks are in it, and whether it is for all of it."""
    tokens = _TOKEN.findall(wanted)
    if not tokens:
        return "", True
    pattern, used = re.escape(tokens[0]), 1
    for one, other in pairwise(tokens[:_TOLD_APART]):
        words = (one + other).replace("_", "").isalnum()
        more = (r"\s+" if words else r"\s*") + re.escape(other)
        if len(pattern) + len(more) > _LONGEST:
            break
        pattern, used = pattern + more, used + 1
    edges = [r"(?<!\w)" if tokens[0][0].isalnum() else "", r"(?!\w)" if tokens[used - 1][-1].isalnum() else ""]
    return edges[0] + pattern + edges[1], used == len(tokens)


def _whole_lines(string: str, span: tuple[int, int]) -> bool:
    before = string[string.rfind("\n", 0, span[0]) + 1 : span[0]]
    behind = string.find("\n", span[1])
    return not before.strip() and not string[span[1] : len(string) if behind < 0 else behind].strip(" \t\r,;")


def _said(ask: Mapping[str, Any] | None) -> str:
    return ", ".join(f"{key} {value}" for key, value in (ask or {}).items())
