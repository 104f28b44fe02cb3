"""A layout tried on a whole map: what each of its rules sees, where its seats are, which ids are free."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from typing import Any

import msgspec
from msgspec import Struct

from hookset.config.layouts import DefineRule, Layout, ReadRule, ReferRule, Seat
from hookset.edits import seat_at
from hookset.formats import Body, Document, Edits, NoSeat, Unreadable, format_named, open_file
from hookset.formats.document import placement_at, records_of
from hookset.model import CouldNotError
from hookset.project import Stock
from hookset.symbols.analysis import Analysis, analyse
from hookset.symbols.collect import Web
from hookset.symbols.numbers import Ids, ids_of
from hookset.symbols.reading import open_document
from hookset.trees import Tree, line_and_column

__all__ = ["JudgedSurvey", "RuleSurvey", "SeatSurvey", "Survey", "survey"]

_OPEN = re.compile(r"\{(\w[\w-]*)\}")
_TRIED = 12
"""Values that are tried for the open word of a seat."""

_SPECIMENS = (
    Body(text="hookset_specimen()"),
    Body(text="<hookset_specimen/>"),
    Body(record={"hookset_specimen": "1"}),
)
"""Entries of the least possible form, one of which fits in most seats. Nothing of them is ever written."""


class RuleSurvey(Struct, frozen=True):
    """What one `[[read]]` sees in the map."""

    number: int
    files: int
    names: int
    idle: tuple[str, ...]
    """What it looks for and finds nowhere, though files are there."""


class SeatSurvey(Struct, frozen=True):
    """Where a seat is in the map."""

    name: str
    places: tuple[str, ...]
    """path:line; the path only where the line depends on the entry."""
    lacking: tuple[str, ...]
    """Why it is nowhere, file by file."""


class JudgedSurvey(Struct, frozen=True):
    """What one rule about values, records or numbers of things finds to judge."""

    title: str
    where: str
    """The pattern of the files, or the kind."""
    found: int


class Survey(Struct, frozen=True):
    """All of a layout on all of a map."""

    rules: tuple[RuleSurvey, ...]
    judged: tuple[JudgedSurvey, ...]
    seats: tuple[SeatSurvey, ...]
    ids: tuple[tuple[str, Ids], ...]
    """Labels of the kinds whose names are numbers."""


def survey(tree: Tree, layout: Layout, stock: Stock) -> Survey:
    """Try every rule and every seat."""
    analysis = analyse(tree, layout, stock)
    ids = ((kind.label, found) for kind in layout.kinds.values() if (found := ids_of(kind, analysis.index)) is not None)
    return Survey(
        tuple(_rule(analysis.web, number) for number in range(1, len(layout.reads) + 1)),
        tuple(_judged(analysis)),
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


def _judged(analysis: Analysis) -> Iterator[JudgedSurvey]:
    """What there is to judge beside references: records, values, numbers of things."""
    layout, paths = analysis.web.layout, [file.path for file in analysis.web.files]
    for number, rule in enumerate(layout.reads, 1):
        if rule.record is not None:
            selector, mine = rule.record.selector, [path for path in paths if rule.match(path) is not None]
            found = sum(1 for document in _opened(analysis.web, mine, rule) for _ in records_of(document, selector))
            yield JudgedSurvey(f"records of rule {number}", ", ".join(one.pattern for one in rule.files), found)
    for one in layout.compared:
        mine = [path for path in paths if one.asked.files.matches(path)]
        found = 0
        for document in _opened(analysis.web, mine, one.asked.rule):
            values = records_of(document, one.asked.selector) if one.key else document.select(one.asked.selector)
            found += sum(1 for _ in values)
        yield JudgedSurvey(one.title, one.asked.files.pattern, found)
    for title, asked in layout.positions.asked:
        mine = [path for path in paths if asked.files.matches(path)]
        found = sum(
            1 for document in _opened(analysis.web, mine, asked.rule) for _ in records_of(document, asked.selector)
        )
        yield JudgedSurvey(title, asked.files.pattern, found)
    for called in layout.called:
        found = sum(called.files.matches(path) for path in paths)
        yield JudgedSurvey("called after the map", called.files.pattern, found)
    for title, kind in (
        *(("counted", count.entry.kind) for count in layout.counts),
        *(("numbered without a gap", series.entry.kind) for series in layout.series),
        *(("as in the base game", mirror.kind) for mirror in layout.mirrors),
    ):
        yield JudgedSurvey(title, layout.kinds[kind].label, len(analysis.index.groups(kind)))


def _opened(web: Web, paths: Iterable[str], rule: ReadRule) -> Iterator[Document]:
    for path in paths:
        try:
            yield open_document(web.tree, path, rule)
        except (Unreadable, CouldNotError):
            continue


def _said(part: DefineRule | ReferRule) -> str:
    """A rule as it is written, shortly."""
    asked = msgspec.to_builtins(part.selector).items()
    told = ", ".join(f"{key} = {_value(value)}" for key, value in asked if value not in (None, False, 1, {}, "", "*"))
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
        nowhere, example = next((one for one in outcomes if isinstance(one, NoSeat)), None), ""
        word = _open_word(seat)
        # What hooks say is not known here: the first that there is serves as an example.
        for value in nowhere.candidates[:_TRIED] if nowhere is not None and word else ():
            tried = [placement_at(document, seat_at(seat, {word: value}), body) for body in _SPECIMENS]
            if not any(isinstance(one, NoSeat) for one in tried):
                outcomes, nowhere, example = tried, None, f" with {word} = {value}"
                break
        edits = next((one for one in outcomes if isinstance(one, Edits)), None)
        if nowhere is not None:
            near = f"; there is {', '.join(nowhere.candidates[:3])}" if nowhere.candidates else ""
            lacking.append(f"{path} has no {nowhere.looked_for}{near}")
        elif edits is not None:
            places.append(f"{path}:{line_and_column(text.string, edits.edits[0].start)[0]}{example}")
        else:
            places.append(f"{path}{example}")
    if not places and not lacking:
        lacking.append(f"no file is called {seat.file.pattern}")
    return SeatSurvey(seat.name, tuple(places), tuple(lacking))


def _open_word(seat: Seat) -> str:
    """The one word that hooks give for a seat; empty where there is none, or several."""
    texts = (value for value in msgspec.to_builtins(seat.put).values() if isinstance(value, str))
    words = list(dict.fromkeys(word for text in texts for word in _OPEN.findall(text)))
    return words[0] if len(words) == 1 else ""
