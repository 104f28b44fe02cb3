"""Numbers as records say them: one value each, or several in one text or list."""

from __future__ import annotations

import math
import re
import warnings
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from hookset.config.layouts.positions import NumberWay
from hookset.formats.parts import JoinedTexts, Part, TextColumn
from hookset.model import Where

__all__ = [
    "Misread",
    "NumberColumns",
    "number_columns",
    "number_of",
    "numbers_in",
    "numbers_of_record",
    "pieces_of",
    "several_words_of",
    "words_of",
]

Floats = NDArray[np.float64]
_NUMBER = re.compile(r"[-+]?(?:[0-9]+(?:[.][0-9]*)?|[.][0-9]+)(?:[eE][-+]?[0-9]+)?|[-+]?(?:nan|inf(?:inity)?)\b", re.I)
_BETWEEN = re.compile(r"[\s,;()\[\]<>{}|]*")
_LONGEST = 1 << 16
"""Characters of a text that is taken apart into numbers."""


class Misread(Struct, frozen=True):
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


class NumberColumns(Struct, frozen=True):
    """The numbers of many records, a row each."""

    numbers: Floats
    """(n, k); not to be written to."""
    there: NDArray[np.bool_]
    """(n,): whether any of them is there."""
    wrong: Mapping[int, list[Misread]]
    """By row: what cannot be read."""


def number_columns(
    ways: Sequence[NumberWay | None], columns: Mapping[str, Sequence[Part | None]], count: int, otherwise: float
) -> NumberColumns:
    """The same of many records at once. Values that are plainly numbers, as nearly all are, are read together."""
    there = np.zeros(count, dtype=bool)
    named = {way.way for way in ways if way is not None}
    if not named or not any(_says_anything(columns[way]) for way in named):
        # One row that stands for all.
        return NumberColumns(np.broadcast_to(np.array(otherwise), (count, len(ways))), there, {})
    numbers = np.full((count, len(ways)), otherwise)
    left = _plain_rows(ways, columns, numbers, there)
    wrong: dict[int, list[Misread]] = {}
    for row in left:
        found, bad, some = numbers_of_record(ways, {way: columns[way][row] for way in named}, otherwise)
        numbers[row] = found
        there[row] = some
        if bad:
            wrong[row] = bad
    return NumberColumns(numbers, there, wrong)


def _plain_rows(
    ways: Sequence[NumberWay | None],
    columns: Mapping[str, Sequence[Part | None]],
    numbers: Floats,
    there: NDArray[np.bool_],
) -> list[int]:
    """Fill in the rows whose values are plainly numbers; gives those that have to be looked into."""
    said = [way for way in ways if way is not None]
    inside = all(way.way == said[0].way and way.nth == nth for nth, way in enumerate(said))
    if not inside or list(ways[: len(said)]) != said:
        return _plain_singles(ways, columns, numbers, there)
    parts = columns[said[0].way]
    texts = parts if isinstance(parts, TextColumn) else TextColumn(_texts_of(parts), ())
    joined = texts.joined()
    if (made := _numbers_of_texts(joined, len(said))) is not None:
        at = np.asarray(joined.rows, dtype=np.int64)
        numbers[at, : len(said)] = made
        there[at] = True
        if texts is parts or len(at) == len(parts):
            return []
        parts = [part if text is None else None for part, text in zip(parts, texts.texts, strict=True)]
    rows, values, left = [], [], []
    for row, part in enumerate(parts):
        if part is None:
            continue
        value = part.value
        split: list[Any] = []
        if isinstance(value, str):
            split = value.split() if _is_plain(value) else []
        elif isinstance(value, tuple):
            split = [one.value for one in value]
            if not all(isinstance(one, float | int) and not isinstance(one, bool) for one in split):
                split = []
        if len(split) < len(said):
            left.append(row)
        else:
            rows.append(row)
            values.append(split[: len(said)])
    return left + _filled_in(numbers, there, rows, values, len(said))


