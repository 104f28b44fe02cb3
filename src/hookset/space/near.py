"""What is near what."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["closest", "closest_others"]

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]
_FEW = 300
"""So many points are compared with each other directly: loading what searches better takes longer."""


def closest(points: Floats, others: Floats) -> tuple[Floats, Whole]:
    """For each point, (n, 3), how far the closest of the others is, and which; infinite and -1 for none."""
    if not len(others):
        return np.full(len(points), np.inf), np.full(len(points), -1, dtype=np.int64)
    if max(len(points), len(others)) <= _FEW:
        apart = np.linalg.norm(points[:, None] - others[None], axis=2)
        which = apart.argmin(axis=1)
        return apart[np.arange(len(points)), which], which.astype(np.int64)
    from scipy.spatial import KDTree

    distance, index = KDTree(others).query(points)
    return np.asarray(distance, dtype=np.float64), np.asarray(index, dtype=np.int64)


def closest_others(points: Floats, rows: Whole, others: Whole) -> tuple[Floats, Whole]:
    """For each of `rows` of the points, how far the closest of `others` is that is not itself, and its row; infinite,
    and -1, where there is none."""
    distances = np.full(len(rows), np.inf)
    which = np.full(len(rows), -1, dtype=np.int64)
    if not len(others):
        return distances, which
    if max(len(rows), len(others)) <= _FEW:
        apart = np.linalg.norm(points[rows][:, None] - points[others][None], axis=2)
        apart[rows[:, None] == others[None]] = np.inf
        index = apart.argmin(axis=1)
        distances = apart[np.arange(len(rows)), index]
        return distances, np.where(np.isfinite(distances), others[index], -1)
    from scipy.spatial import KDTree

    ranks = [1, 2][: len(others)]
    found, near = map(np.asarray, KDTree(points[others]).query(points[rows], k=ranks))
    for column in range(found.shape[1] - 1, -1, -1):
        named = others[near[:, column]]
        better = named != rows
        distances = np.where(better, found[:, column], distances)
        which = np.where(better, named, which)
    return distances, which
