"""Settings: constants at the top of a pack's scripts that say what they are for."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Any, Literal

from msgspec import Struct

from hookset.authoring.draft.cites import Cited, Why
from hookset.authoring.draft.notes import Notes
from hookset.authoring.draft.said.conditions import kebab
from hookset.authoring.draft.site import Site
from hookset.formats import Unreadable, format_named
from hookset.packs.hooksheet import SettingEntry, WriteEntry
from hookset.trees import Text

__all__ = ["Constant", "constants_in"]

_ASSIGNED = re.compile(
    r"(?P<lead>(?:export\s+)?(?:local|const|let|var|final|static|int|float|bool)?\s*)"
    r"(?P<owner>[A-Za-z_]\w*\.)?(?P<name>[A-Z][A-Z0-9_]+)\s*=\s*"
    r"(?P<value>-?\d+\.\d+|-?\d+|true|false)\s*;?\s*(?:(?:--|//|#|;)\s*(?P<says>.*?))?\s*$"
)
_COMMENT = re.compile(r"\s*(?:--+|//+|#+|;+)\s*(?P<text>.+?)\s*$")
_RANGE = re.compile(r"(?P<low>-?\d+(?:\.\d+)?)\s*(?:\.\.+|–|-|to|bis|and|und)\s*(?P<high>-?\d+(?:\.\d+)?)")
_UNIT = re.compile(
    r"\b(?P<unit>seconds?|sekunden|secs?|minutes?|minuten|hours?|stunden|metres?|meters?|coins|kg|km/h|m/s|degrees|grad"
    r"|percent|ms|m|s|h|%)(?!\w)",
    re.IGNORECASE,
)
_TOP = 60
"""Lines of a script in which its constants are."""


class Constant(Struct, frozen=True):
    """A constant in a script that could become a setting."""

    setting: SettingEntry
    why: Why
    sure: bool


def constants_in(site: Site, scripts: Mapping[str, str], notes: Sequence[Notes]) -> Iterator[Constant]:
    """`scripts` are texts by the path that they will have in the map."""
    taken: set[str] = set()
    for target, text in scripts.items():
        rule = site.layout.text_rule(target)
        if rule is None:
            continue
        lines = text.splitlines()[:_TOP]
        for number, line in enumerate(lines, 1):
            match = _ASSIGNED.fullmatch(line)
            called = f"{match['owner'] or ''}{match['name']}" if match is not None else ""
            ask = format_named(rule.format).constant(called) if called else None
            if match is None or ask is None or not _single(rule.format, rule.options, text, ask):
                continue
            says = match["says"] or _above(lines, number) or ""
            said = _mentions(notes, match["name"])
            low_high = _RANGE.search(says) or (_RANGE.search(said[1]) if said else None)
            name = kebab(match["name"])
            name = name if name not in taken else f"{kebab(target.rpartition('/')[2].partition('.')[0])}-{name}"
            taken.add(name)
            yield Constant(
                _setting(name, _written(target, ask), match, says, low_high),
                Why(((target, number), *((said[0],) if said else ()))),
                bool(says or said),
            )


def _written(target: str, ask: dict[str, Any]) -> WriteEntry:
    """Where the value of a constant is written."""
    assign = ask.get("assign", "")
    return WriteEntry(file=target, assign=assign) if assign else WriteEntry(file=target, ask=ask)


def _setting(name: str, write: WriteEntry, match: re.Match[str], says: str, span: re.Match[str] | None) -> SettingEntry:
    value, kind = _typed(match["value"])
    unit = _UNIT.search(says)
    bounds = (_typed(span["low"])[0], _typed(span["high"])[0]) if span is not None and kind != "bool" else None
    if bounds is not None and not bounds[0] <= value <= bounds[1]:
        bounds = None
    return SettingEntry(
        name=name,
        type=kind,
        default=value,
        range=bounds,
        unit=unit["unit"].lower() if unit is not None and kind != "bool" else "",
        says=says[:120],
        write=(write,),
    )


def _typed(text: str) -> tuple[Any, Literal["int", "float", "bool"]]:
    if text in ("true", "false"):
        return text == "true", "bool"
    return (float(text), "float") if "." in text else (int(text), "int")


def _single(form: str, options: Any, text: str, ask: dict[str, Any]) -> bool:
    """Whether the name is assigned in one place only, so that writing there changes it everywhere."""
    try:
        document = format_named(form).open(Text(text, "utf-8"), options)
        selector = format_named(form).selector(**ask)
        return len(list(document.select(selector))) == 1
    except (Unreadable, TypeError, ValueError):
        return False


def _above(lines: Sequence[str], number: int) -> str | None:
    """A comment of its own on the line before."""
    match = _COMMENT.fullmatch(lines[number - 2]) if number > 2 else None
    return match["text"] if match is not None else None


def _mentions(notes: Sequence[Notes], name: str) -> tuple[Cited, str] | None:
    """Where the notes speak of a constant, and what they say."""
    for one in notes:
        for line in one.lines:
            if re.search(rf"\b{re.escape(name)}\b", line.text) and not line.code:
                return (one.path, line.number), line.text
    return None
