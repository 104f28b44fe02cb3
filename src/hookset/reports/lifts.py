"""What was lifted, as data."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import msgspec

if TYPE_CHECKING:
    from hookset.authoring.lift import Closure, Donor, LiftedPack
    from hookset.authoring.lift.report import LiftReport

__all__ = ["lift_data"]


def lift_data(
    donor: Donor, lifted: Closure, made: LiftedPack, looked: LiftReport, written: Path | None
) -> dict[str, Any]:
    tree = donor.site.tree
    return {
        "pack": made.name,
        "donor": donor.name,
        "written": str(written) if written is not None else None,
        "files": [
            {"path": item.path, "size": tree.size(item.path), "because": item.because}
            for item in lifted.items.values()
            if item.piece is None
        ],
        "by_sort": [msgspec.to_builtins(row) for row in looked.along],
        "entries": [
            {
                "seat": one.seat_file.seat.name,
                "text": one.body.text,
                "record": one.body.record,
                "because": str(one.reason.why),
            }
            for one in made.entries
        ],
        "in_stock": [{"kind": kind, "name": name} for kind, name in lifted.stocked],
        "missing": [{"kind": kind, "name": name} for kind, name in lifted.missing],
        "left": [{"kind": kind, "name": name} for kind, name in lifted.left],
        "unsure": lifted.unsure,
        "by_link": [item.because for item in lifted.pieces if item.by_link],
        "differences": [msgspec.to_builtins(one) for one in looked.differs],
        "numbers_copied": [msgspec.to_builtins(one) for one in made.numbers],
        "left_behind": [
            {"kind": one.kind, "name": one.name, "path": one.path, "line": looked.lines.get((one.path, one.where), 0)}
            for one in lifted.behind
        ],
        "stops": list(looked.stops),
        "notes": list(made.notes),
    }
