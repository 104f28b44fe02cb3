"""Floor 4: our own files, TOML and JSON, read into frozen types, with every mistake told at once with its place."""

from hookset.core.sheets.mistakes import mistake_in_words
from hookset.core.sheets.records import read_record
from hookset.core.sheets.sheet import Complaint, Sheet, nearest, place_of, read_sheet, typed

__all__ = ["Complaint", "Sheet", "mistake_in_words", "nearest", "place_of", "read_record", "read_sheet", "typed"]
