"""What a layout at hand sees in a map already: the names of its kinds, and where its rules look."""

from __future__ import annotations

import bisect
import re
from collections.abc import Collection, Iterator, Mapping
from functools import cached_property

from msgspec import Struct

from hookset.config.layouts import Layout
from hookset.learning.filed import FileWriting
from hookset.learning.material import ENCODINGS, Sort
from hookset.learning.place import Place
from hookset.learning.said import Said
from hookset.learning.vocabulary import Vocabulary
from hookset.model import CouldNotError, Where
from hookset.project import Stock
from hookset.symbols import analyse
from hookset.trees import Tree, decode

__all__ = ["Known", "known_by"]

_SEEN = 0.8
"""Of the texts at a place: where the layout sees so many, it knows the place."""
_LEAST = 2
_MEANT = 0.95
"""Of the files that a place names: how many must be of a kind for it to name that kind."""
_OPEN = re.compile(r"\*+")


class Known(Struct, frozen=True, dict=True):
    """A layout at hand, on one map."""

    layout: Layout
    source: str
    """The layout as it is written."""
    names: Mapping[str, tuple[str, ...]]
    """By kind: those of the map, of its stock, and those that the layout itself lists."""
    exact: Mapping[tuple[str, Where], frozenset[str]]
    """What its rules see, by file and place."""
    starts: Mapping[str, tuple[int, ...]]
    """By file: where its lines end, for files in which places are offsets."""

    @cached_property
    def near(self) -> Mapping[tuple[str, int], frozenset[str]]:
        """What its rules see, by file and line: two ways of reading a line may differ in where a text begins."""
        found: dict[tuple[str, int], frozenset[str]] = {}
        for (path, where), texts in self.exact.items():
            if isinstance(where, int) and path in self.starts:
                line = path, bisect.bisect_left(self.starts[path], where)
                found[line] = found.get(line, frozenset()) | texts
        return found

    def sees(self, place: Place) -> bool:
        """Whether its rules look at a place."""
        said = place.said
        meant = [one for one in zip(said.texts, said.paths, said.wheres, strict=True) if any(map(str.isalnum, one[0]))]
        return bool(meant) and sum(self._seen(*one) for one in meant) >= _SEEN * len(meant)

    def _seen(self, text: str, path: str, where: Where) -> bool:
        there = self.exact.get((path, where), frozenset())
        if not there and isinstance(where, int) and path in self.starts:
            there = self.near.get((path, bisect.bisect_left(self.starts[path], where)), frozenset())
        return any(_alike(text, one) for one in there)

    @cached_property
    def vocabularies(self) -> tuple[Vocabulary, ...]:
        """Its kinds as what places may refer to."""
        nowhere = Sort("any", {}, {})
        found = []
        for kind, names in self.names.items():
            if len(names) < _LEAST or self.layout.kinds[kind].entry.path:
                continue
            said = Said()
            said.extend("", list(names), range(len(names)))
            place = Place(nowhere, {}, "name", kind, self.layout.kinds[kind].label, said)
            found.append(Vocabulary(place, dict.fromkeys(names, 1), kind=kind))
        return tuple(found)

    def kind_of_files(self, paths: Collection[str], writing: FileWriting) -> str:
        """The kind that files named so are of, the narrowest that has most of them; empty where there is none."""
        wanted = {*paths}
        fitting = []
        for name, kind in self.layout.kinds.items():
            entry = kind.entry
            spelt = (entry.separators == "either" or writing.separators != "either") and not entry.top
            if entry.path and spelt and (entry.case == "folded") == writing.folded:
                known = {*self.names.get(name, ())}
                if wanted and len(wanted & known) >= _MEANT * len(wanted):
                    fitting.append((len(known), name))
        return min(fitting, default=(0, ""))[1]


def known_by(tree: Tree, layout: Layout, stock: Stock, source: str) -> Known:
    """What a layout, whose file has the text `source`, sees in a map."""
    analysis = analyse(tree, layout, stock)
    exact: dict[tuple[str, Where], frozenset[str]] = {}
    for file in analysis.web.files:
        for block in (*file.defined, *file.made):
            for row, name in enumerate(block.names):
                _add(exact, file.path, block.where(row), name)
        for referred in file.referred:
            for row, name in enumerate(referred.written or referred.names):
                _add(exact, file.path, referred.where(row), name)
    names = {}
    for kind, entry in layout.kinds.items():
        if not entry.entry.owned:
            listed = (*entry.entry.vocabulary, *entry.entry.pool)
            names[kind] = tuple(dict.fromkeys((*analysis.index.known(kind), *stock.names(kind), *listed)))
    offsets = {path for path, where in exact if isinstance(where, int)}
    return Known(layout, source, names, exact, dict(_starts(tree, offsets)))


def _add(exact: dict[tuple[str, Where], frozenset[str]], path: str, where: Where, text: str) -> None:
    exact[path, where] = exact.get((path, where), frozenset()) | {text}


def _starts(tree: Tree, paths: Collection[str]) -> Iterator[tuple[str, tuple[int, ...]]]:
    for path in sorted(paths):
        try:
            text = decode(tree.read(path), ENCODINGS)
        except CouldNotError:
            continue
        yield path, tuple(one.start() for one in re.finditer("\n", text.string))


def _alike(text: str, seen: str) -> bool:
    """Whether a text is what a rule saw, or a part of it, or it is a part of the text."""
    mine = text.replace("\\", "/").lower()
    theirs = max(_OPEN.split(seen.replace("\\", "/").lower()), key=len)
    return bool(mine and theirs) and (mine in theirs or theirs in mine)
