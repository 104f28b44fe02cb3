"""One entry of a pack, made ready for this map and put into its seat."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from collections.abc import Set as AbstractSet
from typing import Any

import msgspec
from msgspec import Struct, field
from msgspec.structs import replace

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
from hookset.planning.pipeline.adapting import entangled_stops
from hookset.planning.pipeline.removal import entry_step
from hookset.planning.pipeline.request import HookRequest, shown
from hookset.planning.plan import HookState, HookStep, Stop, ValueStep
from hookset.planning.state import PlanState
from hookset.project import LedgerAnchor, LedgerFill, LedgerHook, Stock
from hookset.symbols import FileFacts
from hookset.symbols.spelling import rewritten
from hookset.trees import Overlay, Tree

__all__ = ["StagedEntries", "complete_entry", "listed_keys", "put_entry", "set_pending"]

Names = Counter[tuple[str, ...]]
Said = AbstractSet[tuple[str, ...]]
"""(kind, name, side) of what an entry says."""


class PendingEntries(Struct, frozen=True):
    """Entries that wait, and what there is to fill others in with until they are set."""

    values: MapValues
    """Of the map without them."""
    insertions: Insertions
    more: tuple[MapValues, ...] = ()
    """Of what waits."""
    told: Mapping[int, tuple[str, HookStep]] = field(default_factory=dict)
    """By the order of an entry: where in the hook sheet it is, and its step."""

    def take(self, hook: LedgerHook, where: str, step: HookStep) -> PendingEntries | None:
        """One more; None where it cannot wait with the others."""
        insertions = self.insertions.take(hook)
        if insertions is None:
            return None
        known = {id(one.tree): one for one in self.more}
        layout = self.values.layout
        return PendingEntries(
            values=self.values,
            insertions=insertions,
            more=tuple(known.get(id(tree)) or MapValues(layout, tree, Stock()) for tree in insertions.trees),
            told={**self.told, hook.order: (where, step)},
        )


class StagedEntries(Struct, frozen=True):
    """What became of a pack's entries so far, and of the plan. A step takes one and gives the next."""

    state: PlanState
    steps: tuple[HookStep, ...] = ()
    hooks: tuple[LedgerHook, ...] = ()
    values: tuple[ValueStep, ...] = ()
    standing: frozenset[str] = frozenset()
    """Keys of entries that stand already and are not in `hooks` yet."""
    waiting: PendingEntries | None = None
    """Entries that wait to be set together: they are among `hooks`, and the planned files do not contain them yet."""

    @property
    def pending(self) -> PendingEntries:
        """What waits; nothing yet, on the map as it is planned."""
        if self.waiting is not None:
            return self.waiting
        values = MapValues(self.state.layout, self.state.tree, self.state.stock)
        return PendingEntries(values, Insertions(self.state.layout, values.tree))

    def with_values(self, fills: Iterable[LedgerFill]) -> StagedEntries:
        """What was filled in, each once."""
        steps = (ValueStep(fill.asked, fill.value, fill.by) for fill in fills)
        return replace(self, values=tuple(dict.fromkeys((*self.values, *steps))))

    def with_stop(self, stop: Stop) -> StagedEntries:
        """Something that stands in the way."""
        return replace(self, state=self.state.with_stops([stop]))

    def with_entry(self, hook: LedgerHook, *steps: HookStep) -> StagedEntries:
        """An entry that is set, or waits to be."""
        return replace(self, hooks=(*self.hooks, hook), steps=(*self.steps, *steps))


def complete_entry(
    done: StagedEntries, where: str, one: HookRequest, filling: Filling, names: NameMap, earlier: LedgerHook | None
) -> tuple[StagedEntries, LedgerHook | None]:
    """The entry with everything filled in, as this map calls it; None where something stands in the way."""
    if one.beside and not any(hook.key == one.beside for hook in done.hooks):
        # What stands in the way of the other one is told there.
        return done, None
    known = {fill.asked: fill for fill in earlier.fills} if earlier else {}
    spot = f"{where}:{one.line}" if one.line else where
    while True:
        done = replace(done, waiting=done.pending)
        now = replace(_so_far(done, filling), earlier=known)
        try:
            body = filled(one.text, one.record, now) if one.fill else Filled(one.text, one.record, ())
            at = {key: filled(value, None, now).text or "" for key, value in one.at.items()}
            anchor = _anchored(done, one, now)
            break
        except Unlisted as lacking:
            done, listed = _listed(done, spot, lacking, now)
            if not listed:
                return done, None
        except Unfillable as error:
            stop = Stop(
                error.message.code,
                f"the hook for {_named(one.seat, one.title)} cannot be filled in: {error.message.what}",
                where=spot,
                details=(f"the entry: {shown(one.text, one.record)[:160]}", *error.message.details),
                why="a number or a name from another map would mean something else here",
                remedy=error.message.remedy or "correct the hook sheet",
            )
            return done.with_stop(stop), None
    done = _with_listed(done, one, filling)
    done = done.with_values(
        fill for fill in body.fills if not fill.asked.startswith(("{setting:", "{claim:", "{blank:"))
    )
    hook = LedgerHook(
        order=earlier.order if earlier else done.state.order,
        seat=one.seat,
        at=at,
        ask=dict(one.ask) if one.ask is not None else None,
        anchor=anchor,
        path=one.path,
        part=one.part,
        place=one.place,
        key=one.key,
        text=body.text,
        record=body.record,
        raw_text=one.text if body.fills else None,
        raw_record=one.record if body.fills else None,
        fills=body.fills,
    )
    state = done.state if earlier else done.state.with_next_order()
    if names:
        hook, entangled = _renamed(state.layout, _without(state, earlier), hook, names)
        state = state.with_stops(entangled_stops(state.layout, hook.path, entangled))
    return replace(done, state=state), hook


