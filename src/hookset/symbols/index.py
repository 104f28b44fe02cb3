"""Every definition of a web by kind and name."""

from __future__ import annotations

import fnmatch
import functools
import posixpath
import re
import unicodedata
from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from itertools import chain

from hookset.model import Definition, Reference
from hookset.symbols.collect import Web
from hookset.symbols.facts import Defined

__all__ = ["OWNS", "Index", "fits"]

OWNS = "::"
"""What stands between an owner and what belongs to it, in the names of owned kinds."""

_SORTS = (
    (".png", ".jpg", ".jpeg", ".webp", ".tga", ".bmp", ".dds", ".ktx2", ".gif", ".tif", ".tiff"),
    (".wav", ".ogg", ".opus", ".mp3", ".flac", ".aiff"),
    (".gltf", ".glb", ".obj", ".fbx", ".dae"),
    (".json", ".yaml", ".yml", ".toml", ".ini", ".xml"),
    (".js", ".mjs", ".cjs"),
)
"""Endings of files that can stand for one another: a texture may have been converted, a model's buffer is no model."""


class Index:
    """Look-ups over a web's definitions. Made once per web, changed by nobody."""

    def __init__(self, web: Web, earlier: Index | None = None) -> None:
        """`earlier` is that of the same map before a change: what it knows of kinds that define the same is taken
        over."""
        self.layout = web.layout
        self.stock = web.stock
        self._near: dict[tuple[str, str], tuple[str, ...]] = {}
        self._all_names: dict[str, list[str]] = {}
        self._folded: dict[str, dict[str, list[str]]] = {}
        self._compared = 0
        self._asked: dict[str, int] = {}
        self._whole: dict[str, frozenset[str]] = {}
        self._fitting: dict[tuple[str, str], tuple[str, ...]] = {}
        self._lines: dict[str, tuple[str, str] | None] = {}
        self._owners: dict[str, frozenset[str]] = {}
        self._made_of: dict[str, Mapping[str, Sequence[str]]] = {}
        self._blocks: list[tuple[str, Defined]] = [(file.path, block) for file in web.files for block in file.defined]
        self._first: dict[str, dict[str, int]] = {kind: {} for kind in web.layout.kinds}
        """For each kind, the number of the block that defines each name first."""
        self._more: dict[str, dict[str, list[tuple[int, int]]]] = {kind: {} for kind in web.layout.kinds}
        """And (block, row) of further definitions."""
        self._rows: dict[int, dict[str, int]] = {}
        same = frozenset[str]()
        if earlier is not None:
            same = self._same_kinds(earlier)
            self._first |= {kind: earlier._first[kind] for kind in same}
            self._more |= {kind: earlier._more[kind] for kind in same}
        for number, (_, block) in enumerate(self._blocks):
            if block.kind not in same:
                self._add(block, number)
        self._made: dict[str, list[Definition]] = {}
        self._stock_made: dict[str, tuple[str, ...]] = {}
        for file in web.files:
            for block in file.made:
                found = (block.definition(file.path, row) for row in range(len(block.names)))
                self._made.setdefault(block.kind, []).extend(one for one in found if one.name.strip("*"))

    def _same_kinds(self, earlier: Index) -> frozenset[str]:
        """The kinds of which an earlier index of the same map has the same names in the same blocks."""
        if earlier.layout is not self.layout or len(earlier._blocks) != len(self._blocks):
            return frozenset()
        differ = {
            kind
            for (_, one), (_, other) in zip(earlier._blocks, self._blocks, strict=True)
            if one is not other and (one.kind, one.names) != (other.kind, other.names)
            for kind in (one.kind, other.kind)
        }
        return frozenset(self.layout.kinds) - differ

    def _keys(self, block: Defined) -> Sequence[str]:
        kind = self.layout.kinds[block.kind]
        return block.names if kind.entry.case == "exact" else [kind.key(name) for name in block.names]

    def _add(self, block: Defined, number: int) -> None:
        first, keys = self._first[block.kind], self._keys(block)
        if len(keys) == 1 and keys[0] not in first:
            first[keys[0]] = number
            return
        fresh = dict.fromkeys(keys, number)
        if len(fresh) == len(keys) and first.keys().isdisjoint(fresh):
            if first:
                first.update(fresh)
            else:
                self._first[block.kind] = fresh
            return
        more = self._more[block.kind]
        for row, key in enumerate(keys):
            if key in first:
                more.setdefault(key, []).append((number, row))
            else:
                first[key] = number

    def _row(self, number: int, key: str) -> int:
        """Where in its block a name stands first. Most blocks are never asked."""
        if number not in self._rows:
            keys = self._keys(self._blocks[number][1])
            self._rows[number] = dict(zip(reversed(keys), range(len(keys) - 1, -1, -1), strict=True))
        return self._rows[number][key]

    def _places(self, kind: str, key: str) -> Iterator[tuple[int, int]]:
        """(block, row) of each definition."""
        if (number := self._first[kind].get(key)) is not None:
            yield number, self._row(number, key)
            yield from self._more[kind].get(key, ())

    def _definition(self, number: int, row: int) -> Definition:
        path, block = self._blocks[number]
        return block.definition(path, row)

    def known(self, kind: str) -> Mapping[str, int]:
        """The names of a kind that the map defines, as the game compares them."""
        return self._first[kind]

    def places(self, kind: str, name: str) -> Iterator[tuple[str, str]]:
        """(path, side) of each definition of a name."""
        key = self.layout.kinds[kind].key(name)
        number = self._first[kind].get(key)
        if number is not None:
            for one in (number, *(other for other, _ in self._more[kind].get(key, ()))):
                path, block = self._blocks[one]
                yield path, block.side

    def blocks_of(self, kind: str, names: Sequence[str]) -> set[int]:
        """The numbers of the blocks that define any of these names."""
        entry, more = self.layout.kinds[kind], self._more[kind]
        keys = names if entry.entry.case == "exact" else [entry.key(name) for name in names]
        found = set(map(self._first[kind].get, keys))
        found.discard(None)
        if more:
            found |= {number for key in more.keys() & keys for number, _ in more[key]}
        return {number for number in found if number is not None}

    def block(self, number: int) -> tuple[str, Defined]:
        """Its file, and what it defines there."""
        return self._blocks[number]

    def get(self, kind: str, name: str) -> list[Definition]:
        """The definitions of a name, as the game compares names of this kind."""
        key = self.layout.kinds[kind].key(name)
        return [self._definition(number, row) for number, row in self._places(kind, key)]

    def meant(self, reference: Reference) -> list[Definition]:
        """The definitions of what a reference looks up first, or else next."""
        for name in (reference.name, *reference.others):
            if definitions := self.get(reference.kind, name):
                return definitions
        return []

    def made_like(self, kind: str, name: str) -> list[Definition]:
        """The definitions whose names are made at run time and may turn out to be this one. `*` in it stands for what
        only the game knows as well. One of which nothing is known could be any name, and says nothing."""
        key = self.layout.kinds[kind].key
        return [one for one in self._made.get(kind, ()) if _may_be(key(one.name), key(name))]

    def stock_makes(self, kind: str, name: str) -> bool:
        """Whether the stock has a name that is made at run time and may turn out to be this one."""
        if kind not in self._stock_made:
            self._stock_made[kind] = tuple(made for made in self.stock.made(kind) if made.strip("*"))
        key = self.layout.kinds[kind].key
        return any(_may_be(key(one), key(name)) for one in self._stock_made[kind])

    def groups(self, kind: str) -> dict[str, list[Definition]]:
        """Every definition of a kind, by name: for kinds that a layout has rules about."""
        return {key: [self._definition(*one) for one in self._places(kind, key)] for key in self._first[kind]}

    def repeated(self, kind: str) -> dict[str, list[Definition]]:
        """The names that are defined more than once."""
        return {key: [self._definition(*one) for one in self._places(kind, key)] for key in self._more[kind]}

    def folded(self, kind: str, name: str) -> list[Definition]:
        """The definitions that differ from `name` in letter case, or in Unicode's normal form, at most."""
        loose = _loose(name)
        self._asked[kind] = self._asked.get(kind, 0) + 1
        if self._asked[kind] > _FEW:
            self._lines[kind] = None
        elif kind not in self._lines:
            whole = "\n".join(("", *self._first[kind], ""))
            self._lines[kind] = (whole, whole.casefold()) if whole.isascii() else None
        lines = self._lines[kind]
        if lines is not None:
            # Most maps lack a few names only: looking through one long text is quicker than folding every name.
            keys = _found_in(*lines, loose)
        else:
            if kind not in self._folded:
                folded = self._folded[kind] = {}
                for key in self._first[kind]:
                    folded.setdefault(_loose(key), []).append(key)
            keys = self._folded[kind].get(loose, [])
        return [one for key in keys for one in self.get(kind, key)]

    def other_endings(self, kind: str, path: str) -> list[Definition]:
        """The definitions that differ from a path in what stands behind the last dot, and hold things of its sort."""
        stem, ending = posixpath.splitext(path)
        sort = next((sort for sort in _SORTS if ending.lower() in sort), (ending.lower(),))
        found = self._stems.get((kind, _loose(stem)), [])
        return [d for d in found if d.name != path and posixpath.splitext(d.name)[1].lower() in sort]

    @cached_property
    def _stems(self) -> dict[tuple[str, str], list[Definition]]:
        stems: dict[tuple[str, str], list[Definition]] = {}
        for kind in self.layout.path_kinds:
            for key, number in self._first[kind].items():
                definition = self._definition(number, self._row(number, key))
                stems.setdefault((kind, _loose(posixpath.splitext(definition.name)[0])), []).append(definition)
        return stems

    def near(self, kind: str, name: str) -> tuple[str, ...]:
        """What may have been meant, the likeliest first: by spelling; for paths, the same file elsewhere, too."""
        if (kind, name) not in self._near:
            candidates = self._candidates(kind)
            self._compared += len(candidates)
            # With a stock list lacking, thousands of names are missing: guessing at each would take minutes.
            found = _near(name, candidates, self.layout.kinds[kind].entry.path) if self._compared < _MOST else ()
            self._near[kind, name] = tuple(other for other in found if self._can_be_meant(name, other, kind))
        return self._near[kind, name]

    def _can_be_meant(self, name: str, other: str, kind: str) -> bool:
        """Not a thing of another number, nor the same thing in another language: those are something else."""
        if _NUMBERS.sub("#", name) == _NUMBERS.sub("#", other) and _NUMBERS.findall(name) != _NUMBERS.findall(other):
            return False
        if not self.layout.kinds[kind].entry.path:
            return True
        for seat in self.layout.seats.values():
            one, two = seat.file.match(name), seat.file.match(other)
            if one is not None and two is not None and one.words.get("variant") != two.words.get("variant"):
                return False
        return True

    def _candidates(self, kind: str) -> list[str]:
        if kind not in self._all_names:
            names = list(self._names(kind))
            self._all_names[kind] = sorted(set(names)) if len(names) < _MANY else names
        return self._all_names[kind]

    def other_kinds(self, kind: str, name: str) -> tuple[str, ...]:
        """Labels of the other kinds that have a definition of that name."""
        return tuple(
            self.layout.kinds[other].label
            for other in self._first
            if other != kind and other not in self.layout.path_kinds and self.get(other, name)
        )

    @cached_property
    def variants(self) -> dict[str, tuple[str, ...]]:
        """For kinds that must be there once per variant, all the variants that this map has."""
        found: dict[str, tuple[str, ...]] = {}
        for name, kind in self.layout.kinds.items():
            if kind.entry.each:
                found[name] = tuple(sorted({block.variant for _, block in self._blocks if block.kind == name}))
        return found

    def in_every_variant(self, kind: str) -> frozenset[str]:
        """For kinds that must be there once per variant: the names that are, as the game compares them."""
        if kind not in self._whole:
            by_variant: dict[str, set[str]] = {variant: set() for variant in self.variants.get(kind, ())}
            for _, block in self._blocks:
                if block.kind == kind:
                    by_variant[block.variant].update(self._keys(block))
            sets = list(by_variant.values())
            self._whole[kind] = frozenset(sets[0].intersection(*sets[1:])) if sets else frozenset()
        return self._whole[kind]

    def owners(self, kind: str) -> frozenset[str]:
        """What the names of an owned kind belong to."""
        if kind not in self._owners:
            made = (one.name for one in self._made.get(kind, ()))
            self._owners[kind] = frozenset(name.rpartition(OWNS)[0] for name in chain(self._first[kind], made))
        return self._owners[kind]

    def made_of(self, kind: str) -> Mapping[str, Sequence[str]]:
        """By owner: what else it is made of, and has the names of; `kind` has a name `OWNER::OTHER` for each."""
        if kind not in self._made_of:
            found: dict[str, list[str]] = {}
            for name in self._first[kind]:
                owner, _, other = name.partition(OWNS)
                found.setdefault(owner, []).append(other)
            self._made_of[kind] = found
        return self._made_of[kind]

    def empty(self, kind: str) -> bool:
        """Whether nothing in the map or its stock is of a kind."""
        return not self._first[kind] and not self.stock.knows(kind)

    def matching(self, kind: str, pattern: str) -> list[str]:
        """Names of a kind that a pattern with `*` stands for, of map and stock."""
        entry = self.layout.kinds[kind].entry
        if "*" not in pattern and entry.case == "exact":
            # Of thousands of names that nobody knows each would be compared with all.
            there = pattern in self._first[kind] or pattern in entry.vocabulary
            return [pattern] if there or self.stock.sides(kind, pattern) else []
        wanted = _pattern(pattern)
        return sorted({name for name in self._names(kind) if wanted.match(name)})

    def fitting(self, kind: str, pattern: str) -> tuple[str, ...]:
        """Names of a kind that the map defines and a pattern with `*` stands for; none where nothing of it is known."""
        if not pattern.strip("*/"):
            return ()
        if (kind, pattern) not in self._fitting:
            wanted = _pattern(pattern)
            self._fitting[kind, pattern] = tuple(name for name in self._first[kind] if wanted.match(name))
        return self._fitting[kind, pattern]

    def _names(self, kind: str) -> Iterator[str]:
        """As they are written, in the order in which they are read; some of them more than once."""
        entry = self.layout.kinds[kind].entry
        blocks = (block.names for _, block in self._blocks if block.kind == kind)
        written = self._first[kind] if entry.case == "exact" else chain.from_iterable(blocks)
        return chain(written, self.stock.names(kind), entry.vocabulary)

    def names(self, kind: str) -> list[str]:
        """Every name of a kind, of map and stock."""
        return sorted(set(self._names(kind)))

    @cached_property
    def unknowable(self) -> frozenset[str]:
        """Kinds that no rule of the layout defines and no stock list names: nothing can be said about them."""
        defined = {define.kind for read in self.layout.reads for define in read.defines}
        known = defined | {name for name, kind in self.layout.kinds.items() if kind.entry.vocabulary}
        return frozenset(k for k in self.layout.kinds if k not in known and not self.stock.knows(k))


