"""What the base game has."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.style import columns, heading, plural, section, stacked

if TYPE_CHECKING:
    from collections.abc import Sequence
    from pathlib import Path

    from rich.console import RenderableType

    from hookset.project.stocks import StockRow

__all__ = ["found_text", "made_text"]


def made_text(file: Path, named: str, count: int) -> RenderableType:
    """`named`: how hookset.toml names it."""
    return stacked(
        heading(f"{file} is written", plural(count, "name")),
        section("next", Text(f'name it in hookset.toml: [content] stock = ["{named}"]')),
    )


def found_text(part: str, found: Sequence[tuple[str, StockRow]], more: bool) -> RenderableType:
    """Each name with where it is from and what is known of it."""
    if not found:
        return Text(f"Nothing in the map or its stock has {part!r} in its name.")
    rows = [
        (
            Text(where, style="good" if where == "map" else "dim"),
            Text(row.kind),
            Text(row.name + (f" ({row.side})" if row.side else ""), style="name"),
            Text(row.detail),
            Text(row.path if row.path != row.name else "", style="dim"),
        )
        for where, row in found
    ]
    told = "; there are more: --limit shows them" if more else ""
    return stacked(columns(rows, indent=0), Text(f"{plural(len(found), 'name')}{told}", style="dim"))
