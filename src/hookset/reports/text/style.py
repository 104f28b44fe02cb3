"""One look for everything that is printed."""

from __future__ import annotations

import io
import re
import sys
from typing import TYPE_CHECKING, TextIO

from rich.console import Console, ConsoleOptions, Group, RenderableType, RenderResult
from rich.segment import Segment
from rich.table import Table
from rich.text import Text
from rich.theme import Theme

from hookset.model.visible import visible

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from hookset.model import Severity

__all__ = [
    "blank",
    "columns",
    "heading",
    "marked",
    "plural",
    "section",
    "severity",
    "show",
    "sized",
    "stacked",
]

_THEME = Theme(
    {
        "error": "bold red",
        "warning": "bold yellow",
        "note": "bold blue",
        "good": "bold green",
        "name": "cyan",
        "dim": "bright_black",
        "title": "bold",
        "label": "bright_black",
        "added": "green",
        "removed": "red",
        "hunk": "cyan",
    }
)
_PIPE_WIDTH = 140
_WIDEST = 64
"""Columns before the last keep their width up to here, however narrow the terminal."""
_MARKED = re.compile(r"`([^`]+)`")


def show(renderable: RenderableType, stream: TextIO | None = None) -> None:
    """Print to standard output, or to `stream`. Away from a terminal the width is fixed, and lines end where their
    words end."""
    stream = stream or sys.stdout
    if stream.isatty():
        _console(stream, None).print(_Visible(renderable))
        return
    buffer = io.StringIO()
    _console(buffer, _PIPE_WIDTH).print(_Visible(renderable))
    stream.write("".join(f"{line.rstrip()}\n" for line in buffer.getvalue().splitlines()))
    stream.flush()


class _Visible:
    """What a pack, a map or a log says, without the characters that would take hold of the terminal."""

    def __init__(self, renderable: RenderableType) -> None:
        self.renderable = renderable

    def __rich_console__(self, console: Console, options: ConsoleOptions) -> RenderResult:
        for segment in console.render(self.renderable, options):
            yield segment if segment.control else Segment(visible(segment.text), segment.style)


def _console(stream: TextIO, width: int | None) -> Console:
    return Console(file=stream, theme=_THEME, highlight=False, markup=False, emoji=False, width=width)


def heading(title: str, *more: str) -> Text:
    """What this is about, and what else there is to know about it on the same line."""
    text = Text(title, style="title")
    for word in more:
        if word:
            text.append(f"  {word}", style="dim")
    return text


def marked(words: str, style: str = "") -> Text:
    """A sentence in which `names` stand out."""
    text = Text(words, style=style)
    for match in _MARKED.finditer(words):
        text.stylize("name", match.start(1), match.end(1))
    return text


def severity(level: Severity) -> Text:
    return Text(level.word, style=level.word)


def columns(rows: Iterable[Sequence[RenderableType]], *, indent: int = 2, clip: bool = False) -> Table:
    """Aligned columns. What is too long for the line goes on below, in the last column; `clip` cuts it instead."""
    rows = list(rows)
    table = Table.grid(padding=(0, 2, 0, 0), expand=clip)
    count = max((len(row) for row in rows), default=0)
    if not count:
        # A table that is to fill the line has to have something to fill it with.
        return Table.grid()
    if indent:
        table.add_column(width=indent - 2)
    for index in range(count):
        last = index == count - 1
        widest = max((_width(row[index]) for row in rows if index < len(row)), default=0)
        table.add_column(
            no_wrap=clip or not last,
            overflow="ellipsis" if clip and last else "fold",
            min_width=None if last else min(widest, _WIDEST),
            ratio=1 if clip and last else None,
        )
    for row in rows:
        table.add_row(*([""] if indent else []), *row)
    return table


def _width(cell: RenderableType) -> int:
    return cell.cell_len if isinstance(cell, Text) else 0


def section(title: str | Text, body: RenderableType) -> Table:
    """A word in the margin, and what belongs to it beside, also where that goes on below."""
    table = Table.grid(padding=(0, 2, 0, 0))
    table.add_column(width=10, no_wrap=True)
    table.add_column(ratio=1)
    table.add_row(Text(title, style="label") if isinstance(title, str) else title, body)
    return table


def stacked(*parts: RenderableType | None) -> Group:
    """Parts below each other; None is left out."""
    return Group(*(part for part in parts if part is not None))


def blank() -> Text:
    return Text("")


def plural(count: int, word: str, words: str = "") -> str:
    return f"{count:,} {word if count == 1 else words or word + 's'}"


def sized(size: int) -> str:
    """A number of bytes for people."""
    for unit, step in (("GB", 1 << 30), ("MB", 1 << 20), ("kB", 1 << 10)):
        if size >= step:
            return f"{size / step:.1f} {unit}"
    return f"{size} bytes"
