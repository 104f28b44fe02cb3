"""Deliveries as data."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from hookset.building.delivery.delivery import Delivery
    from hookset.building.delivery.destinations import Destination
    from hookset.building.delivery.record import Deliveries, LookAt

__all__ = ["delivery_data", "destinations_data", "look_for_data"]


def destinations_data(destinations: Sequence[Destination]) -> list[dict[str, Any]]:
    return [{"name": one.name, "folder": one.folder, "layouts": list(one.layouts)} for one in destinations]


def delivery_data(done: Sequence[tuple[Destination, Delivery, tuple[str, ...]]], kept: Deliveries) -> dict[str, Any]:
    return {
        "delivered": [
            {
                "destination": target.name,
                "target": str(one.target),
                "same": one.same,
                "aside": [{"was": str(copy.was), "kept": str(copy.kept)} for copy in one.aside],
                "left": [str(file) for file in one.left],
                "open_in": list(holding),
            }
            for target, one, holding in done
        ],
        "look_for": look_for_data(kept.look_for),
    }


def look_for_data(found: Sequence[LookAt]) -> list[dict[str, Any]]:
    return [
        {"number": number, "pack": one.pack, "version": one.version, "says": one.says, "done": one.done}
        for number, one in enumerate(found, 1)
    ]
