"""The land of a map in a figure: heights, volumes, tracks."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from hookset.reports.figures.frame import Frame, PlanView, along_ground
from hookset.scene.ground import GroundGrid, ground_of
from hookset.scene.volumes import Volume

if TYPE_CHECKING:
    from matplotlib.axes import Axes

__all__ = ["MEANINGS", "OTHER_MEANING", "draw_ground", "draw_tracks", "draw_volume"]

Floats = NDArray[np.float64]
_MOST_LINES = 400
"""Lines of a grid of heights, either way, of which contours are made."""


def draw_ground(axes: Axes, view: PlanView, frame: Frame) -> None:
    ground = ground_of(view.scene.tree, view.scene.layout)
    if not isinstance(ground, GroundGrid) or len(ground.xs) < 2 or len(ground.ys) < 2:
        return
    columns, rows = (_some(len(lines)) for lines in (ground.xs, ground.ys))
    grid = np.array([[ground.height(column, row) for column in columns] for row in rows])
    if np.ptp(grid) == 0:
        return
    corners = np.array([[ground.xs[column], ground.ys[row]] for row in rows for column in columns], dtype=np.float64)
    paper = frame.flat(corners, min(frame.right[0], frame.up[0])).reshape(len(rows), len(columns), 2)
    lines = axes.contour(paper[..., 0], paper[..., 1], grid, levels=8, colors="#B9A98B", linewidths=0.7, zorder=1)
    axes.clabel(lines, fontsize=6, fmt="%g")


def _some(count: int) -> list[int]:
    """Lines of a fine grid, the first and the last among them: more of them nobody would see."""
    return sorted({round(one) for one in np.linspace(0, count - 1, min(count, _MOST_LINES))})


MEANINGS: Mapping[str, dict[str, Any]] = {
    "playable": {"facecolor": "none", "edgecolor": "#666666", "linestyle": (0, (6, 3)), "linewidth": 1.2},
    "forbidden": {"facecolor": "none", "edgecolor": "#B04A2F", "hatch": "xx", "linewidth": 0.8},
    "water": {"facecolor": "#DCEBF5", "edgecolor": "#7FB2D6", "linewidth": 0.8},
    "indoors": {"facecolor": "#EEE8DC", "edgecolor": "#A89878", "linewidth": 0.8},
}
OTHER_MEANING = {"facecolor": "none", "edgecolor": "#5B4A9E", "hatch": "..", "linewidth": 0.8}


def draw_volume(axes: Axes, volume: Volume, frame: Frame) -> None:
    from matplotlib.patches import Polygon

    corners = frame.flat(volume.shape.seen_from_above(), min(frame.right[0], frame.up[0]))
    if len(corners) < 3:
        return
    style = MEANINGS.get(volume.rule.entry.means, OTHER_MEANING)
    axes.add_patch(Polygon(corners, closed=True, zorder=0.5 + 0.1 * (style["facecolor"] == "none"), alpha=0.8, **style))


def draw_tracks(axes: Axes, view: PlanView, frame: Frame) -> None:
    for track in view.scene.tracks:
        line = frame.flat(along_ground(track.points, view.scene.up), min(frame.right[0], frame.up[0]))
        _wide_line(axes, line, track.width)


def _wide_line(axes: Axes, line: Floats, width: float) -> None:
    """A line as wide as it is in the map, with round corners."""
    from matplotlib.patches import Circle, Polygon

    for start, end in pairwise(line):
        along = end - start
        length = float(np.hypot(*along))
        across = np.array([-along[1], along[0]]) / length * width / 2 if length else np.zeros(2)
        if width:
            band = [start + across, end + across, end - across, start - across]
            axes.add_patch(Polygon(band, closed=True, facecolor="#E3DDD0", edgecolor="none", zorder=0.8))
    for x, y in line[1:-1] if width else ():
        axes.add_patch(Circle((x, y), width / 2, facecolor="#E3DDD0", edgecolor="none", zorder=0.8))
    axes.plot(line[:, 0], line[:, 1], color="#A79B86", linewidth=0.8, linestyle="--", zorder=0.9)
