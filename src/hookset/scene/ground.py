"""How high the ground is: by a table of heights, or by a picture of greys."""

from __future__ import annotations

import math
import re
from bisect import bisect_left
from collections.abc import Callable, Iterator, Sequence
from functools import cached_property
from typing import Any, Protocol

from msgspec import Struct

from hookset.config.layouts import Layout
from hookset.config.layouts.comparisons import GroundRule, PositionQuery
from hookset.config.layouts.schema import HeightsPictureEntry
from hookset.formats import Unreadable
from hookset.formats.document import field_at, records_of
from hookset.formats.picture import Greys, greys_of
from hookset.model import CouldNotError, Where
from hookset.model.digits import natural_number
from hookset.symbols.reading import open_document
from hookset.trees import Tree

__all__ = ["Ground", "GroundGrid", "GroundPoint", "HeightFault", "ground_by", "ground_of", "points_of"]

_NUMBER = re.compile(r"[-+]?(?:[0-9]+(?:[.][0-9]*)?|[.][0-9]+)(?:[eE][-+]?[0-9]+)?")


class GroundPoint(Struct, frozen=True):
    """A place on the map, with a height."""

    path: str
    where: Where
    x: float
    y: float
    """Across the map, like x."""
    height: float


class HeightFault(Struct, frozen=True):
    """What cannot be a height."""

    what: str
    """`number`, `hole`, `picture`."""
    path: str
    where: Where | None
    said: str


class Ground(Protocol):
    """How high it is at a place, each place two numbers along the ground."""

    def at(self, x: float, y: float) -> float:
        """The height at a place."""
        ...

    def covers(self, x: float, y: float) -> bool:
        """Whether a place lies between heights that are known; beyond them the edge counts, and nobody knows."""
        ...

    @property
    def extent(self) -> tuple[float, float, float, float]:
        """The least x and y of what is covered, and the most."""
        ...


class GroundGrid(Struct, frozen=True):
    """Heights along lines: what lies between comes of the four corners around it, interpolated or as the layout
    says."""

    xs: Sequence[float]
    """Rising."""
    ys: Sequence[float]
    height: Callable[[int, int], float]
    """Where the line of an x, by its index, meets the line of a y."""
    between: str

    @property
    def extent(self) -> tuple[float, float, float, float]:
        """The least x and y, and the most."""
        return self.xs[0], self.ys[0], self.xs[-1], self.ys[-1]

    def covers(self, x: float, y: float) -> bool:
        """Whether a place lies on the grid."""
        return self.xs[0] <= x <= self.xs[-1] and self.ys[0] <= y <= self.ys[-1]

    def at(self, x: float, y: float) -> float:
        """The height at a place; beyond the grid that of its edge."""
        (x0, x1, across), (y0, y1, along) = _lines(self.xs, x), _lines(self.ys, y)
        corners = [self.height(one, other) for one in (x0, x1) for other in (y0, y1)]
        if self.between != "interpolated":
            return min(corners) if self.between == "lowest" else max(corners)
        near = corners[0] * (1 - across) + corners[2] * across
        far = corners[1] * (1 - across) + corners[3] * across
        return near * (1 - along) + far * along


class _Scattered(Struct, frozen=True, dict=True):
    """Heights here and there: the nearest counts."""

    heights: dict[tuple[float, float], float]

    @cached_property
    def extent(self) -> tuple[float, float, float, float]:
        """The least x and y, and the most."""
        xs, ys = [x for x, _ in self.heights], [y for _, y in self.heights]
        return min(xs), min(ys), max(xs), max(ys)

    def covers(self, x: float, y: float) -> bool:
        """Whether a place lies among the points."""
        left, low, right, high = self.extent
        return left <= x <= right and low <= y <= high

    def at(self, x: float, y: float) -> float:
        """The height of the point that is nearest."""
        return min(self.heights.items(), key=lambda one: math.dist(one[0], (x, y)))[1]


