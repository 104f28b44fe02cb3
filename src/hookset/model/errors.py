"""Errors that a builder can act on. They carry data; only the interface prints them."""

from __future__ import annotations

__all__ = ["CouldNotError", "HooksetError", "RefusedError", "WrongUseError"]


class HooksetError(Exception):
    """Something stopped. `what` is one sentence; the other fields say where, why it matters and what to do."""

    def __init__(
        self,
        what: str,
        *,
        where: str = "",
        why: str = "",
        remedy: str = "",
        details: tuple[str, ...] = (),
    ) -> None:
        super().__init__(what)
        self.what = what
        self.where = where
        self.why = why
        self.remedy = remedy
        self.details = details

    def __str__(self) -> str:
        return f"{self.where}: {self.what}" if self.where else self.what


class RefusedError(HooksetError):
    """The tool could go on but will not without the builder's word: a conflict, a missing reference."""


class WrongUseError(HooksetError):
    """The command was called in a way that cannot mean anything here."""


class CouldNotError(HooksetError):
    """Input is damaged or the machine would not let us: nothing was changed."""
