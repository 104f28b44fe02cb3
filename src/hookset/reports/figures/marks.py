"""Findings in a figure: a number at each thing that one is about, and below what it says."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hookset.model import Finding
from hookset.reports.figures.canvas import ALERT, BADGE_OFFSET, cut
from hookset.reports.figures.frame import Frame, PlanView

if TYPE_CHECKING:
    from matplotlib.axes import Axes

__all__ = ["SHOWN_FINDINGS", "mark_findings", "on_things"]

SHOWN_FINDINGS = 8
"""So many are told by their words."""


def on_things(view: PlanView) -> list[tuple[int, Finding]]:
    """Findings that are about a thing, by its row."""
    return [(row, finding) for row, finding, _ in _linked(view)]


def _linked(view: PlanView) -> list[tuple[int, Finding, str]]:
    """The same, with where the mark leads to."""
    things = view.scene.things
    found = []
    for number, finding in enumerate(view.findings):
        rows = [row for row in things.by_key.get(finding.name, ()) if things.rows[row].path == finding.spot.path]
        found += [(row, finding, view.links.get(number, "")) for row in rows[:1]]
    return found


def mark_findings(axes: Axes, view: PlanView, frame: Frame) -> None:
    marked = _linked(view)
    paper = frame.of(view.scene.things.at) if len(view.scene.things) else np.zeros((0, 2))
    told = []
    for number, (row, finding, link) in enumerate(marked[:SHOWN_FINDINGS], 1):
        mark = axes.annotate(
            str(number), paper[row], xytext=(-BADGE_OFFSET, BADGE_OFFSET), textcoords="offset points", fontsize=8,
            color="white", ha="center", va="center", zorder=6,
            bbox={"boxstyle": "circle,pad=0.18", "facecolor": ALERT, "edgecolor": "white"},
        )  # fmt: skip
        if link:
            mark.set_url(link)
        told.append(f"{number}  {finding.severity.word}: {cut(finding.message.replace('`', ''), 110)}")
    if len(marked) > SHOWN_FINDINGS:
        told.append(f"    and {len(marked) - SHOWN_FINDINGS} more")
    if told:
        words = "\n".join(told)
        axes.text(
            0, -0.09, words, transform=axes.transAxes, fontsize=8, color=ALERT, ha="left", va="top", linespacing=1.5
        )
