"""A map that was built."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from hookset.building.archive import Archive
from hookset.building.steps.carrying import Carried
from hookset.checks import Verdict
from hookset.project import Ledger

__all__ = ["Built"]


class Built(Struct, frozen=True):
    """An archive, and what it was made of."""

    archive: Archive
    file: Path
    packed: int
    """How many members were packed; the others are as they were."""
    verdict: Verdict
    ledger: Ledger
    steps: tuple[Carried, ...]
