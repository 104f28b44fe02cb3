"""A name through the web, as a tree."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.style import blank, columns, heading, marked, plural, section, stacked

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from rich.console import RenderableType

    from hookset.config.layouts import Layout
    from hookset.model import Reference, Spot, Where
    from hookset.symbols import Trace

__all__ = ["trace_text"]

_SHOWN = 20
_FIRST = 3
_LAST = 9


def trace_text(
    layout: Layout, name: str, found: Sequence[Trace], at: Mapping[tuple[str, Where], Spot]
) -> RenderableType:
    """Kind by kind: defined, used, loaded, and what would break."""
    parts: list[RenderableType | None] = []
    for one in found:
        if parts:
            parts.append(blank())
        parts += [heading(layout.kinds[one.kind].label, name), blank(), section("defined", _defined(one, at))]
        parts += [section("used", _used(one, at)), section("loaded", _loaded(one, at)), _without(layout, one, at)]
    return stacked(*parts)


def _defined(one: Trace, at: Mapping[tuple[str, Where], Spot]) -> RenderableType:
    rows = [
        (
            _spot(at[d.path, d.where], path_only=d.where == 0 and d.name == d.path),
            Text(d.variant or d.side, style="dim"),
        )
        for d in one.defined[:_SHOWN]
    ]
    if one.in_stock:
        rows.append((Text("in the stock"), Text("the base game has it", style="dim")))
    return columns(rows, indent=0) if rows else Text("nowhere", style="error")


def _used(one: Trace, at: Mapping[tuple[str, Where], Spot]) -> RenderableType:
    rows = [(_spot(at[r.path, r.where]), Text(_tags(r), style="dim")) for r in one.referred[:_SHOWN]]
    if len(one.referred) > _SHOWN:
        rows.append((Text(f"and {len(one.referred) - _SHOWN:,} more", style="dim"), Text()))
    return columns(rows, indent=0) if rows else Text("by nothing that can be read", style="dim")


def _tags(reference: Reference) -> str:
    words = (
        reference.side,
        "" if reference.use else "listed",
        "may be meant: built at run time" if reference.pattern else "",
    )
    return ", ".join(word for word in words if word)


def _loaded(one: Trace, at: Mapping[tuple[str, Where], Spot]) -> RenderableType:
    """From a file that the game reads by itself down to the one that defines the name."""
    if not one.defined:
        return Text("–", style="dim")
    last = one.defined[0].path
    files = [step.path for step in one.chain] + [last]
    lines = list(_branches(files, one.chain, at))
    if not one.chain:
        words = "  which the game reads by itself" if one.loaded else "  which nothing loads"
        lines[0].append(words, style="dim" if one.loaded else "warning")
    return stacked(*lines)


def _branches(files: list[str], chain: tuple[Reference, ...], at: Mapping[tuple[str, Where], Spot]) -> Iterator[Text]:
    # A way over thousands of files is read by nobody: how it begins, and how it gets here.
    left_out = range(_FIRST, len(files) - _LAST) if len(files) > _FIRST + _LAST + 1 else range(0)
    shown = [number for number in range(len(files)) if number not in left_out]
    for depth, number in enumerate(shown):
        if left_out and number == left_out.stop:
            yield Text("   " * (depth - 1) + f"…  {len(left_out):,} files between them: --json names all", style="dim")
        line = Text("   " * (depth - 1) + "└─ " if depth else "", style="dim")
        line.append(files[number], style="name")
        if depth:
            spot = at[chain[number - 1].path, chain[number - 1].where]
            line.append(f"  by line {spot.line}" if spot.line else "", style="dim")
        yield line


def _without(layout: Layout, one: Trace, at: Mapping[tuple[str, Where], Spot]) -> RenderableType | None:
    if not one.defined:
        return None
    if not one.breaks:
        return section("without it", Text("nothing else would be missing", style="good"))
    rows = [
        (_spot(at[r.path, r.where]), marked(f"{layout.kinds[r.kind].label} `{r.name}`", "dim"))
        for r in one.breaks[:_SHOWN]
    ]
    if len(one.breaks) > _SHOWN:
        rows.append((Text(f"and {len(one.breaks) - _SHOWN:,} more", style="dim"), Text()))
    told = Text(f"{plural(len(one.breaks), 'reference')} would be missing", style="warning")
    return section("without it", stacked(told, columns(rows, indent=0)))


def _spot(spot: Spot, *, path_only: bool = False) -> Text:
    return Text(spot.path if path_only else str(spot), style="name")
