"""Floor 3: one module per open format. A new format is one new module here that has a `FORMAT`; nothing else changes.

A format *reads* (values with where they stand) and, if people edit such files, *puts* (an entry to be set, as the
replacement of one span, every other character unchanged).
"""

from __future__ import annotations

import importlib
import pkgutil
from typing import cast

from hookset.core.formats.base import (
    AlreadyThere,
    Body,
    Clash,
    Document,
    Edit,
    Edits,
    Format,
    Misfit,
    NoSeat,
    Placement,
    Unreadable,
    Value,
    spliced,
)
from hookset.core.model import CouldNotError
from hookset.core.trees import Text, decode

__all__ = [
    "AlreadyThere",
    "Body",
    "Clash",
    "Document",
    "Edit",
    "Edits",
    "Format",
    "Misfit",
    "NoSeat",
    "Placement",
    "Unreadable",
    "Value",
    "format_named",
    "format_names",
    "spliced",
    "text_of",
]

_SUPPORT = {"base", "datapath"}


def text_of(form: Format, data: bytes, encodings: tuple[str, ...]) -> Text:
    """A file of a text format as text: by its byte order mark, by what it says of itself, or as the layout says.

    Raises CouldNotError when it is in none of these encodings, or larger than such files are.
    """
    if len(data) > form.largest:
        raise CouldNotError(
            f"is {len(data) >> 20} MB; {form.title} of more than {form.largest >> 20} MB is not read",
            why="nobody made such a file by hand, and what is in it would not be known for minutes",
            remedy="see what wrote it; a part of it may be repeated without end",
        )
    declared = form.declared_encoding(data)
    return decode(data, (declared, *encodings) if declared else encodings)


def format_names() -> tuple[str, ...]:
    """Every format there is, without importing any."""
    return tuple(sorted(m.name for m in pkgutil.iter_modules(__path__) if m.name not in _SUPPORT and m.name[0] != "_"))


def format_named(name: str) -> Format:
    """The format; imported when first asked for, since grammars and image readers cost start-up time.

    Raises KeyError for a name that no module has.
    """
    if name not in format_names():
        raise KeyError(name)
    return cast(Format, importlib.import_module(f"{__name__}.{name}").FORMAT)
