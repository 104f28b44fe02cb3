"""What of a pack the builder can put elsewhere: its things, by what belongs together."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any

from msgspec import Struct, structs

from hookset.authoring.draft.cites import Why, as_said, at_line
from hookset.authoring.draft.draft import Reason
from hookset.authoring.draft.gathering import PackMaterial
from hookset.authoring.draft.said.conditions import kebab
from hookset.authoring.draft.site import EntryFacts, SeatFile, Site
from hookset.config.layouts.positions import PlacedRule
from hookset.formats import Body
from hookset.packs.hooksheet import HookEntry, PlaceEntry
from hookset.scene.numbers import pieces_of
from hookset.scene.prefabs import prefab_body, prefab_word
from hookset.scene.values import CannotSay

__all__ = ["prefab_hooks", "with_places"]

_Hooks = Sequence[tuple[HookEntry, Reason]]


class _Standing(Struct, frozen=True):
    """A hook that sets a thing somewhere."""

    number: int
    seat: str
    names: frozenset[str]
    """What others call it."""
    refers: frozenset[str]
    called: str
    """What the builder may know it by; empty for nothing."""
    blank: Mapping[str, Any]
    """Of one that has words where its numbers go: the entry with numbers there, which only the builder knows."""


def with_places(site: Site, hooks: _Hooks) -> tuple[list[tuple[HookEntry, Reason]], list[tuple[PlaceEntry, Reason]]]:
    """The hooks with the place that each stands at, and these places. Things that work on each other keep their places
    to each other: they are one."""
    standing = list(_standing(site, hooks))
    places: list[tuple[PlaceEntry, Reason]] = []
    placed: dict[int, str] = {}
    grounded = bool(site.layout.grounds and site.layout.positions.space.up)
    for together in _together(standing):
        name = _free(next((kebab(one.called) for one in together if one.called), "place"), placed.values())
        placed |= {one.number: name for one in together}
        parts = list(dict.fromkeys(one.called for one in together if one.called))
        says = f"where {_listed(parts)} {'stand' if len(together) > 1 else 'stands'}" if parts else ""
        must = any(one.blank for one in together)
        place = PlaceEntry(name=name, says=says, on_ground=grounded, must=must)
        # What is unsure of the entries is told of them.
        places.append((place, Reason(True, hooks[together[0].number][1].why)))
    blank = {one.number: one.blank for one in standing if one.blank}
    made = [
        (structs.replace(hook, place=placed.get(n, hook.place), **blank.get(n, {})), reason)
        for n, (hook, reason) in enumerate(hooks)
    ]
    return made, places


def prefab_hooks(site: Site, have: PackMaterial, hooks: _Hooks) -> Iterator[tuple[HookEntry, PlaceEntry, Reason]]:
    """Records for the prefabs that a pack brings and nothing of it sets somewhere: where they stand, only the builder
    knows."""
    rules = site.layout.positions.placed
    inner = [rule for rule in rules if rule.entry.in_prefabs]
    rule = next((one for one in rules if one.new and one.entry.prefab and not one.entry.in_prefabs), None)
    seat_file = next((one for one in site.seat_files if rule is not None and one.seat.name == rule.entry.seat), None)
    if rule is None or seat_file is None:
        return
    said = [f"{hook.text or ''}{hook.record or ''}" for hook, _ in hooks]
    taken = {hook.place for hook, _ in hooks}
    for one in have.placing.placed:
        if not any(part.asked.files.matches(one.target) for part in inner):
            continue
        try:
            word = prefab_word(rule, one.target, seat_file.path)
        except CannotSay:
            continue
        own = have.scripts.get(one.target)
        if any(word in text for text in (*said, *have.scripts.values()) if text is not own):
            continue
        name = _free(kebab(posixpath.splitext(posixpath.basename(one.target))[0]), taken)
        taken.add(name)
        body = prefab_body(rule, word)
        record = None if body.record is None else dict(body.record)
        hook = HookEntry(seat=rule.entry.seat, text=body.text, record=record, place=name, when=one.when)
        reason = Reason(
            True, _told_of(have, word) or as_said(f"the pack brings {one.target}; nothing says where it stands")
        )
        yield hook, PlaceEntry(name=name, says=f"where {word} stands", must=True), reason


def _told_of(have: PackMaterial, word: str) -> Why | None:
    """The line of the notes that speaks of a prefab: by its path, or else by its name."""
    stem = posixpath.splitext(posixpath.basename(word))[0]
    lines = [(notes.path, line) for notes in have.notes for line in notes.lines]
    told = (at_line(path, line.number) for said in (word, stem) for path, line in lines if said in line.text)
    return next(told, None)


def _standing(site: Site, hooks: _Hooks) -> Iterator[_Standing]:
    for number, (hook, _) in enumerate(hooks):
        seat_file = next((one for one in site.seat_files if one.seat.name == hook.seat), None)
        if seat_file is None or hook.place or (hook.text is None and hook.record is None):
            continue
        told = site.told(seat_file, Body(text=hook.text, record=hook.record))
        rule = next((one for one in site.layout.positions.placed if _sets(one, seat_file, told)), None)
        if rule is None or (hook.record is not None and not _says_where(rule, hook.record)):
            continue
        kind = rule.entry.kind
        names = tuple(one.name for one in told.defines if one.kind == kind)
        refers = frozenset(one.name for one in told.refers if one.kind == kind)
        called = names[0] if names else _class(rule, hook.record)
        yield _Standing(number, hook.seat, frozenset(names), refers, called, _with_numbers(rule, hook))


def _sets(rule: PlacedRule, seat_file: SeatFile, told: EntryFacts) -> bool:
    """Whether an entry at a seat is a thing of a rule: one is set there, or one of that kind is defined."""
    if rule.entry.in_prefabs or not rule.asked.files.matches(seat_file.path):
        return False
    defines = bool(rule.entry.kind) and any(one.kind == rule.entry.kind for one in told.defines)
    return defines or rule.entry.seat == seat_file.seat.name


def _says_where(rule: PlacedRule, record: Mapping[str, Any]) -> bool:
    """Whether a record has a value where its position goes."""
    ways = [one.way for one in rule.at if one is not None] + [rule.entry.matrix]
    return any(way.partition("/")[0] in record for way in ways if way)


def _with_numbers(rule: PlacedRule, hook: HookEntry) -> dict[str, Any]:
    """The record with 0 where notes have words for numbers (`x h y`), as many as there are words; empty where nothing
    is like that."""
    way = rule.at[0].way if rule.at[0] is not None else ""
    said = (hook.record or {}).get(way)
    if not isinstance(said, str) or pieces_of(said) is not None or "{" in said:
        return {}
    zeros = re.sub(r"[^\s,;]+", "0", said)
    return {"record": {**(hook.record or {}), way: zeros}}


def _class(rule: PlacedRule, record: Mapping[str, Any] | None) -> str:
    """What sort of thing a record without a name is."""
    value: Any = record
    for step in rule.entry.class_.split("/"):
        value = value.get(step) if isinstance(value, Mapping) else None
    return value if isinstance(value, str) else ""


def _together(standing: Sequence[_Standing]) -> Iterator[list[_Standing]]:
    """The things in groups of which each refers to, or is referred to by, another of its group, or has no name like the
    others of it; in the order of the sheet."""
    left, crowd = list(standing), _crowd(standing)
    while left:
        group = [left.pop(0)]
        fresh = group
        while fresh:
            names = frozenset().union(*(one.names for one in group))
            refers = frozenset().union(*(one.refers for one in group))
            alike = group[0].seat if not group[0].names and group[0].seat in crowd else None
            fresh = [
                one for one in left if one.refers & names or one.names & refers or (not one.names and one.seat == alike)
            ]
            group += fresh
            left = [one for one in left if one not in fresh]
        yield sorted(group, key=lambda one: one.number)


def _crowd(standing: Sequence[_Standing]) -> frozenset[str]:
    """The seats at which several things of one sort have no name: what could be said of one would be said of all, and
    they stand as the author has arranged them."""
    nameless = Counter((one.seat, one.called) for one in standing if not one.names)
    return frozenset(seat for (seat, _), count in nameless.items() if count > 1)


def _free(name: str, taken: Iterable[str]) -> str:
    """The name, or with a number where it is taken."""
    known, count, made = set(taken), 1, name
    while made in known:
        count += 1
        made = f"{name}-{count}"
    return made


def _listed(parts: Sequence[str]) -> str:
    """Words in a row: `a`, `b` and `c`."""
    told = [f"`{one}`" for one in parts[:4]] + ([f"{len(parts) - 4} more"] if len(parts) > 4 else [])
    return " and ".join([", ".join(told[:-1]), told[-1]] if len(told) > 1 else told)
