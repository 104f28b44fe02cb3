"""What files say at their top: those that say the same there are of one sort."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hookset.formats import Document, format_named
from hookset.formats.document import records_of

__all__ = ["data_head", "no_head", "own_head", "whole_of", "word_head", "xml_head"]

_FEW = 24
"""Keys that an object of settings may have at the top; one of more is a table by names."""


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


def data_head(_path: str, document: Document) -> Any:
    """The keys that an object has which holds others; of a list what its elements have in common."""
    whole = whole_of(document)
    if isinstance(whole, Mapping):
        inner = tuple(sorted(str(key) for key, value in whole.items() if isinstance(value, Mapping | list)))
        return inner if 0 < len(inner) <= _FEW and len(inner) * 2 >= len(whole) else "object"
    return "list" if isinstance(whole, list) else "value"


def xml_head(_path: str, document: Document) -> Any:
    """What the outermost element is called."""
    root = getattr(document, "root", None)
    return "" if root is None else str(root.tag)
