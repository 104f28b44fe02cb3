"""Every definition of a web by kind and name."""

from __future__ import annotations

import fnmatch
import functools
import posixpath
import re
import unicodedata
from functools import cached_property

from hookset.core.model import Definition, Reference
from hookset.core.web.collect import Web

__all__ = ["Index"]

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

    def __init__(self, web: Web) -> None:
        self.layout = web.layout
        self.stock = web.stock
        self._near: dict[tuple[str, str], tuple[str, ...]] = {}
        self._all_names: dict[str, list[str]] = {}
        self._by_kind: dict[str, dict[str, list[Definition]]] = {kind: {} for kind in web.layout.kinds}
        for file in web.files:
            for definition in file.definitions:
                key = self.layout.kinds[definition.kind].key(definition.name)
                self._by_kind[definition.kind].setdefault(key, []).append(definition)

    def get(self, kind: str, name: str) -> list[Definition]:
        """The definitions of a name, as the game compares names of this kind."""
        return self._by_kind[kind].get(self.layout.kinds[kind].key(name), [])

    def meant(self, reference: Reference) -> list[Definition]:
        """The definitions of what a reference looks up first, or else next."""
        for name in (reference.name, *reference.others):
            if definitions := self.get(reference.kind, name):
                return definitions
        return []

    def groups(self, kind: str) -> dict[str, list[Definition]]:
        return self._by_kind[kind]

    def folded(self, kind: str, name: str) -> list[Definition]:
        """The definitions that differ from `name` in letter case, or in Unicode's normal form, at most."""
        return self._folded.get((kind, _loose(name)), [])

    @cached_property
    def _folded(self) -> dict[tuple[str, str], list[Definition]]:
        folded: dict[tuple[str, str], list[Definition]] = {}
        for kind, names in self._by_kind.items():
            for name, definitions in names.items():
                folded.setdefault((kind, _loose(name)), []).extend(definitions)
        return folded

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
            for definitions in self._by_kind[kind].values():
                stem = _loose(posixpath.splitext(definitions[0].name)[0])
                stems.setdefault((kind, stem), []).append(definitions[0])
        return stems

    def near(self, kind: str, name: str) -> tuple[str, ...]:
        """What may have been meant, the likeliest first: by spelling; for paths, the same file elsewhere, too."""
        if (kind, name) not in self._near:
            self._near[kind, name] = _near(name, self._candidates(kind), self.layout.kinds[kind].entry.path)
        return self._near[kind, name]

    def _candidates(self, kind: str) -> list[str]:
        if kind not in self._all_names:
            self._all_names[kind] = self.names(kind)
        return self._all_names[kind]

    def other_kinds(self, kind: str, name: str) -> tuple[str, ...]:
        """Labels of the other kinds that have a definition of that name."""
        return tuple(
            self.layout.kinds[other].label
            for other in self._by_kind
            if other != kind and other not in self.layout.path_kinds and self.get(other, name)
        )

    @cached_property
    def variants(self) -> dict[str, tuple[str, ...]]:
        """For kinds that must be there once per variant, all the variants that this map has."""
        found: dict[str, tuple[str, ...]] = {}
        for kind, names in self._by_kind.items():
            if self.layout.kinds[kind].entry.each:
                found[kind] = tuple(sorted({d.variant for ds in names.values() for d in ds}))
        return found

    def fits(self, pattern: str, name: str) -> bool:
        """Whether a pattern with `*` can stand for a name."""
        return _pattern(pattern).match(name) is not None

    def matching(self, kind: str, pattern: str) -> list[str]:
        """Names of a kind that a pattern with `*` stands for, of map and stock."""
        wanted = _pattern(pattern)
        names = {d.name for ds in self._by_kind[kind].values() for d in ds}
        names.update(self.stock.names(kind), self.layout.kinds[kind].entry.vocabulary)
        return sorted(name for name in names if wanted.match(name))

    def names(self, kind: str) -> list[str]:
        """Every name of a kind, of map and stock."""
        mine = {d.name for ds in self._by_kind[kind].values() for d in ds}
        return sorted(mine.union(self.stock.names(kind), self.layout.kinds[kind].entry.vocabulary))

    @cached_property
    def unknowable(self) -> frozenset[str]:
        """Kinds that no rule of the layout defines and no stock list names: nothing can be said about them."""
        defined = {define.kind for read in self.layout.reads for define in read.defines}
        known = defined | {name for name, kind in self.layout.kinds.items() if kind.entry.vocabulary}
        return frozenset(k for k in self.layout.kinds if k not in known and not self.stock.knows(k))


def _loose(name: str) -> str:
    """What names have in common that look alike: some systems write ö as one character, others as two."""
    return (name if name.isascii() else unicodedata.normalize("NFC", name)).casefold()


@functools.lru_cache(maxsize=4096)
def _pattern(pattern: str) -> re.Pattern[str]:
    return re.compile(fnmatch.translate(pattern.replace("[", "[[]").replace("?", "[?]")))


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
        last = "/" + posixpath.basename(name).casefold()
        same = [other for other in names if f"/{other}".casefold().endswith(last)]
        ranked |= {other: max(_SAME_FILE, ranked.get(other, 0.0)) for other in same[:_NEAR]}
    best = sorted(ranked.items(), key=lambda one: (-one[1], one[0]))[:_NEAR]
    # What is much less alike than the best is no help beside it.
    return tuple(other for other, score in best if score >= best[0][1] - 2)