def _may_be(pattern: str, name: str) -> bool:
    """Whether a pattern can stand for a name, or two patterns for the same."""
    if "*" not in name:
        return fits(pattern, name)
    (one, _, _), (other, _, _) = pattern.partition("*"), name.partition("*")
    heads = one.startswith(other) or other.startswith(one)
    one, other = pattern.rpartition("*")[2], name.rpartition("*")[2]
    return heads and (one.endswith(other) or other.endswith(one))


def fits(pattern: str, name: str) -> bool:
    """Whether a pattern with `*` can stand for a name."""
    return _pattern(pattern).match(name) is not None


def _loose(name: str) -> str:
    """What names have in common that look alike: some systems write ö as one character, others as two."""
    return (name if name.isascii() else unicodedata.normalize("NFC", name)).casefold()


def _found_in(whole: str, folded: str, loose: str) -> list[str]:
    """The lines of a text that are the same as `loose` once they are folded, in which no character changes place."""
    found: list[str] = []
    wanted = f"\n{loose}\n"
    at = folded.find(wanted)
    while at >= 0:
        found.append(whole[at + 1 : at + 1 + len(loose)])
        at = folded.find(wanted, at + 1)
    return found


@functools.lru_cache(maxsize=4096)
def _pattern(pattern: str) -> re.Pattern[str]:
    return re.compile(fnmatch.translate(pattern.replace("[", "[[]").replace("?", "[?]")))


