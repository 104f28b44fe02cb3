"""Files of a pack that hold what is to be copied: rows of a table, elements, lines of a list."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Mapping, Sequence

from msgspec.structs import replace

from hookset.authoring.draft.found.merging import merged_said
from hookset.authoring.draft.found.placing import Left, Placing
from hookset.authoring.draft.notes import Line, Notes
from hookset.authoring.draft.said import Chunk
from hookset.authoring.draft.site import Site
from hookset.authoring.draft.words import languages_said
from hookset.symbols.reading import read_file
from hookset.trees import EmptyTree, Inline, Overlay

__all__ = ["fragments_of", "without_fragments"]

_LARGEST = 64 << 10
_PARTS = frozenset({".csv", ".json", ".xml", ".toml", ".yaml", ".yml", ".ini", ".po", ".lst", ".list"})
"""Endings of what is written in entries: a script is a whole of its own."""
_PLAIN = frozenset({".txt", ".snippet", ".part"})
"""Endings of such files that only their notes tell from others."""


def fragments_of(
    site: Site, placing: Placing, texts: Mapping[str, str], notes: Sequence[Notes]
) -> Iterator[tuple[str, Chunk]]:
    """(path, what is to be copied) of each file that nothing has a sure place for, and of whose form is a file of the
    map with a seat."""
    unsure = [one.path for one in placing.placed if not one.sure] + [one.path for one in placing.left if not one.sure]
    merged = frozenset(merged_said(site, notes, unsure))
    forms = {posixpath.splitext(one.path)[1].casefold() for one in site.seat_files}
    for path in unsure:
        text = texts.get(path, "")
        ending = posixpath.splitext(path)[1].casefold()
        near = tuple(_about(path, notes))
        if (
            (ending in _PARTS & forms or (near and ending in _PARTS | _PLAIN))
            and 0 < len(text) <= _LARGEST
            and (path in merged or not _of_its_own(site, path, text))
        ):
            lines = tuple(Line(number, line, code=True) for number, line in enumerate(text.splitlines(), 1))
            while lines and not lines[-1].text.strip():
                lines = lines[:-1]
            called = f"{posixpath.splitext(posixpath.basename(path))[0]}:"
            # A file that is called after a language holds what is in that.
            of = (Line(0, called),) if languages_said(called) else ()
            yield path, Chunk(notes=path, lines=lines, near=(*near, *of), far=())


def _of_its_own(site: Site, path: str, text: str) -> bool:
    """Whether a file as it is defines something, lying where the layout has several of its sort: a descriptor, a table
    for each level."""
    stem, ending = posixpath.splitext(posixpath.basename(path))
    for rule in site.layout.reads:
        for glob in rule.files if rule.format != "any" and rule.defines else ():
            if "*" not in glob.pattern or not glob.pattern.casefold().endswith(ending.casefold()):
                continue
            place = re.sub(r"\{\w+\}", "x", glob.pattern.replace("**/", "x/").replace("*", stem))
            tree = Overlay(EmptyTree(), {place: Inline(text.encode())})
            facts = read_file(tree, place, site.layout, {"map": "x", "version": "1"})
            if any(block.kind not in site.layout.path_kinds for block in facts.defined):
                return True
    return False


def _about(path: str, notes: Sequence[Notes]) -> Iterator[Line]:
    """The lines of the notes that name a file."""
    stem = posixpath.splitext(posixpath.basename(path))[0]
    named = re.compile(rf"(?<![\w-]){re.escape(stem)}(?![\w-])", re.IGNORECASE)
    yield from (line for one in notes for line in one.lines if named.search(line.text))


def without_fragments(placing: Placing, seats: Mapping[str, str]) -> Placing:
    """The files without those whose entries go into seats: `seats` says which, in words, by path."""
    placed = tuple(one for one in placing.placed if one.path not in seats)
    left = tuple(one for one in placing.left if one.path not in seats)
    taken = (Left(path, f"its entries are set {where}") for path, where in seats.items())
    return replace(placing, placed=placed, left=(*left, *taken))
