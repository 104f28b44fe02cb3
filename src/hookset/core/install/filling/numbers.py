"""The next number that is free, in the map as it is planned so far."""

from __future__ import annotations

import re

from hookset.core.layouts import Layout, map_words
from hookset.core.project import Stock
from hookset.core.trees import Tree
from hookset.core.web.numbers import ids_among, whole_number
from hookset.core.web.reading import read_file

__all__ = ["names_of", "next_id", "next_suffix"]


def names_of(kind: str, layout: Layout, tree: Tree, stock: Stock) -> set[str]:
    """The names of a kind that map and stock have. Only the files that can define any are read."""
    rules = [rule for rule in layout.reads if any(define.kind == kind for define in rule.defines)]
    words = map_words(tree, layout)
    found = set(stock.names(kind)) | set(layout.kinds[kind].entry.vocabulary)
    for path in tree.paths():
        if any(rule.match(path) is not None for rule in rules):
            facts = read_file(tree, path, layout, words)
            found.update(name for block in facts.defined if block.kind == kind for name in block.names)
    return found


def next_id(
    kind: str, layout: Layout, tree: Tree, stock: Stock, given: frozenset[str] = frozenset()
) -> tuple[str | None, str]:
    """(the id, where it came from or why there is none). `given` are names that no file holds yet."""
    entry = layout.kinds[kind].entry.numbers
    if entry is None:
        return None, f"the layout does not say of {layout.kinds[kind].label}s that they are numbers"
    ids = ids_among(layout.kinds[kind], sorted(names_of(kind, layout, tree, stock) | given))
    if ids is None or ids.next is None:
        return None, f"none is left up to {entry.last}"
    way = "the first gap" if entry.free == "first-gap" else "after the highest"
    return ids.next, f"the next free {layout.kinds[kind].label}, {way}"


def next_suffix(
    kind: str, front: str, layout: Layout, tree: Tree, stock: Stock, given: frozenset[str] = frozenset()
) -> tuple[str, str]:
    """The number that follows the highest of the names with that front."""
    pattern = re.compile(re.escape(front) + r"(\d+)")
    numbers = [
        number
        for name in names_of(kind, layout, tree, stock) | given
        if (match := pattern.fullmatch(name)) and (number := whole_number(match[1])) is not None
    ]
    first = next((rule.entry.first for rule in layout.series if rule.entry.kind == kind), 1)
    by = f"after `{front}{max(numbers)}`" if numbers else f"the first `{front}…`"
    return str(max([first - 1, *numbers]) + 1), by
