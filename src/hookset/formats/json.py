"""JSON (RFC 8259), glTF 2.0's `.gltf` among it.

Values are read by the standard library, in C. Spans are found by walking to the addresses asked for and skipping
all else with the same C scanner, so that a position in a 30 MB scene costs about as much as parsing it once more.
"""

from __future__ import annotations

import json
import math
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, ClassVar

from msgspec import Struct

from hookset.formats._data import DataDocument, DataSeat, DataSelector, get, model_facts
from hookset.formats._json_relaxed import (
    JsonOptions,
    between_comments,
    plain_json,
    repeated_keys,
    rest_of_line,
    unreadable,
)
from hookset.formats._media import MediaFacts
from hookset.formats._numbers import LONG_NUMBER, long_number
from hookset.formats._values import as_words, reads_as_number
from hookset.formats.base import Body, Edit, Edits, ExistingEntry, NoSeat, Placement, Unreadable
from hookset.formats.datapath import find
from hookset.formats.document import HasFacts, Reshaping
from hookset.formats.format import Format, Snippet
from hookset.formats.pointers import steps_of
from hookset.model import Where
from hookset.model.digits import natural_number
from hookset.model.visible import json_escaped
from hookset.trees import Text

__all__ = ["FORMAT"]

_SPACE = re.compile(r"[ \t\r\n]*")
_INLINE_WIDTH = 80