def _lines(lines: Sequence[float], at: float) -> tuple[int, int, float]:
    """The indexes of the grid lines on both sides of a value, and how far it is from the first to the second."""
    at = min(max(at, lines[0]), lines[-1])
    upper = bisect_left(lines, at)
    lower = upper if lines[upper] == at else upper - 1
    return lower, upper, (at - lines[lower]) / (lines[upper] - lines[lower]) if upper > lower else 0.0


def ground_of(tree: Tree, layout: Layout) -> Ground | None:
    """The first ground that the layout names and the map has; None where there is none."""
    return next((ground for rule in layout.grounds if (ground := ground_by(tree, rule)[0]) is not None), None)


def ground_by(tree: Tree, rule: GroundRule) -> tuple[Ground | None, list[HeightFault]]:
    """The ground by one rule, and whatever in its table or picture cannot be."""
    faults: list[HeightFault] = []
    if rule.entry.picture is not None:
        return _pictured(tree, rule.entry.picture, rule.entry.between, faults), faults
    points = list(points_of(tree, rule.table, faults)) if rule.table is not None else []
    if not points:
        return None, faults
    heights = {(point.x, point.y): point.height for point in points}
    xs, ys = sorted({x for x, _ in heights}), sorted({y for _, y in heights})
    lacking = len(xs) * len(ys) - len(heights)
    if not lacking:
        return GroundGrid(xs, ys, lambda column, row: heights[xs[column], ys[row]], rule.entry.between), faults
    if min(len(xs), len(ys)) > 1 and 2 * lacking < len(heights):
        # More than chance lines so many points up: it is a grid, and these are gone.
        holes = [(x, y) for x in xs for y in ys if (x, y) not in heights]
        faults += (HeightFault("hole", points[0].path, None, f"{x:g}, {y:g}") for x, y in holes)
    return _Scattered(heights), faults


def _pictured(tree: Tree, entry: HeightsPictureEntry, between: str, faults: list[HeightFault]) -> GroundGrid | None:
    if not tree.has(entry.file):
        return None
    try:
        greys = greys_of(tree.read(entry.file))
    except Unreadable as error:
        faults.append(HeightFault("picture", entry.file, None, str(error)))
        return None
    xs, columns = _steps(entry.left, entry.right, greys.width)
    ys, rows = _steps(entry.top, entry.bottom, greys.height)
    return GroundGrid(xs, ys, _levels(greys, columns, rows, entry), between)


def _steps(first: float, last: float, count: int) -> tuple[list[float], range]:
    """Where the lines of a picture are, rising, and which line of the picture each of them is."""
    lines = [first + (last - first) * step / max(count - 1, 1) for step in range(count)]
    return (lines, range(count)) if last >= first else (lines[::-1], range(count - 1, -1, -1))


def _levels(greys: Greys, columns: range, rows: range, entry: HeightsPictureEntry) -> Callable[[int, int], float]:
    by = (entry.white - entry.black) / greys.most
    return lambda column, row: entry.black + by * greys.levels[rows[row] * greys.width + columns[column]]


def points_of(tree: Tree, standing: PositionQuery, faults: list[HeightFault] | None = None) -> Iterator[GroundPoint]:
    """The places of a table, or of things; those with a number that cannot be read are faults."""
    entry, asked = standing.entry, standing.asked
    for path in tree.paths():
        if not asked.files.matches(path):
            continue
        try:
            document = open_document(tree, path, asked.rule)
        except (Unreadable, CouldNotError):
            continue
        for where, record in records_of(document, asked.selector):
            numbers = [_number(record, key) for key in (entry.x, entry.y, entry.height)]
            x, y, height = numbers
            if x is not None and y is not None and height is not None:
                at = field_at(document, where, entry.height.partition(" ")[0].split("/"))
                yield GroundPoint(path, at, x, y, height)
            elif faults is not None:
                wrong = (entry.x, entry.y, entry.height)[numbers.index(None)]
                at = field_at(document, where, wrong.partition(" ")[0].split("/"))
                faults.append(HeightFault("number", path, at, wrong))


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
