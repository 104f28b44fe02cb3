"""Names of copies: `gate_2` after `gate`, `lamp_b` after `lamp_a`, `buoy07` after `buoy06`."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator
from itertools import count

from hookset.config.layouts.placing import CopiesEntry

__all__ = ["next_names", "parted_name"]

_NUMBERED = re.compile(r"(?P<stem>.*?)(?P<between>[ _.\-]?)(?P<suffix>[0-9]{1,9})")
_LETTERED = re.compile(r"(?P<stem>.*)(?P<between>[ _.\-])(?P<suffix>[A-Za-z])")


def parted_name(name: str, copies: CopiesEntry) -> tuple[str, str, str]:
    """(stem, what stands between, suffix) of a name; a name without a suffix is all stem."""
    match = (_NUMBERED if copies.by == "number" else _LETTERED).fullmatch(name)
    if match is None or not match["stem"]:
        return name, copies.between, ""
    return match["stem"], match["between"], match["suffix"]


def next_names(name: str, taken: Collection[str], copies: CopiesEntry) -> Iterator[str]:
    """The names that further copies of a thing get, the next free one first: none of those that are taken, nor one
    given before."""
    stem, between, suffix = parted_name(name, copies)
    given = set(taken)
    numbers = copies.by == "number"
    width = max(copies.width, len(suffix) if suffix.startswith("0") else 0)
    begin = (int(suffix) if suffix else 1) if numbers else (_index(suffix) if suffix else 0)
    for number in count(begin + 1):
        made = f"{stem}{between}{str(number).zfill(width) if numbers else _letters(number, suffix.isupper())}"
        if made not in given:
            given.add(made)
            yield made


def _index(letter: str) -> int:
    return ord(letter.lower()) - ord("a")


def _letters(index: int, upper: bool) -> str:
    """a to z, then aa, ab …: as columns of a sheet are counted."""
    found = ""
    while index >= 0:
        found = chr(ord("a") + index % 26) + found
        index = index // 26 - 1
    return found.upper() if upper else found
