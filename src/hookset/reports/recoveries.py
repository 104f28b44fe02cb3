"""An interrupted change as data."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from hookset.applying import Interrupted, Recovery

__all__ = ["interrupted_data", "recovery_data"]


def interrupted_data(found: Interrupted | None) -> dict[str, Any]:
    """What an interrupted change has done so far; None where there is none."""
    if found is None:
        return {"interrupted": None}
    data = {"title": found.title, "begun": found.begun, "own": found.own}
    files = {"before": list(found.before), "after": list(found.after), "edited": list(found.edited)}
    return {"interrupted": data | {"files": files}}


def recovery_data(ended: Recovery | None) -> dict[str, Any]:
    """What became of it; None where nothing was ended."""
    if ended is None:
        return {"ended": None}
    return {
        "ended": {
            "title": ended.title,
            "ending": ended.ending.value,
            "edited": list(ended.edited),
            "aside": ended.aside,
        }
    }
