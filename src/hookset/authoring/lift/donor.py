"""The map that something is lifted from: which entries stand in its files, and what each says."""

from __future__ import annotations

import re
from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence
from functools import cached_property
from itertools import accumulate
from typing import Generic, TypeVar

from msgspec import Struct

from hookset.authoring.draft import Site
from hookset.authoring.draft.site import SeatFile
from hookset.formats import ExistingEntry
from hookset.formats.document import entries_at, unit_around
from hookset.model import Definition, Reference, Where
from hookset.symbols import FileFacts, Reach

__all__ = ["CHILDREN", "Donor", "Piece"]

T = TypeVar("T")
_PARAMETER = re.compile(r"\{(\w[\w-]*)\}")
CHILDREN = "children"
"""The key of what hangs on a thing (glTF 2.0, 5.25)."""


class Piece(Struct, frozen=True):
    """One entry in a file that is shared by everything in the map, or a thing within one."""

    seat_file: SeatFile
    existing: ExistingEntry

    @property
    def key(self) -> tuple[str, int, int]:
        """What identifies the entry: its file and span."""
        return (self.seat_file.path, self.existing.start, self.existing.end)

    @property
    def seat(self) -> tuple[str, str]:
        """Its file, and the name of the seat that it stands at."""
        return self.seat_file.path, self.seat_file.seat.name

    @property
    def child_numbers(self) -> tuple[int, ...]:
        """What hangs on it, where things are named by their numbers in the list; nothing elsewhere."""
        indexes = getattr(self.seat_file.seat.put, "indexes", ())
        if not any(CHILDREN in path for path in indexes):
            return ()
        numbers = (self.existing.body.record or {}).get(CHILDREN)
        return tuple(one for one in numbers if isinstance(one, int)) if isinstance(numbers, list | tuple) else ()


class Spans:
    """Stretches of a file that can lie in each other, to be asked which of them is around a place."""

    def __init__(self, spans: Sequence[tuple[int, int]]) -> None:
        self._ordered = sorted((start, end, number) for number, (start, end) in enumerate(spans))
        self._starts = [start for start, _, _ in self._ordered]
        self._furthest = list(accumulate((end for _, end, _ in self._ordered), max))

    def around(self, offset: int) -> int | None:
        """The number of the first of those that hold the place."""
        found: int | None = None
        at = bisect_right(self._starts, offset) - 1
        while at >= 0 and self._furthest[at] > offset:
            _, end, number = self._ordered[at]
            if end > offset and (found is None or number < found):
                found = number
            at -= 1
        return found

    def beyond(self, start: int, end: int) -> int | None:
        """The number of the first of those that begin before a stretch and hold all of it."""
        found: int | None = None
        at = bisect_left(self._starts, start) - 1
        while at >= 0 and self._furthest[at] >= end:
            _, its_end, number = self._ordered[at]
            if its_end >= end and (found is None or number < found):
                found = number
            at -= 1
        return found


class Placed(Generic[T]):
    """Values of a file by where they stand, in characters."""

    def __init__(self, values: Iterable[tuple[int | None, T]]) -> None:
        known = [(offset, value) for offset, value in values if offset is not None]
        known.sort(key=lambda one: one[0])
        self._offsets = [offset for offset, _ in known]
        self._values = [value for _, value in known]

    def between(self, start: int, end: int) -> tuple[T, ...]:
        return tuple(self._values[bisect_left(self._offsets, start) : bisect_left(self._offsets, end)])


