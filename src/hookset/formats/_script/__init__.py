"""What all script languages with a grammar share: finding calls, following constants, setting statements."""

from hookset.formats._script.bindings import Piece
from hookset.formats._script.document import ScriptDocument, ScriptSelector
from hookset.formats._script.format import ScriptFormat, ScriptOptions
from hookset.formats._script.script import DEPTH, Function, Script, starred
from hookset.formats._script.seats import ScriptSeat

__all__ = [
    "DEPTH",
    "Function",
    "Piece",
    "Script",
    "ScriptDocument",
    "ScriptFormat",
    "ScriptOptions",
    "ScriptSeat",
    "ScriptSelector",
    "starred",
]
