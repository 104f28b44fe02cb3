"""Where a pack's files go, where that depends on what the map is called: `to = "sounds/{map:name|lower}_bell.wav"`."""

from __future__ import annotations

from msgspec import structs
from msgspec.structs import replace

from hookset.config.layouts import Layout
from hookset.model import CouldNotError
from hookset.packs import SheetedPack
from hookset.planning.filling.map_values import MapValues
from hookset.planning.filling.placeholders import Filling, Unfillable, filled
from hookset.project import Stock
from hookset.trees import Tree

__all__ = ["called_as_here"]


def called_as_here(pack: SheetedPack, tree: Tree, layout: Layout, folder: str) -> SheetedPack:
    """The pack with its files called as they are to be in this map; `folder` is the map's own. Raises CouldNotError
    where the map does not say what it is called."""
    if not any("{" in entry.to for entry in pack.sheet.files):
        return pack
    filling = Filling(map=MapValues(layout, tree, Stock()), folder=folder, lookups={})
    files = []
    for index, entry in enumerate(pack.sheet.files):
        try:
            files.append(structs.replace(entry, to=filled(entry.to, None, filling).text or entry.to))
        except Unfillable as error:
            raise CouldNotError(
                error.message.code,
                f"`{entry.to}` cannot be filled in: {error.message.what}",
                where=f"{pack.written.where}:{pack.written.line_of(f'/files/{index}/to')}",
                why="the file has no name in this map",
                remedy=error.message.remedy,
            ) from error
    return replace(pack, sheet=structs.replace(pack.sheet, files=tuple(files)))
