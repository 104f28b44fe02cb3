"""Small frozen types that all other packages use."""

from hookset.model.codes import Code
from hookset.model.errors import CouldNotError, HooksetError, RefusedError, WrongUseError
from hookset.model.findings import Finding, Severity
from hookset.model.grammar import with_article
from hookset.model.mends import AddRow, DropRow, Mend, Respell
from hookset.model.message import Message
from hookset.model.names import EVERY_SIDE, Definition, Problem, Reference, Spot, Where, sides_meet

__all__ = [
    "EVERY_SIDE",
    "AddRow",
    "Code",
    "CouldNotError",
    "Definition",
    "DropRow",
    "Finding",
    "HooksetError",
    "Mend",
    "Message",
    "Problem",
    "Reference",
    "RefusedError",
    "Respell",
    "Severity",
    "Spot",
    "Where",
    "WrongUseError",
    "sides_meet",
    "with_article",
]
