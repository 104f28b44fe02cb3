"""All that one thing of a map needs, down to the last file: by following every name that it and they use."""

from __future__ import annotations

import re
from collections import deque
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

from msgspec import Struct

from hookset.authoring.lift.donor import Donor, Piece
from hookset.authoring.lift.subtree import children_of
from hookset.model import Definition, Reference

__all__ = ["Closure", "Item", "closure_of"]

_BOUND = re.compile(r"\s*(?:local|const|let|var|import)\s+\{?\s*(?P<name>\w+)[^=\n]*?(?:=|from\b)")


class Item(Struct, frozen=True):
    """Something that comes along: an entry, or a file."""

    piece: Piece | None
    path: str
    """The file, or the one that the entry stands in."""
    because: str
    """What asks for it, in words."""
    by_link: bool = False
    """Only a link between placed things leads to it: it could be left out."""


@dataclass
class Closure:
    """What came together."""

    root: Piece
    items: dict[object, Item] = field(default_factory=dict)
    stocked: dict[tuple[str, str], str] = field(default_factory=dict)
    """What the base game has: (kind, name) → what asks for it."""
    missing: dict[tuple[str, str], str] = field(default_factory=dict)
    """What the donor itself lacks."""
    unsure: list[str] = field(default_factory=list)
    """Names that are built at run time."""
    left: dict[tuple[str, str], str] = field(default_factory=dict)
    """What was left out by choice."""
    behind: list[Reference] = field(default_factory=list)
    """What refers to the thing from elsewhere in the donor, and does not come along."""

    @property
    def files(self) -> tuple[str, ...]:
        """The paths of the whole files that are included, sorted."""
        return tuple(sorted(item.path for item in self.items.values() if item.piece is None))

    @property
    def pieces(self) -> tuple[Item, ...]:
        """The included entries of shared files."""
        return tuple(item for item in self.items.values() if item.piece is not None)


def closure_of(donor: Donor, root: Piece, with_stock: bool, leave: frozenset[str]) -> Closure:
    """Follow every name from the thing on. `leave` are names that are not followed; `with_stock`: what the base
    game has and the donor's own files have as well is brought along."""
    found = Closure(root)
    waiting: deque[Item] = deque()

    def come(items: Iterable[Item]) -> None:
        for item in items:
            key = item.piece.key if item.piece is not None else item.path
            if key not in found.items:
                found.items[key] = item
                waiting.append(item)

    def follow_all() -> None:
        while waiting:
            item = waiting.popleft()
            # Before links are followed: what hangs on a thing belongs to it, also where it is linked as well.
            come(_hanging(donor, item))
            for reference in _references(donor, item):
                come(_followed(donor, found, item, reference, with_stock, leave))
            come(_loaders(donor, found, item.path) if item.piece is None else ())

    come([Item(root, root.seat_file.path, "it is what was asked for")])
    follow_all()
    come(list(_starters(donor, found)))
    come(list(_referring(donor, found, leave)))
    follow_all()
    found.behind += _behind(donor, found)
    _drop_inner(found)
    return found


def _hanging(donor: Donor, item: Item) -> Iterator[Item]:
    for below in children_of(donor, item.piece) if item.piece is not None else ():
        yield Item(below, below.seat_file.path, f"it hangs on {_called(donor, item)}")


def _referring(donor: Donor, found: Closure, leave: frozenset[str]) -> Iterator[Item]:
    """Entries of other tables that say something about the thing and about no other thing that stays: its marks, its
    tags, the row that names it."""
    for reference, piece in _elsewhere(donor, found):
        if piece is None or piece.seat_file.seat.name == found.root.seat_file.seat.name:
            continue
        own = {(d.kind, d.name) for d in donor.said_in(found.root)[0]}
        kinds = {kind for kind, _ in own}
        others = [r for r in donor.said_in(piece)[1] if r.kind in kinds and (r.kind, r.name) not in own]
        if others:
            continue
        called = {d.name for d in donor.said_in(piece)[0]} | {piece.seat_file.seat.name}
        label = donor.site.layout.kinds[reference.kind].label
        why = f"it refers to the {label} {reference.name}"
        if called & leave:
            found.left[reference.kind, piece.seat_file.seat.name] = why
        else:
            yield Item(piece, piece.seat_file.path, why)


def _behind(donor: Donor, found: Closure) -> Iterator[Reference]:
    yield from (reference for reference, _ in _elsewhere(donor, found))


def _elsewhere(donor: Donor, found: Closure) -> Iterator[tuple[Reference, Piece | None]]:
    """References to the thing in what does not come along, with the entry that each stands in."""
    own = {(d.kind, d.name) for d in donor.said_in(found.root)[0]}
    kinds, names = {kind for kind, _ in own}, {name for _, name in own}
    pieces = [item.piece for item in found.pieces if item.piece is not None]
    for facts in donor.site.web.files:
        if facts.path in found.items:
            continue
        blocks = (block for block in facts.referred if block.kind in kinds)
        rows = ((block, row) for block in blocks for row, name in enumerate(block.names) if name in names)
        for reference in (block.reference(facts.path, row) for block, row in rows):
            if (reference.kind, reference.name) not in own:
                continue
            if not any(donor.stands_in(piece, facts.path, reference.where) for piece in pieces):
                yield reference, donor.piece_at(facts.path, reference.where)


