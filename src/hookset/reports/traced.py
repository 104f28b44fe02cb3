"""A name through the web, as plain data."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from hookset.config.layouts import Layout
    from hookset.model import Reference, Spot, Where
    from hookset.symbols import Trace

__all__ = ["trace_data"]


def trace_data(
    layout: Layout, name: str, found: Sequence[Trace], at: Mapping[tuple[str, Where], Spot]
) -> dict[str, Any]:
    def place(path: str, where: Where) -> dict[str, Any]:
        spot = at[path, where]
        return {"path": spot.path, "line": spot.line, "column": spot.column}

    def step(reference: Reference) -> dict[str, Any]:
        return place(reference.path, reference.where) | {"kind": reference.kind, "name": reference.name}

    return {
        "name": name,
        "kinds": [
            {
                "kind": one.kind,
                "label": layout.kinds[one.kind].label,
                "defined": [place(d.path, d.where) | {"side": d.side, "variant": d.variant} for d in one.defined],
                "in_stock": one.in_stock,
                "referred": [
                    place(r.path, r.where) | {"side": r.side, "built_at_run_time": r.pattern} for r in one.referred
                ],
                "loaded": one.loaded,
                "loaded_by": [step(reference) for reference in one.chain],
                "breaks": [step(reference) for reference in one.breaks],
            }
            for one in found
        ],
    }
