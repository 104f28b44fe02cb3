"""One module per open format. A new format is one new module here that has a `FORMAT`; nothing else changes.

A format *reads* (values with where they stand) and, if people edit such files, *puts* (an entry to be set, as the
replacement of one span, every other character unchanged).
"""

from __future__ import annotations

import functools
import importlib
import pkgutil
from typing import TYPE_CHECKING, cast

from hookset.formats.base import (
    AlreadyThere,
    Body,
    Clash,
    Edit,
    Edits,
    ExistingEntry,
    NoSeat,
    Placement,
    Unreadable,
    Value,
    WrongBody,
    spliced,
)
from hookset.formats.document import Document
from hookset.formats.format import Format, Snippet
from hookset.formats.opening import is_kept, open_file, open_with_insertions, text_of

if TYPE_CHECKING:
    from importlib.metadata import EntryPoints

__all__ = [
    "AlreadyThere",
    "Body",
    "Clash",
    "Document",
    "Edit",
    "Edits",
    "ExistingEntry",
    "Format",
    "NoSeat",
    "Placement",
    "Snippet",
    "Unreadable",
    "Value",
    "WrongBody",
    "format_named",
    "format_names",
    "is_kept",
    "open_file",
    "open_with_insertions",
    "spliced",
    "text_of",
]

_SUPPORT = {"base", "datapath", "document", "format", "grammar", "opening", "parts", "pointers"}


ENTRY_POINTS = "hookset.formats"
"""Other packages add a format by an entry point in this group: its name, and the object that is the format."""


def format_names() -> tuple[str, ...]:
    """Every format there is, without importing any."""
    return tuple(sorted({*_own_names(), *(point.name for point in _entry_points())}))


def _entry_points() -> EntryPoints:
    # Imported here: it costs a fifth of the start-up, and hardly any layout needs it.
    from importlib.metadata import entry_points

    return entry_points(group=ENTRY_POINTS)


@functools.cache
def _own_names() -> frozenset[str]:
    names = (module.name for module in pkgutil.iter_modules(__path__))
    return frozenset(name for name in names if name not in _SUPPORT and not name.startswith("_"))


@functools.cache
def format_named(name: str) -> Format:
    """The format; imported when first asked for, since grammars and image readers cost start-up time.

    Raises KeyError for a name that no module and no entry point has.
    """
    if name in _own_names():
        return cast(Format, importlib.import_module(f"{__name__}.{name}").FORMAT)
    for point in _entry_points():
        if point.name == name:
            return cast(Format, point.load())
    raise KeyError(name)
