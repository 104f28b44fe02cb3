"""The steps of notes as data: what another program needs to ask somebody, or to decide."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

import msgspec

from hookset.reports.drafts import reason_data

if TYPE_CHECKING:
    from hookset.authoring.draft import Draft, Step

__all__ = ["steps_data"]


def steps_data(draft: Draft, steps: Sequence[Step], seats: Mapping[str, tuple[str, ...]]) -> list[dict[str, Any]]:
    """Each with its lines, what was drafted from them, and whether somebody has to decide. `seats` are those that a
    step's text can go to, by the step's name."""
    return [
        {
            "lines": one.name,
            "open": one.open,
            "text": [
                {
                    "notes": line.notes,
                    "line": line.number,
                    "text": line.text,
                    "fate": line.fate.value,
                    "code": line.code,
                }
                for line in one.lines
            ],
            "entries": [
                {
                    "table": table,
                    "entry": msgspec.to_builtins(getattr(draft.sheet, table)[index]),
                    **reason_data(draft.reason(table, index)),
                }
                for table, index in one.entries
            ],
            "seats": list(seats.get(one.name, ())),
            "decided": msgspec.to_builtins(one.decision) if one.decision is not None else None,
        }
        for one in steps
    ]
