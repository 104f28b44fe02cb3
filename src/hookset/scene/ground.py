"""How high the ground is."""

from __future__ import annotations

import math
import re
from bisect import bisect_left
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from hookset.config.layouts import Layout
from hookset.config.layouts.comparisons import PositionQuery
from hookset.formats import Unreadable
from hookset.formats.document import field_at, records_of
from hookset.model import CouldNotError, Where
from hookset.model.digits import natural_number
from hookset.symbols.reading import open_document
from hookset.trees import Tree

__all__ = ["Ground", "GroundPoint", "ground_of", "ground_points"]

_NUMBER = re.compile(r"[-+]?(?:[0-9]+(?:[.][0-9]*)?|[.][0-9]+)(?:[eE][-+]?[0-9]+)?")


@dataclass(frozen=True, slots=True)
class GroundPoint:
    """A place on the map, with a height."""

    path: str
    where: Where
    x: float
    y: float
    """Across the map, like x."""
    height: float


class Ground:
    """Heights at points. Where these make a whole grid, what lies between comes of its four corners, interpolated or
    as the layout says; else the nearest point counts."""

    def __init__(self, points: Iterable[GroundPoint], between: str) -> None:
        self._between = between
        self.heights = {(p.x, p.y): p.height for p in points}
        self.xs = sorted({x for x, _ in self.heights})
        self.ys = sorted({y for _, y in self.heights})
        self.whole = len(self.heights) == len(self.xs) * len(self.ys)

    def at(self, x: float, y: float) -> float:
        """The height at a place."""
        if not self.whole:
            return min(self.heights.items(), key=lambda one: math.dist(one[0], (x, y)))[1]
        (x0, x1, across), (y0, y1, along) = _lines(self.xs, x), _lines(self.ys, y)
        corners = [self.heights[one, other] for one in (x0, x1) for other in (y0, y1)]
        if self._between != "interpolated":
            return min(corners) if self._between == "lowest" else max(corners)
        near = self.heights[x0, y0] * (1 - across) + self.heights[x1, y0] * across
        far = self.heights[x0, y1] * (1 - across) + self.heights[x1, y1] * across
        return near * (1 - along) + far * along

    def covers(self, x: float, y: float) -> bool:
        """Whether a place lies between points of the table; beyond them the edge counts, and nobody knows."""
        return self.xs[0] <= x <= self.xs[-1] and self.ys[0] <= y <= self.ys[-1]


def _lines(lines: list[float], at: float) -> tuple[float, float, float]:
    """The grid lines on both sides of a value, and how far it is from the first to the second."""
    at = min(max(at, lines[0]), lines[-1])
    index = bisect_left(lines, at)
    upper = lines[index]
    lower = upper if upper == at else lines[index - 1]
    return lower, upper, (at - lower) / (upper - lower) if upper > lower else 0.0


def ground_of(tree: Tree, layout: Layout) -> Ground | None:
    """The first table of heights that the layout names and the map has; None where there is none."""
    for rule in layout.grounds:
        if table := list(ground_points(tree, rule.table)):
            return Ground(table, rule.entry.between)
    return None


def ground_points(tree: Tree, standing: PositionQuery) -> Iterator[GroundPoint]:
    """The places of a table, or of things; those with a number that cannot be read are left out."""
    entry, asked = standing.entry, standing.asked
    for path in tree.paths():
        if not asked.files.matches(path):
            continue
        try:
            document = open_document(tree, path, asked.rule)
        except (Unreadable, CouldNotError):
            continue
        for where, record in records_of(document, asked.selector):
            x, y, height = (_number(record, key) for key in (entry.x, entry.y, entry.height))
            if x is not None and y is not None and height is not None:
                at = field_at(document, where, entry.height.partition(" ")[0].split("/"))
                yield GroundPoint(path, at, x, y, height)


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
        return _finite(float(value))
    numbers = _NUMBER.findall(value) if isinstance(value, str) else []
    wanted = natural_number(nth)
    index = 0 if wanted is None else wanted - 1
    return _finite(float(numbers[index])) if 0 <= index < len(numbers) else None


def _finite(number: float) -> float | None:
    return number if math.isfinite(number) else None
