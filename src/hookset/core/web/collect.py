"""Reading a tree by a layout's rules: what each of its files says."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from hookset.core.layouts import Layout, map_words
from hookset.core.project import Stock
from hookset.core.trees import Overlay, Tree
from hookset.core.web.cache import FactsCache
from hookset.core.web.facts import FileFacts
from hookset.core.web.workers import read_files

__all__ = ["Web", "collect"]


@dataclass(frozen=True)
class Web:
    """The whole map's names, not yet resolved."""

    tree: Tree
    layout: Layout
    stock: Stock
    files: tuple[FileFacts, ...]
    words: Mapping[str, str]
    """What the map says of itself."""


def collect(tree: Tree, layout: Layout, stock: Stock, cache: FactsCache | None = None) -> Web:
    """Read every file of the tree, but for those whose bytes are as they were when the cache was written."""
    words = map_words(tree, layout)
    facts = cache.kept(tree, layout, words) if cache is not None else {}
    fresh = read_files(tree, [path for path in tree.paths() if path not in facts], layout, words)
    facts |= {one.facts.path: one.facts for one in fresh}
    if cache is not None and fresh and not isinstance(tree, Overlay):
        # What a plan would make of files is nothing to remember.
        cache.keep(tree, layout, words, fresh)
    return Web(tree, layout, stock, tuple(facts[path] for path in tree.paths()), words)
