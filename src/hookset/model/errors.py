"""Errors that a builder can act on. They carry data; only the interface prints them."""

from __future__ import annotations

from msgspec.structs import replace

from hookset.model.codes import Code
from hookset.model.message import Message

__all__ = ["CouldNotError", "HooksetError", "RefusedError", "WrongUseError"]


class HooksetError(Exception):
    """Something stopped. Takes the parts of a Message."""

    def __init__(
        self,
        code: Code,
        what: str,
        *,
        remedy: str,
        where: str = "",
        why: str = "",
        details: tuple[str, ...] = (),
    ) -> None:
        super().__init__(what)
        self.message = Message(code, what, where, why, remedy, details)

    @property
    def code(self) -> Code:
        """By which other programs know it."""
        return self.message.code

    @property
    def what(self) -> str:
        """What is wrong, in one sentence."""
        return self.message.what

    @property
    def where(self) -> str:
        """The file, with its line if that is known."""
        return self.message.where

    @property
    def why(self) -> str:
        """Why it matters."""
        return self.message.why

    @property
    def remedy(self) -> str:
        """What to do about it."""
        return self.message.remedy

    @property
    def details(self) -> tuple[str, ...]:
        """Further lines."""
        return self.message.details

    def place(self, where: str) -> None:
        """Add where it is, for whoever raised it did not know."""
        self.message = replace(self.message, where=where)

    def __str__(self) -> str:
        return f"{self.where}: {self.what}" if self.where else self.what


class RefusedError(HooksetError):
    """The tool could go on but will not without the builder's word: a conflict, a missing reference."""


class WrongUseError(HooksetError):
    """The command was called in a way that cannot mean anything here."""


class CouldNotError(HooksetError):
    """Input is damaged or the machine would not let us: nothing was changed."""
