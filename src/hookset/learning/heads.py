"""What files say at their top: those that say the same there are of one sort."""

from __future__ import annotations

import posixpath
from collections import Counter
from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from hookset.formats import Document, format_named
from hookset.formats.document import records_of

__all__ = [
    "Records",
    "data_head",
    "keyed_head",
    "no_head",
    "number_head",
    "own_head",
    "section_head",
    "tags_of",
    "whole_of",
    "word_head",
    "xml_head",
]

_RECORDS = 4
"""Records of a table by names at least."""
_COMMON = 0.8
"""Of the records of a table: how many have the keys that are common to them."""
_HALF = 0.5
"""The same of keys further in, which are not written for programs."""
_NUMBERED = 12
"""Keys of a list in which each thing has a number."""
_FEW = 24
"""Keys that an object of settings may have at the top; one of more is a table by names."""


class Records(Struct, frozen=True):
    """What a table of records says at its top."""

    name: str
    """What its file is called."""
    common: frozenset[str]
    """The keys that its records have in common."""
    names: frozenset[str] = frozenset()
    """What its records are called."""


def no_head(_path: str, _document: Document) -> Any:
    """Nothing: all such files are of one sort."""
    return ""


def own_head(path: str, _document: Document) -> Any:
    """The file itself: each is a sort of its own."""
    return path


def word_head(_path: str, document: Document) -> Any:
    """The word that the first line begins with."""
    rows = getattr(document, "read", ())
    return rows[0].words[0] if rows and rows[0].words else ""


def whole_of(document: Document) -> Any:
    """All that a file of JSON-like data says; None where that is neither an object nor a list."""
    selector = format_named("json").selector(at="$")
    return next((record for _, record in records_of(document, selector)), None)


def data_head(path: str, document: Document) -> Any:
    """The keys that an object has which holds others; of a table by names what its records have in common."""
    whole = whole_of(document)
    if isinstance(whole, Mapping):
        common = _common(whole)
        if common:
            return Records(posixpath.basename(path), common, frozenset(map(str, whole)))
        inner = tuple(sorted(str(key) for key, value in whole.items() if isinstance(value, Mapping | list)))
        return inner if 0 < len(inner) <= _FEW and len(inner) * 2 >= len(whole) else "object"
    return "list" if isinstance(whole, list) else "value"


def keyed_head(path: str, document: Document) -> Any:
    """The same of keys that others stand below, further in: what those have in common, or what the outermost are."""
    entries = getattr(document, "entries", ())
    records = [{one.word.text for one in entry.inside} for entry in entries if entry.inside]
    if len(records) >= _RECORDS and 2 * len(records) > len(entries):
        often = Counter(word for record in records for word in record)
        common = frozenset(key for key, count in often.items() if count >= _HALF * len(records))
        return Records(posixpath.basename(path), common)
    return tuple(sorted({entry.word.text for entry in entries}))[:_FEW]


def number_head(_path: str, document: Document) -> Any:
    """Whether the keys of a file are numbers: of things, of which each has another."""
    numbers = [pair.key.isdecimal() for pair in getattr(document, "pairs", ())]
    return "numbers" if len(numbers) >= _NUMBERED and sum(numbers) >= _COMMON * len(numbers) else ""


def section_head(path: str, document: Document) -> Any:
    """What the sections of a file have in common that are records, each with a name of its own; nothing where they are
    not: such files are all of one sort."""
    keys: dict[str, set[str]] = {section.name: set() for section in getattr(document, "sections", ())}
    for pair in getattr(document, "pairs", ()):
        if pair.section:
            keys[pair.section].add(pair.key)
    often = Counter(key for record in keys.values() for key in record)
    shared = frozenset(key for key, count in often.items() if count >= _HALF * len(keys))
    if len(keys) < _RECORDS or len(keys) < len(getattr(document, "sections", ())) or not shared:
        return ""
    return Records(posixpath.basename(path), shared, frozenset(keys))


def _common(whole: Mapping[Any, Any]) -> frozenset[str]:
    """The keys that nearly all records of a table by names have; none for any other object."""
    records = [value for value in whole.values() if isinstance(value, Mapping) and value]
    if len(records) < _RECORDS or len(records) < len(whole):
        return frozenset()
    often = Counter(str(key) for record in records for key in record)
    return frozenset(key for key, count in often.items() if count >= _COMMON * len(records))


def tags_of(document: Document) -> frozenset[str]:
    """What the elements of a file in XML are called."""
    root = getattr(document, "root", None)
    return frozenset(str(one.tag) for one in root.iter()) if root is not None else frozenset()


def xml_head(_path: str, document: Document) -> Any:
    """What the outermost element is called."""
    root = getattr(document, "root", None)
    return "" if root is None else str(root.tag)
