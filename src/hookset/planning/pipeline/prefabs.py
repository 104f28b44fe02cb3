"""Records that stand for prefabs: a file with things of its own comes to stand in the map, once or many times."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from msgspec.structs import replace

from hookset.config.layouts.positions import PlacedRule
from hookset.formats import Body
from hookset.planning.pipeline.entries import StagedEntries, put_entry, set_pending
from hookset.planning.pipeline.request import copy_key
from hookset.planning.placing.moving import position_text, stands_as
from hookset.planning.placing.positions import Position
from hookset.planning.plan import PackPlan, Stop, ValueStep
from hookset.planning.state import PlanState
from hookset.project import LedgerHook
from hookset.scene.prefabs import prefab_body, prefab_of, prefab_word
from hookset.scene.records import Mould, open_for_edits
from hookset.scene.scene import Scene
from hookset.scene.values import CannotSay, Wish, values_for
from hookset.space.transforms import Transform

__all__ = ["prefab_called", "with_prefab"]


def prefab_called(scene: Scene, name: str) -> str:
    """The path of the prefab that a name means, by its path or by what records say of it; empty for none."""
    for rule in scene.layout.positions.placed:
        if rule.entry.in_prefabs and rule.asked.files.matches(name) and scene.tree.has(name):
            return name
    for rule in _writing(scene):
        path = rule.prefab_path(name, "")
        if path and scene.tree.has(path):
            return path
    return ""


def _writing(scene: Scene) -> list[PlacedRule]:
    """The rules that say how a further record is written that stands for a file."""
    placed = scene.layout.positions.placed
    return [rule for rule in placed if rule.entry.prefab and rule.entry.seat and not rule.entry.in_prefabs and rule.new]


def with_prefab(
    state: PlanState, scene: Scene, path: str, positions: Sequence[Position], group: str | None
) -> tuple[PlanState, tuple[PackPlan, ...]]:
    """The plan with records that stand for a file, one at each position, and what became of them. Raises CannotSay."""
    rules = _writing(scene)
    if not rules:
        raise CannotSay("the layout does not say how a record is written that stands for a file")
    rule = rules[0]
    files = [one for one in state.tree.paths() if rule.asked.files.matches(one)]
    if len(files) != 1:
        raise CannotSay(f"{len(files) or 'no'} files could take it: {', '.join(files[:3])}".rstrip(": "))
    word = prefab_word(rule, path, files[0])
    hook = LedgerHook(order=0, seat=rule.entry.seat, path=files[0], key="", **_said(prefab_body(rule, word)))
    mould = _mould(state, hook, path)
    entries, told, wanted = StagedEntries(state), [], list[Wish]()
    for position in positions:
        wish = Wish(position.at, position.turn, position.size)
        body = mould.cast([_values(mould, wish, group, scene.things.forward(rule))])
        order = entries.state.order
        entries = replace(entries, state=entries.state.with_next_order())
        numbered = LedgerHook(order=order, seat=hook.seat, path=hook.path, key=copy_key(order), **_said(body))
        entries, _ = put_entry(entries, hook.path, numbered, f"it stands for {path}")
        told.append(ValueStep(word, "", position_text(position.at, rule.at[2] is None)))
        wanted.append(wish)
    entries = set_pending(entries)
    plan = PackPlan(name=word, version="", before="", hooks=entries.steps, values=tuple(told))
    return _verified(entries.state, path, files[0], wanted), (plan,)


def _said(body: Body) -> dict[str, Any]:
    return {"text": body.text, "record": None if body.record is None else dict(body.record)}


def _mould(state: PlanState, hook: LedgerHook, path: str) -> Mould:
    """The record as the layout has it, set for a moment, to be written over."""
    before = {thing.where for thing in Scene(state.tree, state.layout).things.rows if prefab_of(thing) == path}
    entries, could = put_entry(StagedEntries(state), hook.path, hook, "")
    tried = set_pending(entries).state if could else state
    scene = Scene(tried.tree, tried.layout)
    fresh = [one for one in scene.things.rows if prefab_of(one) == path and not one.within and one.where not in before]
    if not fresh:
        raise CannotSay("what the layout says of such records does not read back as one that stands for the file")
    file = open_for_edits(tried.tree, fresh[-1].rule, hook.path)
    return Mould.of(file, tried.layout, [fresh[-1]])


def _values(mould: Mould, wish: Wish, group: str | None, forward: bool) -> dict[str, Any]:
    thing = mould.things[0]
    values = dict(values_for(thing, wish, Transform.still(), forward))
    if group is not None:
        if not thing.rule.entry.group:
            raise CannotSay(f"the layout does not say where {thing.rule.entry.title} have their group")
        values[thing.rule.entry.group] = group
    return values


def _verified(state: PlanState, path: str, file: str, wanted: Sequence[Wish]) -> PlanState:
    """The plan, with a stop where the file does not stand everywhere where it was to stand."""
    if state.stops:
        return state
    scene = Scene(state.tree, state.layout)
    rows = [one.index for one in scene.things.rows if prefab_of(one) == path and not one.within]
    if all(any(stands_as(scene, row, wish) for row in rows) for wish in wanted):
        return state
    what = f"`{path}` cannot be placed so: what was written for it reads back as something else"
    remedy = "correct what the layout says of such records ([[placed]] text)"
    return state.with_stops(
        [Stop("not-copied", what, where=file, why="it would not stand where it was to stand", remedy=remedy)]
    )
