"""The steps of a build, for people."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from rich.text import Text

from hookset.reports.text.style import columns, heading, plural, section, stacked

if TYPE_CHECKING:
    from rich.console import RenderableType

    from hookset.building.steps.carrying import Carried
    from hookset.building.steps.needed import Expected, Reason

__all__ = ["carried_rows", "carried_text", "expected_text"]

_WHY = {
    "asked": "you ask for it",
    "first": "it has never run here",
    "failed": "it failed the last time",
    "command": "what it runs has changed",
    "program": "the program itself has changed",
    "values": "values that it goes by have changed",
}
_FILES = {"new": "new", "changed": "changed", "gone": "gone", "lost": "made by it, and gone"}


def expected_text(name: str, found: Sequence[Expected], root: str) -> RenderableType:
    """What a build would run, and why."""
    rows = [
        (Text(one.step.entry.name, style="name"), _state(one), Text(_last(one.seconds), style="dim"),
         Text(_why(one), style="" if one.may_run else "dim"))
        for one in found
    ]  # fmt: skip
    many = sum(one.may_run for one in found)
    return stacked(
        heading(f"next build of {name}", f"{many} of {plural(len(found), 'step')}" if found else "no steps"),
        section("steps", columns(rows, indent=0)) if rows else None,
        section("then", Text("what has changed is packed", style="dim")),
        section("next", Text(f"hookset build{root}", style="name")),
    )


def _state(one: Expected) -> Text:
    if one.reasons:
        return Text("runs", style="warning")
    return Text("may run") if one.waits_for else Text("as it was", style="dim")


def _last(seconds: float) -> str:
    return f"{seconds:.1f} s" if 0 < seconds < 10 else f"{seconds:.0f} s" if seconds else ""


def _why(one: Expected) -> str:
    if one.reasons:
        return reasons_in_words(one.reasons)
    if one.waits_for:
        return f"if {' or '.join(one.waits_for)} makes something else than before"
    return ""


def reasons_in_words(reasons: Sequence[Reason]) -> str:
    """Why a step is needed: the reasons in words, files by what has become of them."""
    causes = [one.cause.value for one in reasons]
    if "first" in causes or "failed" in causes:
        return _WHY["first" if "first" in causes else "failed"]
    said = [_WHY[one.cause.value] for one in reasons if one.cause.value in _WHY]
    for cause, word in _FILES.items():
        paths = [one.path for one in reasons if one.cause.value == cause]
        if paths:
            more = f" and {len(paths) - 2} more" if len(paths) > 2 else ""
            said.append(f"{word}: {', '.join(paths[:2])}{more}")
    return "; ".join(said)


def carried_rows(done: Sequence[Carried]) -> RenderableType:
    """What became of each step, for the report of a build."""
    rows = [
        (Text(one.step.entry.name, style="name"), Text(_ending(one), style="error" if one.wrong else ""),
         Text(_last(one.seconds), style="dim"), Text(reasons_in_words(one.reasons), style="dim"))
        for one in done
    ]  # fmt: skip
    told = [row for one in done for row in _mind(one)]
    return stacked(columns(rows, indent=0), columns(told, indent=0)) if told else columns(rows, indent=0)


def _ending(one: Carried) -> str:
    if one.ending.value == "ran":
        gone = f", {len(one.gone)} gone" if one.gone else ""
        return f"ran: {plural(len(one.made), 'file')} new{gone}" if one.made or gone else "ran: the same came of it"
    return "waits for what has failed" if one.ending.value == "waits" else one.ending.value


def _mind(one: Carried) -> list[tuple[Text, Text]]:
    found: list[tuple[Text, Text]] = []
    if one.strayed:
        more = f" and {len(one.strayed) - 3} more" if len(one.strayed) > 3 else ""
        told = f"wrote beside what it is to write, thrown away: {', '.join(one.strayed[:3])}{more}"
        found.append((Text(one.step.entry.name, style="name"), Text(told, style="warning")))
    if one.stay:
        told = f"no longer makes what was changed by hand since, and stays: {', '.join(one.stay[:3])}"
        found.append((Text(one.step.entry.name, style="name"), Text(told, style="warning")))
    found += (
        (Text(one.step.entry.name, style="name"), Text(f"{line.text}", style="warning"))
        for line in one.lines[:3]
        if line.level == "warning"
    )
    return found


def carried_text(name: str, done: Sequence[Carried]) -> RenderableType:
    """What became of steps where nothing else was done."""
    many = sum(one.ending.value == "ran" for one in done)
    return stacked(
        heading(f"steps of {name}", f"{many} of {len(done)} run"),
        section("steps", carried_rows(done)),
        section("next", Text("hookset build", style="name")),
    )
