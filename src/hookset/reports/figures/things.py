"""The things of a map in a figure: each by its class, what it reaches, what it works on, where it looks, its name."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from hookset.reports.figures.canvas import ALERT, FAINT, INK, Label
from hookset.reports.figures.frame import Frame, PlanView
from hookset.reports.figures.legend import Styles
from hookset.reports.figures.marks import on_things

if TYPE_CHECKING:
    from matplotlib.axes import Axes

__all__ = ["draw_things", "labels_of"]

Floats = NDArray[np.float64]
_DENSE = 2_500
"""Things from which on it is drawn how dense they are, instead of each."""


def draw_things(axes: Axes, view: PlanView, frame: Frame, styles: Styles) -> list[tuple[float, float]]:
    """Every thing; where they are very many, how dense they are, and only those that stand out."""
    things = view.scene.things
    paper = frame.of(things.at) if len(things) else np.zeros((0, 2))
    shown = _shown(view, frame, paper)
    out = [row for row in shown if _stands_out(view, row)]
    if len(shown) > _DENSE:
        from matplotlib.colors import LogNorm

        bins = axes.hexbin(
            paper[shown, 0], paper[shown, 1], gridsize=80, norm=LogNorm(vmin=0.3), mincnt=1, cmap="Greys", linewidths=0,
            zorder=1.2,
        )  # fmt: skip
        bar = axes.figure.colorbar(bins, ax=axes, shrink=0.5, pad=0.01)
        bar.set_label(f"things in a cell, {len(shown):,} in all", fontsize=8, color=FAINT)
        bar.ax.tick_params(labelsize=7, colors=FAINT)
        single = out[:_DENSE]
    else:
        single = shown
        _draw_reaches(axes, view, paper, shown)
        _draw_links(axes, view, paper, shown)
    for name, rows in _by_class(view, single, styles).items():
        colour, marker = styles.get(name, (FAINT, "."))
        scenery = not any(things.rows[row].key or things.rows[row].class_ for row in rows)
        axes.scatter(
            paper[rows, 0], paper[rows, 1], s=12 if scenery else 34, c=FAINT if scenery else colour, marker=marker,
            edgecolors="white", linewidths=0.6, zorder=4,
        )  # fmt: skip
    if out:
        axes.scatter(
            paper[out, 0], paper[out, 1], s=120, facecolors="none", edgecolors=ALERT, linewidths=1.4, zorder=4.5
        )
    _draw_facing(axes, view, frame, paper, single)
    return [(float(x), float(y)) for x, y in paper[single]]


def labels_of(view: PlanView, frame: Frame) -> list[Label]:
    things = view.scene.things
    paper = frame.of(things.at) if len(things) else np.zeros((0, 2))
    wrong = {row for row, _ in on_things(view)}
    found = []
    for row in _shown(view, frame, paper):
        thing = things.rows[row]
        if not thing.key:
            continue
        outstanding = _stands_out(view, row)
        weight = 3 * (row in wrong) + 2 * outstanding + bool(thing.links)
        if len(things) > _DENSE and not weight:
            continue
        x, y = (float(one) for one in paper[row])
        found.append(Label(thing.key, x, y, weight=weight, colour=ALERT if outstanding else INK, ringed=outstanding))
    return found


def _shown(view: PlanView, frame: Frame, paper: Floats) -> list[int]:
    """The rows of what stands in the part that is shown."""
    rows = view.scene.things.rows
    return [row for row in np.nonzero(frame.shows(paper))[0].tolist() if rows[row].placed] if rows else []


def _stands_out(view: PlanView, row: int) -> bool:
    return row in view.fresh or (bool(view.pack) and view.owners.get(row) == view.pack)


def _by_class(view: PlanView, rows: Sequence[int], styles: Styles) -> dict[str, list[int]]:
    found: dict[str, list[int]] = {}
    for row in rows:
        thing = view.scene.things.rows[row]
        name = thing.class_ or thing.rule.entry.name
        found.setdefault(name if name in styles else "others", []).append(row)
    return found


def _draw_reaches(axes: Axes, view: PlanView, paper: Floats, rows: Sequence[int]) -> None:
    from matplotlib.patches import Circle

    for row in rows:
        reach = view.scene.things.rows[row].reach
        if reach is not None and reach > 0:
            edge = ALERT if _stands_out(view, row) else "#777777"
            middle = (float(paper[row, 0]), float(paper[row, 1]))
            axes.add_patch(Circle(middle, reach, facecolor=edge, alpha=0.05, edgecolor="none", zorder=1.5))
            line = Circle(middle, reach, fill=False, edgecolor=edge, linewidth=0.8, linestyle=":", zorder=1.6)
            axes.add_patch(line)


def _draw_links(axes: Axes, view: PlanView, paper: Floats, rows: Sequence[int]) -> None:
    things = view.scene.things
    for row in rows:
        for link in things.rows[row].links:
            for other in things.linked(row, link.to)[:1]:
                axes.annotate(
                    "", xy=paper[other], xytext=paper[row], zorder=3, annotation_clip=True,
                    arrowprops={"arrowstyle": "-|>", "color": "#444444", "linewidth": 0.9, "shrinkA": 5, "shrinkB": 6,
                                "connectionstyle": "arc3,rad=0.12"},
                )  # fmt: skip


def _draw_facing(axes: Axes, view: PlanView, frame: Frame, paper: Floats, rows: Sequence[int]) -> None:
    """A tick from each thing that is turned, to where what looked north looks now."""
    things = view.scene.things
    turned = [row for row in rows if things.rows[row].turn_numbers is not None or row in things.whole]
    if view.side or not turned:
        return
    north = np.zeros(3)
    north[frame.up[0]] = frame.up[1]
    length = float((frame.high - frame.low).max()) * 0.018
    for row in turned:
        looks = frame.of((things.matrix(row)[:3, :3] @ north)[None])[0]
        far = float(np.hypot(*looks))
        if far > 1e-6:
            end = paper[row] + looks / far * length
            axes.plot([paper[row, 0], end[0]], [paper[row, 1], end[1]], color=INK, linewidth=1.0, zorder=3.9)
