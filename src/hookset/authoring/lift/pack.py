"""What was lifted, as a pack with a hook sheet that can be set into any map of the layout."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct

from hookset.authoring.draft.cites import as_said
from hookset.authoring.draft.draft import Draft, Reason
from hookset.authoring.draft.entries import DraftEntry, hooks_of
from hookset.authoring.draft.places import with_places
from hookset.authoring.draft.said.conditions import kebab
from hookset.authoring.draft.sheet import sheet_text
from hookset.authoring.lift.closure import Closure, Item
from hookset.authoring.lift.donor import Donor, Piece
from hookset.authoring.lift.filled import Filled, filled_in
from hookset.authoring.lift.numbers import CopiedNumber, copied_numbers
from hookset.authoring.lift.subtree import detached
from hookset.packs import SHEET_NAME, HookSheet
from hookset.packs.hooksheet import ClaimEntry, FilesEntry, NamedValue, PackEntry, PublishedEntry
from hookset.project import Ledger
from hookset.trees import Content, Inline, Member

__all__ = ["LiftedPack", "lifted_pack"]

_TOLD = 8


class LiftedPack(Struct, frozen=True):
    """The pack, before it is written."""

    name: str
    sheet: HookSheet
    files: Mapping[str, Content]
    entries: tuple[DraftEntry, ...]
    notes: tuple[str, ...]
    """What the builder should know of."""
    numbers: tuple[CopiedNumber, ...] = ()
    """Numbers that no rule reads: whether they are ids of the donor's is not known."""


def lifted_pack(donor: Donor, lifted: Closure, name: str, ledger: Ledger) -> LiftedPack:
    """`ledger` is the donor's: it knows whose files they are."""
    shared = dict(_shared(donor, lifted))
    ids = {key: f"{{value:{name}}}" for key, name in shared.items()} | dict(_ids(donor, lifted))
    notes: list[str] = []
    entries: list[DraftEntry] = []
    for item in _in_order(lifted):
        assert item.piece is not None
        if _listed_by_itself(donor, item.piece) is not None:
            continue
        entries.append(_entry(donor, item, ids, notes))
    claims = tuple(_claims(donor, lifted))
    numbers = copied_numbers(donor, lifted, entries)
    if numbers:
        notes.append(_of_numbers(donor, numbers))
    authors, license_ = _whose(lifted, ledger)
    if not license_:
        notes.append(f"no licence is known for what comes from {donor.name}: ask its makers before you publish")
    version = f" {donor.version}" if donor.version else ""
    head = PackEntry(
        name=kebab(name),
        version="1",
        title=f"{name}, lifted from {donor.name}",
        authors=authors,
        license=license_,
        made_from=f"{donor.name}{version}",
        layouts=(donor.site.layout.name,),
        published=PublishedEntry(map=donor.name, version=donor.version),
    )
    hooks, places = with_places(donor.site, list(hooks_of(entries)))
    files = (FilesEntry(from_="content/**", to="."),) if lifted.files else ()
    values = tuple(NamedValue(name=name, is_=f"{{next:{kind}}}") for (kind, _), name in shared.items())
    sheet = HookSheet(
        pack=head,
        files=files,
        value=values,
        place=tuple(place for place, _ in places),
        hook=tuple(hook for hook, _ in hooks),
        claim=claims,
    )
    reasons = {("hook", number): reason for number, (_, reason) in enumerate(hooks)}
    reasons |= {("place", number): reason for number, (_, reason) in enumerate(places)}
    draft = Draft(
        sheet=sheet, reasons=reasons, left=(), decide=tuple(notes), notes=(donor.name,), lines=(), missing=(), heads={}
    )
    content: dict[str, Content] = {f"content/{path}": Member(donor.site.tree, path) for path in lifted.files}
    text = re.sub(r"\A(?:# (?!\?)[^\n]*\n)+", f"# Lifted by Hook Set from {donor.name}.\n", sheet_text(draft))
    content[SHEET_NAME] = Inline(text.encode())
    return LiftedPack(head.name, sheet, dict(sorted(content.items())), tuple(entries), tuple(notes), numbers)


def _of_numbers(donor: Donor, numbers: Sequence[CopiedNumber]) -> str:
    """One note on all of them, those first that are an id in the donor."""
    ordered = sorted(numbers, key=lambda one: not one.ids)
    known = [f" ({donor.name} has {one.ids})" if one.ids else "" for one in ordered]
    told = [f"{one.thing} {one.name} {one.value}{ids}" for one, ids in zip(ordered, known, strict=True)]
    more = f", and {len(told) - _TOLD} more" if len(told) > _TOLD else ""
    return (
        "no rule of the layout says what these numbers mean; they were copied as they are, and one that is an id means "
        f"something else in another map: {', '.join(told[:_TOLD])}{more}"
    )


