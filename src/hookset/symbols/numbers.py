"""Ids that are numbers, and the next one that is free."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hookset.config.layouts import Kind
from hookset.model.digits import natural_number
from hookset.symbols.index import Index

__all__ = ["Ids", "ids_among", "ids_of"]


class Ids(Struct, frozen=True):
    """The ids of one kind that a map has taken."""

    taken: tuple[int, ...]
    others: tuple[str, ...]
    """Names of that kind that are no numbers."""
    next: str | None
    """As it is to be written; None when there is none left."""


def ids_of(kind: Kind, index: Index) -> Ids | None:
    """None for kinds of which the layout does not say that they are numbers. What the stock has is taken, too."""
    return None if kind.entry.numbers is None else ids_among(kind, index.names(kind.name))


def ids_among(kind: Kind, names: Sequence[str]) -> Ids | None:
    """The same for names that are known already."""
    entry = kind.entry.numbers
    if entry is None:
        return None
    taken = sorted({number for name in names if (number := natural_number(name)) is not None})
    others = tuple(name for name in names if natural_number(name) is None)
    if entry.free == "after-last":
        free = max([entry.first, *(number + 1 for number in taken)])
    else:
        there = set(taken)
        free = next(number for number in range(entry.first, entry.first + len(taken) + 1) if number not in there)
    if entry.last is not None and free > entry.last:
        return Ids(tuple(taken), others, None)
    return Ids(tuple(taken), others, str(free).zfill(entry.width))
