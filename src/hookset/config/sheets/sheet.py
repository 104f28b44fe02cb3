"""A TOML file of ours: hookset.toml, a layout, a hook sheet."""

from __future__ import annotations

import datetime
import math
from collections.abc import Iterator, Sequence
from functools import cached_property
from typing import Any, TypeVar

import msgspec
from msgspec import Struct

from hookset.config.sheets.mistakes import mistake_in_words
from hookset.formats._toml_reading import read_toml
from hookset.formats.base import Unreadable
from hookset.formats.pointers import escaped, pointer
from hookset.formats.toml import key_spans
from hookset.model import CouldNotError
from hookset.trees import Text, decode, line_and_column

__all__ = ["Complaint", "Sheet", "nearest", "place_of", "read_sheet", "typed"]

T = TypeVar("T")
_LARGEST_NUMBER = 1 << 63
_TOLD = 50
"""Mistakes that are shown; a file that is of another kind altogether has thousands."""
_LOOKED_AT = 1_000
"""Mistakes that are looked for."""
_SHOWN = 12
"""Words to choose from that are shown: the keys of any table, no names of a map."""
_NEAREST = 5


class Complaint(Struct, frozen=True):
    """One mistake in a sheet."""

    pointer: str
    """Where: a JSON Pointer."""
    message: str


class Sheet(Struct, frozen=True, dict=True):
    """The file's data, and what it takes to say where something stands in it."""

    where: str
    """How the file is called in messages."""
    text: Text
    data: dict[str, Any]

    @cached_property
    def _keys(self) -> dict[str, int]:
        """Where the key of each pair and table stands."""
        return key_spans(self.text)

    def line_of(self, address: str) -> int:
        """The line of the key at `address`, or of what it is in, if it is not there itself. Of tables in a row it is
        that of the first."""
        keys = self._keys
        while address and address not in keys:
            address = f"{address}/0" if f"{address}/0" in keys else address.rsplit("/", 1)[0]
        return line_and_column(self.text.string, keys[address])[0] if address else 1

    def error(self, complaints: Sequence[Complaint], remedy: str) -> CouldNotError:
        """All of them as one error."""
        lines = sorted({(self.line_of(c.pointer), c.message) for c in complaints})
        many = f"{len(lines):,} mistakes" if len(lines) > 1 else "a mistake"
        more = (f"and {len(lines) - _TOLD:,} more",) if len(lines) > _TOLD else ()
        return CouldNotError(
            "wrong-rows",
            f"has {many} in it",
            where=self.where,
            details=(*(f"{self.where}:{line}: {message}" for line, message in lines[:_TOLD]), *more),
            why="a key that is not understood would be a step that is silently not done",
            remedy=remedy,
        )


def read_sheet(data: bytes, where: str) -> Sheet:
    """Parse. Raises CouldNotError with the line."""
    try:
        text = decode(data)
    except CouldNotError as error:
        raise CouldNotError(
            error.code, error.what, where=where, why=error.why, remedy="save the file as UTF-8"
        ) from error
    try:
        values = read_toml(text)
    except Unreadable as error:
        line, column = line_and_column(text.string, error.where)
        raise CouldNotError(
            "syntax-error",
            error.what,
            where=f"{where}:{line}:{column}",
            why="nothing in the file can be read until this is right",
            remedy="correct the line; TOML wants text in quotes and each table header in its own line",
        ) from error
    sheet = Sheet(where, text, values)
    if odd := list(_odd_values("", values)):
        raise sheet.error(odd, "write it as text, in quotes, or as a number that every format has")
    return sheet


def _odd_values(at: str, value: Any) -> Iterator[Complaint]:
    """What TOML has and most formats that values go into have not."""
    if isinstance(value, dict):
        for key, below in value.items():
            yield from _odd_values(f"{at}/{escaped(key)}", below)
    elif isinstance(value, list):
        for index, below in enumerate(value):
            yield from _odd_values(f"{at}/{index}", below)
    elif isinstance(value, datetime.date | datetime.time):
        yield Complaint(at, f"a date or a time ({value}) is no value of most formats")
    elif isinstance(value, float) and not math.isfinite(value):
        yield Complaint(at, f"{value} is no number of most formats")
    elif isinstance(value, int) and not -_LARGEST_NUMBER <= value < _LARGEST_NUMBER:
        yield Complaint(at, "this number is too large for most formats")


def place_of(value: str, sheet: Sheet) -> str:
    """`FILE:LINE` of a text in a sheet, or of the longest text in it that the value is made of; empty where there is
    none."""
    best, at = "", ""
    waiting: list[tuple[str, Any]] = [("", sheet.data)]
    while waiting:
        address, one = waiting.pop()
        if isinstance(one, dict):
            waiting += ((f"{address}/{escaped(key)}", below) for key, below in one.items())
        elif isinstance(one, list):
            waiting += ((f"{address}/{index}", below) for index, below in enumerate(one))
        elif isinstance(one, str) and len(one) > len(best) and one in value:
            best, at = one, address
    return f"{sheet.where}:{sheet.line_of(at)}" if best else ""


