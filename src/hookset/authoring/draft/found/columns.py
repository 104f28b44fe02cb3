"""Rows that notes give as keys with their values in columns, as nobody writes them in the file itself."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

from hookset.authoring.draft.site import SeatFile
from hookset.formats import Body, ExistingEntry

__all__ = ["in_columns"]

_PAIR = re.compile(r"\s*(?P<key>[A-Za-z_][\w-]*)(?:\s*[:=]\s*|\s+)(?P<value>\S.*?)\s*,?\s*")
_ROWS = 2


def in_columns(seat_file: SeatFile, text: str) -> Sequence[ExistingEntry]:
    """The one row that a text gives: each line of it is a key that rows of the seat have, and a value of the same sort;
    nothing where a line is anything else."""
    lines = [line for line in text.splitlines() if line.strip()]
    known = _values(seat_file) if len(lines) >= _ROWS else {}
    record: dict[str, Any] = {}
    for line in lines if known else ():
        match = _PAIR.fullmatch(line)
        value = _read(match["value"], known[match["key"]]) if match is not None and match["key"] in known else None
        if match is None or value is None or match["key"] in record:
            return ()
        record[match["key"]] = value
    return (ExistingEntry(0, len(text), Body(record=record)),) if record else ()


def _values(seat_file: SeatFile) -> Mapping[str, Any]:
    """The keys of rows that stand there, each with a value."""
    return {key: value for one in seat_file.siblings if one.body.record for key, value in one.body.record.items()}


def _read(text: str, like: Any) -> Any:
    """A value of the same sort as another; None where it is none."""
    bare = text.strip("\"'`")
    if isinstance(like, bool):
        return {"true": True, "false": False, "yes": True, "no": False}.get(bare.lower())
    if isinstance(like, int | float):
        return _number(bare, like)
    return bare if isinstance(like, str) else None


def _number(text: str, like: float) -> float | None:
    if re.fullmatch(r"[+-]?\d+", text):
        return int(text) if isinstance(like, int) else float(text)
    return float(text) if re.fullmatch(r"[+-]?\d*\.\d+", text) else None