def _anchored(done: StagedEntries, one: HookRequest, filling: Filling) -> LedgerAnchor | None:
    """What the entry stands by: a text, or what another hook has set."""
    if one.anchor is None or not one.beside:
        return one.anchor and LedgerAnchor(text=filled(one.anchor.text, None, filling).text or "", way=one.anchor.way)
    other = next((hook for hook in done.hooks if hook.key == one.beside), None)
    text = other.text if other is not None and other.text is not None else ""
    if not text and other is not None and other.edits:
        text = other.edits[0].new
    return LedgerAnchor(text=text, way=one.anchor.way)


def _named(seat: str, title: str) -> str:
    """Where an entry goes, in words."""
    return f"the seat `{seat}` ({title})" if seat else title or "the value"


def _so_far(done: StagedEntries, filling: Filling) -> Filling:
    """What entries are filled in by: the map as it is planned, and what waits to be set into it."""
    waiting = done.pending
    given = numbers_given(fill for one in waiting.insertions.waiting for fill in one.hook.fills)
    return replace(filling, map=waiting.values, more=waiting.more, given=filling.given | given)


def set_pending(done: StagedEntries) -> StagedEntries:
    """Set all that waits. Where that does not come out as it should, one after the other."""
    waiting = done.waiting
    if waiting is None or not waiting.insertions.waiting:
        return replace(done, waiting=None)
    result = waiting.insertions.written()
    if result is not None:
        contents, hooks = result
        state = done.state.with_contents(contents)
        values = waiting.values.with_more(state.tree, waiting.more)
        by_order = {hook.order: hook for hook in hooks}
        return replace(
            done,
            state=state,
            hooks=tuple(by_order.get(hook.order, hook) for hook in done.hooks),
            waiting=PendingEntries(values, Insertions(state.layout, values.tree)),
        )
    orders = {one.hook.order for one in waiting.insertions.waiting}
    told = [step for _, step in waiting.told.values()]
    done = replace(
        done,
        waiting=None,
        hooks=tuple(hook for hook in done.hooks if hook.order not in orders),
        steps=tuple(step for step in done.steps if not any(step is other for other in told)),
    )
    for one in waiting.insertions.waiting:
        where, step = waiting.told[one.hook.order]
        done, _ = _put_alone(done, where, one.hook, step.note, step.title)
    return done


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


def _listed(done: StagedEntries, where: str, lacking: Unlisted, filling: Filling) -> tuple[StagedEntries, bool]:
    """Add an entry for what a table of the map does not contain yet. Returns also whether it is there now."""
    entry, key, state = lacking.entry, lacking.key, done.state
    seat = state.layout.seats.get(entry.seat)
    paths = [path for path in state.tree.paths() if seat is not None and seat.file.matches(path)]
    if seat is None or len(paths) != 1:
        stop = Stop(
            "not-listed",
            f"{entry.title}: `{key}` is not listed, and cannot be",
            where=where,
            details=(f"the seat `{entry.seat}`: {len(paths)} files match",),
            why="what goes by its number would mean nothing",
            remedy="list it in the map yourself, or correct where the table's entries go",
        )
        return done.with_stop(stop), False
    replaced = _with_key(entry.text, key), _with_key(entry.record, key)
    try:
        body = filled(replaced[0], replaced[1], replace(_so_far(done, filling), earlier={}))
    except Unfillable as error:
        stop = Stop(
            "not-listed",
            f"{entry.title}: `{key}` cannot be listed: {error.message.what}",
            where=where,
            remedy=error.message.remedy,
        )
        return done.with_stop(stop), False
    hook = LedgerHook(
        order=state.order,
        seat=seat.name,
        path=paths[0],
        key=_listed_key(f"{entry.name}:{key}", replace(filling, moved=str)),
        text=body.text,
        record=body.record,
        fills=body.fills,
    )
    done = replace(done.with_values(body.fills), state=state.with_next_order())
    return put_entry(done, where, hook, f"listed for {key}")


