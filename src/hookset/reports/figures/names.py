"""The names around a name: who refers to it, and what that which defines it refers to."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from typing import TYPE_CHECKING, Any, Literal

from msgspec import Struct

from hookset.config.layouts import Layout
from hookset.model import Where
from hookset.reports.figures.canvas import ALERT, COLOURS, FAINT, INK, cut, new_figure
from hookset.symbols import Analysis
from hookset.symbols.trace import Trace

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure
    from matplotlib.text import Text

__all__ = ["NameWeb", "Node", "draw_names", "name_web"]

_ROWS = 16
"""Names in a column; those of one kind and folder are put together where there are more."""


class Node(Struct, frozen=True):
    """A name, or several of one kind, in a column."""

    kind: str
    name: str
    side: str = ""
    count: int = 1
    missing: bool = False


class NameWeb(Struct, frozen=True):
    """A name, those who use it, and what it uses."""

    name: str
    kind: str
    files: tuple[str, ...]
    """Where it is defined."""
    users: tuple[Node, ...]
    used: tuple[Node, ...]


def name_web(analysis: Analysis, one: Trace) -> NameWeb:
    """What is around a name. Who refers to it is told by the file; what it refers to, by the name, and whether that is
    missing."""
    users = Counter((reference.path, reference.side) for reference in one.referred)
    used: Counter[tuple[str, str, str]] = Counter()
    for path in dict.fromkeys(definition.path for definition in one.defined):
        places = [definition.where for definition in one.defined if definition.path == path]
        whole = any(place == 0 for place in places)
        facts = next((facts for facts in analysis.web.files if facts.path == path), None)
        for block in facts.referred if facts is not None else ():
            for row, name in enumerate(block.names):
                if whole or any(_beside(block.where(row), place) for place in places):
                    used[block.kind, name, block.side] += 1
    lost = {(miss.reference.kind, miss.reference.name) for miss in analysis.resolutions.missing}
    return NameWeb(
        name=one.name,
        kind=one.kind,
        files=tuple(dict.fromkeys(definition.path for definition in one.defined)),
        users=_together(Node("file", path, side, count) for (path, side), count in users.most_common()),
        used=_together(
            Node(of, name, side, count, (of, name) in lost) for (of, name, side), count in used.most_common()
        ),
    )


def _beside(where: Where, place: Where) -> bool:
    """Whether two values stand in one record: keys of one object, attributes of one element."""
    if not isinstance(where, str) or not isinstance(place, str):
        return False
    if "@" in place:
        return where.partition("@")[0] == place.partition("@")[0]
    record = place.rpartition("/")[0]
    return bool(record) and where.startswith(f"{record}/")


def _together(nodes: Iterable[Node]) -> tuple[Node, ...]:
    """So many nodes as a column holds: the rest by kind and folder."""
    found = list(nodes)
    if len(found) <= _ROWS:
        return tuple(found)
    single = [one for one in found if one.missing][: _ROWS // 2]
    rest = [one for one in found if one not in single]
    groups: dict[tuple[str, str, str], list[Node]] = {}
    for one in rest:
        folder = one.name.rpartition("/")[0] if "/" in one.name else ""
        groups.setdefault((one.kind, folder, one.side), []).append(one)
    ranked = sorted(groups.items(), key=lambda pair: -len(pair[1]))
    made = [
        group[0] if len(group) == 1 else Node(kind, f"{len(group):,} in {folder or 'one place'}", side, len(group))
        for (kind, folder, side), group in ranked[: _ROWS - len(single) - 1]
    ]
    left = sum(len(group) for _, group in ranked[_ROWS - len(single) - 1 :])
    return (*single, *made, *((Node("", f"{left:,} more", "", left),) if left else ()))


def draw_names(layout: Layout, web: NameWeb) -> Figure:
    """Three columns: who refers to the name, the name, what it refers to."""
    rows = max(len(web.users), len(web.used), 3)
    figure = new_figure(12.8, min(max(2.2 + rows * 0.4, 4.0), 9.0))
    axes = figure.subplots()
    axes.set_axis_off()
    axes.set_xlim(0, 10)
    axes.set_ylim(-rows / 2 - 0.6, rows / 2 + 1.2)
    kinds = list(dict.fromkeys([web.kind, *(node.kind for node in (*web.users, *web.used) if node.kind)]))
    colours = {kind: COLOURS[index % len(COLOURS)] for index, kind in enumerate(kinds)}
    label = layout.kinds[web.kind].label if web.kind in layout.kinds else web.kind
    _heading(axes, 2.2, rows, f"who uses it ({sum(node.count for node in web.users):,})")
    _heading(axes, 5.0, rows, label)
    _heading(axes, 7.8, rows, f"what it uses ({sum(node.count for node in web.used):,})")
    middle = _box(axes, 5.0, 0.0, cut(web.name, 34), colours[web.kind], "center", strong=True)
    for index, file in enumerate([file for file in web.files if file != web.name][:2]):
        axes.text(5.0, -0.55 - 0.35 * index, cut(file, 40), fontsize=7, color=FAINT, ha="center", va="center")
    if not web.files:
        axes.text(5.0, -0.55, "not defined in this map", fontsize=7, color=FAINT, ha="center", va="center")
    _column(axes, layout, web.users, colours, middle, inwards=True)
    _column(axes, layout, web.used, colours, middle, inwards=False)
    for x, nodes, words in ((2.2, web.users, "nothing that can be read"), (7.8, web.used, "nothing")):
        if not nodes:
            axes.text(x, 0, words, fontsize=8, color=FAINT, ha="center", va="center")
    return figure


def _heading(axes: Axes, x: float, rows: int, words: str) -> None:
    axes.text(x, rows / 2 + 0.7, words, fontsize=9, color=FAINT, ha="center", va="center")


def _column(
    axes: Axes, layout: Layout, nodes: Sequence[Node], colours: Mapping[str, str], middle: Text, inwards: bool
) -> None:
    for index, node in enumerate(nodes):
        y = (len(nodes) - 1) / 2 - index
        colour = ALERT if node.missing else colours.get(node.kind, FAINT)
        kind = layout.kinds[node.kind].label if node.kind in layout.kinds else node.kind
        more = ", ".join(
            word for word in (kind, node.side, f"{node.count:,} times" if node.count > 1 and "more" not in node.name
                              and " in " not in node.name else "", "missing" if node.missing else "") if word
        )  # fmt: skip
        side: Literal["left", "right"] = "right" if inwards else "left"
        x = 3.1 if inwards else 6.9
        _box(axes, x, y, cut(node.name, 40), colour, side)
        axes.text(x, y - 0.36, more, fontsize=6.5, color=ALERT if node.missing else FAINT, ha=side, va="center")
        here = (x + 0.1 if inwards else x - 0.1, y)
        ends: dict[str, Any] = {"xy": (5.0, 0.0), "xytext": here} if inwards else {"xy": here, "xytext": (5.0, 0.0)}
        clipped = {"patchB" if inwards else "patchA": middle.get_bbox_patch()}
        axes.annotate(
            "", **ends,
            arrowprops={"arrowstyle": "-|>", "color": colour, "linewidth": 0.9, "alpha": 0.75, "shrinkA": 3,
                        "shrinkB": 3, **clipped},
        )  # fmt: skip


def _box(
    axes: Axes, x: float, y: float, words: str, colour: str, side: Literal["left", "center", "right"],
    strong: bool = False,
) -> Text:  # fmt: skip
    return axes.text(
        x, y, words, fontsize=10 if strong else 8, color="white" if strong else INK, ha=side, va="center",
        fontweight="bold" if strong else "normal",
        bbox={"boxstyle": "round,pad=0.35", "facecolor": colour if strong else "white", "edgecolor": colour},
    )  # fmt: skip
