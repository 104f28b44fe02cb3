"""Maps of two tables: types of things, and where they stand."""

from __future__ import annotations

import csv
import re
from typing import Any

from hookset.standin.games.packed import Packed
from hookset.standin.log import Line

__all__ = ["play_shore"]

TYPES, PLACES, GROUPS = "tables/types.json", "tables/places.csv", "tables/groups.json"
_TURN = range(360)


def play_shore(packed: Packed) -> None:
    table = packed.json(TYPES) or {}
    groups = (packed.json(GROUPS) or {}).get("groups", [])
    owners: dict[str, Any] = {}
    for group in groups:
        name = str(group.get("group"))
        if name in owners:
            packed.error(f"two groups {name!r}", GROUPS, f'"{name}"', f'"{name}"')
        if "owner" not in group:
            packed.error(f"the group {name!r} has no owner", GROUPS, f'"{name}"')
        owners[name] = group.get("owner")
    types: dict[str, Any] = {}
    for entry in table.get("types", []):
        name = str(entry.get("type")).lower()
        if name in types:
            packed.error(f"two types {name!r}", TYPES, f'"{entry["type"]}"')
        types[name] = entry
        if entry.get("rank") not in table.get("ranks", []):
            packed.error(f"no rank {entry.get('rank')!r}", TYPES, f'"rank": "{entry.get("rank")}"')
        shape = str(entry.get("shape"))
        packed.model(f"shapes/{shape}.gltf", TYPES, f'"shape": "{shape}"')
        if "sound" in entry:
            packed.sound(f"sounds/{entry['sound']}.wav", TYPES, f'"sound": "{entry["sound"]}"')
            if not entry.get("reach", 0) > 0:
                packed.error(f"{name!r} is heard nowhere", TYPES, f'"sound": "{entry["sound"]}"')
    _place(packed, types, owners)


def _place(packed: Packed, types: dict[str, Any], owners: dict[str, Any]) -> None:
    rows = [line for line in packed.text(PLACES).splitlines() if not line.startswith("#")]
    shift = packed.text(PLACES).splitlines().index(rows[0]) + 1
    try:
        table = list(csv.DictReader(rows, delimiter=";", strict=True))
    except csv.Error as error:
        packed.error(f"cannot be read: {error}", PLACES, '"')
        return
    landed: dict[tuple[float, ...], int] = {}
    for number, row in enumerate(table, shift + 1):
        name = str(row.get("type")).lower()
        if name not in types:
            packed.log.error(f"no type {row.get('type')!r}", PLACES, number)
        for group in re.split(r"\s*\+\s*", row.get("group") or ""):
            if group and group not in owners:
                packed.log.error(f"no group {group!r}", PLACES, number)
        try:
            at = tuple(float(row[key]) for key in ("x", "y", "z"))
            if int(float(row["turn"])) not in _TURN:
                raise ValueError(f"no turn: {row['turn']!r}")
        except (TypeError, ValueError) as error:
            packed.log.error(f"cannot be placed: {error}", PLACES, number)
            continue
        packed.log.add(Line("placed", f"{name} at {row['x']}, {row['y']}, {row['z']}", PLACES, number, name=name))
        if name == "landing":
            player = len(landed) + 1
            if at in landed:
                packed.log.error(f"player {player} lands in player {landed[at]}", PLACES, number)
            packed.log.add(Line("landed", f"player {player} at {row['x']}, {row['y']}, {row['z']}", PLACES, number))
            landed[at] = player
