"""Things that become like another one: each keeps its name, its place, its links, its group and its settings."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from hookset.edits import Put, put
from hookset.formats.parts import Part
from hookset.model import WrongUseError
from hookset.planning.choices import Choices
from hookset.planning.operations.take import with_taken
from hookset.planning.pipeline.prefabs import prefab_called
from hookset.planning.placing.moving import Move, moved, owner_of, refused, stands_as
from hookset.planning.placing.positions import row_called
from hookset.planning.plan import HookState, HookStep, PackPlan, Plan, ValueStep
from hookset.planning.state import PlanState, plan_state_for
from hookset.project import Ledger, LedgerHook, MapProject
from hookset.scene.numbers import pieces_of
from hookset.scene.prefabs import prefab_word
from hookset.scene.records import Mould, every_part, open_for_edits
from hookset.scene.rows import Thing
from hookset.scene.scene import Scene
from hookset.scene.values import CannotSay, Wish, values_for
from hookset.space.transforms import parted

__all__ = ["SwapRequest", "plan_swap"]


class SwapRequest(Struct, frozen=True, kw_only=True):
    """What is to become like what."""

    names: tuple[str, ...] = ()
    of_class: str = ""
    """All things of this class."""
    like: str = ""
    """What they become like: a thing, or for those that stand for a prefab another one."""
    as_class: str = ""
    """Or the class that they become, while all else stays."""
    keep: tuple[tuple[str, str], ...] = ()
    """Ways to values that are carried over although the new record has none, each with the way that it has there."""


class _Swap(Struct, frozen=True):
    """One thing, and what it is to be made of."""

    scene: Scene
    thing: Thing
    said: Mapping[str, Part]
    """All that it says now."""
    mould: Mould
    parts: Mapping[str, Part]
    """All that the other one says."""


def plan_swap(
    project: MapProject, ledger: Ledger, ledger_bytes: bytes | None, asked: SwapRequest, choices: Choices, now: str
) -> Plan:
    """Give things the records of another one. Raises WrongUseError for names that mean nothing."""
    state = plan_state_for(project, ledger, choices, now)
    scene = Scene(project.tree, project.layout)
    keys = [thing.key for thing in scene.things.by_class(asked.of_class)] if asked.of_class else []
    if bool(asked.like) == bool(asked.as_class):
        raise WrongUseError(
            "incomplete-option", "it is not said what they become", remedy="say --like NAME, or --as CLASS"
        )
    names = [*asked.names, *(key for key in keys if key and key != asked.like)]
    prefab = prefab_called(scene, asked.like) if asked.like and asked.like not in scene.things.by_key else ""
    if asked.as_class or prefab:
        return _reworded(state, scene, asked, prefab).plan(ledger_bytes)
    if not names:
        raise WrongUseError(
            "incomplete-option", "it is not said what is to be swapped", remedy="name things, or --class CLASS"
        )
    values: list[ValueStep] = []
    notes: list[str] = []
    steps: list[HookStep] = []
    for name in names:
        scene = Scene(state.tree, state.layout)
        thing = scene.things.rows[row_called(scene, name)]
        try:
            swap = _swap(state, scene, thing, asked.like)
            state, step = _swapped(state, swap, asked)
        except CannotSay as error:
            return state.with_stops([refused(thing, error)]).plan(ledger_bytes)
        steps.append(step)
        values += _kept(swap, asked)
        notes += _lost(swap, asked)
    plan = PackPlan(name=", ".join(names[:5]), version="", hooks=tuple(steps), values=tuple(values), notes=tuple(notes))
    return state.with_plan_of(plan).plan(ledger_bytes)


def _reworded(state: PlanState, scene: Scene, asked: SwapRequest, prefab: str) -> PlanState:
    """The plan with things that have another class, or stand for another prefab, while all else of them stays."""
    rows = [row_called(scene, name) for name in asked.names]
    rows += (
        [one.index for one in scene.things.by_class(asked.of_class) if one.index not in rows] if asked.of_class else []
    )
    if not rows:
        raise WrongUseError(
            "incomplete-option", "it is not said what is to be swapped", remedy="name things, or --class CLASS"
        )
    moves: dict[int, Move] = {}
    for row in rows:
        thing = scene.things.rows[row]
        way = thing.rule.entry.prefab if prefab else thing.rule.entry.class_
        if not way or (prefab and thing.part(way) is None):
            what = "it stands for no prefab" if prefab else "the layout does not say where its class stands"
            return state.with_stops([refused(thing, CannotSay(what))])
        new = prefab_word(thing.rule, prefab, thing.path) if prefab else asked.as_class
        moves[row] = Move(thing.key, Wish(), {way: new})
    state, steps = moved(state, scene, moves)
    shown = tuple(replace(step, shown=f"{step.shown} is {prefab or asked.as_class}") for step in steps)
    called = [scene.things.rows[row].called for row in rows[:5]]
    return state.with_plan_of(PackPlan(name=", ".join(dict.fromkeys(called)), version="", hooks=shown))


def _swap(state: PlanState, scene: Scene, thing: Thing, like: str) -> _Swap:
    other = scene.things.rows[row_called(scene, like)]
    if other.index == thing.index:
        raise WrongUseError("same-thing", f"`{like}` is like itself already", remedy="name another thing: --like NAME")
    if not thing.key or thing.rule is not other.rule:
        raise CannotSay(f"it has no key of its own, or is of another sort of record than `{like}`")
    file, source = (open_for_edits(state.tree, one.rule, one.path) for one in (thing, other))
    if owner_of(state, file, thing) is not None:
        raise CannotSay("a pack has set it, and would set it again: take it out, and place another one there")
    if _holds(scene, thing) or _holds(scene, other):
        raise CannotSay("other things stand by it, or by what it is to be like")
    mould = Mould.of(source, state.layout, [other])
    return _Swap(scene, thing, every_part(file, thing), mould, every_part(source, other))


def _holds(scene: Scene, thing: Thing) -> bool:
    return any(not one.within for one in scene.things.standing_by(thing.index))


def _swapped(state: PlanState, swap: _Swap, asked: SwapRequest) -> tuple[PlanState, HookStep]:
    thing, things = swap.thing, swap.scene.things
    now, other = things.transform(thing.index), swap.mould.things[0]
    was = parted(things.local_matrix(other.index))
    if now is None or was is None:
        raise CannotSay("one of the two is sheared or flat as it stands")
    wish = Wish(now.at, now.turn, now.size)
    values = {**values_for(other, wish, was, swap.scene.things.forward(other.rule)), **_values(swap, asked)}
    body = swap.mould.cast([values], swap.parts)
    state, _ = with_taken(state, swap.scene, [thing.key])
    entry = thing.rule.entry
    record = dict(body.record) if body.record is not None else None
    hook = LedgerHook(order=0, seat=entry.seat, path=thing.path, key="swap", text=body.text, record=record)
    result = put(state.layout, state.tree, hook)
    if not isinstance(result, Put):
        raise CannotSay("its new record cannot be set")
    state = state.with_contents({thing.path: result.content})
    after = Scene(state.tree, state.layout)
    rows = after.things.by_key.get(thing.key, ())
    if len(rows) != 1 or not stands_as(after, rows[0], wish):
        raise CannotSay("it reads back as something else")
    step = HookStep(
        seat="",
        title=entry.title,
        path=thing.path,
        state=HookState.REPLACED,
        shown=f"{thing.key} is {after.things.rows[rows[0]].class_ or other.called}",
        note=f"was {thing.class_}" if thing.class_ else "",
    )
    return state, step


def _values(swap: _Swap, asked: SwapRequest) -> dict[str, Any]:
    """What stays as it was: the name, the links, the group, settings that both have, and what is carried over."""
    entry = swap.thing.rule.entry
    staying = [way for way in (entry.key, entry.group, *entry.links) if way and way != "0#"]
    values = {way: _plain(part) for way in staying if (part := swap.thing.part(way)) is not None}
    values |= {way: _plain(swap.said[way]) for way in _settings(swap)}
    values |= {new: _plain(swap.said[old]) for old, new in asked.keep if old in swap.said}
    return values


def _settings(swap: _Swap) -> list[str]:
    """The ways to numbers and truth values that both have and that differ: what somebody has set."""
    entry = swap.thing.rule.entry
    others = {entry.key, entry.class_, entry.matrix, *entry.links, *entry.numbered, *_placing(swap.thing)}
    return [
        way
        for way, part in swap.said.items()
        if way in swap.parts and way not in others and _is_setting(part) and _plain(part) != _plain(swap.parts[way])
    ]


def _is_setting(part: Part) -> bool:
    value = part.value
    if isinstance(value, str):
        return value.casefold() in ("true", "false", "yes", "no", "on", "off") or bool(pieces_of(value))
    return isinstance(value, int | float)


def _plain(part: Part) -> Any:
    return [one.value for one in part.value] if isinstance(part.value, tuple) else part.value


def _kept(swap: _Swap, asked: SwapRequest) -> Iterator[ValueStep]:
    for way in _settings(swap):
        yield ValueStep(f"{swap.thing.key}: {way}", str(_plain(swap.said[way])), "as it was")
    for old, new in asked.keep:
        if old in swap.said:
            yield ValueStep(f"{swap.thing.key}: {new}", str(_plain(swap.said[old])), f"carried over from {old}")


def _lost(swap: _Swap, asked: SwapRequest) -> Iterator[str]:
    """What it said and says no more, and what it did not say before."""
    entry, name = swap.thing.rule.entry, swap.thing.key
    staying = {*_placing(swap.thing), entry.key, entry.group, *entry.links}
    # By where it stands: the layout may lead to a value in another way.
    same = {part.where for way in staying if (part := swap.thing.part(way)) is not None}
    carried = {way for pair in asked.keep for way in pair}
    for way, part in swap.said.items():
        if way not in {*swap.parts, *carried, *staying} and part.where not in same:
            yield f"{name}: `{way}` was {_plain(part)}, and is no more: --keep {way} carries it over"
    for way, part in swap.parts.items():
        if way not in {*swap.said, *carried, *staying}:
            yield f"{name}: `{way}` is {_plain(part)}, which it did not have"


def _placing(thing: Thing) -> set[str]:
    """The ways to what says where a thing stands."""
    rule = thing.rule
    turn = rule.turn.numbers if rule.turn is not None else ()
    return {one.way for one in (*rule.at, *(rule.size or ()), *turn) if one is not None}
