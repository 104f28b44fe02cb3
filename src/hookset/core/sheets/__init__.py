"""Floor 4: our own files, all TOML, read into frozen types. Every mistake in one is told at once, with its line."""

from hookset.core.sheets.sheet import Complaint, Sheet, nearest, read_sheet, typed

__all__ = ["Complaint", "Sheet", "nearest", "read_sheet", "typed"]
