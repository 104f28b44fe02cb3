"""Commands that somebody is asked to allow, whole."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.style import blank, columns, heading, plural, section, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.building.permission import Asked

__all__ = ["as_line", "commands_text"]


def commands_text(asked: Sequence[Asked]) -> RenderableType:
    """Each with what it may do."""
    parts: list[RenderableType | None] = [
        heading("This runs commands that you have not allowed yet", plural(len(asked), "command")),
    ]
    for one in asked:
        rows = [(Text("runs", style="dim"), Text(_command(one))), (Text("says", style="dim"), Text(one.where))]
        rows += ((Text(word, style="dim"), Text(", ".join(values))) for word, values in one.told if values)
        parts += [blank(), section(one.name, columns(rows, indent=0))]
    return stacked(*parts, blank())


def as_line(one: Asked) -> str:
    """In one line."""
    return f"{one.name} ({one.where}): {_command(one)}"


def _command(one: Asked) -> str:
    return " ".join(map(_quoted, one.command))


def _quoted(argument: str) -> str:
    return argument if argument and not any(one in argument for one in " \"'\t\n") else repr(argument)