def _with_key(value: Any, key: str) -> Any:
    if isinstance(value, str):
        return value.replace("{key}", key)
    if isinstance(value, Mapping):
        return {name: _with_key(below, key) for name, below in value.items()}
    return [_with_key(below, key) for below in value] if isinstance(value, list | tuple) else value


def _with_listed(done: StagedEntries, one: HookRequest, filling: Filling) -> StagedEntries:
    """An entry that another pack has listed is this pack's, too: it stays when the other goes."""
    for key in listed_keys(one, filling):
        if key in done.standing or any(hook.key == key for hook in done.hooks):
            continue
        state = done.state
        other = next((h for pack in state.ledger.packs for h in pack.hooks if h.key == key), None)
        if other is not None:
            own = msgspec.structs.replace(other, order=state.order, was_there=True, edits=())
            done = replace(done.with_entry(own), state=state.with_next_order())
    return done


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


def put_entry(
    done: StagedEntries, where: str, hook: LedgerHook, note: str, title: str = "a value"
) -> tuple[StagedEntries, bool]:
    """Set an entry, or have it wait for the others of its file. Returns also whether it could be. `title` says where
    it goes that has no seat."""
    seat = done.state.layout.seats.get(hook.seat)
    step = entry_step(hook.seat, seat.title if seat else title, hook.path, HookState.SET, hook, note)
    pending = done.pending
    waiting = pending.take(hook, where, step)
    if waiting is None and pending.insertions.waiting:
        done = set_pending(done)
        waiting = done.pending.take(hook, where, step)
    if waiting is None:
        return _put_alone(done, where, hook, note, title)
    return replace(done.with_entry(hook, step), waiting=waiting), True


def _put_alone(done: StagedEntries, where: str, hook: LedgerHook, note: str, title: str) -> tuple[StagedEntries, bool]:
    done = replace(done, waiting=None)
    state = done.state
    seat = state.layout.seats.get(hook.seat)
    title = seat.title if seat else title
    step = entry_step(hook.seat, title, hook.path, HookState.STOPPED, hook, note)
    try:
        result = put(state.layout, state.tree, hook)
    except (Unreadable, CouldNotError) as error:
        stop = Stop(
            "not-settable",
            f"the hook for {_named(hook.seat, title)} cannot be set: {hook.path} {error.what}",
            where=where,
            why="a file that is not understood is not edited",
            remedy="mend the file first; `hookset check` shows where",
        )
        return replace(done.with_stop(stop), steps=(*done.steps, step)), False
    if isinstance(result, Put):
        done = done.with_entry(result.hook, replace(step, state=HookState.SET))
        return replace(done, state=state.with_contents({hook.path: result.content})), True
    if isinstance(result, AlreadyThere):
        there = msgspec.structs.replace(hook, was_there=True)
        return done.with_entry(there, replace(step, state=HookState.THERE)), True
    done = done.with_stop(_refusal(result, hook, title, where))
    return replace(done, steps=(*done.steps, step)), False


def _refusal(placement: Placement, hook: LedgerHook, title: str, where: str) -> Stop:
    """Why an entry cannot be set where it belongs."""
    seat = _named(hook.seat, title)
    if isinstance(placement, NoSeat) and hook.anchor is not None:
        return Stop(
            "anchor-missing",
            f"{hook.path} has no {placement.looked_for}",
            where=where,
            details=(f"the entry: {hook.shown}",),
            why=f"it goes {title}, and set elsewhere it would do something else",
            remedy="name in the hook sheet what this map has there, with enough around it to be there once",
        )
    if isinstance(placement, NoSeat) and placement.unsaid:
        return Stop(
            "incomplete-hook",
            f"{seat} goes by {{{placement.unsaid}}}, which the hook does not say",
            where=where,
            details=(f"the entry: {hook.shown}",),
            why="there may be several such places, and in the wrong one it would do something else",
            remedy=f'say it with `at = {{ {placement.unsaid} = "…" }}`',
        )
    if isinstance(placement, NoSeat):
        there = placement.candidates
        return Stop(
            "seat-missing",
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
            "wrong-entry",
            f"the entry for {seat} is not what goes into {hook.path}: {placement.what}",
            where=where,
            details=(f"the entry: {hook.shown}",),
            why="set as it is, it would damage the file",
            remedy="correct the hook sheet",
        )
    said = placement.what if isinstance(placement, Clash) else ""
    return Stop(
        "entry-exists",
        f"{hook.path} has an entry of the same name that says something else: {said}",
        where=where,
        why="one of the two would win without a word",
        remedy="rename the map's own entry and what refers to it, or take it out",
    )
