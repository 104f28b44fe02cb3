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
    from hookset.symbols import StockChanges

_SHOWN = 6
"""Names of one kind that are shown."""

__all__ = ["changes_text", "found_text", "made_text"]


def made_text(file: Path, named: str, count: int) -> RenderableType:
    """`named`: how hookset.toml is to name it; empty where it does so already."""
    following = f'name it in hookset.toml: [content] stock = ["{named}"]' if named else "hookset check"
    return stacked(heading(f"{file} is written", plural(count, "name")), section("next", Text(following)))


def changes_text(changes: StockChanges) -> RenderableType:
    """What each kind has lost and won, and where the map uses what is gone."""
    if not changes.kinds:
        return Text("Both have the same names.", style="good")
    rows = [
        (
            Text(one.kind.label),
            Text(f"{len(one.added):,} new" if one.added else "", style="good"),
            Text(f"{len(one.dropped):,} gone:" if one.dropped else "", style="warning"),
            Text(_some(one.dropped)),
        )
        for one in changes.kinds
    ]
    labels = {one.kind.name: one.kind.label for one in changes.kinds}
    used = [
        (Text(str(spot), style="dim"), Text(labels[reference.kind]), Text(reference.name, style="name"))
        for reference, spot in changes.used
    ]
    return stacked(
        section("names", columns(rows, indent=0)),
        section("used here", columns(used, indent=0))
        if used
        else section("used here", Text("nothing of what is gone", style="good")),
    )


def _some(names: Sequence[str]) -> str:
    """A few names, and how many more."""
    more = f" and {len(names) - _SHOWN:,} more" if len(names) > _SHOWN else ""
    return f"{', '.join(names[:_SHOWN])}{more}" if names else ""


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
