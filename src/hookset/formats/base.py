"""The plain data that goes into formats and comes out of them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from msgspec import Struct

from hookset.model import Where

__all__ = [
    "ARGUMENT",
    "PLACED",
    "AlreadyThere",
    "Body",
    "Clash",
    "Columns",
    "Edit",
    "Edits",
    "ExistingEntry",
    "NoSeat",
    "Nothing",
    "Placement",
    "Unreadable",
    "Value",
    "WrongBody",
    "columns_of",
    "spliced",
]


PLACED = "\x1a"
"""Stands around what only the place of a file says, as the layout has it written; no text of a file holds it."""


ARGUMENT = "\x1f"
"""Stands there between what the layout has written and what the expression was given."""


class Unreadable(Exception):  # noqa: N818
    """The file is not what its format asks for. `where` is a character offset, if the parser knows one."""

    def __init__(self, what: str, where: int = 0) -> None:
        super().__init__(what)
        self.what = what
        self.where = where


class Nothing(Struct, frozen=True, forbid_unknown_fields=True):
    """For formats without selectors, seats or options: there is nothing to say."""


class Value(Struct, frozen=True, gc=False):
    """One value that a selector found."""

    text: str
    where: Where
    pattern: bool = False
    """Known in part only: `*` stands in `text` for what the program adds at run time."""


class Columns(Struct, frozen=True):
    """Many values at once, in file order."""

    texts: Sequence[str]
    wheres: Sequence[Where]
    patterns: Sequence[int] = ()
    """Rows that are known in part only."""
    at: str = ""
    """What stands behind each of `wheres` in an address."""
    rows: Sequence[Mapping[str, str]] = ()
    """What stands beside each, where that was asked for."""

    def where(self, row: int) -> Where:
        """Return where the value of a row stands."""
        return f"{self.wheres[row]}{self.at}" if self.at else self.wheres[row]


class Body(Struct, frozen=True, kw_only=True):
    """What a hook says is to be set: text in the file's own language, or a record of keys and values."""

    text: str | None = None
    record: Mapping[str, Any] | None = None


class ExistingEntry(Struct, frozen=True):
    """An entry as it stands in a file, or in a text that was meant to be pasted into one."""

    start: int
    end: int
    body: Body


class Edit(Struct, frozen=True):
    """Characters `start` to `end` become `text`."""

    start: int
    end: int
    text: str


class Edits(Struct, frozen=True):
    """An entry can be set: these spans change, none of which touch each other."""

    edits: tuple[Edit, ...]


class AlreadyThere(Struct, frozen=True):
    """The same entry stands there already, in this or another spelling."""

    where: Where


class Clash(Struct, frozen=True):
    """An entry of the same name stands there and says something else."""

    where: Where
    what: str


class WrongBody(Struct, frozen=True):
    """The entry itself is not of the form that goes here."""

    what: str
    """What it should be, and is not."""


class NoSeat(Struct, frozen=True):
    """The landmark the seat goes by is not in this file, or is there more than once."""

    looked_for: str
    candidates: tuple[str, ...] = ()
    unsaid: str = ""
    """What the seat goes by, where the hook does not say it."""


Placement = Edits | AlreadyThere | Clash | WrongBody | NoSeat


def columns_of(values: Iterable[Value]) -> Columns:
    """Values as columns."""
    rows = list(values)
    if not rows:
        return Columns([], [], [])
    patterns = [row for row, value in enumerate(rows) if value.pattern]
    return Columns([value.text for value in rows], [value.where for value in rows], patterns)


def spliced(string: str, edits: Iterable[Edit]) -> str:
    """`string` with spans replaced that do not overlap. Of several insertions at one place, the last comes first."""
    pieces: list[str] = []
    at = 0
    for _, edit in sorted(enumerate(edits), key=lambda pair: (pair[1].start, -pair[0])):
        pieces += (string[at : edit.start], edit.text)
        at = max(at, edit.end)
    return "".join((*pieces, string[at:]))
