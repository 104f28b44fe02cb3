"""One name of the base game."""

from __future__ import annotations

from msgspec import Struct

__all__ = ["StockRow"]


class StockRow(Struct, frozen=True, order=True):
    """A name, and what is known about it."""

    kind: str
    name: str
    side: str = ""
    path: str = ""
    """The game's file that defines it, as far as that is known."""
    detail: str = ""
    """Particulars of that file: how long a sound is, how large a picture."""
