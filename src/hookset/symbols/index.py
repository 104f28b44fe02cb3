"""Every definition of a web by kind and name."""

from __future__ import annotations

import fnmatch
import functools
import posixpath
import re
from collections.abc import Collection, Iterator, Mapping, Sequence
from functools import cached_property
from itertools import chain

from hookset.model import Definition, Reference
from hookset.symbols.alike import lines_alike, loosely, nearest
from hookset.symbols.blocks import blocks_of_kinds, say_the_same, touched_kinds
from hookset.symbols.collect import Web
from hookset.symbols.facts import Defined
from hookset.symbols.many_names import Names
from hookset.symbols.settled import Guessed, Settled, digests_of_kinds
from hookset.symbols.table import KindTable

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

    def __init__(self, web: Web, earlier: Index | None = None, settled: Settled | None = None) -> None:
        """`earlier` is that of the same map before a change, and `settled` what became of its references then: what
        these know of kinds that define the same is taken over."""
        self._web = web
        self.layout = web.layout
        self.settled = settled
        self.stock = web.stock
        self._near: dict[str, dict[str, tuple[str, ...]]] = {}
        self._all_names: dict[str, list[str]] = {}
        self._folded: dict[str, dict[str, list[str]]] = {}
        self._compared = 0
        self._asked: dict[str, int] = {}
        self._whole: dict[str, frozenset[str]] = {}
        self._fitting: dict[tuple[str, str], tuple[str, ...]] = {}
        self._lines: dict[str, tuple[str, str] | None] = {}
        self._owners: dict[str, frozenset[str]] = {}
        self._made_of: dict[str, Mapping[str, Sequence[str]]] = {}
        touched = touched_kinds(web, earlier._web) if earlier is not None else None
        self._blocks, self._made_blocks = blocks_of_kinds(web, web.layout.kinds if touched is None else touched)
        if earlier is not None and touched is not None:
            self._blocks = {**earlier._blocks, **self._blocks}
            self._made_blocks = {**earlier._made_blocks, **self._made_blocks}
        self.as_earlier = self._as_earlier(earlier) if earlier is not None else frozenset[str]()
        """The kinds whose names are defined as they were before a change."""
        known: Mapping[str, bytes] = earlier.__dict__.get("digests", {}) if earlier is not None else {}
        self._digests_before = {kind: digest for kind, digest in known.items() if kind in self.as_earlier}
        self._tables = {kind: self._table(kind, earlier) for kind in web.layout.kinds}
        self._made: dict[str, list[Definition]] = {}
        self._stock_made: dict[str, tuple[str, ...]] = {}
        for kind, path, block in ((kind, *one) for kind, blocks in self._made_blocks.items() for one in blocks):
            found = (block.definition(path, row) for row in range(len(block.names)))
            self._made.setdefault(kind, []).extend(one for one in found if one.name.strip("*"))

    def _as_earlier(self, earlier: Index) -> frozenset[str]:
        if earlier.layout is not self.layout:
            return frozenset()
        return frozenset(
            kind
            for kind in self._blocks
            if say_the_same(self._blocks[kind], earlier._blocks[kind])
            and say_the_same(self._made_blocks[kind], earlier._made_blocks[kind])
        )

    def _table(self, kind: str, earlier: Index | None) -> KindTable:
        if earlier is not None and self._blocks[kind] is earlier._blocks[kind]:
            return earlier._tables[kind]
        names = [block.names for _, block in self._blocks[kind]]
        if earlier is not None and earlier.layout is self.layout and earlier._tables[kind].blocks == names:
            return earlier._tables[kind]
        return KindTable(self.layout.kinds[kind], names)

    def _definitions(self, kind: str, key: str) -> list[Definition]:
        blocks = self._blocks[kind]
        return [blocks[number][1].definition(blocks[number][0], row) for number, row in self._tables[kind].places(key)]

    def known(self, kind: str) -> Mapping[str, int]:
        """The names of a kind that the map defines, as the game compares them; for each the number of the block that
        does so first."""
        return self._tables[kind].first

    def unknown(self, kind: str, keys: Names | Sequence[str]) -> list[int]:
        """The rows of names, as the game compares them, that the map does not define."""
        return self._tables[kind].unknown(keys)

    def places(self, kind: str, name: str) -> Iterator[tuple[str, str]]:
        """(path, side) of each definition of a name."""
        for number, _ in self._tables[kind].places(self.layout.kinds[kind].key(name)):
            path, block = self._blocks[kind][number]
            yield path, block.side

    def blocks_of(self, kind: str, names: Names) -> set[int]:
        """The numbers of the blocks that define any of these names."""
        entry, table = self.layout.kinds[kind], self._tables[kind]
        keys = names if entry.entry.case == "exact" else [entry.key(name) for name in names]
        found = set(map(table.first.get, keys))
        found.discard(None)
        if table.more:
            found |= {number for key in table.more.keys() & set(keys) for number, _ in table.more[key]}
        return {number for number in found if number is not None}

    def block(self, kind: str, number: int) -> tuple[str, Defined]:
        """Its file, and what it defines there."""
        return self._blocks[kind][number]

    def get(self, kind: str, name: str) -> list[Definition]:
        """The definitions of a name, as the game compares names of this kind."""
        return self._definitions(kind, self.layout.kinds[kind].key(name))

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
        return {key: self._definitions(kind, key) for key in self._tables[kind].first}

    def repeated(self, kind: str) -> dict[str, list[Definition]]:
        """The names that are defined more than once."""
        return {key: self._definitions(kind, key) for key in self._repeated(kind)}

    def _repeated(self, kind: str) -> Collection[str]:
        if self.settled is not None and self.same(kind) and kind in self.settled.repeated:
            return self.settled.repeated[kind]
        return self._tables[kind].more

    @cached_property
    def digests(self) -> Mapping[str, bytes]:
        """For each kind, one of all that defines names of it."""
        known = self._digests_before
        return known | digests_of_kinds(self._web, self.layout.kinds.keys() - known.keys())

    def same(self, kind: str) -> bool:
        """Whether names of a kind are defined as they were when references were settled."""
        return self.settled is not None and self.settled.kinds.get(kind) == self.digests[kind]

    @property
    def names_repeated(self) -> dict[str, tuple[str, ...]]:
        """For the kinds of which it is known: the names that are defined more than once."""
        known = (kind for kind, table in self._tables.items() if table.made or self.same(kind))
        return {kind: tuple(self._repeated(kind)) for kind in known}

    @property
    def guessed(self) -> dict[str, Guessed]:
        """What may have been meant by the names that were asked for, by kind."""
        return {kind: Guessed(self._size(kind), dict(found)) for kind, found in self._near.items() if found}

    def folded(self, kind: str, name: str) -> list[Definition]:
        """The definitions that differ from `name` in letter case, or in Unicode's normal form, at most."""
        loose = loosely(name)
        self._asked[kind] = self._asked.get(kind, 0) + 1
        if self._asked[kind] > _FEW:
            self._lines[kind] = None
        elif kind not in self._lines:
            whole = self._tables[kind].lines
            self._lines[kind] = (whole, whole.casefold()) if whole is not None and whole.isascii() else None
        lines = self._lines[kind]
        if lines is not None:
            # Most maps lack a few names only: looking through one long text is quicker than folding every name.
            keys = list(dict.fromkeys(map(self.layout.kinds[kind].key, lines_alike(*lines, loose))))
        else:
            if kind not in self._folded:
                folded = self._folded[kind] = {}
                for key in self._tables[kind].first:
                    folded.setdefault(loosely(key), []).append(key)
            keys = self._folded[kind].get(loose, [])
        return [one for key in keys for one in self.get(kind, key)]

    def other_endings(self, kind: str, path: str) -> list[Definition]:
        """The definitions that differ from a path in what stands behind the last dot, and hold things of its sort."""
        stem, ending = posixpath.splitext(path)
        sort = next((sort for sort in _SORTS if ending.lower() in sort), (ending.lower(),))
        found = self._stems.get((kind, loosely(stem)), [])
        return [d for d in found if d.name != path and posixpath.splitext(d.name)[1].lower() in sort]

    @cached_property
    def _stems(self) -> dict[tuple[str, str], list[Definition]]:
        stems: dict[tuple[str, str], list[Definition]] = {}
        for kind in self.layout.path_kinds:
            for key in self._tables[kind].first:
                definition = self._definitions(kind, key)[0]
                stems.setdefault((kind, loosely(posixpath.splitext(definition.name)[0])), []).append(definition)
        return stems

    def near(self, kind: str, name: str) -> tuple[str, ...]:
        """What may have been meant, the likeliest first: by spelling; for paths, the same file elsewhere, too."""
        asked = self._near.setdefault(kind, {})
        if name not in asked:
            self._compared += self._size(kind)
            # With a stock list lacking, thousands of names are missing: guessing at each would take minutes.
            if self._compared >= _MOST:
                return ()
            before = self._guessed_before(kind)
            known = before.found.get(name) if before is not None else None
            asked[name] = self._nearest(kind, name) if known is None else known
        return asked[name]

    def _guessed_before(self, kind: str) -> Guessed | None:
        """What was known of a kind that defines what it did."""
        return self.settled.guessed.get(kind) if self.settled is not None and self.same(kind) else None

    def _size(self, kind: str) -> int:
        """With how many names one is compared that is missing."""
        before = self._guessed_before(kind)
        return before.compared if before is not None else len(self._candidates(kind))

    def _nearest(self, kind: str, name: str) -> tuple[str, ...]:
        found = nearest(name, self._candidates(kind), self.layout.kinds[kind].entry.path)
        return tuple(other for other in found if self._can_be_meant(name, other, kind))

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
            for other in self._tables
            if other != kind and other not in self.layout.path_kinds and self.get(other, name)
        )

    @cached_property
    def variants(self) -> dict[str, tuple[str, ...]]:
        """For kinds that must be there once per variant, all the variants that this map has."""
        found: dict[str, tuple[str, ...]] = {}
        for name, kind in self.layout.kinds.items():
            if kind.entry.each:
                found[name] = tuple(sorted({block.variant for _, block in self._blocks[name]}))
        return found

    def in_every_variant(self, kind: str) -> frozenset[str]:
        """For kinds that must be there once per variant: the names that are, as the game compares them."""
        if kind not in self._whole:
            by_variant: dict[str, set[str]] = {variant: set() for variant in self.variants.get(kind, ())}
            key = self.layout.kinds[kind].key
            for _, block in self._blocks[kind]:
                by_variant[block.variant].update(map(key, block.names))
            sets = list(by_variant.values())
            self._whole[kind] = frozenset(sets[0].intersection(*sets[1:])) if sets else frozenset()
        return self._whole[kind]

    def owners(self, kind: str) -> frozenset[str]:
        """What the names of an owned kind belong to."""
        if kind not in self._owners:
            made = (one.name for one in self._made.get(kind, ()))
            self._owners[kind] = frozenset(name.rpartition(OWNS)[0] for name in chain(self._tables[kind].first, made))
        return self._owners[kind]

    def made_of(self, kind: str) -> Mapping[str, Sequence[str]]:
        """By owner: what else it is made of, and has the names of; `kind` has a name `OWNER::OTHER` for each."""
        if kind not in self._made_of:
            found: dict[str, list[str]] = {}
            for name in self._tables[kind].first:
                owner, _, other = name.partition(OWNS)
                found.setdefault(owner, []).append(other)
            self._made_of[kind] = found
        return self._made_of[kind]

    def empty(self, kind: str) -> bool:
        """Whether nothing in the map or its stock is of a kind."""
        return not self._tables[kind] and not self.stock.knows(kind)

    def matching(self, kind: str, pattern: str) -> list[str]:
        """Names of a kind that a pattern with `*` stands for, of map and stock."""
        entry = self.layout.kinds[kind].entry
        if "*" not in pattern and entry.case == "exact":
            # Of thousands of names that nobody knows each would be compared with all.
            there = not self.unknown(kind, (pattern,)) or pattern in entry.vocabulary
            return [pattern] if there or self.stock.sides(kind, pattern) else []
        wanted = _pattern(pattern)
        return sorted({name for name in self._names(kind) if wanted.match(name)})

    def fitting(self, kind: str, pattern: str) -> tuple[str, ...]:
        """Names of a kind that the map defines and a pattern with `*` stands for; none where nothing of it is known."""
        if not pattern.strip("*/"):
            return ()
        if (kind, pattern) not in self._fitting:
            wanted = _pattern(pattern)
            self._fitting[kind, pattern] = tuple(name for name in self._tables[kind].first if wanted.match(name))
        return self._fitting[kind, pattern]

    def _names(self, kind: str) -> Iterator[str]:
        """As they are written, in the order in which they are read; some of them more than once."""
        entry = self.layout.kinds[kind].entry
        blocks = (block.names for _, block in self._blocks[kind])
        written = self._tables[kind].first if entry.case == "exact" else chain.from_iterable(blocks)
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


@functools.lru_cache(maxsize=4096)
def _pattern(pattern: str) -> re.Pattern[str]:
    return re.compile(fnmatch.translate(pattern.replace("[", "[[]").replace("?", "[?]")))


_FEW = 16
_MOST = 10_000_000
"""Names compared in all, which takes a second or two."""
_MANY = 20_000
"""Names that are not put in order before they are compared."""
_NUMBERS = re.compile(r"\d+")
