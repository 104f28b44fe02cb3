"""The game's log as data. The game runs as a program of its own; this is all that is known of it here."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct

__all__ = ["TrialLine", "as_log"]


class TrialLine(Struct, frozen=True):
    """One line of the log."""

    what: str
    text: str
    file: str = ""
    line: int = 0
    side: str = ""
    name: str = ""
    """What it is about: a file, an alias, a key, a callback."""
    to: str = ""
    """What an object is tied to."""


def as_log(lines: Iterable[TrialLine]) -> str:
    """The log as text: `[error] scripts/a.lua:6: no sound alias 'x'`."""
    return "[game] begins\n" + "".join(f"[{one.what}] {_place(one)}{one.text}\n" for one in lines)


def _place(one: TrialLine) -> str:
    if not one.file:
        return ""
    return f"{one.file}:{one.line}: " if one.line else f"{one.file}: "