@dataclass(frozen=True)
class _Json(DataDocument, Reshaping, HasFacts):
    text: Text
    plain: str
    """The text without what is no JSON in it, character for character."""
    data: Any
    problems: tuple[tuple[str, Where], ...] = ()
    MAKES: ClassVar[bool] = False

    @property
    def facts(self) -> MediaFacts | None:
        return model_facts(self.data)

    @cached_property
    def repeated(self) -> list[str]:
        return repeated_keys(self.plain)

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        found = _locate(self.plain, [w for w in wheres if isinstance(w, str)])
        return {where: span for where, span in found.items()}  # noqa: C416 - keys of a wider type

    def literals(self, old: str, value: Any) -> Iterator[str]:
        if old.startswith('"'):
            words = as_words(value, json.loads(old))
            if words is not None:
                yield json_escaped(_scalar(words))
        elif isinstance(value, str):
            if reads_as_number(value) and old not in ("true", "false"):
                yield value
            if old == "null":
                yield json_escaped(_scalar(value))
        elif (isinstance(value, bool) == (old in ("true", "false")) or old == "null") and math.isfinite(value):
            yield json.dumps(value)

    def put_keys(self, seat: DataSeat, target: dict[str, Any] | None, missing: Mapping[str, Any]) -> Placement:
        colon = ": " if '": ' in self.text.string or not target else ":"
        items = [(f"{_scalar(key)}{colon}{{}}", value) for key, value in missing.items()]
        return self._insert(seat.into, len(target or ()), seat.at, items)

    def put_row(self, seat: DataSeat, target: list[Any] | None, record: dict[str, Any] | str) -> Placement:
        row = self._insert(seat.into, len(target or ()), seat.at, [("{}", record)])
        if not seat.listed_in:
            return row
        listing = get(self.data, seat.listed_in)
        if not isinstance(listing, list):
            return NoSeat(f"a list at {seat.listed_in}", self._places(list))
        index = self._insert(seat.listed_in, len(listing), "end", [("{}", len(target or ()))])
        return Edits(row.edits + index.edits)

    def take(self, seat: DataSeat, body: Body, near: Sequence[tuple[int, int]]) -> Edits | None:
        """A row of a list whose rows go by their index: indexes of later rows are renumbered."""
        rows = get(self.data, seat.into)
        if not seat.listed_in or not isinstance(rows, list) or not rows:
            return None
        spans = _locate(self.plain, [f"{seat.into}/{index}" for index in range(len(rows))])
        places = [spans[f"{seat.into}/{index}"] for index in range(len(rows))]
        record = dict(body.record or {})
        same = [index for index, row in enumerate(rows) if row == record]
        if not same:
            same = [i for i, (start, end) in enumerate(places) if any(a < end and start < b for a, b in near)]
        if len(same) != 1:
            return None
        (gone,) = same
        edits = [*self._without(places, gone)]
        listing = get(self.data, seat.listed_in)
        listed = [f"{seat.listed_in}/{index}" for index in range(len(listing if isinstance(listing, list) else ()))]
        listed_spans = _locate(self.plain, listed)
        for index in range(len(listed)):
            if listing[index] == gone:
                edits += self._without([listed_spans[one] for one in listed], index)
        further = [at for path in seat.indexes for at, _ in find(path, self.data)]
        numbers = [at for at in (*listed, *further) if isinstance(get(self.data, at), int)]
        for where, (start, end) in _locate(self.plain, numbers).items():
            number = get(self.data, where)
            if number > gone and not any(one.start <= start < one.end for one in edits):
                edits.append(Edit(start, end, str(number - 1)))
        return Edits(tuple(edits))

    def _without(self, places: Sequence[tuple[int, int]], index: int) -> Iterator[Edit]:
        """One element out of a list, with the comma that goes with it. Comments stay."""
        start, end = places[index]
        if index:
            start = places[index - 1][1]
        elif len(places) > 1:
            end = places[1][0]
        for part in between_comments(self.text.string, self.plain, start, end):
            yield Edit(*part, "")

    def _insert(self, into: str, count: int, at: str, items: list[tuple[str, Any]]) -> Edits:
        """New elements of the container at `into`, in the manner of those that are there."""
        string, newline = self.text.string, self.text.newline
        (start, end), last_end = self._container(into, count)
        base = _line_lead(string, start)
        if not count:
            return self._first((start, end), base, items)
        first_start = _skipped(self.plain, start + 1)
        gap = string[start + 1 : first_start]
        if "\n" in gap:
            inner = _line_lead(string, first_start)
            unit = inner[len(base) :] if inner.startswith(base) and inner != base else self.text.indent
            texts = [self._item(head, value, inner, unit) for head, value in items]
            between = "," + newline + inner
        else:
            texts = [self._item(head, value, None) for head, value in items]
            between = ", " if _spaced(string, start, end) else ","
        if at == "start":
            return Edits((Edit(first_start, first_start, "".join(text + between for text in texts)),))
        return self._last(last_end, end - 1, between, texts)

    @cached_property
    def _containers(self) -> dict[str, tuple[tuple[int, int], int]]:
        return {}

    def _container(self, into: str, count: int) -> tuple[tuple[int, int], int]:
        """Where a container of `count` elements stands, and where its last element ends; kept, since one entry after
        the other goes into the same."""
        if into not in self._containers:
            target = get(self.data, into)
            last = list(target)[count - 1] if isinstance(target, dict) and count else count - 1
            address = f"{into}/{_pointer_step(str(last))}"
            spans = _locate(self.plain, [into, address] if count else [into])
            self._containers[into] = (spans[into], spans[address][1] if count else 0)
        return self._containers[into]

    def _first(self, span: tuple[int, int], base: str, items: list[tuple[str, Any]]) -> Edits:
        """The first elements of a container that holds none, below the comments in it."""
        start, end = span[0] + 1, span[1] - 1
        newline, lead = self.text.newline, self.text.newline + base + self.text.indent
        text = ",".join(lead + self._item(head, value, base + self.text.indent) for head, value in items)
        comments = len(self.text.string[start:end].rstrip())
        closing = self.text.string[start + comments : end] if comments else ""
        keeps = closing.lstrip(" \t").startswith(("\r\n", "\n"))
        return Edits((Edit(start + comments, end, text + (closing if keeps else newline + base)),))

    def _last(self, last: int, end: int, between: str, texts: list[str]) -> Edits:
        """Further elements behind the last one, which keeps the comment on its line and its comma."""
        string = self.text.string
        comma = plain_json(string[last:end], JsonOptions(comments=True)).find(",")
        if comma >= 0:
            below = rest_of_line(string, last + comma + 1)
            return Edits((Edit(below, below, between[1:] + between.join(texts) + ","),))
        below = rest_of_line(string, last) if "\n" in between else last
        if below > last:
            return Edits((Edit(last, last, ","), Edit(below, below, between[1:] + between.join(texts))))
        return Edits((Edit(last, last, "".join(between + text for text in texts)),))

    def _item(self, head: str, value: Any, lead: str | None, unit: str | None = None) -> str:
        rendered = _rendered(value, unit or self.text.indent, lead, self.text.newline)
        return head.replace("{}", rendered) if head != "{}" else rendered


def _rendered(value: Any, indent: str, lead: str | None, newline: str) -> str:
    """`value` as JSON; on several lines when it is long and `lead` says how its own line is indented."""
    flat = json.dumps(value, ensure_ascii=False)
    if lead is None or not isinstance(value, dict | list) or not value or len(flat) <= _INLINE_WIDTH:
        return flat
    inner = lead + indent
    if isinstance(value, dict):
        parts = [f"{_scalar(k)}: {_rendered(v, indent, inner, newline)}" for k, v in value.items()]
    else:
        parts = [_rendered(v, indent, inner, newline) for v in value]
    opening, closing = ("{", "}") if isinstance(value, dict) else ("[", "]")
    return opening + ",".join(newline + inner + part for part in parts) + newline + lead + closing


