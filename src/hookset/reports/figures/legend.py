"""What colours and marks of a figure mean."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

from hookset.reports.figures.canvas import ALERT, COLOURS, FAINT, INK, MARKERS, cut
from hookset.reports.figures.frame import PlanView
from hookset.reports.figures.land import MEANINGS, OTHER_MEANING

if TYPE_CHECKING:
    from matplotlib.figure import Figure

__all__ = ["Styles", "draw_legend", "styles_of"]

_CLASSES = len(COLOURS) * 2
Styles = Mapping[str, tuple[str, str]]
"""Colour and mark by class."""


def styles_of(views: Sequence[PlanView]) -> Styles:
    """Colour and mark of each class, the same in all views; the rarest share one."""
    counts = Counter(
        thing.class_ or thing.rule.entry.name for view in views for thing in view.scene.things.rows if thing.placed
    )
    common = [name for name, _ in counts.most_common(_CLASSES)]
    return {name: (COLOURS[i % len(COLOURS)], MARKERS[i % len(MARKERS)]) for i, name in enumerate(common)}


def draw_legend(figure: Figure, views: Sequence[PlanView], styles: Styles) -> None:
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
