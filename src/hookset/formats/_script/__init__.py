"""What all script languages with a grammar share: finding calls, following constants, setting statements."""

from hookset.formats._script.document import ScriptDocument, ScriptSelector, opened
from hookset.formats._script.script import DEPTH, Function, Script, starred
from hookset.formats._script.seats import ScriptSeat, existing

__all__ = [
    "DEPTH",
    "Function",
    "Script",
    "ScriptDocument",
    "ScriptSeat",
    "ScriptSelector",
    "existing",
    "opened",
    "starred",
]
