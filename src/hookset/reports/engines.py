"""What an engine and the check say of a map, as data."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from hookset.reports.checked import finding_data

if TYPE_CHECKING:
    from hookset.building.engines.comparing import Compared
    from hookset.building.engines.running import EngineRun
    from hookset.building.logs import Trouble

__all__ = ["compared_data"]


def _trouble(one: Trouble) -> dict[str, Any]:
    return {"text": one.text, "name": one.name, "path": one.path, "line": one.line, "count": one.count,
            "pack": one.pack or None}  # fmt: skip


def compared_data(engine: str, done: EngineRun, beside: Compared) -> dict[str, Any]:
    """Who has found what."""
    return {
        "engine": engine,
        "seconds": round(done.seconds, 2),
        "wrong": done.wrong,
        "without_network": done.alone,
        "both": [
            {"finding": finding_data(finding), "engine": [_trouble(one) for one in troubles]}
            for finding, troubles in beside.both
        ],
        "follows": [_trouble(one) for one in beside.follows],
        "only_engine": [_trouble(one) for one in beside.only_engine],
        "only_check": [finding_data(finding) for finding in beside.only_check],
    }
