"""What the tables of a layout file have in common."""

from __future__ import annotations

from typing import Any

from msgspec import Struct

__all__ = ["PartEntry", "Table", "ValueEntry"]


class Table(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A table of a layout file: a key that it does not know is told."""


class PartEntry(Table, frozen=True):
    """A part of a layout that should mean something in every map."""

    may_be_empty: bool = False
    """Whether there are maps in which it means nothing: then that is not told."""


class ValueEntry(Table, frozen=True):
    """A value in one file."""

    file: str
    """A pattern; a value of each file that matches counts."""
    ask: dict[str, Any]
    """What the file's format is asked with."""