def _drop_inner(found: Closure) -> None:
    """What stands within a thing that comes along comes with it: by itself it would be there twice."""
    pieces = [item.piece for item in found.pieces if item.piece is not None]
    outer: Piece | None = None
    for piece in sorted(pieces, key=lambda one: (one.seat_file.path, one.existing.start, -one.existing.end)):
        if outer is not None and _inside(piece, outer):
            del found.items[piece.key]
        else:
            outer = piece


def _references(donor: Donor, item: Item) -> tuple[Reference, ...]:
    if item.piece is not None:
        return donor.said_in(item.piece)[1]
    facts = donor.facts.get(item.path)
    return tuple(facts.references) if facts is not None else ()


def _followed(
    donor: Donor, found: Closure, item: Item, reference: Reference, with_stock: bool, leave: frozenset[str]
) -> Iterator[Item]:
    """Where one name leads."""
    key = (reference.kind, reference.name)
    asks = f"{_called(donor, item)} asks for the {donor.site.layout.kinds[reference.kind].label} {reference.name}"
    if reference.name in leave or f"{reference.kind}:{reference.name}" in leave:
        found.left[key] = asks
        return
    if reference.pattern:
        told = f"{item.path}: {reference.kind} `{reference.name}` is built at run time"
        if told not in found.unsure:
            found.unsure.append(told)
        return
    stocked = any(donor.site.stock.sides(reference.kind, name) for name in (reference.name, *reference.others))
    definitions = donor.site.index.meant(reference)
    if stocked and not (with_stock and definitions):
        found.stocked.setdefault(key, asks)
        return
    if not definitions and reference.kind not in donor.site.index.unknowable:
        vocabulary = donor.site.layout.kinds[reference.kind].entry.vocabulary
        if reference.name not in vocabulary:
            found.missing.setdefault(key, asks)
    for definition in definitions:
        yield from _of_definition(donor, found, definition, asks)


def _called(donor: Donor, item: Item) -> str:
    if item.piece is None:
        return item.path
    defined = donor.said_in(item.piece)[0]
    if not defined:
        return item.piece.seat_file.seat.name
    # A number alone says nothing.
    label = f"{donor.site.layout.kinds[defined[0].kind].label} " if defined[0].name.isdigit() else ""
    return f"{label}{defined[0].name}"


def _of_definition(donor: Donor, found: Closure, definition: Definition, asks: str) -> Iterator[Item]:
    """The entry or the file that a name is defined by."""
    piece = donor.thing_at(definition)
    if piece is not None:
        link = piece.seat_file.seat.name == found.root.seat_file.seat.name
        yield Item(piece, definition.path, asks, by_link=link and not _inside(piece, found.root))
    elif definition.path not in donor.pieces and not _is_descriptor(donor, definition.path):
        yield Item(None, definition.path, asks)


def _inside(piece: Piece, other: Piece) -> bool:
    same = piece.seat_file.path == other.seat_file.path
    return same and other.existing.start <= piece.existing.start and piece.existing.end <= other.existing.end


def _is_descriptor(donor: Donor, path: str) -> bool:
    layout = donor.site.layout
    lists = layout.manifest.lists if layout.manifest else ()
    return path == (layout.descriptor.file if layout.descriptor else "") or any(one.matches(path) for one in lists)


def _loaders(donor: Donor, found: Closure, path: str) -> Iterator[Item]:
    """What makes the game load a script: the entries that do, or the file that does."""
    rule = donor.site.layout.text_rule(path)
    registers = rule is not None and any(donor.site.layout.kinds[d.kind].entry.reached for d in rule.defines)
    if not registers or path not in donor.reach.via:
        return
    loader = donor.reach.via[path][0]
    if loader in found.items:
        return
    if loader not in donor.pieces:
        yield Item(None, loader, f"it loads {path}")
        return
    for one in _entries_for(donor, found, path):
        yield Item(one, one.seat_file.path, f"it has the game load {path}")


def _entries_for(donor: Donor, found: Closure, path: str) -> Iterator[Piece]:
    """Entries that name a file, and those that name what such an entry defines: an id in a table of files. Placed
    things are not among them."""
    names = {(d.kind, d.name) for d in _all(donor, path) if not d.where}
    for _ in range(2):
        more: set[tuple[str, str]] = set()
        for pieces in donor.pieces.values():
            for piece in pieces:
                defines, refers = donor.said_in(piece)
                used = {(r.kind, name) for r in refers for name in (r.name, *r.others) if r.use}
                if piece.seat_file.seat.name != found.root.seat_file.seat.name and used & names:
                    yield piece
                    more |= {(d.kind, d.name) for d in defines}
        names = more


def _all(donor: Donor, path: str) -> tuple[Definition, ...]:
    facts = donor.facts.get(path)
    return tuple(facts.definitions) if facts is not None else ()


def _starters(donor: Donor, found: Closure) -> Iterator[Item]:
    """Statements that work with what an entry that came along brings into the same file."""
    for item in found.pieces:
        assert item.piece is not None
        bound = _BOUND.match(item.piece.existing.body.text or "")
        if bound is None:
            continue
        name = bound["name"]
        for piece in donor.pieces.get(item.path, ()):
            inside = getattr(piece.seat_file.seat.put, "inside", None)
            if inside and re.search(rf"(?<![\w.]){name}\b", piece.existing.body.text or ""):
                yield Item(piece, item.path, f"it works with {name}")
