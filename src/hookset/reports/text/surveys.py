"""A layout tried on a whole map."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.style import blank, columns, heading, plural, section, stacked

if TYPE_CHECKING:
    from collections.abc import Iterator

    from rich.console import RenderableType

    from hookset.config.layouts import Layout
    from hookset.symbols import RuleSurvey, SeatSurvey, Survey

__all__ = ["survey_text"]


def survey_text(layout: Layout, survey: Survey) -> RenderableType:
    """Rule by rule, what was found nowhere, seat by seat, the next free ids."""
    rules = [row for rule in survey.rules for row in _rule(layout, rule)]
    seats = [row for seat in survey.seats for row in _seat(seat)]
    judged = [
        (Text(one.title), Text(one.where, style="name"), Text(f"{one.found}", style="dim" if one.found else "warning"))
        for one in survey.judged
    ]
    ids = [
        (
            Text(label),
            Text(f"{len(one.taken)} taken", style="dim"),
            Text(f"next is {one.next or 'none: all are taken'}"),
        )
        for label, one in survey.ids
    ]
    idle = sum(len(rule.idle) + (not rule.files) for rule in survey.rules)
    lost = sum(bool(seat.lacking) for seat in survey.seats)
    return stacked(
        heading(layout.name, "on this map"),
        blank(),
        section("rules", columns(rules, indent=0)),
        section("judges", columns(judged, indent=0)) if judged else None,
        section("seats", columns(seats, indent=0)) if seats else None,
        section("ids", columns(ids, indent=0)) if ids else None,
        blank(),
        Text(f"{plural(idle, 'thing')} looked for and found nowhere; {plural(lost, 'seat')} not found", style="dim"),
    )


def _rule(layout: Layout, rule: RuleSurvey) -> Iterator[tuple[Text, ...]]:
    files = ", ".join(glob.pattern for glob in layout.reads[rule.number - 1].files)
    counts = f"{plural(rule.files, 'file')}, {plural(rule.names, 'name')}"
    told = Text(counts if rule.files else "no file is called so", style="dim" if rule.files else "warning")
    yield Text(f"{rule.number}", style="dim"), Text(files, style="name"), told
    for one in rule.idle:
        yield Text(), Text(f"  {one}"), Text("found nowhere", style="warning")


def _seat(seat: SeatSurvey) -> Iterator[tuple[Text, ...]]:
    name = Text(seat.name, style="name")
    if seat.places:
        yield name, Text(", ".join(seat.places))
        name = Text()
    for words in seat.lacking:
        yield name, Text(words, style="warning")
        name = Text()
