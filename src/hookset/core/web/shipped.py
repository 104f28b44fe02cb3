"""What the manifest lists, and the manifests that it includes."""

from __future__ import annotations

from hookset.core.layouts import Layout
from hookset.core.web.index import Index
from hookset.core.web.reach import Reach

__all__ = ["listed_paths"]


def listed_paths(layout: Layout, index: Index, reach: Reach) -> frozenset[str]:
    """The paths that have a row. Where rows count in loaded files only, a list that nobody includes has none."""
    if layout.manifest is None:
        return frozenset()
    everywhere = not layout.kinds[layout.manifest.row].entry.reached
    return frozenset(
        definition.name
        for definitions in index.groups(layout.manifest.row).values()
        for definition in definitions
        if everywhere or definition.path in reach
    )
