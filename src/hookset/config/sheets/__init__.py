"""Our own files, TOML and JSON, read into frozen types, with every mistake told at once with its place."""

from hookset.config.sheets.mistakes import mistake_in_words
from hookset.config.sheets.records import read_record
from hookset.config.sheets.sheet import Complaint, Sheet, nearest, place_of, read_sheet, typed

__all__ = ["Complaint", "Sheet", "mistake_in_words", "nearest", "place_of", "read_record", "read_sheet", "typed"]
