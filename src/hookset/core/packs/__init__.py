"""Floor 8: packs: third-party content as published, and what its hook sheet says."""

from hookset.core.packs.hooksheet import SHEET_NAME, HookSheet
from hookset.core.packs.opening import open_pack, sheet_beside, with_sheet
from hookset.core.packs.pack import Pack

__all__ = ["SHEET_NAME", "HookSheet", "Pack", "open_pack", "sheet_beside", "with_sheet"]
