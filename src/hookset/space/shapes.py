"""Boxes, spheres, cylinders and outlines: what is in them, and how far they are."""

from __future__ import annotations

from typing import Literal

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace
from numpy.typing import NDArray

__all__ = ["Shape", "distance_to_line", "distance_to_outline", "in_outline"]

Floats = NDArray[np.float64]
Flags = NDArray[np.bool_]
_AT_ONCE = 4_000_000
"""Pairs of points and edges that are compared together: so much memory, whatever the number of points."""


class Shape(Struct, frozen=True, kw_only=True):
    """A part of space. Points are (n, 3); `up` is the index of the axis that goes up, None in maps without one."""

    form: Literal["box", "sphere", "cylinder", "outline"]
    at: Floats = field(default_factory=lambda: np.zeros(3))
    turn: Floats = field(default_factory=lambda: np.eye(3))
    half: Floats = field(default_factory=lambda: np.zeros(3))
    """Of a box: the halves of its lengths."""
    radius: float = 0.0
    low: float = -np.inf
    """Where a cylinder or an outline begins on the axis that goes up, and where it ends."""
    high: float = np.inf
    corners: Floats = field(default_factory=lambda: np.zeros((0, 2)))
    """Of an outline, seen from above."""
    up: int | None = 1

    @property
    def ground(self) -> tuple[int, int]:
        """The two axes along the ground."""
        first, second = (axis for axis in range(3) if axis != (2 if self.up is None else self.up))
        return first, second

    def moved(self, matrix: Floats) -> Shape | None:
        """The same where a (4, 4) takes it; None where that tilts or stretches it to what is no such shape."""
        linear = matrix[:3, :3]
        at = matrix[:3, :3] @ self.at + matrix[:3, 3]
        if self.form == "box":
            axes = linear @ self.turn
            lengths = np.linalg.norm(axes, axis=0)
            if not lengths.all() or not _across(axes / lengths):
                return None
            return replace(self, at=at, turn=axes / lengths, half=self.half * lengths)
        stretch = float(np.linalg.norm(linear[:, self.ground[0]]))
        if self.form == "sphere":
            alike = np.allclose(linear.T @ linear, np.eye(3) * stretch**2, atol=1e-9 * max(stretch, 1.0) ** 2)
            return replace(self, at=at, radius=self.radius * stretch) if alike else None
        return self._upright(matrix, at)

    def _upright(self, matrix: Floats, at: Floats) -> Shape | None:
        """A cylinder or an outline, which stay upright."""
        ground, linear = list(self.ground), matrix[:3, :3]
        up = 2 if self.up is None else self.up
        flat, rise = linear[np.ix_(ground, ground)], float(linear[up, up])
        leans = np.abs([*linear[ground, up], *linear[up, ground]]).max() > 1e-9 * max(
            float(np.abs(linear).max()), 1e-300
        )
        if leans and self.up is not None:
            return None
        low, high = sorted((self.low * rise, self.high * rise) if rise else (0.0, 0.0))
        low, high = low + matrix[up, 3], high + matrix[up, 3]
        if self.form == "outline":
            return replace(self, corners=self.corners @ flat.T + matrix[ground, 3], low=low, high=high)
        stretch = float(np.linalg.norm(flat[:, 0]))
        if not np.allclose(flat.T @ flat, np.eye(2) * stretch**2, atol=1e-9 * max(stretch, 1.0) ** 2):
            return None
        return replace(self, at=at, radius=self.radius * stretch, low=low, high=high)

    def holds(self, points: Floats) -> Flags:
        """Which points are in it, its edge included."""
        return np.asarray(self.distances(points) <= 1e-9)

    def distances(self, points: Floats) -> Floats:
        """How far each point is from it; 0 for those in it."""
        if self.form == "sphere":
            return np.asarray(np.maximum(np.linalg.norm(points - self.at, axis=1) - self.radius, 0.0))
        if self.form == "box":
            own = (points - self.at) @ self.turn
            beyond = np.maximum(np.abs(own) - self.half, 0.0)
            if self.up is None:
                beyond[:, 2] = 0.0
            return np.asarray(np.linalg.norm(beyond, axis=1))
        flat = points[:, list(self.ground)]
        if self.form == "cylinder":
            across = np.maximum(np.linalg.norm(flat - self.at[list(self.ground)], axis=1) - self.radius, 0.0)
        else:
            across = np.where(in_outline(self.corners, flat), 0.0, distance_to_outline(self.corners, flat))
        if self.up is None:
            return np.asarray(across)
        heights = points[:, self.up]
        above = np.maximum(np.maximum(self.low - heights, heights - self.high), 0.0)
        return np.asarray(np.hypot(across, above))

    def seen_from_above(self) -> Floats:
        """Its outline, (k, 2), for drawing it."""
        first, second = self.ground
        if self.form == "outline":
            return self.corners
        if self.form == "box":
            signs = np.array([[a, b, c] for a in (-1, 1) for b in (-1, 1) for c in (-1, 1)], dtype=float)
            return _hull((signs * self.half @ self.turn.T + self.at)[:, [first, second]])
        angles = np.linspace(0.0, 2 * np.pi, 49)[:-1]
        circle = np.stack([np.cos(angles), np.sin(angles)], axis=1) * self.radius
        return circle + self.at[[first, second]]


