"""One step of the notes for people: the lines, what becomes of them, and what is open."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hookset.authoring.draft.coverage import Fate
from hookset.reports.text.drafts import entry_cells
from hookset.reports.text.style import blank, columns, heading, plural, section, stacked

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from rich.console import RenderableType

    from hookset.authoring.draft import Draft, Step

__all__ = ["check_text", "idle_text", "step_text"]

_DECIDED = {"accept": "like this", "instead": "other entries", "leave": "not wanted", "by-hand": "by hand"}
_SHOWN = 30
"""Lines of a step; more are a listing."""


def step_text(draft: Draft, step: Step, place: str, files: Mapping[str, str]) -> RenderableType:
    """`place` says which step it is of how many; `files` in which file of the map each seat is."""
    title = step.name if step.lines else "the pack itself"
    parts: list[RenderableType | None] = [blank(), heading(title, place)]
    if step.lines:
        parts.append(columns(list(_lines(step)), indent=2))
    rows = list(_entries(draft, step, files))
    if rows:
        parts.append(section("becomes", columns(rows, indent=0)))
    left = [one for one in draft.left if not one.sure] if not step.lines else []
    if left:
        parts.append(
            section(
                "stays out",
                columns(
                    [(Text("?", style="warning"), Text(f"{one.path}: {one.why}")) for one in left[:_SHOWN]], indent=0
                ),
            )
        )
    doubts = dict.fromkeys(doubt for entry in step.entries for doubt in draft.reason(*entry).doubts)
    if doubts:
        parts.append(section("unsure", columns([(Text(doubt),) for doubt in doubts], indent=0)))
    if step.decision is not None:
        parts.append(section("decided", Text(_DECIDED[step.decision.do])))
    return stacked(*parts)


def _lines(step: Step) -> Iterator[tuple[Text, Text, Text]]:
    for line in step.lines[:_SHOWN]:
        open_ = line.fate is Fate.NOT_UNDERSTOOD
        style = "hunk" if line.code else "" if open_ else "dim"
        yield (
            Text(str(line.number), style="dim"),
            Text("?" if open_ else "", style="warning"),
            Text(line.text, style=style),
        )
    if len(step.lines) > _SHOWN:
        yield Text(), Text(), Text(f"and {len(step.lines) - _SHOWN} more", style="dim")


def _entries(draft: Draft, step: Step, files: Mapping[str, str]) -> Iterator[tuple[Text, ...]]:
    for table, index in step.entries[:_SHOWN]:
        mark = Text("" if draft.reason(table, index).sure else "?", style="warning")
        entry = getattr(draft.sheet, table)[index]
        yield mark, *entry_cells(table, entry, files)
    if len(step.entries) > _SHOWN:
        yield Text(), Text(), Text(f"and {len(step.entries) - _SHOWN} more", style="dim")


def idle_text(steps: Sequence[Step]) -> RenderableType:
    """Steps that nothing comes of: read, and not asked about."""
    rows = [
        (Text(str(line.number), style="dim"), Text(""), Text(line.text, style="dim"))
        for one in steps
        for line in one.lines
    ]
    return stacked(blank(), columns(rows, indent=2))


def check_text(draft: Draft, before: Draft | None) -> Text:
    """The check of the map as it would be, in one line."""
    found = len(draft.findings)
    told = f"{plural(found, 'new finding')}" if found else "nothing new"
    if draft.stops:
        told += f", {plural(len(draft.stops), 'reason')} not to install it"
    if before is not None and len(before.findings) != found:
        told += f" ({found - len(before.findings):+d})"
    left = len(draft.not_understood)
    more = f"; {plural(left, 'line')} of the notes not understood" if left else ""
    style = "warning" if found or draft.stops else "good"
    return Text.assemble(("check of the map as it would be: ", "dim"), (told, style), (more, "dim"))
