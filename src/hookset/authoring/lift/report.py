"""What came along, by sort and size, and which attributes are not the same in the donor, in the pack and afterwards."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from pathlib import Path

from msgspec import Struct, field

from hookset.authoring.draft import Site
from hookset.authoring.draft.dry_run import DryRun, dry_run
from hookset.authoring.lift.attributes import AttributeChange, attributes_of, compare_attributes
from hookset.authoring.lift.closure import Closure
from hookset.authoring.lift.donor import Donor
from hookset.authoring.lift.pack import LiftedPack
from hookset.formats import Body, format_named, text_of
from hookset.formats.document import entries_at
from hookset.model import Where
from hookset.packs import SHEET_NAME, Pack, SheetedPack, with_sheet
from hookset.packs.sorts import sorts_in
from hookset.symbols import spots
from hookset.trees import EmptyTree, Member, Overlay

__all__ = ["CarriedFiles", "LiftReport", "report_lift"]


class CarriedFiles(Struct, frozen=True):
    """Files of one sort that come along."""

    sort: str
    count: int
    size: int


class LiftReport(Struct, frozen=True):
    """What there is to know of a lifted pack before it is installed."""

    along: tuple[CarriedFiles, ...]
    differs: tuple[AttributeChange, ...]
    """Attribute by attribute, of every placed thing."""
    stops: tuple[str, ...] = ()
    """What would keep it from being set into this map as it is."""
    lines: Mapping[tuple[str, Where], int] = field(default_factory=dict)
    """In which line of the donor each reference stands that is left behind."""


def report_lift(donor: Donor, lifted: Closure, made: LiftedPack, here: Site | None) -> LiftReport:
    """`here` is the map that it may be set into; it is tried there once."""
    done = dry_run(here, _opened(made)) if here is not None else None
    placed = dict(_placed_after(here, done, lifted)) if here is not None and done is not None else {}
    stops = tuple(stop.what for stop in done.stops) if done is not None else ()
    places = {(one.path, one.where) for one in lifted.behind}
    lines = {place: spot.line for place, spot in spots(donor.site.tree, donor.site.layout, places).items()}
    return LiftReport(_along(donor, lifted), _differences(donor, lifted, made, placed), stops, lines)


def _along(donor: Donor, lifted: Closure) -> tuple[CarriedFiles, ...]:
    """By sort, the largest first."""
    tree = donor.site.tree
    sorts = sorts_in(Overlay(EmptyTree(), {}) if not lifted.files else _only(donor, lifted))
    found: dict[str, list[int]] = {}
    for path in lifted.files:
        found.setdefault(sorts[path].word, []).append(tree.size(path))
    rows = (CarriedFiles(sort, len(sizes), sum(sizes)) for sort, sizes in found.items())
    return tuple(sorted(rows, key=lambda row: -row.size))


def _only(donor: Donor, lifted: Closure) -> Overlay:
    return Overlay(EmptyTree(), {path: Member(donor.site.tree, path) for path in lifted.files})


def _opened(made: LiftedPack) -> SheetedPack:
    tree = Overlay(EmptyTree(), dict(made.files))
    return with_sheet(Pack(Path(made.name), tree, None, None), made.files[SHEET_NAME].read(), SHEET_NAME)


def _differences(
    donor: Donor, lifted: Closure, made: LiftedPack, placed: Mapping[str, Body]
) -> tuple[AttributeChange, ...]:
    """`placed` are the things as they would stand in the map afterwards."""
    found: list[AttributeChange] = []
    entries = [one for one in made.entries if one.seat_file.seat.name == lifted.root.seat_file.seat.name]
    for item in lifted.pieces:
        if item.piece is None or item.piece.seat_file.seat.name != lifted.root.seat_file.seat.name:
            continue
        name = _name(donor, item.piece.existing.body) or "?"
        entry = next((one for one in entries if _name(donor, one.body) == name), None)
        if entry is not None:
            found += compare_attributes(name, item.piece.existing.body, entry.body, placed.get(name))
    return tuple(found)


def _name(donor: Donor, body: Body) -> str | None:
    """What a placed thing is called by the first name that its entry defines."""
    kinds = donor.site.layout.kinds
    return next((v for _, v in attributes_of(body) if any(donor.site.index.get(kind, v) for kind in kinds)), None)


def _placed_after(here: Site, done: DryRun, lifted: Closure) -> Iterator[tuple[str, Body]]:
    seat = here.layout.seats[lifted.root.seat_file.seat.name]
    form = format_named(seat.format)
    known = {d.name for file in done.analysis.web.files for d in file.definitions}
    for path in sorted(done.changed):
        if seat.file.matches(path) and done.analysis.web.tree.has(path):
            document = form.open(text_of(form, done.analysis.web.tree.read(path), seat.encodings), seat.options)
            for held in entries_at(document, seat.put):
                name = next((value for _, value in attributes_of(held.body) if value in known), None)
                if name is not None:
                    yield name, held.body
