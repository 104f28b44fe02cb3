"""What is wrong, as data: errors, stops and values that cannot be filled in carry it, and the interface prints it."""

from __future__ import annotations

from msgspec import Struct

from hookset.model.codes import Code

__all__ = ["Message"]


class Message(Struct, frozen=True):
    """One sentence on what is wrong, and what a builder needs to act on it."""

    code: Code
    """By which other programs know it."""
    what: str
    where: str = ""
    """A file, with its line where that is known."""
    why: str = ""
    """Why it matters."""
    remedy: str = ""
    """A command or an edit that helps."""
    details: tuple[str, ...] = ()
