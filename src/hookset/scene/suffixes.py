"""Names of copies: `gate_2` after `gate`, `lamp_b` after `lamp_a`, `buoy07` after `buoy06`."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Sequence

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


def next_names(names: Sequence[str], taken: Collection[str], copies: CopiesEntry) -> Iterator[tuple[str, ...]]:
    """The names of further copies of what belongs together, the next ones first: all parts of a copy get the same
    suffix, the first after theirs with which none of them is taken. Parts that only a suffix distinguishes, `bell_1`
    and `bell_2`, get as many in a row."""
    parted = [parted_name(name, copies) for name in names]
    numbers = copies.by == "number"
    stems = [(stem, between) for stem, between, _ in parted]
    offsets = [stems[:place].count(stem) for place, stem in enumerate(stems)]
    furthest = max(offsets, default=0)
    index = max((_index(suffix, numbers) for _, _, suffix in parted), default=0) + 1
    while True:
        made: list[str] = []
        for (stem, between, suffix), more in zip(parted, offsets, strict=True):
            new = _number(index + more, suffix, copies.width) if numbers else _letters(index + more, suffix)
            made.append(f"{stem}{between}{new}")
            if made[-1] in taken:
                break
        else:
            yield tuple(made)
            index += furthest
        index += 1


def _index(suffix: str, numbers: bool) -> int:
    """What is counted on from; a name without a suffix is the first."""
    if numbers:
        return int(suffix) if suffix else 1
    return ord(suffix.lower()) - ord("a") if suffix else 0


def _number(number: int, like: str, width: int) -> str:
    return str(number).zfill(max(width, len(like) if like.startswith("0") else 0))


def _letters(index: int, like: str) -> str:
    """a to z, then aa, ab …: as the columns of a sheet are counted."""
    found = ""
    while index >= 0:
        found = chr(ord("a") + index % 26) + found
        index = index // 26 - 1
    return found.upper() if like.isupper() else found