def _is_plain(value: Any) -> bool:
    """Whether Python reads a value as this module does: `1_0` and digits of other scripts are none to a game."""
    if isinstance(value, str):
        return value.isascii() and "_" not in value
    return isinstance(value, float | int) and not isinstance(value, bool)


def _says_anything(parts: Sequence[Part | None]) -> bool:
    return bool(parts.rows()) if isinstance(parts, TextColumn) else any(one is not None for one in parts)


def _texts_of(parts: Sequence[Part | None]) -> Sequence[str | None]:
    """What is text of a column."""
    return [part.value if part is not None and type(part.value) is str else None for part in parts]


_PLAIN = np.zeros(256, dtype=np.bool_)
_PLAIN[list(b"0123456789+-.eE ")] = True
_BLANK = ord(" ")
_TOGETHER = 1 << 18
"""Texts that are read at once: for more, what is worked out in between takes more memory than they do."""


def _numbers_of_texts(joined: JoinedTexts, wide: int) -> Floats | None:
    """Texts of so many finite numbers each, with one blank between them, as nearly all are: read together. None where
    one is anything else."""
    ends = np.asarray(joined.ends)
    if not len(ends):
        return None
    made = np.empty((len(ends), wide))
    start = 0
    for at in range(0, len(ends), _TOGETHER):
        some = ends[at : at + _TOGETHER].astype(np.int64)
        read = _numbers_together(joined.utf8[start : int(some[-1]) + 1], some - start, wide)
        if read is None:
            return None
        made[at : at + _TOGETHER] = read
        start = int(some[-1]) + 1
    return made


def _numbers_together(utf8: bytes, ends: NDArray[np.int64], wide: int) -> Floats | None:
    data = np.frombuffer(utf8, dtype=np.uint8)
    if not _PLAIN[data].all():
        return None
    # Something before each blank, and as many blanks as numbers: what reads them would take `1.2.3` for two.
    blanks = np.flatnonzero(data == _BLANK)
    if len(blanks) != wide * len(ends) or (blanks[wide - 1 :: wide] != ends).any():
        return None
    if blanks[0] == 0 or (np.diff(blanks) == 1).any():
        return None
    with warnings.catch_warnings():
        # What follows on something that is no number is left out, with a warning.
        warnings.simplefilter("error", DeprecationWarning)
        try:
            made = np.fromstring(utf8, sep=" ")
        except (DeprecationWarning, ValueError):
            return None
    return made.reshape(-1, wide) if made.size == wide * len(ends) and np.isfinite(made).all() else None


def _filled_in(numbers: Floats, there: NDArray[np.bool_], rows: list[int], values: list[Any], wide: int) -> list[int]:
    """Set rows to values that should be numbers; gives those that are not."""
    try:
        made = np.array(values, dtype=np.float64).reshape(len(rows), wide)
    except (ValueError, OverflowError):
        return rows
    finite = np.isfinite(made).all(axis=1)
    at = np.array(rows, dtype=np.int64)
    numbers[at[finite], :wide] = made[finite]
    there[at[finite]] = True
    return [int(row) for row in at[~finite]]


def _plain_singles(
    ways: Sequence[NumberWay | None],
    columns: Mapping[str, Sequence[Part | None]],
    numbers: Floats,
    there: NDArray[np.bool_],
) -> list[int]:
    """The same for numbers that have a value each, and are all there."""
    single = all(way is None or way.nth is None for way in ways)
    named = [columns[way.way] for way in ways if way is not None]
    if not single or len(named) != len(ways):
        return list(range(len(there)))
    rows, values, left = [], [], []
    for row, parts in enumerate(zip(*named, strict=True)):
        texts = [part.value if part is not None else None for part in parts]
        if all(_is_plain(one) for one in texts):
            rows.append(row)
            values.append(texts)
        elif any(part is not None for part in parts):
            left.append(row)
    return left + _filled_in(numbers, there, rows, values, len(ways))


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