def _across(axes: Floats) -> bool:
    """Whether the columns of a (3, 3), each of length 1, stand at right angles to each other."""
    return np.allclose(axes.T @ axes, np.eye(3), atol=1e-9)


def in_outline(corners: Floats, points: Floats) -> Flags:
    """Which points, (n, 2), are within a closed line through the corners, (k, 2): those from which a ray crosses it an
    odd number of times."""
    inside = np.zeros(len(points), dtype=bool)
    if len(corners) < 3:
        return inside
    starts, ends = corners, np.roll(corners, -1, axis=0)
    for start in range(0, len(points), step := max(_AT_ONCE // len(corners), 1)):
        x, y = points[start : start + step, 0][:, None], points[start : start + step, 1][:, None]
        crosses = (starts[:, 1] > y) != (ends[:, 1] > y)
        rise = ends[:, 1] - starts[:, 1]
        at = starts[:, 0] + (y - starts[:, 1]) / np.where(rise == 0, 1.0, rise) * (ends[:, 0] - starts[:, 0])
        inside[start : start + step] = (crosses & (x < at)).sum(axis=1) % 2 == 1
    return inside


def distance_to_outline(corners: Floats, points: Floats) -> Floats:
    """How far points, (n, 2), are from a closed line through the corners."""
    return distance_to_line(np.vstack([corners, corners[:1]]), points)


def distance_to_line(line: Floats, points: Floats) -> Floats:
    """How far points, (n, d), are from a line through the points of `line`, (k, d)."""
    found = np.full(len(points), np.inf)
    if len(line) == 1:
        return np.asarray(np.linalg.norm(points - line[0], axis=1))
    starts, along = line[:-1], np.diff(line, axis=0)
    lengths = np.maximum((along**2).sum(axis=1), 1e-300)
    for start in range(0, len(points), step := max(_AT_ONCE // len(starts), 1)):
        part = points[start : start + step, None, :]
        share = np.clip(((part - starts) * along).sum(axis=2) / lengths, 0.0, 1.0)
        nearest = starts + share[..., None] * along
        found[start : start + step] = np.linalg.norm(part - nearest, axis=2).min(axis=1)
    return found


def _hull(points: Floats) -> Floats:
    """The corners around points, in order: the monotone chain of A. M. Andrew (1979)."""
    ordered = sorted(map(tuple, points))

    def half(chain: list[tuple[float, ...]]) -> list[tuple[float, ...]]:
        kept: list[tuple[float, ...]] = []
        for x, y in chain:
            while len(kept) > 1 and _cross(kept[-2], kept[-1], (x, y)) <= 0:
                kept.pop()
            kept.append((x, y))
        return kept[:-1]

    return np.array(half(ordered) + half(ordered[::-1]) or ordered)


def _cross(a: tuple[float, ...], b: tuple[float, ...], c: tuple[float, ...]) -> float:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
