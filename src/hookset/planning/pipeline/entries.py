"""One entry of a pack, made ready for this map and put into its seat."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Iterator, Mapping
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, field, replace
from typing import Any

import msgspec

from hookset.config.layouts import Layout
from hookset.edits import Insertions, Put, put, replay
from hookset.formats import AlreadyThere, Clash, NoSeat, Placement, Unreadable, WrongBody
from hookset.model import CouldNotError
from hookset.planning.filling import (
    Filled,
    Filling,
    MapValues,
    Unfillable,
    Unlisted,
    fill_names,
    filled,
    numbers_given,
)
from hookset.planning.naming.rewriting import Entangled, NameMap, added_names, facts_of, swapped
from hookset.planning.pipeline.adapting import stop_entangled
from hookset.planning.pipeline.removal import entry_step
from hookset.planning.pipeline.requests import HookRequest, shown
from hookset.planning.plan import HookState, HookStep, Stop, ValueStep
from hookset.planning.state import PlanState
from hookset.project import LedgerFill, LedgerHook, Stock
from hookset.symbols import FileFacts
from hookset.symbols.spelling import rewritten
from hookset.trees import Overlay, Tree

__all__ = ["StagedEntries", "complete_entry", "listed_keys", "put_entry", "set_pending"]

Names = Counter[tuple[str, ...]]
Said = AbstractSet[tuple[str, ...]]
"""(kind, name, side) of what an entry says."""


@dataclass
class PendingEntries:
    """Entries that wait, and what there is to fill others in with until they are set."""

    values: MapValues
    """Of the map without them."""
    insertions: Insertions
    _of_trees: dict[int, MapValues] = field(default_factory=dict)

    @property
    def more(self) -> tuple[MapValues, ...]:
        """Of what waits."""
        trees = self.insertions.trees
        for tree in trees:
            known = self._of_trees.get(id(tree))
            if known is None or known.tree is not tree:
                self._of_trees[id(tree)] = MapValues(self.values.layout, tree, Stock())
        return tuple(self._of_trees[id(tree)] for tree in trees)


@dataclass
class StagedEntries:
    """What became of a pack's entries."""

    steps: list[HookStep] = field(default_factory=list)
    hooks: list[LedgerHook] = field(default_factory=list)
    values: list[ValueStep] = field(default_factory=list)
    standing: set[str] = field(default_factory=set)
    waiting: PendingEntries | None = None
    """Entries that wait to be set together: they are among `hooks`, and the planned files do not contain them yet."""
    told: dict[int, tuple[str, HookStep]] = field(default_factory=dict)
    """By the order of an entry that waits: where in the hook sheet it is, and its step."""
    """Keys of entries that stand already and are not in `hooks` yet."""


def complete_entry(
    state: PlanState,
    where: str,
    one: HookRequest,
    filling: Filling,
    names: NameMap,
    earlier: LedgerHook | None,
    done: StagedEntries,
) -> LedgerHook | None:
    """The entry with everything filled in, as this map calls it; None where something stands in the way."""
    known = {fill.asked: fill for fill in earlier.fills} if earlier else {}
    spot = f"{where}:{one.line}" if one.line else where
    while True:
        now = replace(_so_far(state, done, filling), earlier=known)
        try:
            body = filled(one.text, one.record, now) if one.fill else Filled(one.text, one.record, ())
            at = {key: filled(value, None, now).text or "" for key, value in one.at.items()}
            break
        except Unlisted as lacking:
            if not _listed(state, spot, lacking, now, done):
                return None
        except Unfillable as error:
            state.stops.append(
                Stop(
                    f"the hook for the seat `{one.seat.name}` cannot be filled in: {error.message.what}",
                    where=spot,
                    details=(f"the entry: {shown(one.text, one.record)[:160]}", *error.message.details),
                    why="a number or a name from another map would mean something else here",
                    remedy=error.message.remedy or "correct the hook sheet",
                )
            )
            return None
    _adopt_listed(state, one, filling, done)
    for fill in body.fills:
        step = ValueStep(fill.asked, fill.value, fill.by)
        if step not in done.values and not fill.asked.startswith(("{setting:", "{claim:", "{blank:")):
            done.values.append(step)
    hook = LedgerHook(
        order=earlier.order if earlier else state.next_order(),
        seat=one.seat.name,
        at=at,
        path=one.path,
        part=one.part,
        key=one.key,
        text=body.text,
        record=body.record,
        raw_text=one.text if body.fills else None,
        raw_record=one.record if body.fills else None,
        fills=body.fills,
    )
    if not names:
        return hook
    renamed, entangled = _renamed(state.layout, _without(state, earlier), hook, names)
    stop_entangled(state, hook.path, entangled)
    return renamed


def _waiting_at(state: PlanState) -> PendingEntries:
    """Nothing yet, on the map as it is planned."""
    values = MapValues(state.layout, state.tree, state.stock)
    return PendingEntries(values, Insertions(state.layout, values.tree))