def typed(data: Any, kind: type[T], at: str = "") -> T | list[Complaint]:
    """`data` as a `kind`, or everything that keeps it from being one."""
    try:
        return msgspec.convert(data, kind, strict=True)
    except (msgspec.ValidationError, RecursionError) as error:
        # The fast reader stops at the first mistake; the schema made of the same types tells them all. What only the
        # type itself can tell comes as the error's cause.
        own = str(error.__cause__) if isinstance(error.__cause__, ValueError) else "is not of the form that goes here"
        return _all_complaints(data, kind, at) or [Complaint(at, own)]


def _all_complaints(data: Any, kind: type, at: str) -> list[Complaint]:
    import jsonschema_rs

    schema = msgspec.json.schema(kind)
    found: list[Complaint] = []
    for error in jsonschema_rs.Draft202012Validator(schema).iter_errors(data):
        found += _told(error, schema, at)
        if len(found) >= _LOOKED_AT:
            break
    return found


def _told(error: Any, schema: dict[str, Any], at: str) -> list[Complaint]:
    path = tuple(error.instance_path)
    here = at + pointer(path)
    name = f"`{path[-1]}`" if path else "this file"
    keyword = error.kind.name
    if keyword == "additionalProperties":
        known = sorted(_keys_at(schema, path))
        return [
            Complaint(f"{here}/{escaped(key)}", f"unknown key `{key[:80]}`{nearest(key[:80], known)}")
            for key in list(error.kind.unexpected)[:_LOOKED_AT]
        ]
    if keyword == "required":
        return [Complaint(here, f"`{error.kind.property}` is missing here")]
    if keyword == "enum":
        choices = [str(choice) for choice in error.kind.options]
        near = nearest(str(error.instance), choices)
        return [Complaint(here, f"{name} cannot be {error.instance!r}{near or '; it is one of ' + ', '.join(choices)}")]
    if keyword == "type":
        wanted = " or ".join(error.kind.types)
        return [Complaint(here, f"{name} should be of type {wanted}, not {_type(error.instance)}")]
    if keyword == "anyOf":
        # A union's own message repeats the whole value; its most telling branch says what is wrong.
        branches = [branch for branch in error.kind.context if not any(_of_another_type(one, path) for one in branch)]
        if branches:
            return [complaint for one in branches[0] for complaint in _told(one, schema, at)]
        return [Complaint(here, f"{name} has a value of the wrong type: {_type(error.instance)}")]
    return [Complaint(here, f"{name}: {mistake_in_words(error)}")]


def _of_another_type(error: Any, path: tuple[str | int, ...]) -> bool:
    """Whether the value at `path` itself is of another type, and not something in it."""
    return error.kind.name == "type" and tuple(error.instance_path) == path


def _keys_at(schema: dict[str, Any], path: tuple[str | int, ...]) -> list[str]:
    """The keys that the schema has for the object at `path`."""
    tops = schema.get("$defs", {})
    here = [schema]
    for step in (*path, None):
        # A union's branches and what they refer to are all candidates.
        flat: list[dict[str, Any]] = []
        while here:
            one = here.pop()
            if "$ref" in one:
                here.append(tops[one["$ref"].rsplit("/", 1)[1]])
            else:
                here += one.get("anyOf", [])
                flat.append(one)
        if step is None:
            return [key for one in flat for key in one.get("properties", {})]
        for one in flat:
            below = one.get("items") if isinstance(step, int) else one.get("properties", {}).get(step)
            below = one.get("additionalProperties") if below is None else below
            here += [below] if isinstance(below, dict) else []
    return []


def nearest(word: str, known: Sequence[str]) -> str:
    """`; did you mean …?`, or what there is to choose from when nothing is near; of many, the nearest five."""
    from rapidfuzz import fuzz, process

    best = process.extractOne(word, known, scorer=fuzz.ratio, score_cutoff=60)
    if best is not None:
        return f"; did you mean `{best[0]}`?"
    if len(known) > _SHOWN:
        some = [word for word, _, _ in process.extract(word, known, scorer=fuzz.ratio, limit=_NEAREST)]
        return f"; the nearest of {len(known):,} are: {', '.join(some)}"
    return f"; there are: {', '.join(known)}" if known else ""


def _type(value: Any) -> str:
    names = {
        dict: "a table",
        list: "an array",
        str: "text",
        bool: "true or false",
        int: "a number",
        float: "a number",
    }
    return names.get(type(value), type(value).__name__)
