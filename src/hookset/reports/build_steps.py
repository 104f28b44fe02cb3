"""The steps of a build, as data."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from hookset.building.steps.carrying import Carried
    from hookset.building.steps.needed import Expected, Reason

__all__ = ["carried_data", "expected_data"]


def _reasons(reasons: Sequence[Reason]) -> list[dict[str, str]]:
    return [{"cause": one.cause.value, "file": one.path} for one in reasons]


def expected_data(found: Sequence[Expected]) -> list[dict[str, Any]]:
    """What a build would run."""
    return [
        {
            "step": one.step.entry.name,
            "runs": "yes" if one.reasons else "maybe" if one.waits_for else "no",
            "reasons": _reasons(one.reasons),
            "waits_for": list(one.waits_for),
            "seconds": one.seconds,
        }
        for one in found
    ]


def carried_data(done: Sequence[Carried]) -> list[dict[str, Any]]:
    """What became of each step."""
    return [
        {
            "step": one.step.entry.name,
            "ending": one.ending.value,
            "reasons": _reasons(one.reasons),
            "seconds": round(one.seconds, 2),
            "made": list(one.made),
            "gone": list(one.gone),
            "thrown_away": list(one.strayed),
            "stay": list(one.stay),
            "lines": [
                {"level": line.level, "text": line.text, "file": line.file, "line": line.line} for line in one.lines
            ],
        }
        for one in done
    ]
