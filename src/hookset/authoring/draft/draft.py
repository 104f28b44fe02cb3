"""A draft: the hook sheet that a pack turns out to need, with the reason for each of its lines."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from hookset.authoring.draft.cites import Why
from hookset.authoring.draft.coverage import CoveredLine, Fate
from hookset.authoring.draft.decisions import Decision
from hookset.authoring.draft.found.placing import Left
from hookset.model import Finding
from hookset.packs import HookSheet

__all__ = ["Draft", "Reason"]


class Reason(Struct, frozen=True):
    """Why something stands in a draft."""

    sure: bool
    why: Why
    """The lines that ask for it, and words."""
    doubts: tuple[str, ...] = ()
    """What the builder should look at."""


class Draft(Struct, frozen=True):
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
    heads: Mapping[str, Why]
    """Where title, authors, version and licence were found."""
    lines: tuple[CoveredLine, ...] = ()
    """Every line of the notes, and what became of it."""
    decided: tuple[Decision, ...] = ()
    """What a builder decided."""
    findings: tuple[Finding, ...] = ()
    """What the check of the map would tell with the pack that it does not tell now."""
    stops: tuple[str, ...] = ()
    """What would keep the pack from being installed."""
    missing: tuple[tuple[str, str], ...] = ()
    """(kind, name) of what the map would lack with the pack that it does not lack now."""

    @property
    def not_understood(self) -> tuple[CoveredLine, ...]:
        """Return the lines that tell somebody to do something, and of which nothing comes."""
        return self.with_fate(Fate.NOT_UNDERSTOOD)

    def with_fate(self, fate: Fate) -> tuple[CoveredLine, ...]:
        """Return the lines of the notes of which this became."""
        return tuple(line for line in self.lines if line.fate is fate)

    @property
    def complete(self) -> bool:
        """Whether all of the notes was understood, nothing is unsure, no file of unknown place, and the check would
        tell nothing new."""
        open_files = any(not one.sure for one in self.left)
        return not (self.not_understood or self.unsure or self.missing or self.findings or self.stops or open_files)

    @property
    def unsure(self) -> int:
        """Count the entries that the drafter is unsure of."""
        return sum(not reason.sure for reason in self.reasons.values())

    def reason(self, table: str, index: int) -> Reason:
        """Return the reason for an entry of a table of the sheet, by its index."""
        return self.reasons.get((table, index), Reason(True, Why()))
