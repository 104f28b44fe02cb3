"""What there is to report, whatever the format."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct

from hookset.model import Finding
from hookset.verdicts import Summary

__all__ = ["ReportInput", "SavedReport"]


class ReportInput(Struct, frozen=True):
    """A check's outcome."""

    name: str
    version: str
    layout: str
    time: str
    """UTC, ISO 8601."""
    verdict: Summary
    findings: tuple[Finding, ...]
    """Those that are told: all, or what is new since an earlier report."""
    look_for: tuple[tuple[str, str, bool], ...] = ()
    """What there is to be seen of each pack in the game: the pack with its version, what, and whether it was seen."""
    picture: str = ""
    """The map as SVG; marks of findings in it lead to `#finding-N`, by their number from 0. Empty for no picture."""


class SavedReport(Struct, frozen=True):
    """A format."""

    ending: str
    title: str
    written: Callable[[ReportInput], str]
    pictured: bool = False
    """Whether it has a place for a picture of the map."""
