"""Our own JSON files, read into frozen types: ledgers, journals, cards, lists. Anybody may have written them."""

from __future__ import annotations

from typing import TypeVar

import msgspec

from hookset.config.sheets.sheet import Complaint, typed
from hookset.formats import Unreadable
from hookset.formats._json_relaxed import JsonOptions
from hookset.formats.json import FORMAT
from hookset.model import CouldNotError
from hookset.trees import decode, line_and_column

__all__ = ["read_record"]

T = TypeVar("T")
_TOLD = 10
"""Mistakes that are shown."""


def read_record(data: bytes, kind: type[T], where: str, *, title: str, why: str, remedy: str) -> T:
    """`data` as a `kind`, which people call `title`.

    Raises CouldNotError, with the line for what is no JSON, and with every mistake for what is.
    """
    try:
        return msgspec.json.decode(data, type=kind)
    except (msgspec.MsgspecError, RecursionError, ValueError):
        # What is wrong is found out by our own readers: the library tells it in words only.
        mistakes = _mistakes(data, kind, where)
    shown = tuple(mistakes[:_TOLD])
    more = (f"and {len(mistakes) - _TOLD} more",) if len(mistakes) > _TOLD else ()
    raise CouldNotError(
        "unexpected-content",
        f"is no {title} that can be read",
        where=where,
        details=(*shown, *more),
        why=why,
        remedy=remedy,
    )


def _mistakes(data: bytes, kind: type[T], where: str) -> list[str]:
    try:
        text = decode(data)
    except CouldNotError as error:
        return [f"{where}: {error.what}"]
    try:
        value = FORMAT.open(text, JsonOptions()).data
    except Unreadable as error:
        line, column = line_and_column(text.string, error.where)
        return [f"{where}:{line}:{column}: {error.what}"]
    found: T | list[Complaint] = typed(value, kind)
    complaints = found if isinstance(found, list) else [Complaint("", "is not of the form that goes here")]
    return [f"{where}: {one.pointer or 'as a whole'}: {one.message}" for one in complaints]
