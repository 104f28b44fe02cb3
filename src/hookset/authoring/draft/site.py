"""What a draft is made for: a map, or no more than its layout."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, field
from functools import cached_property

from msgspec import Struct

from hookset.authoring.draft.words import languages_said
from hookset.config.layouts import Layout, Seat
from hookset.formats import Body, Document, Edits, ExistingEntry, Unreadable, format_named, open_file, spliced
from hookset.formats.document import entries_at, placement_at
from hookset.model import CouldNotError, Definition, Reference
from hookset.project import LedgerPack, Stock, Terms, is_ours
from hookset.symbols import Analysis, Index, Web, analyse, read_file
from hookset.trees import EmptyTree, Inline, Overlay, Pattern, Text, Tree

__all__ = ["EntryFacts", "SeatFile", "Site", "opening_of"]

_SMALL = 200_000
"""Bytes of a file of the map that entries are tried in; a larger one has its seats stand in an empty file instead."""
_SIBLINGS = 400
_REMEMBERED = 2_000
_OPEN = re.compile(r"\{(?!variant\}|side\})\w+\}")
"""A word of a seat's file that a hook gives."""
"""Texts of files of which it is kept what they say."""


_BEGINS = re.compile(r"\s*(<[\w:.-]+|\[|\w+)")


def opening_of(text: str) -> str:
    """The word that an entry begins with; for elements with its bracket."""
    found = _BEGINS.match(text)
    return found[1] if found else ""


class EntryFacts(Struct, frozen=True):
    """What an entry says once it stands in its file, by the layout's rules."""

    defines: tuple[Definition, ...]
    refers: tuple[Reference, ...]


class SeatFile(Struct, frozen=True, dict=True):
    """A seat in one file."""

    seat: Seat
    path: str
    variant: str
    side: str
    text: Text
    document: Document
    blank: bool
    """The file is not the map's: it holds the seat and nothing else."""

    @cached_property
    def language(self) -> str:
        """The code of the language that the file is for, where its variant is one: `en` for english."""
        codes = languages_said(f"{self.variant}:") if self.variant else ()
        return codes[0] if len(codes) == 1 else self.variant

    @cached_property
    def sorts(self) -> tuple[Body, ...]:
        """One entry of each sort that stands here: of those of text one for each word that they begin with."""
        found: dict[str, Body] = {}
        for number, one in enumerate(self.siblings):
            text = one.body.text
            found.setdefault(opening_of(text) if text is not None else f"row {number}", one.body)
        return tuple(found.values())

    @cached_property
    def of_single_words(self) -> bool:
        """Whether each entry here is one word, or a path, and there are some."""
        rows = [one.body.text for one in self.siblings if one.body.text is not None]
        return bool(rows) and not any(len(row.split()) > 1 for row in rows)

    @cached_property
    def siblings(self) -> tuple[ExistingEntry, ...]:
        """Entries that stand here already."""
        existing = entries_at(self.document, self.seat.put)
        return tuple(one for one, _ in zip(existing, range(_SIBLINGS), strict=False))


