"""A map analysed: what its files say, what is loaded, and what became of every reference. Each part is worked out when
it is first asked for, and once."""

from __future__ import annotations

from functools import cached_property

from msgspec import Struct

from hookset.config.layouts import Layout
from hookset.project import Stock
from hookset.symbols.cache import FactsCache
from hookset.symbols.collect import Web, collect
from hookset.symbols.index import Index
from hookset.symbols.kept_settled import kept_settled
from hookset.symbols.reach import Reach, Reached, reach_of
from hookset.symbols.resolve import Resolutions, resolve_all, settled_by
from hookset.symbols.settled import Settled
from hookset.trees import Tree

__all__ = ["Analysis", "analyse"]


class Analysis(Struct, frozen=True, dict=True):
    """The names of one tree by one layout and stock."""

    web: Web
    earlier: Index | None = None
    """The definitions of the same map before a change."""
    before: Settled | None = None
    """What became of its references before a change."""
    last: Resolutions | None = None
    """Its references before a change, one by one as far as something was told of them."""

    @cached_property
    def index(self) -> Index:
        """The definitions by name."""
        return Index(self.web, self.earlier, self.before)

    @cached_property
    def reach(self) -> Reach:
        """What the game loads."""
        return reach_of(
            self.web, self.index, Reached(self.last.web, self.last.reach) if self.last is not None else None
        )

    @cached_property
    def resolutions(self) -> Resolutions:
        """What became of every reference."""
        return resolve_all(self.web, self.index, self.reach, self.last)

    @property
    def judged(self) -> bool:
        """Whether anybody has asked what became of the references."""
        return "resolutions" in self.__dict__

    @cached_property
    def settled(self) -> Settled:
        """What can be kept of it for the next time. Asked for last: what was looked up by then is kept, too."""
        return settled_by(self.resolutions)


def analyse(
    tree: Tree, layout: Layout, stock: Stock, cache: FactsCache | None = None, last: Analysis | None = None
) -> Analysis:
    """Read a tree. Of a map that was read `last` and that the tree lies over, only what differs is read."""
    web = collect(tree, layout, stock, cache, last.web if last is not None else None)
    if last is not None:
        alike = last.web.layout is layout and last.web.stock is stock and last.web.words == web.words
        if alike and last.judged:
            return Analysis(web, last.index, last.settled, last.resolutions)
        return Analysis(web, last.index)
    return Analysis(web, None, kept_settled(web, cache) if cache is not None else None)
