"""Entries in a pack's own copies of files that every map has one of: what is in them, is of the pack, and is not in the
map is what its author wants to be merged."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from msgspec import Struct

from hookset.authoring.draft.found.seating import Known
from hookset.authoring.draft.site import EntryFacts, SeatFile, Site
from hookset.formats import Body, Edits, Unreadable, format_named, text_of
from hookset.formats.document import entries_at, placement_at
from hookset.model import CouldNotError
from hookset.trees import Tree

__all__ = ["Shared", "shared_entries"]


class Shared(Struct, frozen=True):
    """One entry of such a copy that the map does not contain."""

    seat_file: SeatFile
    body: Body
    path: str
    """Of the copy, in the pack."""
    told: EntryFacts


def shared_entries(site: Site, tree: Tree, shared: Sequence[tuple[str, str]], known: Known) -> Iterator[Shared]:
    """Those that have to do with the pack's files, or with an entry that has. What else the author's map had stays his.

    `shared` are copies by their path in the pack, each with the file of the map that it is one of.
    """
    waiting = [one for path, target in shared for one in _lacking(site, tree, path, target)]
    defined = set(known.defined)
    asked = set(known.asked)
    while True:
        taken = [one for one in waiting if _of_the_pack(one.told, defined, asked, known.stems)]
        if not taken:
            return
        yield from taken
        waiting = [one for one in waiting if one not in taken]
        defined |= {(d.kind, d.name) for one in taken for d in one.told.defines}
        asked |= {(r.kind, name) for one in taken for r in one.told.refers for name in (r.name, *r.others)}


def _lacking(site: Site, tree: Tree, path: str, target: str) -> Iterator[Shared]:
    for seat_file in (one for one in site.seat_files if one.path.casefold() == target.casefold()):
        form = format_named(seat_file.seat.format)
        try:
            document = form.open(text_of(form, tree.read(path), seat_file.seat.encodings), seat_file.seat.options)
        except (Unreadable, CouldNotError):
            continue
        for held in entries_at(document, seat_file.seat.put):
            if isinstance(placement_at(seat_file.document, seat_file.seat.put, held.body), Edits):
                yield Shared(seat_file, held.body, path, site.told(seat_file, held.body))


def _of_the_pack(
    told: EntryFacts, defined: set[tuple[str, str]], asked: set[tuple[str, str]], stems: frozenset[str]
) -> bool:
    if any((one.kind, one.name) in asked for one in told.defines):
        return True
    names = [(one.kind, name) for one in told.refers for name in (one.name, *one.others)]
    return any(key in defined for key in names) or any(stem == key[1] for key in names for stem in stems)
