"""The map as a place, seen from above or from the side: what stands where, in what, linked to what."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from hookset.reports.figures.canvas import FAINT, INK, cut, new_figure, set_labels
from hookset.reports.figures.frame import Frame, PlanView, frame_of
from hookset.reports.figures.land import draw_ground, draw_tracks, draw_volume
from hookset.reports.figures.legend import Styles, draw_legend, styles_of
from hookset.reports.figures.marks import SHOWN_FINDINGS, mark_findings, on_things
from hookset.reports.figures.things import draw_things, labels_of

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

__all__ = ["draw_plan"]


def draw_plan(views: Sequence[PlanView]) -> Figure:
    """One map, or the map before and after side by side, at the same scale."""
    frames = [frame_of(view) for view in views]
    low = np.min([frame.low for frame in frames], axis=0)
    high = np.max([frame.high for frame in frames], axis=0)
    wide, lines = (12.8 if len(views) == 1 else 16.0), max(len(on_things(view)) for view in views)
    # As high as the map is, with what stands around it; less wide where it is higher than wide.
    steep = float((high[1] - low[1]) / (high[0] - low[0])) / len(views)
    wide = min(wide, max(9.5 / steep + 2.6, 7.0))
    share = steep * (wide - 2.0)
    figure = new_figure(wide, min(max(share + 1.0, 4.8), 11.0) + 0.22 * min(lines, SHOWN_FINDINGS + 1))
    axes_of = figure.subplots(1, len(views), squeeze=False)[0]
    styles = styles_of(views)
    for axes, view, frame in zip(axes_of, views, frames, strict=True):
        _draw(axes, view, Frame(frame.right, frame.up, low, high), styles)
    draw_legend(figure, views, styles)
    return figure


def _draw(axes: Axes, view: PlanView, frame: Frame, styles: Styles) -> None:
    axes.set_xlim(frame.low[0], frame.high[0])
    axes.set_ylim(frame.low[1], frame.high[1])
    axes.set_aspect("equal")
    axes.set_title(cut(view.title, 90), fontsize=11, color=INK, loc="left")
    axes.tick_params(labelsize=7, colors=FAINT)
    for spine in axes.spines.values():
        spine.set_color("#CCCCCC")
    _name_axes(axes, view, frame)
    if not view.side:
        draw_ground(axes, view, frame)
        for volume in view.scene.volumes:
            draw_volume(axes, volume, frame)
        draw_tracks(axes, view, frame)
        _compass(axes)
    points = draw_things(axes, view, frame, styles)
    _scale(axes, view, frame)
    mark_findings(axes, view, frame)
    paper = frame.of(view.scene.things.at)
    badges = [(float(paper[row, 0]), float(paper[row, 1])) for row, _ in on_things(view)[:SHOWN_FINDINGS]]
    left_out = set_labels(axes, labels_of(view, frame), points, badges)
    if left_out:
        note = f"{left_out} name{'s' if left_out != 1 else ''} left out for want of room"
        axes.text(0.995, 0.008, note, transform=axes.transAxes, fontsize=7, color=FAINT, ha="right", va="bottom")


def _name_axes(axes: Axes, view: PlanView, frame: Frame) -> None:
    unit = view.scene.layout.positions.space.unit
    for (axis, sign), name in ((frame.right, axes.set_xlabel), (frame.up, axes.set_ylabel)):
        letter = f"{'−' if sign < 0 else ''}{'xyz'[axis]}"
        name(f"{letter} ({unit})" if unit else letter, fontsize=8, color=FAINT)
    # The numbers are those of the files.
    for (_, sign), one in ((frame.right, axes.xaxis), (frame.up, axes.yaxis)):
        if sign < 0:
            one.set_major_formatter(lambda number, _: f"{-number + 0.0:g}")
    axes.set_xlabel(axes.get_xlabel().replace("−", ""), fontsize=8, color=FAINT)
    axes.set_ylabel(axes.get_ylabel().replace("−", ""), fontsize=8, color=FAINT)


def _compass(axes: Axes) -> None:
    axes.annotate(
        "N", xy=(0.99, 1.075), xytext=(0.99, 1.02), xycoords="axes fraction", fontsize=9, color=INK, ha="center",
        va="center", arrowprops={"arrowstyle": "-|>", "color": INK, "linewidth": 1.2}, annotation_clip=False,
    )  # fmt: skip


def _scale(axes: Axes, view: PlanView, frame: Frame) -> None:
    """A bar of a round length."""
    width = float(frame.high[0] - frame.low[0])
    rough = width / 6
    step = 10.0 ** np.floor(np.log10(rough)) if rough > 0 else 1.0
    length = step * max(one for one in (1, 2, 5) if one * step <= rough)
    x, y = frame.low[0] + width * 0.02, frame.low[1] + float(frame.high[1] - frame.low[1]) * 0.025
    axes.plot([x, x + length], [y, y], color=INK, linewidth=2.2, solid_capstyle="butt", zorder=6)
    unit = view.scene.layout.positions.space.unit
    axes.annotate(
        f"{length:g} {unit}".strip(), (x + length / 2, y), xytext=(0, 3), textcoords="offset points", fontsize=7,
        ha="center", va="bottom", color=INK, zorder=6,
    )  # fmt: skip
