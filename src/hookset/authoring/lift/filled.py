"""Ids of a lifted entry become what the hook looks up or is given: just where a rule reads an id, and nowhere else."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from msgspec import Struct

from hookset.authoring.lift.donor import Donor, Piece
from hookset.formats import Body
from hookset.model import Where

__all__ = ["Filled", "filled_in", "key_of"]


class Filled(Struct, frozen=True):
    """A value of an entry, where it stands in the donor's file, and what stands there in the pack."""

    where: Where
    value: str
    fill: str


def filled_in(donor: Donor, piece: Piece, body: Body, fills: Iterable[Filled]) -> tuple[Body, tuple[Filled, ...]]:
    """The entry with its fills, and those that have no place of their own in it. `body` is the piece's, or what it
    became when it was made to stand alone."""
    if body.record is None:
        return _in_text(donor, piece, body.text or "", list(fills))
    record, left = dict(body.record), []
    for one in fills:
        key = _key(record, one)
        if key is None:
            left.append(one)
        else:
            # What was a number in the data stays one.
            record[key] = f"{one.fill[:-1]}|number}}" if isinstance(record[key], int) else one.fill
    return Body(record=record), tuple(left)


def key_of(where: Where) -> str:
    """The attribute or key that a value stands at; empty where a place is no more than an offset."""
    return re.split(r"[@/]", where)[-1] if isinstance(where, str) else ""


def _key(record: dict[str, object], one: Filled) -> str | None:
    same = [key for key, value in record.items() if str(value) == one.value]
    named = key_of(one.where)
    return named if named in same else same[0] if len(same) == 1 and not named else None


def _in_text(donor: Donor, piece: Piece, text: str, fills: Sequence[Filled]) -> tuple[Body, tuple[Filled, ...]]:
    """An entry's text differs from the file's in its blanks only, so that the n-th place of a value is the same."""
    string, start = piece.seat_file.text.string, piece.existing.start
    left, places = [], {}
    for one in fills:
        word = re.compile(rf"(?<![\w.-]){re.escape(one.value)}(?![\w.-])")
        offset = donor.offset(piece.seat_file.path, one.where)
        before = len(word.findall(string, start, offset)) if offset is not None else 0
        found = list(word.finditer(text))
        if offset is None or before >= len(found):
            left.append(one)
        else:
            places[found[before].span()] = one.fill
    for (begin, end), fill in sorted(places.items(), reverse=True):
        text = text[:begin] + fill + text[end:]
    return Body(text=text), tuple(left)
