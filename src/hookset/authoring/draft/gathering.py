"""All that a pack says of itself, read once."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct

from hookset.authoring.draft.decided import Decided, decided_of, placed_as_decided
from hookset.authoring.draft.decisions import Walk
from hookset.authoring.draft.found.alternatives import Alternative, alternatives_in, without_alternatives
from hookset.authoring.draft.found.fragments import fragments_of
from hookset.authoring.draft.found.origin import made_in
from hookset.authoring.draft.found.placing import Placing, placing_of
from hookset.authoring.draft.found.seating import Known
from hookset.authoring.draft.notes import Notes, is_notes, read_notes
from hookset.authoring.draft.said import Chunk, chunks_of
from hookset.authoring.draft.said.holes import replacements
from hookset.authoring.draft.said.parts import headings_in
from hookset.authoring.draft.said.spoken import by_languages
from hookset.authoring.draft.said.tabled import tabled
from hookset.authoring.draft.site import Site
from hookset.packs import Pack
from hookset.packs.sorts import Sort, sorts_in
from hookset.symbols import analyse
from hookset.trees import EmptyTree, Member, Overlay

__all__ = ["PackMaterial", "gather_material"]

_TEXT = 1 << 20
"""Bytes of a script or a table that is read for what it asks for."""
_COPIED = 60_000
"""Characters of notes to be copied that are tried at the map's seats."""
_CHUNKS = 400
"""And how many texts."""


class PackMaterial(Struct, frozen=True):
    """What a draft is made from: the notes, scripts and placed files of a pack."""

    pack: Pack
    decided: Decided
    sorts: Mapping[str, Sort]
    notes: tuple[Notes, ...]
    chunks: tuple[Chunk, ...]
    placing: Placing
    scripts: Mapping[str, str]
    """Texts of files that go into the map, by the path that they will have there."""
    known: Known
    dry_run: int
    """How many of the chunks are looked into: those beyond are more than anybody would have others copy."""
    fragments: tuple[tuple[str, Chunk], ...]
    """Files of the pack that hold what is to be copied, by their path."""
    alternatives: tuple[Alternative, ...]
    """Files of which one is taken."""
    headings: Mapping[tuple[str, int], str]
    """The heading that each line of the notes is under."""
    everywhere: tuple[tuple[str, str, int], ...]
    """Words that the notes say to replace wherever they are: (word, by what, line)."""


def gather_material(site: Site, pack: Pack, walk: Walk) -> PackMaterial:
    """Read the notes, and find out where the files go and what they define and ask for; `walk` is what was decided."""
    sorts = sorts_in(pack.tree)
    notes = read_notes(pack.tree, tuple(path for path in sorts if is_notes(path)))
    chunks = tuple(
        part
        for one in notes
        for chunk in sorted((*chunks_of(one, site.openings, site.heads), *tabled(one)), key=lambda chunk: chunk.first)
        for part in by_languages(chunk, site.languages)
    )
    texts = dict(_texts(pack, sorts))
    placing = placing_of(site, sorts, notes, "\n".join(chunk.text for chunk in chunks), texts)
    decided = decided_of(walk, notes, pack)
    placing = placed_as_decided(placing, decided)
    known = _known(site, pack, placing)
    alternatives = tuple(alternatives_in(site, placing, known, tuple(sorts), notes))
    placing = without_alternatives(placing, alternatives)
    fragments = tuple(fragments_of(site, placing, texts, notes))
    return PackMaterial(
        pack=pack,
        decided=decided,
        fragments=fragments,
        sorts=sorts,
        notes=notes,
        chunks=chunks,
        dry_run=_within(chunks),
        placing=placing,
        scripts={one.target: texts[one.path] for one in placing.placed if one.path in texts},
        known=known,
        alternatives=alternatives,
        headings=headings_in(notes),
        everywhere=(
            *(
                row
                for one in notes
                for row in replacements(((line.number, line.text) for line in one.lines if not line.code), "")
            ),
            *((word, becomes, _first(notes, word)) for word, becomes in _made_in(site, placing, chunks, texts)),
        ),
    )


def _made_in(
    site: Site, placing: Placing, chunks: Sequence[Chunk], texts: Mapping[str, str]
) -> Iterator[tuple[str, str]]:
    targets = [one.target for one in placing.placed]
    return made_in(site, targets, (*(chunk.text for chunk in chunks), *texts.values()))


def _first(notes: Sequence[Notes], word: str) -> int:
    """The line that names a word first."""
    return next((line.number for one in notes for line in one.lines if word in line.text), 0)


def _within(chunks: Sequence[Chunk]) -> int:
    """How many of them are so much text as notes have."""
    total = 0
    for number, chunk in enumerate(chunks):
        total += len(chunk.text)
        if total > _COPIED or number >= _CHUNKS:
            return number
    return len(chunks)


def _texts(pack: Pack, sorts: Mapping[str, Sort]) -> Iterator[tuple[str, str]]:
    for path, sort in sorts.items():
        if sort.word in ("script", "data", "text", "model") and pack.tree.size(path) <= _TEXT and not is_notes(path):
            data = pack.tree.read(path)
            if b"\0" not in data:
                yield path, data.decode("utf-8", "replace")


def _known(site: Site, pack: Pack, placing: Placing) -> Known:
    tree = Overlay(EmptyTree(), {one.target: Member(pack.tree, one.path) for one in placing.placed})
    web = analyse(tree, site.layout, site.stock).web
    defined = {(d.kind, d.name) for file in web.files for d in file.definitions}
    asked = {(r.kind, n) for file in web.files for r in file.references for n in (r.name, *r.others)}
    stems = {re.sub(r"\.\w+$", "", one.target.rpartition("/")[2]) for one in placing.placed}
    sides: dict[tuple[str, str], set[str]] = {}
    for d in (d for file in web.files for d in file.definitions if site.layout.kinds[d.kind].entry.sided):
        sides.setdefault((d.kind, d.name), set()).add(d.side)
    return Known(
        frozenset(defined), frozenset(asked), frozenset(stems), {key: frozenset(of) for key, of in sides.items()}
    )