def _so_far(state: PlanState, done: StagedEntries, filling: Filling) -> Filling:
    """What entries are filled in by: the map as it is planned, and what waits to be set into it."""
    waiting = done.waiting = done.waiting or _waiting_at(state)
    given = numbers_given(fill for one in waiting.insertions.waiting for fill in one.hook.fills)
    return replace(filling, map=waiting.values, more=waiting.more, given=filling.given | given)


def set_pending(state: PlanState, done: StagedEntries) -> None:
    """Set all that waits. Where that does not come out as it should, one after the other."""
    waiting, done.waiting = done.waiting, None
    if waiting is None or not waiting.insertions.waiting:
        return
    result = waiting.insertions.written()
    if result is not None:
        contents, hooks = result
        state.contents |= contents
        values = waiting.values.with_more(state.tree, waiting.more)
        done.waiting = PendingEntries(values, Insertions(state.layout, values.tree))
        by_order = {hook.order: hook for hook in hooks}
        done.hooks = [by_order.get(hook.order, hook) for hook in done.hooks]
        return
    orders = {one.hook.order for one in waiting.insertions.waiting}
    done.hooks = [hook for hook in done.hooks if hook.order not in orders]
    for one in waiting.insertions.waiting:
        where, step = done.told[one.hook.order]
        done.steps = [other for other in done.steps if other is not step]
        _put_alone(state, where, one.hook, step.note, done)


def _without(state: PlanState, earlier: LedgerHook | None) -> Tree:
    """The map as it would be without an entry that is set already."""
    if earlier is None or not earlier.edits or not state.tree.has(earlier.path):
        return state.tree
    try:
        hooks = state.entries_in(earlier.path)
        result = replay(state.layout, state.tree, earlier.path, hooks, {earlier.order: None}, "drop")
    except (Unreadable, CouldNotError):
        return state.tree
    return Overlay(state.tree, {earlier.path: result.content})


def listed_keys(one: HookRequest, filling: Filling) -> list[str]:
    """Return the keys of the table entries that a request lists."""
    if not one.fill:
        return []
    return [_listed_key(asked, filling) for word, asked in fill_names(one.text, one.record) if word == "listed"]


def _listed_key(asked: str, filling: Filling) -> str:
    table, _, key = asked.partition(":")
    return hashlib.sha256(f"listed {table} {filling.moved(key)}".encode()).hexdigest()[:16]


def _listed(state: PlanState, where: str, lacking: Unlisted, filling: Filling, done: StagedEntries) -> bool:
    """Add an entry for what a table of the map does not contain yet."""
    entry, key = lacking.entry, lacking.key
    seat = state.layout.seats.get(entry.seat)
    paths = [path for path in state.tree.paths() if seat is not None and seat.file.matches(path)]
    if seat is None or len(paths) != 1:
        state.stops.append(
            Stop(
                f"{entry.title}: `{key}` is not listed, and cannot be",
                where=where,
                details=(f"the seat `{entry.seat}`: {len(paths)} files match",),
                why="what goes by its number would mean nothing",
                remedy="list it in the map yourself, or correct where the table's entries go",
            )
        )
        return False
    replaced = _with_key(entry.text, key), _with_key(entry.record, key)
    try:
        body = filled(replaced[0], replaced[1], replace(_so_far(state, done, filling), earlier={}))
    except Unfillable as error:
        state.stops.append(Stop(f"{entry.title}: `{key}` cannot be listed: {error.message.what}", where=where))
        return False
    done.values += (ValueStep(fill.asked, fill.value, fill.by) for fill in body.fills)
    hook = LedgerHook(
        order=state.next_order(),
        seat=seat.name,
        path=paths[0],
        key=_listed_key(f"{entry.name}:{key}", replace(filling, moved=str)),
        text=body.text,
        record=body.record,
        fills=body.fills,
    )
    return put_entry(state, where, hook, f"listed for {key}", done)


def _with_key(value: Any, key: str) -> Any:
    if isinstance(value, str):
        return value.replace("{key}", key)
    if isinstance(value, Mapping):
        return {name: _with_key(below, key) for name, below in value.items()}
    return [_with_key(below, key) for below in value] if isinstance(value, list | tuple) else value


def _adopt_listed(state: PlanState, one: HookRequest, filling: Filling, done: StagedEntries) -> None:
    """An entry that another pack has listed is this pack's, too: it stays when the other goes."""
    for key in listed_keys(one, filling):
        if key in done.standing or any(hook.key == key for hook in done.hooks):
            continue
        other = next((h for pack in state.ledger.packs for h in pack.hooks if h.key == key), None)
        if other is not None:
            own = msgspec.structs.replace(other, order=state.next_order(), was_there=True, edits=())
            done.hooks.append(own)


def _renamed(layout: Layout, tree: Tree, hook: LedgerHook, names: NameMap) -> tuple[LedgerHook, tuple[Entangled, ...]]:
    """Rename what an entry adds to the names of its file. Returns the entry and names of other kinds that change."""
    try:
        before = facts_of(tree, layout, hook.path)
        found = _added_by(layout, tree, before, hook)
        first = hook
        said = {one[:3] for part in found for one in part}
        for part in (0, 1):
            for one in list(found[part]):
                kind, old = one[0], one[1]
                written = one[3] if part else old
                new = names.new(kind, old, one[2])
                if new is not None:
                    hook = _respelt_entry(layout, tree, before, hook, kind, (old, new, written), part)
        if hook is first:
            return hook, ()
        now = {one[:3] for part in _added_by(layout, tree, before, hook) for one in part}
    except (Unreadable, CouldNotError):
        return hook, ()
    return hook, tuple(_entangled(layout, names, said - now, now - said))


