"""A game's log for people: what is wrong, where, and whose it is."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.style import blank, columns, heading, marked, plural, section, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.building.logs import LogReport, Trouble

__all__ = ["blame_text", "log_text"]

_BLAMES = 3
_GONE = 8


def log_text(name: str, report: LogReport, shown: Sequence[Trouble]) -> RenderableType:
    """Errors first, then warnings; who is to blame last, where the eye ends up."""
    parts: list[RenderableType | None] = [heading(name, f"{plural(report.lines, 'line')} of the last run"), blank()]
    for one in shown:
        parts += _trouble(one, report.compared)
    if not shown:
        parts.append(Text("No errors that are told here.", style="good"))
    if report.beyond:
        words = f"{plural(report.beyond, 'further line')} tell of other troubles and are not looked at"
        parts += [blank(), marked(f"{words}: say with `[[log]]` in the layout how they are told", "warning")]
    if report.gone:
        gone = [Text(text, style="dim") for text in report.gone[:_GONE]]
        if len(report.gone) > _GONE:
            gone.append(Text(f"and {len(report.gone) - _GONE} more", style="dim"))
        parts += [blank(), section("gone", stacked(*gone))]
    if report.packs:
        parts += [blank(), blame_text(report)]
    return stacked(*parts)


def _trouble(one: Trouble, compared: bool) -> list[RenderableType]:
    style = "error" if one.level == "error" else "warning"
    head = Text.assemble((one.level, style), "  ", (one.text, "title"))
    if one.count > 1:
        head.append(f"  {one.count}×", style="dim")
    if one.new and compared:
        head.append("  new", style="warning")
    rows: list[tuple[Text, ...]] = []
    for blame in one.blames[:_BLAMES]:
        whose = Text(blame.pack, style="name") if blame.pack else Text("map", style="dim")
        rows.append((whose, Text(str(blame.spot) if blame.spot else ""), Text(blame.why, style="dim")))
    if not rows:
        told = (f"line {one.first} of the log", "it names nothing of this map")
        rows.append((Text("?", style="dim"), *(Text(word, style="dim") for word in told)))
    return [head, columns(rows, indent=2)]


def blame_text(report: LogReport) -> RenderableType:
    """Which pack is to blame."""
    rows = [
        (
            Text(f"{count}"),
            Text(pack or "none of the packs", style="name" if pack else "dim"),
        )
        for pack, count in report.packs
    ]
    return section("to blame", columns(rows, indent=0))
