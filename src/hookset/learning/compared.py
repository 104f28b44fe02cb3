"""Learned rules on another map of the same game: what holds in both, and what in one only."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct

from hookset.config.layouts import Layout
from hookset.learning.guess import Guess
from hookset.learning.known import known_by
from hookset.learning.learned import Learned, learned
from hookset.project import Stock
from hookset.symbols import Analysis, analyse
from hookset.trees import Tree

__all__ = ["Beside", "Held", "beside"]

_HOLDS = 0.5
"""Of what a rule sees in the other map: how much must be there for it to hold."""


class Held(Struct, frozen=True):
    """What a rule sees in the other map."""

    texts: int
    met: int

    @property
    def holds(self) -> bool:
        """Whether it is a rule there, too."""
        return self.texts > 0 and self.met >= _HOLDS * self.texts


class Beside(Struct, frozen=True):
    """Another map of the same game."""

    name: str
    held: Mapping[Guess, Held]
    """Rule by rule."""
    further: Learned
    """The rules that were learned there beside them."""


def beside(found: Learned, layout: Layout, stock: Stock, tree: Tree, name: str, further: Sequence[Tree]) -> Beside:
    """Look at another map with `layout`, which is that of the learned rules, and learn what it has beyond them."""
    analysis = analyse(tree, layout, stock)
    held = dict(zip(found.in_order, _held(analysis)[-len(found.in_order) :], strict=True)) if found.guesses else {}
    return Beside(name, held, learned(tree, name, further, known_by(tree, layout, stock, found.text)))


def _held(analysis: Analysis) -> list[Held]:
    """What each rule of the layout sees, in the order in which they stand in it."""
    missing = {(one.reference.path, one.reference.where) for one in analysis.resolutions.missing}
    texts: Counter[tuple[int, int]] = Counter()
    met: Counter[tuple[int, int]] = Counter()
    for rule, path, where in _seen(analysis):
        texts[rule] += 1
        met[rule] += (path, where) not in missing
    reads = analysis.web.layout.reads
    rules = [(number, part) for number, read in enumerate(reads, 1) for part in range(len(read.refers))]
    return [Held(texts[rule], met[rule]) for rule in rules]


def _seen(analysis: Analysis) -> Iterator[tuple[tuple[int, int], str, object]]:
    """Each reference: its rule, its file, its place."""
    for file in analysis.web.files:
        blocks = iter(file.referred)
        for number, _, referred in file.by_rule:
            for part, count in enumerate(referred):
                if count:
                    block = next(blocks)
                    yield from (((number, part), file.path, block.where(row)) for row in range(len(block.names)))