def _scalar(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False)


def _pointer_step(step: str) -> str:
    return step.replace("~", "~0").replace("/", "~1")


def _line_lead(string: str, offset: int) -> str:
    start = string.rfind("\n", 0, offset) + 1
    return string[start : min(_skipped(string, start), offset)]


def _spaced(string: str, start: int, end: int) -> bool:
    return bool(re.compile(r", ").search(string, start, end)) or "," not in string[start:end]


_raw = json.JSONDecoder().raw_decode


def _skipped(string: str, position: int) -> int:
    """Past the blanks."""
    match = _SPACE.match(string, position)
    return match.end() if match else position


@dataclass(slots=True)
class _Wanted:
    """Addresses as a tree: what is asked for here, and what below."""

    address: str | None = None
    below: dict[str, _Wanted] = field(default_factory=dict)


def _locate(string: str, addresses: Sequence[str]) -> dict[str, tuple[int, int]]:
    """Character spans of the values at JSON Pointers. Where a key stands twice, the last one counts, as it does
    when reading."""
    wanted = _Wanted()
    for address in addresses:
        node = wanted
        for step in steps_of(address):
            node = node.below.setdefault(step, _Wanted())
        node.address = address
    spans: dict[str, tuple[int, int]] = {}
    _descend(string, _skipped(string, 0), wanted, spans)
    return spans


def _descend(string: str, start: int, wanted: _Wanted, spans: dict[str, tuple[int, int]]) -> int:
    """Walk the value at `start`; returns where it ends."""
    opening = string[start]
    if not wanted.below or opening not in "{[":
        end = _raw(string, start)[1]
    else:
        position = _skipped(string, start + 1)
        index = 0
        while string[position] not in "}]":
            if opening == "{":
                key, position = _raw(string, position)
                position = _skipped(string, _skipped(string, position) + 1)
            else:
                key = str(index)
                index += 1
            below = wanted.below.get(key)
            end_of_value = _descend(string, position, below, spans) if below else _raw(string, position)[1]
            position = _skipped(string, end_of_value)
            if string[position] == ",":
                position = _skipped(string, position + 1)
        end = position + 1
    if wanted.address is not None:
        spans[wanted.address] = (start, end)
    return end


class _JsonFormat(Format):
    title: ClassVar[str] = "JSON"
    selector: ClassVar[type[Struct]] = DataSelector
    seat: ClassVar[type[Struct]] = DataSeat
    options: ClassVar[type[Struct]] = JsonOptions
    bodies: ClassVar[Sequence[str]] = ("record", "text")
    has_rows: ClassVar[bool] = True
    has_facts: ClassVar[bool] = True
    has_parts: ClassVar[bool] = True

    def blank(self, seat: DataSeat) -> str:
        document: Any = {}
        wanted: tuple[tuple[str, Any], ...] = ((seat.into, [] if seat.form == "row" else {}), (seat.listed_in, []))
        for address, innermost in wanted:
            steps = () if address.startswith("$") else steps_of(address)
            if not steps:
                continue
            here = document
            for step, below in zip(steps, (*steps[1:], None), strict=True):
                existing: Any = innermost if below is None else [] if natural_number(below) is not None else {}
                if isinstance(here, list):
                    here += [existing] if len(here) <= int(step) else []
                    here = here[int(step)] if int(step) < len(here) else existing
                else:
                    here = here.setdefault(step, existing)
        return json.dumps(document, indent=2) + "\n"

    def pasted(self, seat: DataSeat, snippet: Snippet) -> tuple[ExistingEntry, ...]:
        text = snippet.text
        whole = text.strip().rstrip(",")
        for opening, closing in (("", ""), ("[", "]"), ("{", "}")):
            try:
                document = self.open(Text(f"{opening}{whole}{closing}", "utf-8"), JsonOptions(True, True))
            except Unreadable:
                continue
            moved = text.index(whole) - len(opening)
            existing = document.pasted(seat)
            return tuple(ExistingEntry(max(one.start + moved, 0), one.end + moved, one.body) for one in existing)
        return ()

    def open(self, source: Text | bytes, options: JsonOptions) -> _Json:
        assert isinstance(source, Text)
        plain = plain_json(source.string, options)
        try:
            return _Json(source, plain, json.loads(plain))
        except json.JSONDecodeError as error:
            raise unreadable(plain, error, options) from error
        except RecursionError as error:
            raise Unreadable("is nested too deeply to be a file that somebody made", 0) from error
        except ValueError as error:
            raise Unreadable(LONG_NUMBER, long_number(plain)) from error


FORMAT = _JsonFormat()
