"""From a layout file's entries to the rules about values: equal, numbered, standing on the ground."""

from __future__ import annotations

from hookset.config.layouts._compiler import MAP_WORDS, Making
from hookset.config.layouts.layout import AgreeRule, Asked, GroundRule, LogRule, SeriesRule, Standing
from hookset.config.layouts.schema import (
    AgreeEntry,
    GroundEntry,
    LookupEntry,
    SeriesEntry,
    StandingEntry,
    ValueEntry,
)
from hookset.config.layouts.template import Wording, wording
from hookset.config.sheets import nearest
from hookset.trees import Glob

__all__ = [
    "agree_rules",
    "archive_wording",
    "ground_rules",
    "log_rules",
    "lookup_tables",
    "map_wordings",
    "series_rules",
]

_TOLD = frozenset(["text", "name", "file", "line"])
"""Groups of a pattern of the log."""


def agree_rules(making: Making) -> tuple[AgreeRule, ...]:
    made = [_agree(making, entry, f"/agree/{index}") for index, entry in enumerate(making.entry.agree)]
    return tuple(rule for rule in made if rule is not None)


def _agree(making: Making, entry: AgreeEntry, at: str) -> AgreeRule | None:
    values = [making.asked(value, f"{at}/values/{index}") for index, value in enumerate(entry.values)]
    take = {name: making.asked(value, f"{at}/take/{name}") for name, value in entry.take.items()}
    equal = making.words(entry.equal, MAP_WORDS | entry.take.keys(), f"{at}/equal") if entry.equal else None
    if len(values) + (equal is not None) < 2:
        making.complain(f"{at}/values", "one value agrees with itself: name two or more, or say what it must `equal`")
    found = tuple(value for value in values if value is not None)
    return AgreeRule(entry.title, entry.why, found, equal, {n: asked for n, asked in take.items() if asked is not None})


def series_rules(making: Making) -> tuple[SeriesRule, ...]:
    made = [_series(making, entry, f"/series/{index}") for index, entry in enumerate(making.entry.series)]
    return tuple(rule for rule in made if rule is not None)


def _series(making: Making, entry: SeriesEntry, at: str) -> SeriesRule | None:
    making.known_kind(entry.kind, f"{at}/kind")
    name = making.regex(entry.name, "name", f"{at}/name")
    if name is None:
        return None
    if not {"series", "number"} <= name.groups:
        making.complain(f"{at}/name", "it needs the groups (?P<series>…) and (?P<number>…)")
        return None
    return SeriesRule(entry, name, tuple(Glob(pattern) for pattern in entry.owners))


def ground_rules(making: Making) -> tuple[GroundRule, ...]:
    made = [_ground(making, entry, f"/ground/{index}") for index, entry in enumerate(making.entry.ground)]
    return tuple(rule for rule in made if rule is not None)


def _ground(making: Making, entry: GroundEntry, at: str) -> GroundRule | None:
    table = _standing(making, entry.table, f"{at}/table")
    things = [_standing(making, thing, f"{at}/things/{index}") for index, thing in enumerate(entry.things)]
    if entry.lowest is None and entry.highest is None:
        making.complain(at, "it says neither `lowest` nor `highest`: nothing would be compared")
    return GroundRule(entry, table, tuple(thing for thing in things if thing is not None)) if table else None


def _standing(making: Making, entry: StandingEntry, at: str) -> Standing | None:
    asked: Asked | None = making.asked(ValueEntry(file=entry.file, ask=entry.ask), at)
    return Standing(entry, asked) if asked is not None else None


def log_rules(making: Making) -> tuple[LogRule, ...]:
    """Patterns of the game's log."""
    found: list[LogRule] = []
    for index, entry in enumerate(making.entry.log):
        at = f"/log/{index}"
        match = making.regex(entry.match, "match", f"{at}/match")
        if entry.kind:
            making.known_kind(entry.kind, f"{at}/kind")
        if match is None:
            continue
        for group in sorted(match.groups - _TOLD):
            making.complain(f"{at}/match", f"unknown group `{group}`{nearest(group, sorted(_TOLD))}")
        if entry.kind and "name" not in match.groups:
            making.complain(f"{at}/kind", "`kind` says what the group `name` is, and there is no such group")
        found.append(LogRule(entry, match))
    return tuple(found)


def lookup_tables(making: Making) -> dict[str, LookupEntry]:
    """The tables that hooks can look values up in."""
    seats = {seat.name for seat in making.entry.seat}
    for index, entry in enumerate(making.entry.lookup):
        at = f"/lookup/{index}"
        making.asked(ValueEntry(file=entry.file, ask=entry.ask), at)
        if bool(entry.key) != bool(entry.value):
            making.complain(at, "`key` and `value` go together: what is looked up, and what is found by it")
        if entry.seat and entry.seat not in seats:
            making.complain(f"{at}/seat", f"there is no seat called `{entry.seat}`")
        if entry.seat and (entry.text is None) == (entry.record is None):
            making.complain(at, "with `seat`, one of `text` and `record` says what is set there")
    return {entry.name: entry for entry in making.entry.lookup}


def archive_wording(making: Making) -> Wording:
    """What a built map's archive is called: made of the name and the version that hookset.toml says."""
    known, at = ("name", "version"), "/build/archive"
    try:
        made = wording(making.entry.build.archive)
    except ValueError as error:
        making.complain(at, str(error))
        return Wording(making.entry.build.archive, ())
    for name in sorted(made.fields - {*known}):
        making.complain(at, f"unknown part {{{name}}}{nearest(name, known)}")
    return made


def map_wordings(making: Making) -> tuple[dict[str, Wording], Wording | None]:
    """(further forms of the map's name, the folder that is called after it)"""
    words = {name: making.words(text, MAP_WORDS, f"/words/{name}") for name, text in making.entry.words.items()}
    folder = making.entry.rename.folder
    return words, making.words(folder, MAP_WORDS, "/rename/folder") if folder else None
