"""Listings of changes: what they have new, and where."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

from msgspec import Struct

from hookset.authoring.draft.notes import Line

__all__ = ["Gap", "stretches_in"]


class Gap(Struct, frozen=True):
    """Where a listing has something new: between lines that stand in the file, or in place of some."""

    above: str
    below: str
    """Empty where the listing begins or ends there."""
    instead: tuple[Line, ...]
    """What goes for it."""
    first: int
    """The number of the first line of the listing."""


def stretches_in(listed: Sequence[Line]) -> Iterator[tuple[tuple[Line, ...], Gap]]:
    """The lines of each stretch that is new, with where it is; where nothing comes for what goes, the lines that go."""
    above = ""
    at = 0
    for stays, group in itertools.groupby(listed, key=lambda line: line.sign == " "):
        rows = list(group)
        at += len(rows)
        if stays:
            above = next((line.text for line in reversed(rows) if line.text.strip()), above)
            continue
        new, gone = (_trimmed([line for line in rows if line.sign == sign]) for sign in "+-")
        below = next((line.text for line in listed[at:] if line.text.strip()), "")
        gap = Gap(above, below if listed[at : at + 1] and listed[at].sign == " " else "", gone, listed[0].number)
        if new or gone:
            yield (new, gap) if new else (gone, gap)


def _trimmed(rows: list[Line]) -> tuple[Line, ...]:
    """Without empty lines at its ends."""
    said = [number for number, line in enumerate(rows) if line.text.strip()]
    return tuple(rows[said[0] : said[-1] + 1]) if said else ()
