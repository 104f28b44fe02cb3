"""Copies of things: each with names of its own, its links to its own parts, at its own place."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Mapping, Sequence
from collections.abc import Set as AbstractSet
from typing import Any

import msgspec
from msgspec import Struct, field
from msgspec.structs import replace

from hookset.formats import Body
from hookset.planning.filling import MapValues
from hookset.planning.filling.numbers import next_id
from hookset.planning.naming.rewriting import facts_of, swapped
from hookset.planning.pipeline.entries import StagedEntries, put_entry, set_pending
from hookset.planning.pipeline.request import copy_key
from hookset.planning.placing.moving import owner_of, position_text, rigid, stands_as
from hookset.planning.placing.positions import Position
from hookset.planning.plan import PackPlan, Stop, ValueStep
from hookset.planning.state import PlanState
from hookset.project import LedgerHook
from hookset.scene.records import Mould, OpenFile, open_for_edits
from hookset.scene.rows import Thing
from hookset.scene.scene import Scene
from hookset.scene.suffixes import next_names
from hookset.scene.values import CannotSay, Wish, values_for
from hookset.space.transforms import Transform, parted

__all__ = ["with_copies"]


class _Root(Struct, frozen=True):
    """A thing whose record is an entry, with the things in its record."""

    mould: Mould
    owner: tuple[str, LedgerHook] | None

    @property
    def thing(self) -> Thing:
        return self.mould.things[0]


class _Copying(Struct, frozen=True):
    """What copies are made of, and what has been given so far."""

    scene: Scene
    roots: tuple[_Root, ...]
    asked: Sequence[str]
    """What they were called by."""
    group: str | None
    values: MapValues
    given: dict[str, set[str]] = field(default_factory=dict)
    """By kind: names that copies of this plan have."""

    @property
    def things(self) -> tuple[Thing, ...]:
        return tuple(thing for root in self.roots for thing in root.mould.things)

    def taken(self, thing: Thing) -> AbstractSet[str]:
        kind = thing.rule.entry.kind
        known = self.values.names(kind) if kind else frozenset()
        return known | self.scene.things.by_key.keys()


def with_copies(
    state: PlanState,
    scene: Scene,
    rows: Sequence[int],
    positions: Sequence[Position],
    names: Sequence[str],
    group: str | None = None,
) -> tuple[PlanState, tuple[PackPlan, ...]]:
    """The plan with copies of things, by their rows, and what became of each pack's: the first of them at each
    position, the others as they stand to it. Copies of a pack's things belong to the pack. `names` are what they were
    called by. Raises CannotSay."""
    roots = tuple(_roots(state, scene, _with_held(scene, rows)))
    values = MapValues(state.layout, state.tree, state.stock)
    return _copied(state, _Copying(scene, roots, names, group, values), positions)


def _roots(state: PlanState, scene: Scene, rows: Sequence[int]) -> Iterator[_Root]:
    """The things that are to be copied, without those that stand in the record of another one of them."""
    files: dict[str, OpenFile] = {}
    inside: set[int] = set()
    within = {row: _in_record(scene, row) for row in rows}
    for row in rows:
        inside.update(within[row][1:])
    for row in (row for row in rows if row not in inside):
        thing = scene.things.rows[row]
        if thing.path not in files:
            files[thing.path] = open_for_edits(state.tree, thing.rule, thing.path)
        mould = Mould.of(files[thing.path], state.layout, [scene.things.rows[one] for one in within[row]])
        yield _Root(mould, owner_of(state, files[thing.path], thing))


def _with_held(scene: Scene, rows: Sequence[int]) -> list[int]:
    """The rows, and those of what stands by them by its number: a copy would be without it."""
    found = list(dict.fromkeys(rows))
    for row in found:
        if scene.things.rows[row].rule.entry.holds:
            held = (one.index for one in scene.things.standing_by(row) if not one.within)
            found += [one for one in held if one not in found]
    return found


def _in_record(scene: Scene, row: int) -> list[int]:
    """A thing, and all that stand in its record."""
    if not scene.things.rows[row].rule.entry.nested:
        return [row]
    found = [row]
    known = {row}
    for other, outer in scene.things.standing_after(row):
        if outer in known and not scene.things.rows[other].within:
            known.add(other)
            found.append(other)
    return found


def _copied(
    state: PlanState, copying: _Copying, positions: Sequence[Position]
) -> tuple[PlanState, tuple[PackPlan, ...]]:
    done: dict[str, StagedEntries] = {}
    wanted: list[tuple[str, Thing, Wish]] = []
    told: list[ValueStep] = []
    first = copying.roots[0].thing
    for position, names in zip(positions, _names(copying), strict=False):
        for root in copying.roots:
            wish = rigid(copying.scene, first.index, root.thing.index, position)
            key = names.get(root.thing.key, "")
            if key and wish.at is not None:
                flat = root.thing.rule.at[2] is None
                told.append(ValueStep(root.thing.key, key, position_text(wish.at, flat)))
            body = root.mould.cast([*_values(copying, root, wish, names)])
            owner = root.owner[0] if root.owner is not None else ""
            entries = replace(done.get(owner) or StagedEntries(state), state=state)
            done[owner] = entries = _with_copy(entries, copying, root, body, names)
            state = entries.state
            wanted.append((key, root.thing, wish))
    return _finished(state, copying, done, wanted, told)


def _with_copy(
    entries: StagedEntries, copying: _Copying, root: _Root, body: Body, names: Mapping[str, str]
) -> StagedEntries:
    """A copy of a thing set, and with it copies of what a pack has set besides that names it."""
    owner = root.owner[1] if root.owner is not None else None
    copy = LedgerHook(
        order=0,
        seat=root.thing.rule.entry.seat,
        at=owner.at if owner is not None else {},
        path=root.thing.path,
        part=owner.part if owner is not None else "",
        place=owner.place if owner is not None else "",
        key="",
        text=body.text,
        record=dict(body.record) if body.record is not None else None,
    )
    beside = [(one, f"as {root.thing.called} has it") for one in _beside(entries.state, copying, root, names)]
    for hook, note in [(copy, f"a copy of {root.thing.called}"), *beside]:
        order = entries.state.order
        entries = replace(entries, state=entries.state.with_next_order())
        numbered = msgspec.structs.replace(hook, order=order, key=copy_key(order))
        entries, _ = put_entry(entries, root.thing.path, numbered, note)
    return entries


def _finished(
    state: PlanState,
    copying: _Copying,
    done: Mapping[str, StagedEntries],
    wanted: Sequence[tuple[str, Thing, Wish]],
    told: Sequence[ValueStep],
) -> tuple[PlanState, tuple[PackPlan, ...]]:
    plans: list[PackPlan] = []
    for owner, waiting in done.items():
        entries = set_pending(replace(waiting, state=state))
        state = entries.state
        pack = state.ledger.pack(owner)
        if pack is not None:
            state = state.with_row(msgspec.structs.replace(pack, hooks=(*pack.hooks, *entries.hooks)))
        title = pack.name if pack is not None else ", ".join(copying.asked)
        plans.append(
            PackPlan(
                name=title,
                version=pack.version if pack is not None else "",
                before=pack.version if pack is not None else "",
                hooks=entries.steps,
                values=tuple(told) if len(told) <= _TOLD else (),
                notes=(*_by_themselves(copying), *_named_elsewhere(state, copying)),
            )
        )
    return _verified(state, copying.scene, wanted), tuple(plans)


_TOLD = 60


def _names(copying: _Copying) -> Iterator[dict[str, str]]:
    """For each copy the old keys of what is copied, and those of the copy."""
    things = [thing for thing in copying.things if thing.key]
    if not things:
        yield from itertools.repeat({})
    taken = frozenset().union(*(copying.taken(thing) for thing in things))
    old = tuple(dict.fromkeys(thing.key for thing in things))
    for new in next_names(old, taken, things[0].rule.copies):
        yield dict(zip(old, new, strict=True))


def _values(copying: _Copying, root: _Root, wish: Wish, names: Mapping[str, str]) -> Iterator[dict[str, Any]]:
    """For each thing in a record the values by which its copy differs."""
    for thing in root.mould.things:
        entry = thing.rule.entry
        values: dict[str, Any] = {}
        if thing is root.thing:
            was = parted(copying.scene.things.local_matrix(thing.index))
            now = copying.scene.things.transform(thing.index)
            if was is None or now is None:
                raise CannotSay("it is sheared or flat as it stands")
            # A copy stands by nothing else: it goes to the seat.
            values |= values_for(thing, _whole(wish, now, was), was, copying.scene.things.forward(thing.rule))
            if copying.group is not None:
                if not entry.group:
                    raise CannotSay(f"the layout does not say where {entry.title} have their group")
                values[entry.group] = copying.group
        if entry.holds and thing.part(entry.holds) is not None:
            # What stood by it is copied, too, and stands by itself.
            values[entry.holds] = None
        if thing.key in names and entry.key != "0#":
            values[entry.key] = names[thing.key]
        values |= _renamed(thing, names)
        for way, kind in entry.numbered.items():
            values[way] = _next(copying, kind)
        yield values


def _renamed(thing: Thing, names: Mapping[str, str]) -> dict[str, Any]:
    """The values of a record that name what is copied with it, or go with its key."""
    entry = thing.rule.entry
    values: dict[str, Any] = {}
    for way in entry.links:
        linked = [link.to for link in thing.links if link.way == way]
        if any(to in names for to in linked):
            part = thing.part(way)
            new = [names.get(to, to) for to in linked]
            values[way] = new if part is not None and isinstance(part.value, tuple) else new[0]
    for way in entry.ties:
        part = thing.part(way)
        if part is not None and isinstance(part.value, str):
            values[way] = _tied(part.value, thing.key, names)
    return values


def _whole(wish: Wish, now: Transform, was: Transform) -> Wish:
    """What is wished of a copy that stands by nothing, of a thing that may stand by another one."""
    whole = wish.of(now)
    return Wish(
        whole.at,
        whole.turn if wish.turn is not None or (now.turn != was.turn).any() else None,
        whole.size if wish.size is not None or (now.size != was.size).any() else None,
    )


def _tied(text: str, key: str, names: Mapping[str, str]) -> str:
    """A text that goes with a key: with the same number at its end, if it has the one that the key had."""
    if key not in names:
        return text
    if text == key:
        return names[key]
    old, new = (re.search(r"([0-9]+|(?<=[ _.\-])[A-Za-z])$", one) for one in (key, names[key]))
    if new is None:
        return text
    if old is not None and text.endswith(old[1]):
        return text[: -len(old[1])] + new[1]
    return f"{text} {new[1]}" if old is None else text


def _next(copying: _Copying, kind: str) -> str:
    layout = copying.scene.layout
    given = copying.given.setdefault(kind, set())
    number, by = next_id(kind, layout, copying.values.names(kind) | given)
    if number is None:
        raise CannotSay(f"there is no free {layout.kinds[kind].label}: {by}")
    given.add(number)
    return number


def _beside(state: PlanState, copying: _Copying, root: _Root, names: Mapping[str, str]) -> Iterator[LedgerHook]:
    """The other entries of a pack that name a thing of it: each copy has its own."""
    if root.owner is None:
        return
    owner = state.ledger.pack(root.owner[0])
    own = {one.owner[1].order for one in copying.roots if one.owner is not None}
    placed = {root.thing.rule.entry.seat for root in copying.roots}
    for hook in owner.hooks if owner is not None else ():
        key = root.thing.key
        skipped = hook.order in own or not hook.of_sheet or hook.was_there or hook.seat in placed or not hook.seat
        if not key or skipped:
            continue
        text, record = hook.text, hook.record
        for old, new in names.items():
            text, record = swapped(text, old, new), swapped(record, old, new)
        said = msgspec.json.encode([hook.text, hook.record]).decode()
        if (text, record) != (hook.text, hook.record) and re.search(rf"(?<![\w-]){re.escape(key)}(?![\w-])", said):
            yield LedgerHook(
                order=0, seat=hook.seat, at=hook.at, path=hook.path, part=hook.part, key="", text=text, record=record
            )


def _by_themselves(copying: _Copying) -> Iterator[str]:
    """What stands by another thing, while its copies stand by nothing."""
    own = {root.thing.index for root in copying.roots}
    for root in copying.roots:
        outer = int(copying.scene.things.outer[root.thing.index])
        if root.thing.rule.entry.holds and outer in own:
            around = copying.scene.things.rows[outer]
            yield f"{root.thing.called} moves with {around.called}; its copies stand by themselves, at the same place"


def _named_elsewhere(state: PlanState, copying: _Copying) -> Iterator[str]:
    """Files that go on naming the first ones: what is done there is not done for the copies."""
    kinds = {thing.rule.entry.kind for thing in copying.things} - {""}
    keys = {thing.key for thing in copying.things} - {""}
    own = {root.thing.path for root in copying.roots}
    for path in state.tree.paths():
        rules = [rule for rule in state.layout.reads if rule.format != "any" and rule.match(path) is not None]
        if path in own or not any(one.kind in kinds for rule in rules for one in rule.refers):
            continue
        facts = facts_of(state.tree, state.layout, path)
        named = {name for block in facts.referred if block.kind in kinds for name in block.names} & keys
        if named:
            yield f"{path} names {', '.join(sorted(named))}: what it does to that it does not do to the copies"


def _verified(state: PlanState, scene: Scene, wanted: Sequence[tuple[str, Thing, Wish]]) -> PlanState:
    """The plan, with a stop where a copy does not stand as was wished."""
    if state.stops:
        return state
    after = Scene(state.tree, state.layout)
    if len(after.things) < len(scene.things) + len(wanted):
        what = "fewer things are there than were set: one like it may stand there already"
        return state.with_stops([_unlike(wanted[0][1], what)])
    for key, thing, wish in wanted:
        rows = after.things.by_key.get(key, ()) if key else ()
        if key and (len(rows) != 1 or not stands_as(after, rows[0], wish)):
            return state.with_stops([_unlike(thing, f"`{key}` reads back as something else")])
    return state


def _unlike(thing: Thing, what: str) -> Stop:
    return Stop(
        "not-copied",
        f"`{thing.called}` cannot be copied: {what}",
        where=thing.path,
        why="what was set would not stand where it was to stand",
        remedy="set it by hand there, or correct what the layout says of such things",
    )
