"""The map as a place, seen from above or from the side: what stands where, in what, linked to what."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from hookset.model import Finding
from hookset.reports.figures.canvas import (
    ALERT,
    BADGE_OFFSET,
    COLOURS,
    FAINT,
    INK,
    MARKERS,
    Label,
    cut,
    new_figure,
    set_labels,
)
from hookset.reports.figures.frame import Frame, PlanView, frame_of
from hookset.reports.figures.land import MEANINGS, OTHER_MEANING, draw_ground, draw_tracks, draw_volume

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

__all__ = ["draw_plan"]

Floats = NDArray[np.float64]
_DENSE = 2_500
"""Things from which on it is drawn how dense they are, instead of each."""
_CLASSES = len(COLOURS) * 2
_SHOWN_FINDINGS = 8


def draw_plan(views: Sequence[PlanView]) -> Figure:
    """One map, or the map before and after side by side, at the same scale."""
    frames = [frame_of(view) for view in views]
    low = np.min([frame.low for frame in frames], axis=0)
    high = np.max([frame.high for frame in frames], axis=0)
    wide, lines = (12.8 if len(views) == 1 else 16.0), max(len(_on_things(view)) for view in views)
    # As high as the map is, with what stands around it; less wide where it is higher than wide.
    steep = float((high[1] - low[1]) / (high[0] - low[0])) / len(views)
    wide = min(wide, max(9.5 / steep + 2.6, 7.0))
    share = steep * (wide - 2.0)
    figure = new_figure(wide, min(max(share + 1.0, 4.8), 11.0) + 0.22 * min(lines, _SHOWN_FINDINGS + 1))
    axes_of = figure.subplots(1, len(views), squeeze=False)[0]
    styles = _styles(views)
    for axes, view, frame in zip(axes_of, views, frames, strict=True):
        _draw(axes, view, Frame(frame.right, frame.up, low, high), styles)
    _legend(figure, views, styles)
    return figure


_Styles = Mapping[str, tuple[str, str]]


def _styles(views: Sequence[PlanView]) -> _Styles:
    """Colour and mark of each class, the same in all views; the rarest share one."""
    counts = Counter(
        thing.class_ or thing.rule.entry.name for view in views for thing in view.scene.things.rows if thing.placed
    )
    common = [name for name, _ in counts.most_common(_CLASSES)]
    return {name: (COLOURS[i % len(COLOURS)], MARKERS[i % len(MARKERS)]) for i, name in enumerate(common)}


def _draw(axes: Axes, view: PlanView, frame: Frame, styles: _Styles) -> None:
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
    points = _draw_things(axes, view, frame, styles)
    _scale(axes, view, frame)
    _mark_findings(axes, view, frame)
    paper = frame.of(view.scene.things.at)
    badges = [(float(paper[row, 0]), float(paper[row, 1])) for row, _ in _on_things(view)[:_SHOWN_FINDINGS]]
    left_out = set_labels(axes, _labels(view, frame), points, badges)
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


def _draw_things(axes: Axes, view: PlanView, frame: Frame, styles: _Styles) -> list[tuple[float, float]]:
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


def _shown(view: PlanView, frame: Frame, paper: Floats) -> list[int]:
    """The rows of what stands in the part that is shown."""
    rows = view.scene.things.rows
    return [row for row in np.nonzero(frame.shows(paper))[0].tolist() if rows[row].placed] if rows else []


def _stands_out(view: PlanView, row: int) -> bool:
    return row in view.fresh or (bool(view.pack) and view.owners.get(row) == view.pack)


def _by_class(view: PlanView, rows: Sequence[int], styles: _Styles) -> dict[str, list[int]]:
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


def _labels(view: PlanView, frame: Frame) -> list[Label]:
    things = view.scene.things
    paper = frame.of(things.at) if len(things) else np.zeros((0, 2))
    wrong = {row for row, _ in _on_things(view)}
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


def _on_things(view: PlanView) -> list[tuple[int, Finding]]:
    """Findings that are about a thing, by its row."""
    return [(row, finding) for row, finding, _ in _linked(view)]


def _linked(view: PlanView) -> list[tuple[int, Finding, str]]:
    """The same, with where the mark leads to."""
    things = view.scene.things
    found = []
    for number, finding in enumerate(view.findings):
        rows = [row for row in things.by_key.get(finding.name, ()) if things.rows[row].path == finding.spot.path]
        found += [(row, finding, view.links.get(number, "")) for row in rows[:1]]
    return found


def _mark_findings(axes: Axes, view: PlanView, frame: Frame) -> None:
    marked = _linked(view)
    paper = frame.of(view.scene.things.at) if len(view.scene.things) else np.zeros((0, 2))
    told = []
    for number, (row, finding, link) in enumerate(marked[:_SHOWN_FINDINGS], 1):
        mark = axes.annotate(
            str(number), paper[row], xytext=(-BADGE_OFFSET, BADGE_OFFSET), textcoords="offset points", fontsize=8,
            color="white", ha="center", va="center", zorder=6,
            bbox={"boxstyle": "circle,pad=0.18", "facecolor": ALERT, "edgecolor": "white"},
        )  # fmt: skip
        if link:
            mark.set_url(link)
        told.append(f"{number}  {finding.severity.word}: {cut(finding.message.replace('`', ''), 110)}")
    if len(marked) > _SHOWN_FINDINGS:
        told.append(f"    and {len(marked) - _SHOWN_FINDINGS} more")
    if told:
        words = "\n".join(told)
        axes.text(
            0, -0.09, words, transform=axes.transAxes, fontsize=8, color=ALERT, ha="left", va="top", linespacing=1.5
        )


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


def _legend(figure: Figure, views: Sequence[PlanView], styles: _Styles) -> None:
    from matplotlib.lines import Line2D
    from matplotlib.patches import Patch

    handles: list[Any] = []
    counts = Counter(t.class_ or t.rule.entry.name for t in views[-1].scene.things.rows if t.placed)
    scenery = {t.rule.entry.name for v in views for t in v.scene.things.rows if not t.class_ and not t.key}
    for name, (colour, marker) in styles.items():
        shade = FAINT if name in scenery else colour
        called = "of no class" if name in scenery else cut(name, 24)
        label = f"{called}  {counts[name]:,}" if counts[name] else called
        handles.append(
            Line2D([], [], marker=marker, color="none", markerfacecolor=shade, markeredgecolor="white", label=label)
        )
    if sum(counts.values()) > sum(counts[name] for name in styles):
        handles.append(Line2D([], [], marker=".", color="none", markerfacecolor=FAINT, label="others"))
    meanings = dict.fromkeys(volume.rule.entry.means for view in views for volume in view.scene.volumes)
    if not any(view.side for view in views):
        handles += (Patch(label=cut(one, 24), alpha=0.8, **MEANINGS.get(one, OTHER_MEANING)) for one in meanings)
        if any(view.scene.tracks for view in views):
            words = " · ".join(dict.fromkeys(track.rule.entry.means for view in views for track in view.scene.tracks))
            handles.append(Line2D([], [], color="#A79B86", linestyle="--", linewidth=1, label=cut(words, 24)))
    if any(thing.reach for view in views for thing in view.scene.things.rows):
        handles.append(Line2D([], [], color="#777777", linestyle=":", label="reach"))
    if any(thing.links for view in views for thing in view.scene.things.rows):
        handles.append(Line2D([], [], color="#444444", label="works on", marker=">", markersize=4, linewidth=0.9))
    packs = [f"set by {view.pack}" for view in views if view.pack] + ["new" for view in views if view.fresh]
    if packs:
        handles.append(
            Line2D([], [], marker="o", color="none", markersize=10, markerfacecolor="none", markeredgecolor=ALERT,
                   label=cut(packs[0], 24))
        )  # fmt: skip
    if handles:
        figure.legend(handles=handles, loc="outside right upper", fontsize=8, frameon=False, labelcolor=INK)
