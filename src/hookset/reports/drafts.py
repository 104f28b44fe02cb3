"""A draft as data."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import msgspec

from hookset.reports.checked import finding_data

if TYPE_CHECKING:
    from hookset.authoring.draft import Draft, Reason

__all__ = ["draft_data", "reason_data"]

_TABLES = ("needs", "excludes", "files", "value", "place", "hook", "setting", "claim", "blank")


def reason_data(reason: Reason) -> dict[str, Any]:
    """Why something stands in a draft."""
    return {"sure": reason.sure, "why": str(reason.why), "doubts": list(reason.doubts)}


def draft_data(draft: Draft, written: Path | None) -> dict[str, Any]:
    """Every entry with whether it is sure and why."""
    return {
        "pack": msgspec.to_builtins(draft.sheet.pack),
        "written": str(written) if written is not None else None,
        "notes": list(draft.notes),
        **{
            table: [
                {"entry": msgspec.to_builtins(entry), **reason_data(draft.reason(table, index))}
                for index, entry in enumerate(getattr(draft.sheet, table))
            ]
            for table in _TABLES
        },
        "left": [msgspec.to_builtins(one) for one in draft.left],
        "decide": list(draft.decide),
        "unsure": draft.unsure,
        "lines": [
            {"notes": one.notes, "line": one.number, "text": one.text, "fate": one.fate.value} for one in draft.lines
        ],
        "not_understood": len(draft.not_understood),
        "missing": [{"kind": kind, "name": name} for kind, name in draft.missing],
        "findings": [finding_data(one) for one in draft.findings],
        "stops": list(draft.stops),
        "complete": draft.complete,
    }