class Donor(Struct, frozen=True, dict=True):
    """A map to lift from: its entries, and what each of them defines and refers to."""

    site: Site
    name: str
    version: str

    @property
    def reach(self) -> Reach:
        """The files that the game loads."""
        return self.site.analysis.reach

    @cached_property
    def pieces(self) -> dict[str, tuple[Piece, ...]]:
        """By file. Rows of the manifest are left out: they are added automatically."""
        listing = self.site.layout.manifest.seats if self.site.layout.manifest else frozenset()
        found: dict[str, dict[tuple[int, int], Piece]] = {}
        for seat_file in self.site.every_seat_file:
            if seat_file.seat.name in listing or _PARAMETER.search(str(seat_file.seat.put)):
                continue
            here = found.setdefault(seat_file.path, {})
            for existing in entries_at(seat_file.document, seat_file.seat.put):
                here.setdefault((existing.start, existing.end), Piece(seat_file, existing))
        return {path: tuple(here.values()) for path, here in found.items()}

    @cached_property
    def at_seats(self) -> dict[tuple[str, str], tuple[Piece, ...]]:
        """By file and the name of a seat."""
        found: dict[tuple[str, str], list[Piece]] = {}
        for pieces in self.pieces.values():
            for one in pieces:
                found.setdefault(one.seat, []).append(one)
        return {key: tuple(pieces) for key, pieces in found.items()}

    @cached_property
    def hangs_on(self) -> dict[tuple[str, int, int], Piece]:
        """By the key of an entry: the one that it hangs on by its number."""
        found: dict[tuple[str, int, int], Piece] = {}
        for rows in self.at_seats.values():
            for row in rows:
                for number in row.child_numbers:
                    if 0 <= number < len(rows):
                        found.setdefault(rows[number].key, row)
        return found

    @cached_property
    def _offsets(self) -> dict[str, dict[Where, int]]:
        """By file: where each value stands, in characters."""
        found: dict[str, dict[Where, int]] = {}
        by_path = {seat_file.path: seat_file for seat_file in self.site.every_seat_file}
        for facts in self.site.web.files:
            seat_file = by_path.get(facts.path)
            if seat_file is None:
                continue
            wheres = {one.where for one in facts.definitions} | {one.where for one in facts.references}
            spans = seat_file.document.spans([where for where in wheres if isinstance(where, str)])
            found[facts.path] = {where: span[0] for where, span in spans.items()}
            found[facts.path] |= {where: where for where in wheres if isinstance(where, int)}
        return found

    def offset(self, path: str, where: Where) -> int | None:
        """Return where a value stands, in characters; None if that is unknown."""
        return self._offsets.get(path, {}).get(where)

    @cached_property
    def _spans(self) -> dict[str, Spans]:
        return {
            path: Spans([(one.existing.start, one.existing.end) for one in pieces])
            for path, pieces in self.pieces.items()
        }

    def piece_at(self, path: str, where: Where) -> Piece | None:
        """The entry that a value of a file is in."""
        offset = self.offset(path, where)
        number = self._spans[path].around(offset) if offset is not None and path in self._spans else None
        return None if number is None else self.pieces[path][number]

    def piece_around(self, piece: Piece) -> Piece | None:
        """The entry of the file in which another one stands."""
        path = piece.seat_file.path
        number = self._spans[path].beyond(piece.existing.start, piece.existing.end)
        return None if number is None else self.pieces[path][number]

    def thing_at(self, definition: Definition) -> Piece | None:
        """The thing that has a name, however deep it stands in others."""
        piece = self.piece_at(definition.path, definition.where)
        if piece is None:
            return None
        unit = unit_around(piece.seat_file.document, definition.where)
        return Piece(piece.seat_file, unit) if unit is not None else piece

    @cached_property
    def facts(self) -> dict[str, FileFacts]:
        """What each file says, by path."""
        return {facts.path: facts for facts in self.site.web.files}

    @cached_property
    def _said(self) -> dict[str, tuple[Placed[Definition], Placed[Reference]]]:
        """By file with entries in it: what it defines and refers to, in the order in which it stands there."""
        own = self.site.of_paths
        return {
            path: (
                Placed((self.offset(path, d.where), d) for d in facts.definitions if d.kind not in own),
                Placed((self.offset(path, r.where), r) for r in facts.references),
            )
            for path, facts in self.facts.items()
            if path in self.pieces
        }

    def said_in(self, piece: Piece) -> tuple[tuple[Definition, ...], tuple[Reference, ...]]:
        """What an entry defines and refers to."""
        if piece.seat_file.path not in self._said:
            return (), ()
        defined, referred = self._said[piece.seat_file.path]
        start, end = piece.existing.start, piece.existing.end
        return defined.between(start, end), referred.between(start, end)

    def stands_in(self, piece: Piece, path: str, where: Where) -> bool:
        """Whether a value of a file is part of an entry."""
        offset = self.offset(path, where) if path == piece.seat_file.path else None
        return offset is not None and piece.existing.start <= offset < piece.existing.end