def _in_order(lifted: Closure) -> Sequence[Item]:
    """What is brought in before what works with it, placed things after what they are made of."""

    def rank(item: Item) -> tuple[int, str, int]:
        assert item.piece is not None
        put = item.piece.seat_file.seat.put
        late = (
            2
            if getattr(put, "inside", None)
            else 1
            if item.piece.seat_file.seat.name == lifted.root.seat_file.seat.name
            else 0
        )
        return (late, item.path, item.piece.existing.start)

    return sorted(lifted.pieces, key=rank)


def _entry(donor: Donor, item: Item, ids: Mapping[tuple[str, str], str], notes: list[str]) -> DraftEntry:
    assert item.piece is not None
    piece = item.piece
    body, note = detached(donor, piece)
    note = note or _stood_within(donor, piece)
    if note:
        notes.append(note)
    defines, refers = donor.said_in(piece)
    fills = [Filled(r.where, r.written, ids[r.kind, r.name]) for r in refers if (r.kind, r.name) in ids]
    numbered = [one for one in defines if donor.site.layout.kinds[one.kind].entry.numbers is not None]
    fills += [Filled(d.where, d.name, ids.get((d.kind, d.name), f"{{next:{d.kind}}}")) for d in numbered]
    body, left = filled_in(donor, piece, body, fills)
    for one in left:
        notes.append(f"{one.value} is the donor's own number; another map may have given it to something else")
    return DraftEntry(piece.seat_file, body, Reason(True, as_said(item.because)))


def _stood_within(donor: Donor, piece: Piece) -> str:
    """Where a thing stood in another, its place may count from there: only the game knows."""
    outer = donor.piece_around(piece)
    names = [d.name for d in donor.said_in(outer)[0]] if outer is not None else []
    own = next((d.name for d in donor.said_in(piece)[0]), "it")
    return f"{own} stood within {names[0]}: look whether its place is right when it stands by itself" if names else ""


def _listed_by_itself(donor: Donor, piece: Piece) -> tuple[str, str, str, str] | None:
    """(look-up, kind, id, path) for an entry of a table of ids: each map has its own number for the file."""
    lookup = next((one for one in donor.site.layout.lookups.values() if one.seat == piece.seat_file.seat.name), None)
    if lookup is None:
        return None
    defines, refers = donor.said_in(piece)
    number = next((d for d in defines if donor.site.layout.kinds[d.kind].entry.numbers is not None), None)
    path = next((r.name for r in refers if r.kind in donor.site.layout.path_kinds), None) or _path_of(piece)
    return (lookup.name, number.kind, number.name, path) if number is not None and path else None


def _path_of(piece: Piece) -> str | None:
    found = re.search(r"[\w.-]+(?:/[\w.-]+)+", str(piece.existing.body.text or piece.existing.body.record))
    return found.group() if found else None


def _ids(donor: Donor, lifted: Closure) -> Iterator[tuple[tuple[str, str], str]]:
    for item in lifted.pieces:
        assert item.piece is not None
        listed = _listed_by_itself(donor, item.piece)
        if listed is not None:
            lookup, kind, number, path = listed
            yield (kind, number), f"{{listed:{lookup}:{path}}}"


def _shared(donor: Donor, lifted: Closure) -> Iterator[tuple[tuple[str, str], str]]:
    """Numbers that one entry is given and others refer to, with what the sheet calls each."""
    pieces = [item.piece for item in lifted.pieces if item.piece is not None]
    refers = {(r.kind, r.name) for piece in pieces for r in donor.said_in(piece)[1]}
    for piece in pieces:
        if _listed_by_itself(donor, piece) is not None:
            continue
        for one in donor.said_in(piece)[0]:
            if donor.site.layout.kinds[one.kind].entry.numbers is not None and (one.kind, one.name) in refers:
                yield (one.kind, one.name), kebab(f"{one.kind}-{one.name}")


def _claims(donor: Donor, lifted: Closure) -> Iterator[ClaimEntry]:
    for item in lifted.pieces:
        assert item.piece is not None
        for definition in donor.said_in(item.piece)[0]:
            if donor.site.layout.kinds[definition.kind].entry.pool:
                yield ClaimEntry(kind=definition.kind, published=definition.name)


def _whose(lifted: Closure, ledger: Ledger) -> tuple[tuple[str, ...], str]:
    """Authors and licence of the packs that the files came to the donor with."""
    files = set(lifted.files)
    packs = [pack for pack in ledger.packs if any(file.path in files for file in pack.files)]
    authors = tuple(dict.fromkeys(author for pack in packs for author in pack.authors))
    licences = list(dict.fromkeys(pack.license for pack in packs if pack.license))
    whole = all(any(file.path == path for pack in packs for file in pack.files) for path in files)
    return authors, " AND ".join(licences) if licences and whole else ""
