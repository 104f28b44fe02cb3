"""Whole numbers of placed things that no rule of the layout reads: they may be ids that only the donor gave out."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from msgspec import Struct

from hookset.authoring.draft.entries import DraftEntry
from hookset.authoring.lift.attributes import attributes_of
from hookset.authoring.lift.closure import Closure
from hookset.authoring.lift.donor import Donor, Piece
from hookset.authoring.lift.filled import key_of

__all__ = ["CopiedNumber", "copied_numbers"]

_WHOLE = re.compile(r"[0-9]{1,18}")


class CopiedNumber(Struct, frozen=True):
    """A number that stands in the pack as it stood in the donor."""

    thing: str
    name: str
    """The attribute's."""
    value: str
    ids: str
    """What the donor has by that number, where a kind of the layout goes by numbers: `file id 12`; else empty."""


def copied_numbers(donor: Donor, lifted: Closure, entries: Iterable[DraftEntry]) -> tuple[CopiedNumber, ...]:
    """Of the placed things among `entries`, in their order."""
    placed = lifted.root.seat_file.seat.name
    read = {one for item in lifted.pieces if item.piece is not None for one in _read(donor, item.piece)}
    return tuple(
        CopiedNumber(_thing(donor, entry), name, value, _ids(donor, value))
        for entry in entries
        if entry.seat_file.seat.name == placed
        for name, value in attributes_of(entry.body)
        if _WHOLE.fullmatch(value) and not {(value, _last(name)), (value, "")} & read
    )


def _read(donor: Donor, piece: Piece) -> Iterator[tuple[str, str]]:
    """Values that a rule reads, with the attribute that each stands at."""
    defines, refers = donor.said_in(piece)
    yield from ((one.name, key_of(one.where)) for one in defines)
    yield from ((word, key_of(one.where)) for one in refers for word in (one.name, one.written))


def _last(name: str) -> str:
    return re.split(r"[@.]", name)[-1]


def _thing(donor: Donor, entry: DraftEntry) -> str:
    values = dict(attributes_of(entry.body)).values()
    kinds = donor.site.layout.kinds
    known = (value for value in values if not value.isdigit() and any(donor.site.index.get(k, value) for k in kinds))
    return next(known, entry.seat_file.seat.name)


def _ids(donor: Donor, value: str) -> str:
    kinds = donor.site.layout.kinds
    numbered = (kind for kind, rule in kinds.items() if rule.entry.numbers is not None)
    return next((f"the {kinds[kind].label} {value}" for kind in numbered if donor.site.index.get(kind, value)), "")
