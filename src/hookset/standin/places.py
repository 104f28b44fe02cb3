"""Where things stand in a glTF scene: which gate a lever works, where players land, what they hear from there."""

from __future__ import annotations

import contextlib
import json
import math
import tomllib
from collections.abc import Iterator, Sequence
from typing import Any

from hookset.standin.content import Map
from hookset.standin.log import Line

__all__ = ["begin_places", "work"]

Point = tuple[float, float, float]
ZONES = "zones.toml"


def begin_places(loaded: Map) -> None:
    """Players land, one at each landing, and listen."""
    nodes = _nodes(loaded)
    places = dict(_places(nodes))
    landings = [(row, node) for row, node in enumerate(nodes) if _extras(node).get("class") == "landing"]
    taken: dict[Point, str] = {}
    zones = list(_zones(loaded))
    for number, (row, node) in enumerate(landings, 1):
        key = str(_extras(node).get("key", node.get("name", "?")))
        at = places.get(row)
        if at is None:
            continue
        line = loaded.line_of(loaded.scene, key)
        if at in taken:
            loaded.log.error(f"player {number} lands in the one at {taken[at]!r}", loaded.scene, line)
        elif zones and not any(_within(zone, at) for zone in zones):
            loaded.log.error(f"player {number} lands at {key!r} and falls out of the map", loaded.scene, line)
        else:
            loaded.log.add(Line("landed", f"player {number} at {key}", name=key))
            _listen(loaded, number, at, nodes, places)
        taken.setdefault(at, key)


def _listen(loaded: Map, player: int, ear: Point, nodes: Sequence[dict[str, Any]], places: dict[int, Point]) -> None:
    for row, node in enumerate(nodes):
        extras, at = _extras(node), places.get(row)
        reach = extras.get("reach")
        if extras.get("class") == "sound-source" and at is not None and isinstance(reach, int | float):
            key = str(extras.get("key", "?"))
            if math.dist(ear, at) <= reach:
                loaded.log.add(Line("heard", f"player {player} hears {key}", name=key, to=str(extras.get("sound", ""))))


def work(loaded: Map, key: str) -> None:
    """An object was used: what it is tied to moves."""
    target = loaded.objects.get(key, {}).get("extras", {}).get("target")
    if target in loaded.objects:
        loaded.log.add(Line("worked", f"{key} works {target}", name=key, to=str(target)))


def _zones(loaded: Map) -> Iterator[list[tuple[float, float]]]:
    """The outlines of where players can be."""
    if ZONES not in loaded.files:
        return
    try:
        zones = tomllib.loads(loaded.files[ZONES].decode("utf-8")).get("zone", [])
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as error:
        loaded.log.error(f"cannot be read: {error}", ZONES)
        return
    for zone in zones:
        if zone.get("means") == "playable":
            with contextlib.suppress(TypeError, ValueError, KeyError):
                yield [(float(x), float(z)) for x, z in zone["outline"]]


def _within(outline: Sequence[tuple[float, float]], at: Point) -> bool:
    """Whether a ray from a place crosses the outline an odd number of times."""
    x, _, z = at
    inside = False
    for (x0, z0), (x1, z1) in zip(outline, [*outline[1:], outline[0]], strict=True):
        if (z0 > z) != (z1 > z) and x < x0 + (z - z0) / (z1 - z0) * (x1 - x0):
            inside = not inside
    return inside


def _nodes(loaded: Map) -> list[dict[str, Any]]:
    """All nodes of the scene, by their numbers."""
    try:
        nodes = json.loads(loaded.files.get(loaded.scene, b"{}")).get("nodes", [])
    except (ValueError, AttributeError):
        return []
    return [node if isinstance(node, dict) else {} for node in nodes] if isinstance(nodes, list) else []


def _extras(node: dict[str, Any]) -> dict[str, Any]:
    extras = node.get("extras")
    return extras if isinstance(extras, dict) else {}


def _places(nodes: Sequence[dict[str, Any]]) -> Iterator[tuple[int, Point]]:
    """By number: where a node stands in the map. What stands in another node stands by its place and turn."""
    outer = {child: number for number, node in enumerate(nodes) for child in _children(node)}
    for number, node in enumerate(nodes):
        at, seen = _vector(node), {number}
        above = outer.get(number)
        while at is not None and above is not None and above not in seen and above < len(nodes):
            seen.add(above)
            around = _vector(nodes[above])
            if around is None:
                break
            turned = _turned(_numbers(nodes[above].get("rotation"), 4), at)
            at = (around[0] + turned[0], around[1] + turned[1], around[2] + turned[2])
            above = outer.get(above)
        if at is not None:
            yield number, at


def _children(node: dict[str, Any]) -> list[int]:
    children = node.get("children", [])
    return [one for one in children if isinstance(one, int)] if isinstance(children, list) else []


def _numbers(value: Any, count: int) -> list[float] | None:
    whole = isinstance(value, list) and len(value) == count and all(isinstance(one, int | float) for one in value)
    return [float(one) for one in value] if whole else None


def _vector(node: dict[str, Any]) -> Point | None:
    numbers = _numbers(node.get("translation", [0.0, 0.0, 0.0]), 3)
    return (numbers[0], numbers[1], numbers[2]) if numbers is not None else None


def _turned(quaternion: list[float] | None, at: Point) -> Point:
    """A point turned by a unit quaternion x, y, z, w."""
    if quaternion is None:
        return at
    x, y, z, w = quaternion
    a, b, c = at
    ix, iy, iz, iw = w * a + y * c - z * b, w * b + z * a - x * c, w * c + x * b - y * a, -x * a - y * b - z * c
    return (
        ix * w - iw * x - iy * z + iz * y,
        iy * w - iw * y - iz * x + ix * z,
        iz * w - iw * z - ix * y + iy * x,
    )
