"""Numbers as records say them: one value each, or several in one text or list."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from hookset.config.layouts.positions import NumberWay
from hookset.formats.base import Part
from hookset.model import Where

__all__ = [
    "Misread",
    "number_of",
    "numbers_in",
    "numbers_of_record",
    "pieces_of",
    "several_words_of",
    "words_of",
]

_NUMBER = re.compile(r"[-+]?(?:[0-9]+(?:[.][0-9]*)?|[.][0-9]+)(?:[eE][-+]?[0-9]+)?|[-+]?(?:nan|inf(?:inity)?)\b", re.I)
_BETWEEN = re.compile(r"[\s,;()\[\]<>{}|]*")
_LONGEST = 1 << 16
"""Characters of a text that is taken apart into numbers."""


@dataclass(frozen=True, slots=True)
class Misread:
    """A value that should be a number and is none."""

    where: Where
    said: str
    finite: bool = True
    """False for what is no number, or one without end."""


def pieces_of(text: str) -> list[tuple[float, int, int]] | None:
    """The numbers of a text, each with its characters; None for a text in which anything else stands."""
    found: list[tuple[float, int, int]] = []
    position = 0
    for match in _NUMBER.finditer(text[:_LONGEST]):
        if _BETWEEN.fullmatch(text, position, match.start()) is None:
            return None
        found.append((float(match[0]), *match.span()))
        position = match.end()
    return found if _BETWEEN.fullmatch(text, position) is not None else None


def numbers_in(part: Part) -> list[tuple[float, Where]] | Misread:
    """All numbers of a value, in their order, each with where it stands; those of lists in lists as well."""
    value = part.value
    if isinstance(value, tuple):
        found: list[tuple[float, Where]] = []
        for one in value:
            inner = numbers_in(one if not isinstance(one.value, list) else _listed(one))
            if isinstance(inner, Misread):
                return inner
            found += inner
        return found
    if isinstance(value, bool) or value is None:
        return Misread(part.where, str(value))
    if isinstance(value, int | float):
        return [(_as_float(value), part.where)]
    pieces = pieces_of(value) if isinstance(value, str) else None
    return Misread(part.where, str(value)[:60]) if pieces is None else [(one, part.where) for one, _, _ in pieces]


def _listed(part: Part) -> Part:
    """A list in a list, as parts."""
    return Part(part.where, tuple(Part(f"{part.where}/{index}", one) for index, one in enumerate(part.value)))


def _as_float(value: int | float) -> float:
    try:
        return float(value)
    except OverflowError:
        return math.inf


def number_of(part: Part | None, nth: int | None) -> float | Misread | None:
    """The number that a value is, or its nth; None where the record does not have it."""
    if part is None:
        return None
    value = part.value
    if isinstance(value, tuple) and nth is not None:
        return number_of(value[nth], None) if nth < len(value) else Misread(part.where, f"{len(value)} numbers")
    if isinstance(value, int | float) and not isinstance(value, bool) and not nth:
        found = _as_float(value)
    else:
        all_of = numbers_in(part)
        if isinstance(all_of, Misread):
            return all_of
        if len(all_of) <= (nth or 0) or (nth is None and len(all_of) != 1):
            return Misread(part.where, str(value)[:60] if not isinstance(value, tuple) else f"{len(value)} values")
        found = all_of[nth or 0][0]
    return found if math.isfinite(found) else Misread(part.where, str(value)[:60], finite=False)


def numbers_of_record(
    ways: Sequence[NumberWay | None], parts: Mapping[str, Part | None], otherwise: float
) -> tuple[list[float], list[Misread], bool]:
    """The numbers of a record; what of them cannot be read; and whether any of them is there."""
    found: list[float] = []
    wrong: list[Misread] = []
    there = False
    for way in ways:
        said = None if way is None else number_of(parts.get(way.way), way.nth)
        if isinstance(said, Misread):
            wrong.append(said)
            found.append(otherwise)
        else:
            there = there or said is not None
            found.append(otherwise if said is None else said)
    return found, wrong, there


def words_of(part: Part | None) -> str | None:
    """A value as a name: a text, or a whole number as its digits; None where there is none."""
    value: Any = None if part is None else part.value
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    return str(value) if isinstance(value, str | int | float) else None


def several_words_of(part: Part | None) -> Iterator[tuple[str, Where]]:
    """Names that a value gives: one, or each of a list."""
    if part is not None and isinstance(part.value, tuple):
        for one in part.value:
            yield from several_words_of(one)
    elif (text := words_of(part)) and part is not None:
        yield text, part.where