@dataclass(frozen=True)
class Site:
    """A layout, with a map of it or without one."""

    layout: Layout
    tree: Tree = field(default_factory=EmptyTree)
    stock: Stock = field(default_factory=Stock)
    packs: tuple[str, ...] = ()
    """Packs that are installed or at hand, which conditions may name."""
    folder: str = ""
    """The map's."""
    terms: Terms = field(default_factory=Terms)
    """What the builder accepts."""
    earlier: LedgerPack | None = None
    """The version of the pack that is installed; the map is here as it is without that."""
    installed: tuple[LedgerPack, ...] = ()
    """The other packs that are installed in the map."""
    _read: dict[tuple[str, str], EntryFacts] = field(default_factory=dict, compare=False, repr=False)
    """What files say, by path and text: one text is tried at every seat of a file, and notes repeat themselves."""

    @cached_property
    def analysis(self) -> Analysis:
        """The names of the map, read once."""
        return analyse(self.tree, self.layout, self.stock)

    @property
    def web(self) -> Web:
        """What the files of the map say."""
        return self.analysis.web

    def references_in(self, path: str, kinds: AbstractSet[str]) -> Iterator[Reference]:
        """What a file of the map refers to, of some kinds."""
        blocks = (block for file in self.web.files if file.path == path for block in file.referred)
        for block in (one for one in blocks if one.kind in kinds):
            yield from (block.reference(path, row) for row in range(len(block.names)))

    @property
    def index(self) -> Index:
        """The definitions of the map by name."""
        return self.analysis.index

    @cached_property
    def languages(self) -> tuple[str, ...]:
        """The languages that there are seats for, by their codes."""
        return tuple(dict.fromkeys(one.language for one in self.seat_files if one.variant))

    @cached_property
    def openings(self) -> frozenset[str]:
        """The words that entries of the map begin with, where they are of several words."""
        texts = (entry.body.text or "" for one in self.seat_files for entry in one.siblings)
        return frozenset(opening_of(text) for text in texts if len(text.split()) > 1) - {""}

    @cached_property
    def heads(self) -> tuple[Pattern, ...]:
        """What entries of several lines of any kind begin with, at seats where they do."""
        found = (format_named(one.seat.format).head(one.seat.put) for one in self.seat_files)
        return tuple(dict.fromkeys(one for one in found if one is not None))

    @cached_property
    def names(self) -> frozenset[str]:
        """Every name that the map defines."""
        return frozenset(name for file in self.web.files for block in file.defined for name in block.names)

    @cached_property
    def missing(self) -> frozenset[tuple[str, str, str]]:
        """What the map lacks as it is: kind, name, and the file that asks."""
        return frozenset(
            (one.reference.kind, one.reference.name, one.reference.path) for one in self.analysis.resolutions.missing
        )

    @cached_property
    def of_paths(self) -> frozenset[str]:
        """Kinds whose names are paths, or are made of them."""
        defines = (define for rule in self.layout.reads for define in rule.defines)
        return self.layout.path_kinds | {define.kind for define in defines if "path" in define.name.fields}

    @cached_property
    def stems(self) -> dict[str, str]:
        """Names of the map's files without their endings, as packs are called: → as they are written."""
        stems = (path.rpartition("/")[2].rpartition(".")[0] for path in self.tree.paths() if not is_ours(path))
        return {re.sub(r"[^a-z0-9]+", "-", stem.lower()).strip("-"): stem for stem in stems if stem}

    @cached_property
    def folders(self) -> dict[str, str]:
        """Folders of the map and of the layout: folded → as they are written."""
        found: dict[str, str] = {}
        for pattern in self._patterns:
            fixed = pattern.split("*", 1)[0].split("{", 1)[0].rpartition("/")[0]
            found |= {part.casefold(): part for part in _above(fixed)}
        for path in self.tree.paths():
            found |= {part.casefold(): part for part in _above(path.rpartition("/")[0])}
        return found

    def spelt(self, path: str) -> str:
        """A path, with its folders in the letter case that the map has them in."""
        folder, _, name = path.rpartition("/")
        parts = folder.split("/") if folder else []
        for depth in range(len(parts), 0, -1):
            known = self.folders.get("/".join(parts[:depth]).casefold())
            if known is not None:
                return "/".join((known, *parts[depth:], name))
        return path

    def is_shared(self, path: str) -> bool:
        """Whether every map has one file there, which packs add to."""
        seats = any(seat_file.path.casefold() == path.casefold() for seat_file in self.seat_files)
        entry, manifest = self.layout.descriptor, self.layout.manifest
        lists = manifest.lists if manifest else ()
        return seats or path == (entry.file if entry else "") or any(one.matches(path) for one in lists)

    @cached_property
    def _patterns(self) -> tuple[str, ...]:
        rules = (glob.pattern for rule in self.layout.reads for glob in rule.files)
        listed = self.layout.manifest.patterns if self.layout.manifest else ()
        return tuple(pattern for pattern in (*rules, *listed) if not pattern.startswith("**"))

    @cached_property
    def variants(self) -> tuple[str, ...]:
        """Languages that the map has."""
        found = [match.words["variant"] for seat in self.layout.seats.values() for path in self.tree.paths()
                 if "{variant}" in seat.file.pattern and (match := seat.file.match(path)) is not None]  # fmt: skip
        return tuple(dict.fromkeys(found))

    @cached_property
    def seat_files(self) -> tuple[SeatFile, ...]:
        """Every seat in every file that it is in; where there is none, in one that is made for it."""
        return tuple(seat_file for seat in self.layout.seats.values() for seat_file in self._seat_files(seat))

    @cached_property
    def every_seat_file(self) -> tuple[SeatFile, ...]:
        """Every seat in every file of the map that it can be in."""
        found = (
            self._seat_file(seat, path, self.tree)
            for seat in self.layout.seats.values()
            for path in self.tree.paths()
            if seat.file.matches(path) and not is_ours(path)
        )
        return tuple(seat_file for seat_file in found if seat_file is not None)

    @cached_property
    def one_of_many(self) -> Mapping[str, Mapping[str, SeatFile]]:
        """Of seats that are in any of several files, and in one of them for each entry: by the seat's name, the files
        by their paths."""
        found: dict[str, dict[str, SeatFile]] = {}
        for seat in self.layout.seats.values():
            if _OPEN.search(seat.file.pattern):
                paths = [path for path in self.tree.paths() if seat.file.matches(path) and not is_ours(path)]
                files = (self._seat_file(seat, path, self.tree) for path in paths if len(paths) > 1)
                found[seat.name] = {one.path: one for one in files if one is not None}
        return {name: files for name, files in found.items() if files}

    def _seat_files(self, seat: Seat) -> Iterator[SeatFile]:
        paths = [path for path in self.tree.paths() if seat.file.matches(path) and not is_ours(path)]
        made = False
        for path in paths if "{variant}" in seat.file.pattern else paths[:1]:
            if (seat_file := self._seat_file(seat, path, self.tree)) is not None:
                made = True
                yield seat_file
        for variant in () if made else ("en", "de") if "{variant}" in seat.file.pattern else ("",):
            path = seat.file.filled({"variant": variant}).replace("*", "_")
            blank = format_named(seat.format).blank(seat.put)
            if (
                seat_file := self._seat_file(seat, path, Overlay(EmptyTree(), {path: Inline(blank.encode())}))
            ) is not None:
                yield seat_file

    def _seat_file(self, seat: Seat, path: str, tree: Tree) -> SeatFile | None:
        form = format_named(seat.format)
        try:
            text, document = open_file(form, tree.read(path), seat.encodings, seat.options)
        except (Unreadable, CouldNotError):
            return None
        match = seat.file.match(path)
        words = match.words if match is not None else {}
        return SeatFile(seat, path, words.get("variant", ""), self.side_of(path), text, document, tree is not self.tree)

    def side_of(self, path: str) -> str:
        """The side that a file is for; empty for both."""
        for rule in self.layout.reads:
            match = rule.match(path)
            if match is not None and ("side" in match.words or rule.side):
                return self.layout.side_of(match.words["side"]) if "side" in match.words else rule.side
        return ""

    def told(self, seat_file: SeatFile, body: Body, put: object = None) -> EntryFacts:
        """What an entry says at a seat_file; nothing where it cannot be set there."""
        small = seat_file if len(seat_file.text.string) <= _SMALL else self._emptied(seat_file)
        edits = placement_at(small.document, put or small.seat.put, body)
        if not isinstance(edits, Edits):
            return EntryFacts((), ())
        before = self._facts(small.path, small.text.string)
        after = self._facts(small.path, spliced(small.text.string, edits.edits))
        return EntryFacts(_more(after.defines, before.defines), _more(after.refers, before.refers))

    def told_alone(self, seat_file: SeatFile, body: Body) -> EntryFacts:
        """What an entry says where nothing of its name stands yet."""
        return self.told(self._emptied(seat_file), body)

    def _emptied(self, seat_file: SeatFile) -> SeatFile:
        blank = format_named(seat_file.seat.format).blank(seat_file.seat.put)
        tree = Overlay(EmptyTree(), {seat_file.path: Inline(blank.encode())})
        return self._seat_file(seat_file.seat, seat_file.path, tree) or seat_file

    def _facts(self, path: str, string: str) -> EntryFacts:
        if (known := self._read.get((path, string))) is not None:
            return known
        tree = Overlay(EmptyTree(), {path: Inline(string.encode("utf-8", "replace"))})
        facts = read_file(tree, path, self.layout, self.web.words)
        own = _of_files(self.layout)
        told = EntryFacts(tuple(d for d in facts.definitions if d.kind not in own), tuple(facts.references))
        if len(self._read) < _REMEMBERED:
            self._read[path, string] = told
        return told


def _of_files(layout: Layout) -> frozenset[str]:
    """Kinds whose names are made of paths: an entry in a file adds none."""
    rules = (rule for rule in layout.reads if rule.format == "any")
    return frozenset(define.kind for rule in rules for define in rule.defines)


def _more(after: Sequence[object], before: Sequence[object]) -> tuple:  # type: ignore[type-arg]
    """What is there more often than before."""
    left = [_identity(one) for one in before]
    found = []
    for one in after:
        key = _identity(one)
        if key in left:
            left.remove(key)
        else:
            found.append(one)
    return tuple(found)


def _identity(one: object) -> tuple[str, str, str]:
    return (one.kind, one.name, one.side)  # type: ignore[attr-defined]


def _above(folder: str) -> list[str]:
    """The folder and all around it."""
    parts = folder.split("/") if folder else []
    return ["/".join(parts[:depth]) for depth in range(1, len(parts) + 1)]
