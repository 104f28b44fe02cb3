"""Every definition of a web by kind and name."""

from __future__ import annotations

import fnmatch
import re
import unicodedata
from functools import cached_property

from hookset.core.model import Definition, Reference
from hookset.core.web.collect import Web

__all__ = ["Index"]


class Index:
    """Look-ups over a web's definitions. Made once per web, changed by nobody."""

    def __init__(self, web: Web) -> None:
        self.layout = web.layout
        self.stock = web.stock
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

    @cached_property
    def variants(self) -> dict[str, tuple[str, ...]]:
        """For kinds that must be there once per variant, all the variants that this map has."""
        found: dict[str, tuple[str, ...]] = {}
        for kind, names in self._by_kind.items():
            if self.layout.kinds[kind].entry.each:
                found[kind] = tuple(sorted({d.variant for ds in names.values() for d in ds}))
        return found

    def matching(self, kind: str, pattern: str) -> list[str]:
        """Names of a kind that a pattern with `*` stands for, of map and stock."""
        wanted = re.compile(fnmatch.translate(pattern.replace("[", "[[]").replace("?", "[?]")))
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
