"""Floor 1: small frozen types that everything above speaks in."""

from hookset.model.errors import CouldNotError, HooksetError, RefusedError, WrongUseError
from hookset.model.findings import Finding, Severity
from hookset.model.mends import AddRow, DropRow, Mend, Respell
from hookset.model.names import EVERY_SIDE, Definition, Problem, Reference, Spot, Where, sides_meet

__all__ = [
    "EVERY_SIDE",
    "AddRow",
    "CouldNotError",
    "Definition",
    "DropRow",
    "Finding",
    "HooksetError",
    "Mend",
    "Problem",
    "Reference",
    "RefusedError",
    "Respell",
    "Severity",
    "Spot",
    "Where",
    "WrongUseError",
    "sides_meet",
]
