"""Where things stand: a table, and a small map for terminals."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.style import blank, columns, heading, plural, section, stacked

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from rich.console import RenderableType

    from hookset.config.layouts.placing import SpaceEntry
    from hookset.planning.queries.whereabouts import Whereabouts

__all__ = ["whereabouts_text"]

_MANY = 3
"""Things of which more is told."""
_SHOWN = 60
_WIDE, _HIGH = 96, 22
"""Characters of the small map."""
_MARKS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz"


def whereabouts_text(name: str, space: SpaceEntry, found: Sequence[Whereabouts], every: bool) -> RenderableType:
    """All of them in a table; each with what is around it where they are few; a small map where they are many."""
    parts: list[RenderableType | None] = [heading(name, plural(len(found), "thing")), blank()]
    if not found:
        return stacked(parts[0])
    if len(found) <= _MANY:
        for one in found:
            parts += [_about(one, space), blank()]
        return stacked(*parts[:-1])
    marks = _marks(found)
    if (small := _small_map(found, space, marks)) is not None:
        parts += [small, blank()]
    shown = found if every else found[:_SHOWN]
    parts.append(columns([_row(one, marks) for one in shown]))
    if len(shown) < len(found):
        parts.append(Text(f"  and {len(found) - len(shown):,} more: --all", style="dim"))
    return stacked(*parts)


def _numbers(numbers: Iterable[float]) -> str:
    return ", ".join(f"{round(one, 3) + 0.0:g}" for one in numbers)


def _row(one: Whereabouts, marks: dict[str, str]) -> tuple[RenderableType, ...]:
    thing = one.thing
    at = Text(_numbers(one.at)) if thing.placed else Text("by what is around it", style="dim")
    more = ", ".join([*(f"turned {_numbers(one.turn)}°" for _ in one.turn[:1]), *one.inside])
    return (
        Text(marks.get(thing.class_ or thing.rule.entry.name, ""), style="title"),
        Text(f"{thing.key or '-'}{f' of {thing.within}' if thing.within else ''}", style="name"),
        Text(thing.class_ or thing.rule.entry.name),
        at,
        Text(more),
        Text(one.pack),
        Text(str(one.spot), style="dim"),
    )


def _about(one: Whereabouts, space: SpaceEntry) -> RenderableType:
    thing, unit = one.thing, f" {space.unit}" if space.unit else ""
    told: list[RenderableType] = [heading(thing.called, thing.class_ if thing.key else "", str(one.spot))]
    said = [
        ("at", _numbers(one.at) if thing.placed else "by what is around it"),
        ("turned", f"{_numbers(one.turn)}°" if one.turn else ""),
        ("size", _numbers(one.size)),
        ("group", thing.group),
        ("in", ", ".join(one.inside)),
        ("reach", f"{thing.reach:g}{unit}" if thing.reach is not None else ""),
        ("near", ", ".join(f"{near.called} {near.distance:.3g}{unit}" for near in one.near)),
        ("works on", ", ".join(_linked(link.called, link.distance, unit) for link in one.works_on)),
        ("worked by", ", ".join(one.worked_on_by)),
        ("set by", one.pack),
    ]
    told += [section(title, Text(words)) for title, words in said if words]
    return stacked(*told)


def _linked(called: str, distance: float | None, unit: str) -> str:
    return f"{called} (not there)" if distance is None else f"{called} {distance:.3g}{unit}"


def _marks(found: Sequence[Whereabouts]) -> dict[str, str]:
    """A letter for each class: its first one, if that is free."""
    marks: dict[str, str] = {}
    classes = Counter(one.thing.class_ or one.thing.rule.entry.name for one in found if one.thing.placed)
    for name, _ in classes.most_common(len(_MARKS)):
        letters = [letter for letter in (*name.upper(), *name.lower(), *_MARKS) if letter in _MARKS]
        marks[name] = next(letter for letter in letters if letter not in marks.values())
    return marks


def _small_map(found: Sequence[Whereabouts], space: SpaceEntry, marks: dict[str, str]) -> RenderableType | None:
    """Seen from above, north up; of several things at one character the last one's mark, or `*` for several classes."""
    east, north = _plan_axes(space)
    points = [
        (one.at[east[0]] * east[1], one.at[north[0]] * north[1], one.thing.class_ or one.thing.rule.entry.name)
        for one in found
        if one.thing.placed and len(one.at) > max(east[0], north[0])
    ]
    if len({point[:2] for point in points}) < _MANY:
        return None
    left, right = min(x for x, _, _ in points), max(x for x, _, _ in points)
    low, high = min(y for _, y, _ in points), max(y for _, y, _ in points)
    # A character is about twice as high as wide.
    scale = max((right - left) / (_WIDE - 1), (high - low) / (_HIGH - 1) / 2, 1e-9)
    rows = int((high - low) / scale / 2) + 1
    wide = int((right - left) / scale) + 1
    if rows < _MANY or wide < _MANY:
        # All on one line: the numbers say as much.
        return None
    grid = [[" "] * wide for _ in range(rows)]
    for x, y, name in points:
        row, column = rows - 1 - int((y - low) / scale / 2), int((x - left) / scale)
        mark = marks.get(name, "?")
        grid[row][column] = mark if grid[row][column] in (" ", mark) else "*"
    lines = [f"  │{''.join(row)}│" for row in grid]
    unit = f" {space.unit}" if space.unit else ""
    foot = f"  └{'─' * wide}┘ {right - left:g} × {high - low:g}{unit}, north up"
    return Text("\n".join([f"  ┌{'─' * wide}┐", *lines, foot]), no_wrap=True)


def _plan_axes(space: SpaceEntry) -> tuple[tuple[int, int], tuple[int, int]]:
    """(axis, sign) of what goes to the right and of what goes up in a figure seen from above."""
    from hookset.space.plan import plan_axes

    return plan_axes(space.up, space.hand, space.north)
