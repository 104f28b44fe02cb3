"""The map that something is lifted from: which entries stand in its files, and what each says."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cached_property

from hookset.core.drafting import Site
from hookset.core.drafting.site import SeatFile
from hookset.core.formats import Held
from hookset.core.model import Definition, Reference, Where
from hookset.core.web import Reach, reach_of

__all__ = ["Donor", "Piece"]

_PARAMETER = re.compile(r"\{(\w[\w-]*)\}")


@dataclass(frozen=True)
class Piece:
    """One entry in a file that is shared by everything in the map, or a thing within one."""

    seat_file: SeatFile
    held: Held

    @property
    def key(self) -> tuple[str, int, int]:
        return (self.seat_file.path, self.held.start, self.held.end)


@dataclass(frozen=True)
class Donor:
    site: Site
    name: str
    version: str

    @cached_property
    def reach(self) -> Reach:
        return reach_of(self.site.web, self.site.index)

    @cached_property
    def pieces(self) -> dict[str, tuple[Piece, ...]]:
        """By file. Rows of the manifest are none: they come of themselves."""
        listing = self.site.layout.manifest.seats if self.site.layout.manifest else frozenset()
        found: dict[str, dict[tuple[int, int], Piece]] = {}
        for seat_file in self.site.every_seat_file:
            if seat_file.seat.name in listing or _PARAMETER.search(str(seat_file.seat.put)):
                continue
            here = found.setdefault(seat_file.path, {})
            for held in seat_file.document.held(seat_file.seat.put):
                here.setdefault((held.start, held.end), Piece(seat_file, held))
        return {path: tuple(here.values()) for path, here in found.items()}

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
        return self._offsets.get(path, {}).get(where)

    def piece_at(self, path: str, where: Where) -> Piece | None:
        """The entry that a value of a file is in."""
        offset = self.offset(path, where)
        if offset is None:
            return None
        return next((one for one in self.pieces.get(path, ()) if one.held.start <= offset < one.held.end), None)

    def thing_at(self, definition: Definition) -> Piece | None:
        """The thing that has a name, however deep it stands in others."""
        piece = self.piece_at(definition.path, definition.where)
        if piece is None:
            return None
        unit = piece.seat_file.document.unit(definition.where)
        return Piece(piece.seat_file, unit) if unit is not None else piece

    def said_in(self, piece: Piece) -> tuple[tuple[Definition, ...], tuple[Reference, ...]]:
        """What an entry defines and refers to."""
        facts = next((one for one in self.site.web.files if one.path == piece.seat_file.path), None)
        if facts is None:
            return (), ()
        path, own = piece.seat_file.path, self.site.of_paths
        return (
            tuple(d for d in facts.definitions if d.kind not in own and self.stands_in(piece, path, d.where)),
            tuple(r for r in facts.references if self.stands_in(piece, path, r.where)),
        )

    def stands_in(self, piece: Piece, path: str, where: Where) -> bool:
        """Whether a value of a file is part of an entry."""
        offset = self.offset(path, where) if path == piece.seat_file.path else None
        return offset is not None and piece.held.start <= offset < piece.held.end
