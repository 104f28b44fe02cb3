"""Where things are: in the folder for their sort, on the ground."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.checks.reading import documents
from hookset.config.layouts.comparisons import GroundRule, PositionQuery
from hookset.formats.document import field_at, records_of
from hookset.model import Severity, Where
from hookset.model.digits import natural_number

__all__: list[str] = []

SHELVES = """
[kinds.shelf]
label = "folder of a sort"
[[read]]
files = "*/*.yaml"
format = "yaml"
defines = [{ kind = "shelf", at = "$.sort", name = "{value} in {parent}" }]
[[mirror]]
kind = "shelf"
"""
GROUND = """
[[read]]
files = ["ground.csv", "standing.csv"]
format = "csv"
[[ground]]
title = "things stand on the ground"
table = { file = "ground.csv", ask = { column = "x" }, x = "x", y = "y", height = "height" }
things = [{ file = "standing.csv", ask = { column = "x" }, x = "x", y = "y", height = "height" }]
lowest = -0.5
highest = 0.5
"""

_NUMBER = re.compile(r"[-+]?(?:[0-9]+(?:[.][0-9]*)?|[.][0-9]+)(?:[eE][-+]?[0-9]+)?")


@check(
    code="wrong-folder",
    title="Something lies in another folder than the base game's own of its sort",
    severity=Severity.WARNING,
    why="the game looks for things of a sort in the folders where it keeps its own",
    remedy="move it there, with what belongs to it",
    example=Example(
        fails={"sheds/post.yaml": "sort: post\n"},
        passes={"posts/post.yaml": "sort: post\n"},
        layout=SHELVES,
        stock={"shelf": ("post in posts", "shed in sheds")},
    ),
)
def wrong_folder(case: Case) -> Iterable[UnplacedFinding]:
    for mirror in case.layout.mirrors:
        known: dict[str, set[str]] = {}
        for name in case.web.stock.names(mirror.kind):
            sort, between, folder = name.rpartition(mirror.between)
            if between:
                known.setdefault(sort, set()).add(folder)
        for definition in (d for group in case.index.groups(mirror.kind).values() for d in group):
            sort, _, folder = definition.name.rpartition(mirror.between)
            if folder in known.get(sort, set()) or (sort not in known and not (mirror.closed and known)):
                continue
            if sort in known:
                there = " or ".join(f"`{one}`" for one in sorted(known[sort]))
                message = f"`{sort}` lies in `{folder}` here; the game keeps its own in {there}"
            else:
                message = f"the game has nothing of the sort `{sort}`; there are {', '.join(sorted(known))}"
            yield UnplacedFinding(
                path=definition.path,
                where=definition.where,
                message=message,
                why=mirror.why,
                remedy="" if sort in known else "write one of these sorts",
                kind=mirror.kind,
                name=definition.name,
            )


@dataclass(frozen=True, slots=True)
class _Point:
    path: str
    where: Where
    x: float
    y: float
    height: float


@check(
    code="off-the-ground",
    title="Something floats above the ground or lies under it",
    severity=Severity.WARNING,
    loaded=True,
    why="players cannot see it or reach it",
    remedy="correct its height, or the table of heights",
    example=Example(
        fails={"ground.csv": "x,y,height\n0,0,1\n8,0,3\n", "standing.csv": "x,y,height\n4,0,7\n"},
        passes={"ground.csv": "x,y,height\n0,0,1\n8,0,3\n", "standing.csv": "x,y,height\n4,0,2\n"},
        layout=GROUND,
    ),
)
def off_the_ground(case: Case) -> Iterable[UnplacedFinding]:
    for rule in case.layout.grounds:
        table = list(_points(case, rule.table))
        if not table:
            continue
        ground = _Ground(table, rule.entry.between)
        for thing in (point for standing in rule.things for point in _points(case, standing)):
            yield from _told(rule, thing, ground.at(thing.x, thing.y))


def _told(rule: GroundRule, thing: _Point, ground: float) -> Iterator[UnplacedFinding]:
    above = thing.height - ground
    entry = rule.entry
    if (entry.lowest is None or above >= entry.lowest) and (entry.highest is None or above <= entry.highest):
        return
    side = f"{above:.2f} above" if above > 0 else f"{-above:.2f} under"
    yield UnplacedFinding(
        path=thing.path,
        where=thing.where,
        message=f"{entry.title}: at ({thing.x:g}, {thing.y:g}) the ground is at {ground:.2f}, and this is {side} it",
        why=entry.why,
        name=entry.title,
    )


class _Ground:
    """Heights at points. Where these make a whole grid, what lies between comes of its four corners, interpolated or
    as the layout says; else the nearest point counts."""

    def __init__(self, points: list[_Point], between: str) -> None:
        self._between = between
        self._heights = {(p.x, p.y): p.height for p in points}
        self._xs = sorted({p.x for p in points})
        self._ys = sorted({p.y for p in points})
        self._whole = len(self._heights) == len(self._xs) * len(self._ys)

    def at(self, x: float, y: float) -> float:
        if not self._whole:
            return min(self._heights.items(), key=lambda one: math.dist(one[0], (x, y)))[1]
        (x0, x1, across), (y0, y1, along) = _between(self._xs, x), _between(self._ys, y)
        corners = [self._heights[one, other] for one in (x0, x1) for other in (y0, y1)]
        if self._between != "interpolated":
            return min(corners) if self._between == "lowest" else max(corners)
        near = self._heights[x0, y0] * (1 - across) + self._heights[x1, y0] * across
        far = self._heights[x0, y1] * (1 - across) + self._heights[x1, y1] * across
        return near * (1 - along) + far * along


def _between(lines: list[float], at: float) -> tuple[float, float, float]:
    """The grid lines on both sides of a value, and how far it is from the first to the second."""
    at = min(max(at, lines[0]), lines[-1])
    upper = next(line for line in lines if line >= at)
    lower = max((line for line in lines if line <= at), default=upper)
    return lower, upper, (at - lower) / (upper - lower) if upper > lower else 0.0


def _points(case: Case, standing: PositionQuery) -> Iterator[_Point]:
    entry = standing.entry
    for path, document in documents(case, standing.asked):
        for where, record in records_of(document, standing.asked.selector):
            x, y, height = (_number(record, key) for key in (entry.x, entry.y, entry.height))
            if x is not None and y is not None and height is not None:
                at = field_at(document, where, entry.height.partition(" ")[0].split("/"))
                yield _Point(path, at, x, y, height)


def _number(record: Any, key: str) -> float | None:
    """The number that a key, the way to one, or the nth number in a text stands for; None when it is not there."""
    way, _, nth = key.partition(" ")
    value = record
    for step in way.split("/"):
        if isinstance(value, list):
            index = natural_number(step)
            value = value[index] if index is not None and index < len(value) else None
        else:
            value = value.get(step) if isinstance(value, dict) else None
    if isinstance(value, int | float) and not isinstance(value, bool):
        return float(value)
    numbers = _NUMBER.findall(value) if isinstance(value, str) else []
    wanted = natural_number(nth)
    index = 0 if wanted is None else wanted - 1
    return float(numbers[index]) if 0 <= index < len(numbers) else None