def _entangled(layout: Layout, names: NameMap, lost: Said, gained: Said) -> Iterator[Entangled]:
    """Names of other kinds that an entry no longer has, and what they have become."""
    for kind, name, side in sorted(lost):
        if names.new(kind, name, side) is None and not layout.kinds[kind].entry.path:
            new = next((other for of, other, _ in sorted(gained) if of == kind), None)
            if new is not None:
                yield Entangled(kind, name, new)


def _added_by(layout: Layout, tree: Tree, before: FileFacts, hook: LedgerHook) -> tuple[Names, Names]:
    """(definitions, references) that an entry would add to its file."""
    result = put(layout, tree, hook)
    if not isinstance(result, Put):
        return Counter(), Counter()
    return added_names(before, facts_of(Overlay(tree, {hook.path: result.content}), layout, hook.path))


def _respelt_entry(
    layout: Layout, tree: Tree, before: FileFacts, hook: LedgerHook, kind: str, names: tuple[str, str, str], part: int
) -> LedgerHook:
    old, new, written = names
    for way in rewritten(layout, hook.path, written, old, new):
        text, record = (swapped(value, written, way) for value in (hook.text, hook.record))
        changed = msgspec.structs.replace(
            hook,
            text=text,
            record=record,
            fills=(*hook.fills, LedgerFill(asked=written, value=way, by=f"this map's {kind}")),
        )
        added = _added_by(layout, tree, before, changed)[part]
        if any(one[0] == kind and one[1] == new for one in added):
            return changed
    return hook


def put_entry(state: PlanState, where: str, hook: LedgerHook, note: str, done: StagedEntries) -> bool:
    """Set an entry, or have it wait for the others of its file. False where it cannot be set."""
    waiting = done.waiting or _waiting_at(state)
    if not waiting.insertions.take(hook):
        if waiting.insertions.waiting:
            set_pending(state, done)
            waiting = done.waiting or _waiting_at(state)
        if not waiting.insertions.take(hook):
            return _put_alone(state, where, hook, note, done)
    done.waiting = waiting
    seat = state.layout.seats[hook.seat]
    step = entry_step(hook.seat, seat.title, hook.path, HookState.SET, hook, note)
    done.steps.append(step)
    done.hooks.append(hook)
    done.told[hook.order] = (where, step)
    return True


def _put_alone(state: PlanState, where: str, hook: LedgerHook, note: str, done: StagedEntries) -> bool:
    done.waiting = None
    seat = state.layout.seats.get(hook.seat)
    title = seat.title if seat else "a value"
    step = entry_step(hook.seat, title, hook.path, HookState.STOPPED, hook, note)
    try:
        result = put(state.layout, state.tree, hook)
    except (Unreadable, CouldNotError) as error:
        done.steps.append(step)
        state.stops.append(
            Stop(
                f"the hook for the seat `{hook.seat}` cannot be set: {hook.path} {error.what}",
                where=where,
                why="a file that is not understood is not edited",
                remedy="mend the file first; `hookset check` shows where",
            )
        )
        return False
    if isinstance(result, Put):
        state.contents[hook.path] = result.content
        done.hooks.append(result.hook)
        done.steps.append(replace(step, state=HookState.SET))
        return True
    if isinstance(result, AlreadyThere):
        done.hooks.append(msgspec.structs.replace(hook, was_there=True))
        done.steps.append(replace(step, state=HookState.THERE))
        return True
    done.steps.append(step)
    state.stops.append(_refusal(result, hook, title, where))
    return False


def _refusal(placement: Placement, hook: LedgerHook, title: str, where: str) -> Stop:
    """Why an entry cannot be set where it belongs."""
    seat = f"the seat `{hook.seat}` ({title})" if hook.seat else "the value"
    if isinstance(placement, NoSeat):
        there = placement.candidates
        return Stop(
            f"{seat} is not found in {hook.path}",
            where=where,
            details=(
                f"looked for: {placement.looked_for}",
                *((f"there are: {', '.join(there[:12])}",) if there else ()),
            ),
            why="the entry would stand where the game does not see it",
            remedy=f"bring {hook.path} into the shape the layout expects, or point the layout's seat elsewhere",
        )
    if isinstance(placement, WrongBody):
        return Stop(
            f"the entry for {seat} is not what goes into {hook.path}: {placement.what}",
            where=where,
            details=(f"the entry: {hook.shown}",),
            why="set as it is, it would damage the file",
            remedy="correct the hook sheet",
        )
    said = placement.what if isinstance(placement, Clash) else ""
    return Stop(
        f"{hook.path} has an entry of the same name that says something else: {said}",
        where=where,
        why="one of the two would win without a word",
        remedy="rename the map's own entry and what refers to it, or take it out",
    )
