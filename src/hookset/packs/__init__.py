"""Packs: third-party content as published, and what its hook sheet says."""

from hookset.packs.hooksheet import SHEET_NAME, HookSheet
from hookset.packs.opening import open_bare, open_pack, sheet_beside, walk_beside, with_sheet
from hookset.packs.pack import Pack, SheetedPack

__all__ = [
    "SHEET_NAME",
    "HookSheet",
    "Pack",
    "SheetedPack",
    "open_bare",
    "open_pack",
    "sheet_beside",
    "walk_beside",
    "with_sheet",
]
