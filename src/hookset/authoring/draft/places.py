"""What of a pack the builder can put elsewhere: its things, by what belongs together."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from msgspec import structs

from hookset.authoring.draft.draft import Reason
from hookset.authoring.draft.said.conditions import kebab
from hookset.authoring.draft.site import Site
from hookset.config.layouts.positions import PlacedRule
from hookset.formats import Body
from hookset.packs.hooksheet import HookEntry, PlaceEntry

__all__ = ["with_places"]

_Hooks = Sequence[tuple[HookEntry, Reason]]


@dataclass(frozen=True, slots=True)
class _Standing:
    """A hook that sets a thing somewhere."""

    number: int
    names: frozenset[str]
    """What others call it."""
    refers: frozenset[str]
    called: str
    """What the builder may know it by; empty for nothing."""


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
        parts = [one.called for one in together if one.called]
        says = f"where {_listed(parts)} {'stand' if len(together) > 1 else 'stands'}" if parts else ""
        places.append((PlaceEntry(name=name, says=says, on_ground=grounded), hooks[together[0].number][1]))
    made = [(structs.replace(hook, place=placed.get(n, hook.place)), reason) for n, (hook, reason) in enumerate(hooks)]
    return made, places


def _standing(site: Site, hooks: _Hooks) -> Iterator[_Standing]:
    rules = {rule.entry.seat: rule for rule in site.layout.positions.placed if rule.entry.seat}
    for number, (hook, _) in enumerate(hooks):
        rule = rules.get(hook.seat)
        seat_file = next((one for one in site.seat_files if one.seat.name == hook.seat), None)
        if rule is None or seat_file is None or hook.place or (hook.text is None and hook.record is None):
            continue
        told = site.told(seat_file, Body(text=hook.text, record=hook.record))
        kind = rule.entry.kind
        names = tuple(one.name for one in told.defines if one.kind == kind)
        refers = frozenset(one.name for one in told.refers if one.kind == kind)
        yield _Standing(number, frozenset(names), refers, names[0] if names else _class(rule, hook.record))


def _class(rule: PlacedRule, record: Mapping[str, Any] | None) -> str:
    """What sort of thing a record without a name is."""
    value: Any = record
    for step in rule.entry.class_.split("/"):
        value = value.get(step) if isinstance(value, Mapping) else None
    return value if isinstance(value, str) else ""


def _together(standing: Sequence[_Standing]) -> Iterator[list[_Standing]]:
    """The things in groups of which each refers to, or is referred to by, another of its group; in the order of the
    sheet."""
    left = list(standing)
    while left:
        group = [left.pop(0)]
        fresh = group
        while fresh:
            names = frozenset().union(*(one.names for one in group))
            refers = frozenset().union(*(one.refers for one in group))
            fresh = [one for one in left if one.refers & names or one.names & refers]
            group += fresh
            left = [one for one in left if one not in fresh]
        yield sorted(group, key=lambda one: one.number)


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
