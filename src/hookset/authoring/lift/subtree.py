"""Placed things that hang on others, where these name them by their number in the list: each gets a place of its own,
counted from the top (glTF 2.0, 3.6: translation, rotation as a quaternion, scale)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from hookset.authoring.lift.donor import CHILDREN, Donor, Piece
from hookset.formats import Body

__all__ = ["children_of", "detached"]

_KEYS = ("translation", "rotation", "scale")
_STILL = ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0, 1.0), (1.0, 1.0, 1.0))
_DEEPEST = 100
Place = tuple[Sequence[float], Sequence[float], Sequence[float]]


def children_of(donor: Donor, piece: Piece) -> Iterator[Piece]:
    """What hangs on a thing; nothing where things stand within things, or where their numbers mean something else."""
    for number in piece.child_numbers:
        rows = donor.at_seats.get(piece.seat, ())
        if 0 <= number < len(rows):
            yield rows[number]


def detached(donor: Donor, piece: Piece) -> tuple[Body, str]:
    """The entry as it stands alone: without what hangs on it, at its place counted from the top. With a note where that
    is another entry than the donor's."""
    record = piece.existing.body.record
    above = _above(donor, piece)
    if record is None or (not above and not piece.child_numbers):
        return piece.existing.body, ""
    place = _place(record)
    for parent in above:
        place = _composed(_place(parent.existing.body.record or {}), place)
    written = _written(place) if above else {key: record[key] for key in _KEYS if key in record}
    new = {key: value for key, value in record.items() if key != CHILDREN and key not in _KEYS}
    at = next((number for number, key in enumerate(record) if key in (*_KEYS, CHILDREN)), len(new))
    items = list(new.items())
    name = str(record.get("name", "a thing"))
    note = f"{name} hung on another thing; in the pack it stands by itself, at the same place" if above else ""
    return Body(record=dict([*items[:at], *written.items(), *items[at:]])), note


def _above(donor: Donor, piece: Piece) -> list[Piece]:
    """What a thing hangs on, the nearest first."""
    found: list[Piece] = []
    here = donor.hangs_on.get(piece.key)
    while here is not None and len(found) < _DEEPEST:
        found.append(here)
        here = donor.hangs_on.get(here.key)
    return found


def _place(record: Mapping[str, Any]) -> Place:
    found = [record.get(key, still) for key, still in zip(_KEYS, _STILL, strict=True)]
    return (found[0], found[1], found[2])


def _written(place: Place) -> dict[str, Any]:
    rounded = ([round(number, 6) for number in part] for part in place)
    pairs = zip(_KEYS, rounded, _STILL, strict=True)
    return {key: value for key, value, still in pairs if tuple(value) != still}


def _composed(outer: Place, inner: Place) -> Place:
    """A place within another, from the top."""
    (t1, r1, s1), (t2, r2, s2) = outer, inner
    turned = _turned(r1, [a * b for a, b in zip(s1, t2, strict=True)])
    return (
        [a + b for a, b in zip(t1, turned, strict=True)],
        _times(r1, r2),
        [a * b for a, b in zip(s1, s2, strict=True)],
    )


def _times(a: Sequence[float], b: Sequence[float]) -> list[float]:
    """Two turns one after the other: quaternions as x, y, z, w."""
    (ax, ay, az, aw), (bx, by, bz, bw) = a, b
    return [
        aw * bx + ax * bw + ay * bz - az * by,
        aw * by - ax * bz + ay * bw + az * bx,
        aw * bz + ax * by - ay * bx + az * bw,
        aw * bw - ax * bx - ay * by - az * bz,
    ]


def _turned(rotation: Sequence[float], vector: Sequence[float]) -> list[float]:
    x, y, z, w = rotation
    return _times(_times(rotation, [*vector, 0.0]), [-x, -y, -z, w])[:3]
