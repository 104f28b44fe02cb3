"""A layout tried on a whole map: what each of its rules sees, where its seats are, which ids are free."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import msgspec

from hookset.config.layouts import DefineRule, Layout, ReferRule, Seat
from hookset.formats import Body, Edits, NoSeat, Unreadable, format_named, open_file
from hookset.formats.document import placement_at
from hookset.model import CouldNotError
from hookset.project import Stock
from hookset.symbols.analysis import analyse
from hookset.symbols.collect import Web
from hookset.symbols.numbers import Ids, ids_of
from hookset.trees import Tree, line_and_column

__all__ = ["RuleSurvey", "SeatSurvey", "Survey", "survey"]

_SPECIMENS = (
    Body(text="hookset_specimen()"),
    Body(text="<hookset_specimen/>"),
    Body(record={"hookset_specimen": "1"}),
)
"""Entries of the least possible form, one of which fits in most seats. Nothing of them is ever written."""


@dataclass(frozen=True, slots=True)
class RuleSurvey:
    """What one `[[read]]` sees in the map."""

    number: int
    files: int
    names: int
    idle: tuple[str, ...]
    """What it looks for and finds nowhere, though files are there."""


@dataclass(frozen=True, slots=True)
class SeatSurvey:
    """Where a seat is in the map."""

    name: str
    places: tuple[str, ...]
    """path:line; the path only where the line depends on the entry."""
    lacking: tuple[str, ...]
    """Why it is nowhere, file by file."""


@dataclass(frozen=True, slots=True)
class Survey:
    """All of a layout on all of a map."""

    rules: tuple[RuleSurvey, ...]
    seats: tuple[SeatSurvey, ...]
    ids: tuple[tuple[str, Ids], ...]
    """Labels of the kinds whose names are numbers."""


def survey(tree: Tree, layout: Layout, stock: Stock) -> Survey:
    """Try every rule and every seat."""
    analysis = analyse(tree, layout, stock)
    ids = ((kind.label, found) for kind in layout.kinds.values() if (found := ids_of(kind, analysis.index)) is not None)
    return Survey(
        tuple(_rule(analysis.web, number) for number in range(1, len(layout.reads) + 1)),
        tuple(_seat(tree, seat) for seat in layout.seats.values()),
        tuple(ids),
    )


def _rule(web: Web, number: int) -> RuleSurvey:
    rule = web.layout.reads[number - 1]
    seen = [(*defined, *referred) for file in web.files for n, defined, referred in file.by_rule if n == number]
    parts: tuple[DefineRule | ReferRule, ...] = (*rule.defines, *rule.refers)
    counts = [sum(one[place] for one in seen if one) for place in range(len(parts))]
    idle = tuple(_said(part) for part, count in zip(parts, counts, strict=True) if seen and not count)
    return RuleSurvey(number, len(seen), sum(counts), idle)


def _said(part: DefineRule | ReferRule) -> str:
    """A rule as it is written, shortly."""
    asked = msgspec.to_builtins(part.selector).items()
    told = ", ".join(f"{key} = {_value(value)}" for key, value in asked if value not in (None, False, 1, {}, "*"))
    verb = "defines" if isinstance(part, DefineRule) else "refers to"
    return f"{verb} {part.kind}" + (f" ({told})" if told else "")


def _value(value: Any) -> str:
    return f'"{value}"' if isinstance(value, str) else str(value).lower() if isinstance(value, bool) else str(value)


def _seat(tree: Tree, seat: Seat) -> SeatSurvey:
    places, lacking = [], []
    for path in (path for path in tree.paths() if seat.file.matches(path)):
        form = format_named(seat.format)
        try:
            text, document = open_file(form, tree.read(path), seat.encodings, seat.options)
        except (Unreadable, CouldNotError) as error:
            lacking.append(f"{path} cannot be read: {error.what}")
            continue
        outcomes = [placement_at(document, seat.put, body) for body in _SPECIMENS]
        nowhere = next((one for one in outcomes if isinstance(one, NoSeat)), None)
        edits = next((one for one in outcomes if isinstance(one, Edits)), None)
        if nowhere is not None:
            near = f"; there is {', '.join(nowhere.candidates[:3])}" if nowhere.candidates else ""
            lacking.append(f"{path} has no {nowhere.looked_for}{near}")
        elif edits is not None:
            places.append(f"{path}:{line_and_column(text.string, edits.edits[0].start)[0]}")
        else:
            places.append(path)
    if not places and not lacking:
        lacking.append(f"no file is called {seat.file.pattern}")
    return SeatSurvey(seat.name, tuple(places), tuple(lacking))
