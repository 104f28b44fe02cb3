"""What a map weighs: by pack and sort of file, and the heaviest files."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from typing import TYPE_CHECKING

from msgspec import Struct

from hookset.reports.figures.canvas import COLOURS, FAINT, INK, cut, new_figure
from hookset.reports.text.style import sized

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure
    from matplotlib.patches import Patch

__all__ = ["Weighed", "draw_weight", "sort_of"]

_ROWS = 14
_SORTS = 7


class Weighed(Struct, frozen=True):
    """One file of a map."""

    path: str
    size: int
    """Bytes."""
    pack: str
    """Which has brought it; empty for the map's own."""
    sort: str


def draw_weight(title: str, files: Sequence[Weighed]) -> Figure:
    """Two parts: a bar for each pack, made of its sorts of files, and the heaviest files."""
    figure = new_figure(12.8, 8.0)
    left, right = figure.subplots(1, 2, gridspec_kw={"width_ratios": [1, 1.15]})
    total = sum(one.size for one in files)
    figure.suptitle(
        f"{cut(title, 60)}: {sized(total)} in {len(files):,} files", fontsize=12, color=INK, x=0.01, ha="left"
    )
    sorts = [name for name, _ in _ranked((one.sort, one.size) for one in files)]
    colours = {name: COLOURS[index] for index, name in enumerate(sorts[:_SORTS])}
    packs = _ranked((one.pack or "the map's own", one.size) for one in files)
    shown = packs[:_ROWS]
    by_both: dict[tuple[str, str], int] = {}
    for one in files:
        key = (one.pack or "the map's own", one.sort if one.sort in colours else "others")
        by_both[key] = by_both.get(key, 0) + one.size
    names = [*colours, *(["others"] if len(sorts) > _SORTS else [])]
    for row, (pack, size) in enumerate(shown):
        begin = 0
        for name in names:
            part = by_both.get((pack, name), 0)
            left.barh(
                row, part, left=begin, color=colours.get(name, FAINT), height=0.62, label=name if not row else None
            )
            begin += part
        left.text(begin, row, f"  {sized(size)}", va="center", fontsize=8, color=INK)
    for name in names:
        left.barh(0, 0, color=colours.get(name, FAINT))
    _rows(
        left, [cut(pack, 26) for pack, _ in shown], "by pack and sort of file", _more(len(packs) - len(shown), "pack")
    )
    handles = [_patch(colours.get(name, FAINT), name) for name in names]
    left.legend(handles=handles, fontsize=8, frameon=False, loc="lower right", labelcolor=INK)
    heavy = sorted(files, key=lambda one: (-one.size, one.path))[:_ROWS]
    for row, one in enumerate(heavy):
        right.barh(row, one.size, color=colours.get(one.sort, FAINT), height=0.62)
        right.text(one.size, row, f"  {sized(one.size)}", va="center", fontsize=8, color=INK)
    _rows(right, [_end_of(one.path) for one in heavy], "the heaviest files", _more(len(files) - len(heavy), "file"))
    return figure


def _ranked(pairs: Iterable[tuple[str, int]]) -> list[tuple[str, int]]:
    sums: dict[str, int] = {}
    for name, size in pairs:
        sums[name] = sums.get(name, 0) + size
    return sorted(sums.items(), key=lambda one: (-one[1], one[0]))


def _more(count: int, word: str) -> str:
    return f"and {count:,} more {word}{'s' if count != 1 else ''}" if count > 0 else ""


def _end_of(path: str) -> str:
    """The end of a path tells files apart better than its beginning."""
    return path if len(path) <= 34 else f"…{path[-33:]}"


def _patch(colour: str, name: str) -> Patch:
    from matplotlib.patches import Patch

    return Patch(facecolor=colour, label=cut(name, 24))


def _rows(axes: Axes, names: Sequence[str], title: str, foot: str) -> None:
    from matplotlib.ticker import MultipleLocator

    axes.set_yticks(range(len(names)), names, fontsize=8, color=INK)
    axes.set_ylim(max(len(names), 8) - 0.4, -0.6)
    axes.set_title(title, fontsize=10, color=INK, loc="left")
    axes.set_xlabel(foot, fontsize=8, color=FAINT, loc="left")
    axes.xaxis.set_major_formatter(lambda size, _: sized(int(size)))
    axes.tick_params(axis="x", labelsize=7, colors=FAINT)
    axes.margins(x=0.16)
    longest = max(axes.get_xlim()[1], 4)
    axes.xaxis.set_major_locator(MultipleLocator(2.0 ** math.ceil(math.log2(longest / 5))))
    for side in ("top", "right"):
        axes.spines[side].set_visible(False)


_OF_ENDINGS: Mapping[str, tuple[str, ...]] = {
    "models": (".gltf", ".glb", ".obj", ".bin", ".fbx", ".dae", ".ply"),
    "pictures": (".png", ".jpg", ".jpeg", ".tga", ".dds", ".bmp", ".webp", ".ktx", ".ktx2", ".gif", ".svg"),
    "sounds": (".wav", ".ogg", ".mp3", ".flac", ".opus", ".aiff", ".m4a"),
    "scripts": (".lua", ".js", ".mjs", ".ts", ".py", ".luac"),
    "tables and texts": (".xml", ".json", ".toml", ".yaml", ".yml", ".ini", ".csv", ".txt", ".po", ".md", ".cfg"),
}


def sort_of(path: str) -> str:
    """What sort of file one is, by its ending."""
    ending = "." + path.rpartition(".")[2].lower() if "." in path.rpartition("/")[2] else ""
    return next((name for name, endings in _OF_ENDINGS.items() if ending in endings), "others")
