"""A watched map: what it was like, and what each change brought."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.findings import findings_text, summary
from hookset.reports.text.style import blank, heading, plural, stacked

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rich.console import RenderableType

    from hookset.checks.watched import WatchedChange
    from hookset.model import Finding
    from hookset.verdicts import Summary

__all__ = ["begun_text", "changed_text"]

_PATHS = 3
_SHOWN = 12
"""Findings of one change that are shown whole; and gone ones, in a line each."""


def begun_text(title: str, now: Summary) -> RenderableType:
    """The map as it is when watching begins."""
    told = f"{plural(now.counts.files, 'file')}, {plural(now.counts.references, 'reference')}; Ctrl-C ends it"
    shown = [blank(), findings_text(now.findings, _SHOWN), blank()] if now.findings else []
    return stacked(heading(f"{title} is watched", told), *shown, _state(now))


def changed_text(change: WatchedChange, now: Summary) -> RenderableType:
    """What came, what went, what there is now."""
    paths = ", ".join(change.paths[:_PATHS])
    more = f" and {len(change.paths) - _PATHS:,} more" if len(change.paths) > _PATHS else ""
    parts: list[RenderableType] = [
        blank(),
        Text.assemble((f"{change.when:%H:%M:%S}", "dim"), "  ", (paths + more, "name"), f"  {change.seconds:.2f} s"),
    ]
    if change.found.came:
        parts.append(findings_text(change.found.came, _SHOWN))
    parts += _went(change.found.went)
    parts.append(_state(now))
    return stacked(*parts)


def _went(findings: Sequence[Finding]) -> list[RenderableType]:
    shown: list[RenderableType] = [
        Text.assemble(("gone", "good"), f"  {one.spot}  ", (one.message, "dim")) for one in findings[:_SHOWN]
    ]
    if len(findings) > _SHOWN:
        shown.append(Text(f"and {len(findings) - _SHOWN:,} more are gone", style="dim"))
    return shown


def _state(now: Summary) -> Text:
    """How many findings there are, or that there are none."""
    if not now.findings:
        counts = now.counts
        left = f", {counts.not_checkable:,} not checkable" if counts.not_checkable else ""
        return Text(f"All is well: {plural(counts.in_map + counts.in_stock, 'reference')} met{left}.", style="good")
    return summary(now.findings)
