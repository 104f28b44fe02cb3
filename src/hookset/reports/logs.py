"""A game's log as data."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from hookset.building.logs import LogReport, Trouble

__all__ = ["log_data"]


def log_data(report: LogReport, shown: Sequence[Trouble]) -> dict[str, Any]:
    return {
        "errors": report.errors,
        "lines": report.lines,
        "compared": report.compared,
        "packs": [{"pack": pack or None, "errors": count} for pack, count in report.packs],
        "gone": list(report.gone),
        "beyond": report.beyond,
        "troubles": [
            {
                "level": one.level,
                "text": one.text,
                "kind": one.kind,
                "name": one.name,
                "path": one.path,
                "line": one.line,
                "count": one.count,
                "log_line": one.first,
                "new": one.new,
                "pack": one.pack or None,
                "blames": [
                    {"pack": blame.pack or None, "why": blame.why, "spot": str(blame.spot) if blame.spot else ""}
                    for blame in one.blames
                ],
            }
            for one in shown
        ],
    }
