"""Positions, turns and sizes as one: 4 × 4 matrices that take the points of a thing to where they are."""

from __future__ import annotations

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

__all__ = ["Transform", "all_parted", "composed", "depths", "parted", "world_of"]

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]
_CLOSE = 1e-6


class Transform(Struct, frozen=True):
    """Where a thing is, how it is turned, and by what it is stretched."""

    at: Floats
    """(3,)"""
    turn: Floats
    """(3, 3)"""
    size: Floats
    """(3,)"""

    @property
    def matrix(self) -> Floats:
        """All of it in one, (4, 4)."""
        return np.asarray(composed(self.at[None], self.turn[None], self.size[None])[0])

    @classmethod
    def still(cls) -> Transform:
        """At the origin, not turned, not stretched."""
        return cls(np.zeros(3), np.eye(3), np.ones(3))


def composed(at: Floats, turns: Floats, sizes: Floats) -> Floats:
    """(n, 4, 4) of positions (n, 3), turns (n, 3, 3) and sizes (n, 3)."""
    made = np.zeros((len(at), 4, 4))
    made[:, :3, :3] = turns * sizes[:, None, :]
    made[:, :3, 3] = at
    made[:, 3, 3] = 1.0
    return made


def parted(matrix: Floats) -> Transform | None:
    """The position, turn and size that a (4, 4) is made of; None for one that is made otherwise: sheared, or flat."""
    turns, sizes, good = all_parted(matrix[None])
    return Transform(matrix[:3, 3].copy(), turns[0], sizes[0]) if good[0] else None


def all_parted(matrices: Floats) -> tuple[Floats, Floats, NDArray[np.bool_]]:
    """The turns (n, 3, 3) and sizes (n, 3) that n matrices (n, 4, 4) are made of, and which are made so: neither
    sheared nor flat. Of the others the turns and sizes mean nothing."""
    inner = matrices[:, :3, :3]
    sizes = np.linalg.norm(inner, axis=1)
    good = np.isfinite(matrices).all(axis=(1, 2)) & (sizes >= 1e-12).all(axis=1)
    inner, sizes = np.where(good[:, None, None], inner, np.eye(3)), np.where(good[:, None], sizes, 1.0)
    # A mirrored thing: one of its sizes is below 0.
    sizes[np.linalg.det(inner / sizes[:, None, :]) < 0, 0] *= -1.0
    turns = inner / sizes[:, None, :]
    good &= np.isclose(turns @ turns.transpose(0, 2, 1), np.eye(3), atol=_CLOSE).all(axis=(1, 2))
    return turns, sizes, good


def depths(outer: Whole) -> tuple[Whole, list[int]]:
    """How deep each thing stands in others, by the index of the one around it (-1: none); and those that stand in
    themselves, by whatever way, which get depth 0. Linear in the number of things."""
    depth = np.where(outer < 0, 0, -1)
    circles: list[int] = []
    for start in np.nonzero(outer >= 0)[0].tolist():
        way: list[int] = []
        at = start
        while at >= 0 and depth[at] == -1:
            depth[at] = -2
            way.append(at)
            at = int(outer[at])
        if at >= 0 and depth[at] == -2:
            circle = way[way.index(at) :]
            circles += circle
            depth[circle] = 0
            way = way[: len(way) - len(circle)]
        base = int(depth[at]) + 1 if at >= 0 else 0
        for step, one in enumerate(reversed(way)):
            depth[one] = base + step
    return depth, circles


def world_of(local: Floats, outer: Whole, depth: Whole) -> Floats:
    """The (n, 4, 4) of things in the space of the map, of those in the spaces of the things around them. Things of one
    depth are worked out together."""
    world = local.copy()
    order = np.argsort(depth, kind="stable")
    bounds = np.searchsorted(depth[order], np.arange(int(depth.max(initial=0)) + 2))
    for level in range(1, len(bounds) - 1):
        here = order[bounds[level] : bounds[level + 1]]
        world[here] = world[outer[here]] @ local[here]
    return world
