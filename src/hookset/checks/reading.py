"""Values that checks ask of files themselves, over and above the names in them."""

from __future__ import annotations

from collections.abc import Iterator

from hookset.checks.declare import Case
from hookset.config.layouts.rules import ValueQuery
from hookset.formats import Document, Unreadable
from hookset.formats.base import Value
from hookset.formats.document import Writable
from hookset.model import CouldNotError, Where
from hookset.symbols.reading import open_document

__all__ = ["documents", "numbers", "values"]


def documents(case: Case, asked: ValueQuery) -> Iterator[tuple[str, Document]]:
    """The files that are meant, parsed. What cannot be read is told as that, where the file is judged."""
    for file in case.web.files:
        if asked.files.matches(file.path):
            try:
                yield file.path, open_document(case.web.tree, file.path, asked.rule)
            except (Unreadable, CouldNotError):
                continue


def values(case: Case, asked: ValueQuery) -> Iterator[tuple[str, Value]]:
    """What is known for sure of what was asked, with the file it stands in."""
    for path, document in documents(case, asked):
        for value in document.select(asked.selector):
            if not value.pattern:
                yield path, value


def numbers(case: Case, asked: ValueQuery) -> Iterator[tuple[str, Where, str]]:
    """The same for numbers, which some formats have besides texts: (path, where, as it is written)."""
    for path, document in documents(case, asked):
        if isinstance(document, Writable):
            found = document.places(asked.selector)
            yield from (
                (path, where, str(one)) for where, one in found if one is not None and not isinstance(one, bool)
            )
        else:
            yield from ((path, one.where, one.text) for one in document.select(asked.selector) if not one.pattern)
