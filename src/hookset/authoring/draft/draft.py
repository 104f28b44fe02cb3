"""A draft: the hook sheet that a pack turns out to need, with the reason for each of its lines."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from hookset.authoring.draft.coverage import CoveredLine, Fate
from hookset.authoring.draft.found.placing import Left
from hookset.packs import HookSheet

__all__ = ["Draft", "Reason"]


@dataclass(frozen=True, slots=True)
class Reason:
    """Why something stands in a draft."""

    sure: bool
    why: str
    """`README.md:12`, or in words."""
    doubts: tuple[str, ...] = ()
    """What the builder should look at."""


@dataclass(frozen=True)
class Draft:
    """A drafted hook sheet, with the reason for each of its entries."""

    sheet: HookSheet
    reasons: Mapping[tuple[str, int], Reason]
    """By the sheet's table and the number of the entry in it: ("hook", 3). ("pack", 0) for its head."""
    left: tuple[Left, ...]
    """Files that stay out."""
    decide: tuple[str, ...]
    """What the builder should decide, in words."""
    notes: tuple[str, ...]
    """The files that were read as notes."""
    heads: Mapping[str, str]
    """Where title, authors, version and licence were found."""
    lines: tuple[CoveredLine, ...] = ()
    """Every line of the notes, and what became of it."""
    missing: tuple[tuple[str, str], ...] = ()
    """(kind, name) of what the map would lack with the pack that it does not lack now."""

    @property
    def not_understood(self) -> tuple[CoveredLine, ...]:
        """Return the lines that tell somebody to do something, and of which nothing comes."""
        return tuple(line for line in self.lines if line.fate is Fate.NOT_UNDERSTOOD)

    @property
    def complete(self) -> bool:
        """Whether all of the notes was understood, nothing is unsure, and nothing would be missing."""
        return not (self.not_understood or self.unsure or self.missing)

    @property
    def unsure(self) -> int:
        """Count the entries that the drafter is unsure of."""
        return sum(not reason.sure for reason in self.reasons.values())

    def reason(self, table: str, index: int) -> Reason:
        """Return the reason for an entry of a table of the sheet, by its index."""
        return self.reasons.get((table, index), Reason(True, ""))
