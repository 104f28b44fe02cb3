"""What a change to a watched map brought, as data."""

from __future__ import annotations

from typing import Any

from hookset.checks.watched import WatchedChange
from hookset.model import Severity
from hookset.reports.checked import finding_data
from hookset.verdicts import Summary

__all__ = ["watched_data"]


def watched_data(change: WatchedChange, summary: Summary) -> dict[str, Any]:
    """The files that changed, the findings that came and went, and how many there are now."""
    counts = {level.word: sum(one.severity is level for one in summary.findings) for level in Severity}
    return {
        "changed": list(change.paths),
        "came": [finding_data(one) for one in change.found.came],
        "went": [finding_data(one) for one in change.found.went],
        "errors": counts["error"],
        "warnings": counts["warning"],
        "notes": counts["note"],
        "references": summary.counts.references,
        "seconds": round(change.seconds, 3),
    }
