"""The game's log as data. The game runs as a program of its own; this is all that is known of it here."""

from __future__ import annotations

from msgspec import Struct

__all__ = ["TrialLine"]


class TrialLine(Struct, frozen=True):
    """One line of the log."""

    what: str
    text: str
    file: str = ""
    line: int = 0