_FEW = 16
_MOST = 10_000_000
"""Names compared in all, which takes a second or two."""
_MANY = 20_000
"""Names that are not put in order before they are compared."""
_NUMBERS = re.compile(r"\d+")
_NEAR = 3
_ALIKE = 75.0
_SAME_FILE = 90.0


def _near(name: str, names: list[str], path: bool) -> tuple[str, ...]:
    from rapidfuzz import fuzz, process

    if path:
        ending = name.rpartition(".")[2]
        names = [other for other in names if other.endswith(ending)]
    ranked = {
        found[0]: found[1]
        for found in process.extract(name, names, scorer=fuzz.ratio, score_cutoff=_ALIKE, limit=_NEAR)
    }
    if path:
        # In a long path the folders alone make two files alike that have nothing to do with each other.
        stem = _stem(name)
        ranked = {other: score for other, score in ranked.items() if fuzz.ratio(stem, _stem(other)) >= _ALIKE}
        last = "/" + posixpath.basename(name).casefold()
        same = [other for other in names if f"/{other}".casefold().endswith(last)]
        ranked |= {other: max(_SAME_FILE, ranked.get(other, 0.0)) for other in same[:_NEAR]}
    best = sorted(ranked.items(), key=lambda one: (-one[1], one[0]))[:_NEAR]
    # What is much less alike than the best is no help beside it.
    return tuple(other for other, score in best if score >= best[0][1] - 2)


def _stem(path: str) -> str:
    return posixpath.splitext(posixpath.basename(path))[0].casefold()
