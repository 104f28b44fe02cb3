"""Which thing of the donor is meant: by its name, by where it stands, or by any value that is its own."""

from __future__ import annotations

import re
from collections.abc import Iterator

from hookset.authoring.lift.attributes import attributes_of
from hookset.authoring.lift.donor import Donor, Piece
from hookset.config.sheets import nearest
from hookset.model import Definition, WrongUseError

__all__ = ["find_thing"]

_PLACE = re.compile(r"(?P<path>.+):(?P<line>[0-9]{1,9})")
_NEAR = 2_000
"""Characters around a value in which the name of its thing is looked for."""
_SHOWN = 12


def find_thing(donor: Donor, asked: str) -> Piece:
    """The thing called `asked`: a name that the layout knows, FILE:LINE, or the value of one of its attributes. Raises
    WrongUseError where there is no such thing, or more than one with that value."""
    found = _defined(donor, asked) or _naming(donor, asked) or _at_line(donor, asked)
    if found is not None:
        return found
    things = {piece.key: piece for piece in _with_value(donor, asked)}
    if len(things) == 1:
        return next(iter(things.values()))
    if things:
        places = [_place(piece) for piece in things.values()]
        more = len(places) - _SHOWN
        raise WrongUseError(
            "ambiguous-name",
            f"{donor.name} has {len(places)} things with the value {asked!r}",
            why="it is not known which of them is meant",
            details=(*places[:_SHOWN], *([f"and {more} more"] if more > 0 else [])),
            remedy=f"name one by where it stands: `hookset lift {places[0]} --from {donor.site.folder}`",
        )
    known = sorted({d.name for d in _named(donor)})
    raise WrongUseError(
        "unknown-name",
        f"{donor.name} has nothing called {asked!r} that could be lifted{nearest(asked, known)}",
        why="only what stands in a place of its own can be: a placed object, a row of a table",
        remedy=f"`hookset --map {donor.site.folder} stock find {asked[:4]}` looks for names",
    )


def _defined(donor: Donor, name: str) -> Piece | None:
    found = (donor.thing_at(d) for kind in donor.site.layout.kinds for d in donor.site.index.get(kind, name))
    return next((piece for piece in found if piece is not None), None)


def _naming(donor: Donor, name: str) -> Piece | None:
    """The first entry that names something which is a file of its own: where it stands in the map."""
    kinds = {kind for kind in donor.site.layout.kinds if donor.site.index.get(kind, name)}
    pieces = (piece for found in donor.pieces.values() for piece in found) if kinds else ()
    return next((one for one in pieces if any(r.kind in kinds and r.name == name for r in donor.said_in(one)[1])), None)


def _at_line(donor: Donor, asked: str) -> Piece | None:
    """What stands in a line: what is named there, else the entry that begins there, else the one around it."""
    match = _PLACE.fullmatch(asked)
    pieces = donor.pieces.get(match["path"], ()) if match is not None else ()
    if match is None or not pieces:
        return None
    lines = pieces[0].seat_file.text.string.splitlines(keepends=True)
    number = int(match["line"])
    start = sum(map(len, lines[: number - 1]))
    end = start + (len(lines[number - 1]) if 0 < number <= len(lines) else 0)
    named = (d for d in _named(donor, match["path"]) if start <= (donor.offset(d.path, d.where) or 0) < end)
    begins = (piece for piece in pieces if start <= piece.existing.start < end)
    around = (piece for piece in pieces if piece.existing.start < end and start < piece.existing.end)
    things = (donor.thing_at(d) for d in named)
    return next((piece for piece in (*things, *begins, *around) if piece is not None), None)


def _with_value(donor: Donor, value: str) -> Iterator[Piece]:
    """The innermost things that have an attribute of that value."""
    for path, pieces in donor.pieces.items():
        for piece in pieces:
            if not any(one == value for _, one in attributes_of(piece.existing.body)):
                continue
            string = piece.seat_file.text.string
            quoted = re.compile(rf"([\"']){re.escape(value)}\1")
            places = [match.start() for match in quoted.finditer(string, piece.existing.start, piece.existing.end)]
            for place in places or [piece.existing.start]:
                yield _innermost(donor, path, place) or piece


def _innermost(donor: Donor, path: str, place: int) -> Piece | None:
    near = (d for d in _named(donor, path) if abs((donor.offset(path, d.where) or 0) - place) < _NEAR)
    things = (donor.thing_at(d) for d in near)
    around = [one for one in things if one is not None and one.existing.start <= place < one.existing.end]
    return min(around, key=lambda one: one.existing.end - one.existing.start, default=None)


def _named(donor: Donor, path: str = "") -> Iterator[Definition]:
    """Definitions of the entries of one file, or of all."""
    for facts in donor.site.web.files:
        if facts.path in donor.pieces and path in ("", facts.path):
            yield from (d for d in facts.definitions if donor.piece_at(facts.path, d.where) is not None)


def _place(piece: Piece) -> str:
    line = piece.seat_file.text.string.count("\n", 0, piece.existing.start) + 1
    return f"{piece.seat_file.path}:{line}"
