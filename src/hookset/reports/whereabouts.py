"""Where things stand, as plain data."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hookset.config.layouts.placing import SpaceEntry
    from hookset.planning.queries.whereabouts import Whereabouts

__all__ = ["whereabouts_data"]


def whereabouts_data(space: SpaceEntry, found: Sequence[Whereabouts]) -> dict[str, Any]:
    return {
        "space": {"up": space.up, "hand": space.hand, "unit": space.unit},
        "things": [
            {
                "key": one.thing.key,
                "class": one.thing.class_,
                "of": one.thing.within,
                "group": one.thing.group,
                "placed_as": one.thing.rule.entry.name,
                "at": list(one.at),
                "turn": list(one.turn),
                "size": list(one.size),
                "reach": one.thing.reach,
                "inside": list(one.inside),
                "near": [{"name": near.called, "distance": round(near.distance, 6)} for near in one.near],
                "works_on": [
                    {"name": link.called, "distance": None if link.distance is None else round(link.distance, 6)}
                    for link in one.works_on
                ],
                "worked_on_by": list(one.worked_on_by),
                "pack": one.pack,
                "path": one.spot.path,
                "line": one.spot.line,
                "column": one.spot.column,
            }
            for one in found
        ],
    }
