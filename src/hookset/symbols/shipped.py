"""What the manifests list, and the manifests that they include."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from hookset.config.layouts import Layout
from hookset.model import EVERY_SIDE, sides_meet
from hookset.symbols.index import Index
from hookset.symbols.reach import Reach
from hookset.trees import Tree

__all__ = ["Listed", "listed", "listed_paths"]


class Listed(Struct, frozen=True):
    """The rows that count."""

    sides: Mapping[str, frozenset[str]]
    """By what a row is called: the sides of the lists that it stands in."""
    by_side: bool
    """Whether what belongs to a side must be in a list of that side."""

    def has(self, row: str, side: str = EVERY_SIDE) -> bool:
        """Whether a list has such a row; of lists that belong to sides, one of that side."""
        sides = self.sides.get(row)
        return sides is not None and (not self.by_side or any(sides_meet(one, side) for one in sides))


def listed(layout: Layout, index: Index, reach: Reach) -> Listed:
    """Where rows count in loaded files only, a list that nobody includes has none."""
    sides: dict[str, set[str]] = {}
    if layout.manifest is None:
        return Listed({}, False)
    kind = layout.kinds[layout.manifest.kind].entry
    for definitions in index.groups(layout.manifest.kind).values():
        for definition in definitions:
            if not kind.reached or definition.path in reach:
                sides.setdefault(definition.name, set()).add(definition.side)
    return Listed({row: frozenset(found) for row, found in sides.items()}, kind.sided)


def listed_paths(tree: Tree, layout: Layout, index: Index, reach: Reach) -> frozenset[str]:
    """The paths that have a row: those that a row is named after, and those whose row has another name."""
    rows = listed(layout, index, reach)
    manifest = layout.manifest
    if manifest is None:
        return frozenset()
    needed = ((path, manifest.row_of_file(path)) for path in tree.paths())
    return frozenset(path for path, row in needed if rows.has(path if row is None else row.name))
