"""What all figures have in common: paper, colours, labels that keep apart, saving."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

from hookset.model import CouldNotError, WrongUseError
from hookset.model.visible import visible
from hookset.project import save_file

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

__all__ = ["COLOURS", "MARKERS", "Label", "cut", "figure_text", "new_figure", "save_figure", "set_labels"]

COLOURS = ("#0072B2", "#E69F00", "#009E73", "#CC79A7", "#56B4E9", "#8C6D1F", "#5B4A9E", "#3B3B3B")
"""People who see fewer colours can distinguish them, and so can everybody in print: after M. Okabe and K. Ito (2008),
with darker ones."""
ALERT = "#D55E00"
"""For what is wrong or new, and for nothing else."""
INK, FAINT, PAPER = "#222222", "#8A8A8A", "#FFFFFF"
MARKERS = ("o", "s", "^", "D", "v", "P", "X", "p", "h", "<", ">", "*")
BADGE_OFFSET = 9
"""Points to the left and upwards."""
_METADATA = re.compile(r"<metadata>.*?</metadata>", re.DOTALL)
_NAMESPACE = re.compile(r'\sxmlns(?::\w+)?="[^"]*"')
_FORMS = (".png", ".svg")
_LONGEST = 34
"""Letters of a label."""


def new_figure(wide: float, high: float) -> Figure:
    """An empty figure; lengths in inches, of which a PNG has 100 dots each."""
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.figure import Figure
    from matplotlib.layout_engine import ConstrainedLayoutEngine

    layout = ConstrainedLayoutEngine(w_pad=0.12, h_pad=0.08)
    figure = Figure(figsize=(wide, high), dpi=100, facecolor=PAPER, layout=layout)
    FigureCanvasAgg(figure)
    return figure


def cut(words: str, longest: int = _LONGEST) -> str:
    """A name as it can stand in a figure: nothing in it is a formula or takes hold of the page, and it is not long."""
    plain = visible(words).replace("$", r"\$").replace("\n", " ")
    return plain if len(plain) <= longest else plain[: longest - 1] + "…"


def figure_text(figure: Figure) -> str:
    """A figure as SVG that can stand in a page: letters are drawn, so that nothing in a name is markup."""
    made = _rendered(figure, "svg").decode()
    made = _METADATA.sub("", made[made.index("<svg") :])
    # Within a page, SVG needs no names of its own for what it consists of.
    return _NAMESPACE.sub("", made).replace("xlink:href=", "href=")


def _rendered(figure: Figure, form: str) -> bytes:
    import matplotlib

    made = io.BytesIO()
    # The same figure has the same bytes.
    with matplotlib.rc_context({"svg.hashsalt": "hookset", "svg.fonttype": "path"}):
        metadata: dict[str, Any] = {"Date": None} if form == "svg" else {"Software": None}
        figure.savefig(made, format=form, metadata=metadata)
    return made.getvalue()


def save_figure(figure: Figure, file: Path) -> None:
    """Write a figure, all of it or nothing. Raises WrongUseError for an ending that is no picture's, CouldNotError
    where it cannot be written."""
    form = file.suffix.lower()
    if form not in _FORMS:
        raise WrongUseError(
            "wrong-ending",
            f"{file.name} is no picture that can be written",
            remedy=f"let its name end in {' or '.join(_FORMS)}",
        )
    try:
        save_file(file, _rendered(figure, form[1:]))
    except OSError as error:
        raise CouldNotError(
            "not-writable",
            "the figure cannot be written",
            where=str(file),
            why=error.strerror or "",
            remedy="name another place",
        ) from error


class Label:
    """A name beside a point."""

    def __init__(
        self, text: str, x: float, y: float, *, weight: int = 0, colour: str = INK, ringed: bool = False
    ) -> None:
        self.text, self.x, self.y, self.weight, self.colour = text, x, y, weight, colour
        self.gap = 11 if ringed else 7
        """Dots between the point and the name."""


_AROUND: tuple[
    tuple[float, float, Literal["left", "center", "right"], Literal["bottom", "center", "top"]], ...
] = ((1, 0, "left", "center"), (-1, 0, "right", "center"), (0, 1, "center", "bottom"), (0, -1, "center", "top"),
           (0.8, 0.8, "left", "bottom"), (-0.8, 0.8, "right", "bottom"), (0.8, -0.8, "left", "top"),
           (-0.8, -0.8, "right", "top"))  # fmt: skip


def set_labels(
    axes: Axes,
    labels: Sequence[Label],
    points: Sequence[tuple[float, float]],
    badges: Sequence[tuple[float, float]] = (),
    most: int = 120,
) -> int:
    """Set labels beside their points so that none lies on another one, on a point, on a badge above the left of one, or
    over the edge: the weightier first, each at the first free side. Returns how many found no room."""
    import numpy as np

    figure = axes.figure
    figure.canvas.draw()
    renderer = figure.canvas.get_renderer()  # type: ignore[attr-defined]
    frame = axes.get_window_extent(renderer)
    # Boxes of what is there already, in dots: one row each.
    dots = axes.transData.transform(np.array([*points, *badges], dtype=float).reshape(-1, 2))
    dots[len(points) :] += BADGE_OFFSET * figure.dpi / 72 * np.array([-1, 1])
    wide = np.where(np.arange(len(dots)) < len(points), 4, 9)[:, None]
    first = len(dots)
    taken = np.vstack([np.hstack([dots - wide, dots + wide]), np.empty((most, 4))])
    count, left_out = first, 0
    for label in sorted(labels, key=lambda one: -one.weight)[: most * 4]:
        if count - first >= most:
            break
        here = axes.transData.transform((label.x, label.y))
        words = axes.annotate(
            cut(label.text), (label.x, label.y), xytext=(0, 0), textcoords="offset points", fontsize=7,
            color=label.colour, zorder=5,
        )  # fmt: skip
        size = words.get_window_extent(renderer)
        for dx, dy, across, along in _AROUND:
            x0 = here[0] + dx * label.gap - {"left": 0, "center": size.width / 2, "right": size.width}[across]
            y0 = here[1] + dy * label.gap - {"bottom": 0, "center": size.height / 2, "top": size.height}[along]
            box = (x0 - 2, y0 - 1, x0 + size.width + 2, y0 + size.height + 1)
            inside = frame.x0 <= box[0] and box[2] <= frame.x1 and frame.y0 <= box[1] and box[3] <= frame.y1
            others = taken[:count]
            over = (others[:, 0] < box[2]) & (box[0] < others[:, 2]) & (others[:, 1] < box[3]) & (box[1] < others[:, 3])
            # Its own point lies beside it in any case.
            if inside and not over.any():
                words.set_position((dx * label.gap * 72 / figure.dpi, dy * label.gap * 72 / figure.dpi))
                words.set_horizontalalignment(across)
                words.set_verticalalignment(along)
                taken[count] = box
                count += 1
                break
        else:
            words.remove()
            left_out += 1
    return left_out + max(len(labels) - most * 4, 0)
