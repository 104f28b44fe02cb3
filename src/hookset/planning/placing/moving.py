"""Things that stand somewhere, moved: the records of each changed where it stands, and the ledger with them."""

from __future__ import annotations

import hashlib
import textwrap
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import msgspec
import numpy as np
from msgspec import Struct, field

from hookset.edits.find import EntryState, found
from hookset.formats import Edit, spliced
from hookset.formats.parts import Part
from hookset.planning.naming.renames import with_rewritten
from hookset.planning.naming.rewriting import RewrittenFile
from hookset.planning.placing.positions import Position
from hookset.planning.plan import HookState, HookStep, Stop
from hookset.planning.state import PlanState
from hookset.project import LedgerHook, LedgerPack
from hookset.scene.records import OpenFile, edits_for, open_for_edits, with_values
from hookset.scene.rows import Thing
from hookset.scene.scene import Scene
from hookset.scene.values import CannotSay, Wish, values_for
from hookset.space.transforms import Transform, parted
from hookset.trees import Inline

__all__ = [
    "Move",
    "as_placed",
    "local_wish",
    "moved",
    "owner_of",
    "position_text",
    "refused",
    "rigid",
    "stands_as",
    "unplaced_digest",
]


class Move(Struct, frozen=True):
    """A thing, and how it is to stand in the map."""

    key: str
    wish: Wish
    words: Mapping[str, str] = field(default_factory=dict)
    """Further values of its record, by the ways to them."""


def unplaced_digest(text: str | None, record: Mapping[str, Any] | None) -> str:
    """By what an entry is known again that stands elsewhere than its sheet says."""
    return hashlib.sha256(msgspec.json.encode([text, record])).hexdigest()


def local_wish(scene: Scene, row: int, wish: Wish) -> tuple[Wish, Transform]:
    """What is wished in the space of the map, in the space of what a thing stands by; and how it stands there now.
    Raises CannotSay."""
    things = scene.things
    was = parted(things.local_matrix(row))
    now = things.transform(row)
    if was is None or now is None:
        raise CannotSay("it is sheared or flat as it stands")
    around = things.around(row)
    if np.allclose(around, np.eye(4)):
        return wish, was
    if abs(np.linalg.det(around)) < 1e-12:
        raise CannotSay("what it stands by is stretched to nothing")
    local = parted(np.linalg.inv(around) @ wish.of(now).matrix)
    if local is None:
        raise CannotSay("what it stands by is stretched, and a turn in it would be sheared")
    turn, size = (local.turn if wish.turn is not None else None, local.size if wish.size is not None else None)
    return Wish(local.at, turn, size), was


def stands_as(scene: Scene, row: int, wish: Wish) -> bool:
    """Whether a thing stands as was wished, to what the file writes of numbers."""
    now = scene.things.transform(row)
    if now is None:
        return False
    same_at = wish.at is None or np.allclose(now.at, wish.at, atol=1e-4)
    same_turn = wish.turn is None or np.allclose(now.turn, wish.turn, atol=1e-4)
    return bool(same_at and same_turn and (wish.size is None or np.allclose(now.size, wish.size, atol=1e-4)))


def position_text(at: Iterable[float], flat: bool) -> str:
    """A place as it is written in messages and options: `12,1,-4`."""
    numbers = list(at)[: 2 if flat else 3]
    return ",".join(f"{round(float(one), 6) + 0.0:g}" for one in numbers)


def refused(thing: Thing, why: CannotSay) -> Stop:
    """Why a thing cannot be put somewhere."""
    return refused_name(thing.called, thing.path, why)


def refused_name(name: str, path: str, why: CannotSay) -> Stop:
    """Why what is called so cannot be put somewhere; `path` is where it stands."""
    return Stop(
        "not-settable",
        f"`{name}` cannot be placed so: {why.what}",
        where=path,
        why="what a file cannot say is not written as something else",
        remedy="place it in a way that the layout has words for, or say in the layout where such values stand",
    )


def moved(state: PlanState, scene: Scene, moves: Mapping[int, Move]) -> tuple[PlanState, tuple[HookStep, ...]]:
    """The plan with things, by their rows, as they are to stand; and what became of each. Stops are in the plan."""
    things = scene.things
    by_file: dict[str, list[int]] = {}
    for row in moves:
        by_file.setdefault(things.rows[row].path, []).append(row)
    steps: list[HookStep] = []
    for path, rows in by_file.items():
        state, more = _in_file(state, scene, path, {row: moves[row] for row in rows})
        steps += more
    after = Scene(state.tree, state.layout)
    for row, move in moves.items():
        thing = things.rows[row]
        if not state.stops and not _found_again(after, thing, move):
            what = CannotSay("it reads back as something else")
            state = state.with_stops([refused(thing, what)])
    return state, tuple(steps)


def _found_again(after: Scene, thing: Thing, move: Move) -> bool:
    index = thing.index
    if index >= len(after.things):
        return False
    now = after.things.rows[index]
    # Not by its place in the file: what stands before it may have become shorter.
    class_ = move.words.get(thing.rule.entry.class_, thing.class_)
    same = (now.path, now.key, now.class_) == (thing.path, thing.key, class_)
    return now.rule is thing.rule and same and stands_as(after, index, move.wish)


def _in_file(
    state: PlanState, scene: Scene, path: str, moves: Mapping[int, Move]
) -> tuple[PlanState, Sequence[HookStep]]:
    things = scene.things
    first = things.rows[next(iter(moves))]
    edits: list[Edit] = []
    steps: list[HookStep] = []
    placed: list[tuple[Thing, Mapping[str, Any]]] = []
    try:
        file = open_for_edits(state.tree, first.rule, path)
    except CannotSay as error:
        return state.with_stops([refused(first, error)]), ()
    for row, move in moves.items():
        thing = things.rows[row]
        try:
            wish, was = local_wish(scene, row, move.wish)
            values: dict[str, Any] = {**values_for(thing, wish, was, things.forward(thing.rule)), **move.words}
            edits += edits_for(file, thing, values)
        except CannotSay as error:
            state = state.with_stops([refused(thing, error)])
            continue
        placed.append((thing, values))
        flat = thing.rule.at[2] is None
        to = position_text(move.wish.at if move.wish.at is not None else things.at[row], flat)
        was_at = position_text(things.at[row], flat)
        steps.append(
            HookStep(
                seat="",
                title=thing.rule.entry.title,
                path=path,
                state=HookState.REPLACED if values else HookState.THERE,
                shown=f"{thing.called} at {to}",
                note=f"was at {was_at}" if values else "",
            )
        )
    if not edits:
        return state, steps
    owners = [(owner_of(state, file, thing), values) for thing, values in placed]
    content = Inline(file.text.encode(spliced(file.text.string, edits)))
    state = with_rewritten(state, path, RewrittenFile(content=content, edits=tuple(edits), text=file.text))
    for owner, given in owners:
        if owner is not None:
            state = _remembered(state, *owner, given)
    return state, steps


def as_placed(state: PlanState, name: str) -> PlanState:
    """The plan with a pack's things where the builder has put them: a newer entry may have come to its author's
    place."""
    pack = state.ledger.pack(name)
    placed = [hook for hook in pack.hooks if hook.placed] if pack is not None else []
    for hook in placed:
        state = _hook_as_placed(state, name, hook)
    return state


def _hook_as_placed(state: PlanState, name: str, hook: LedgerHook) -> PlanState:
    for thing in Scene(state.tree, state.layout).things.rows:
        if thing.path != hook.path or not _may_be(hook, thing):
            continue
        file = open_for_edits(state.tree, thing.rule, thing.path)
        owner = owner_of(state, file, thing)
        if owner is not None and owner[0] == name and owner[1].order == hook.order:
            lacking = {way: value for way, value in hook.placed.items() if not _says(thing.part(way), value)}
            return _with_values(state, file, thing, lacking) if lacking else state
    return state


def _says(part: Part | None, value: Any) -> bool:
    said = None if part is None else part.value
    return [one.value for one in said] == list(value) if isinstance(said, tuple) else bool(said == value)


def _with_values(state: PlanState, file: OpenFile, thing: Thing, values: Mapping[str, Any]) -> PlanState:
    try:
        edits = edits_for(file, thing, values)
    except CannotSay as error:
        return state.with_stops([refused(thing, error)])
    content = Inline(file.text.encode(spliced(file.text.string, edits)))
    return with_rewritten(state, file.path, RewrittenFile(content=content, edits=edits, text=file.text))


def owner_of(state: PlanState, file: OpenFile, thing: Thing) -> tuple[str, LedgerHook] | None:
    """The pack that has set a thing, and the entry that it is; None for the builder's own."""
    span = file.document.spans([thing.where]).get(thing.where)
    if span is None:
        return None
    for pack in state.ledger.packs:
        for hook in pack.hooks:
            if hook.path == file.path and not hook.was_there and _may_be(hook, thing):
                for edit in hook.edits:
                    there = found(file.text.string, edit)
                    if there.standing is not EntryState.GONE and there.start <= span[0] < there.end:
                        return pack.name, hook
    return None


def _may_be(hook: LedgerHook, thing: Thing) -> bool:
    word = thing.key or thing.class_
    return any(word in edit.new for edit in hook.edits)


def _remembered(state: PlanState, name: str, hook: LedgerHook, values: Mapping[str, Any]) -> PlanState:
    """The ledger with where the builder has put what an entry places."""
    pack = state.ledger.pack(name)
    if pack is None:
        return state
    return state.with_row(_with_placed(pack, hook, values))


def _with_placed(pack: LedgerPack, hook: LedgerHook, values: Mapping[str, Any]) -> LedgerPack:
    unplaced = hook.unplaced or unplaced_digest(hook.text, hook.record)
    hooks = tuple(
        _standing(one, values, {**hook.placed, **values}, unplaced) if one.order == hook.order else one
        for one in pack.hooks
    )
    return msgspec.structs.replace(pack, hooks=hooks)


def _standing(hook: LedgerHook, values: Mapping[str, Any], placed: dict[str, Any], unplaced: str) -> LedgerHook:
    """An entry as it stands in its file now."""
    record = with_values(hook.record, values) if hook.record is not None else None
    text = hook.text
    if text is not None and len(hook.edits) == 1:
        text = textwrap.dedent(hook.edits[0].new).strip()
    return msgspec.structs.replace(hook, record=record, text=text, placed=placed, unplaced=unplaced)


def rigid(scene: Scene, first: int, row: int, position: Position) -> Wish:
    """How a thing is to stand when another one comes to a position, and it stands to that as before."""
    things = scene.things
    leader, own = things.transform(first), things.transform(row)
    if row == first or leader is None or own is None:
        return Wish(position.at, position.turn, position.size)
    turn = position.turn @ leader.turn.T if position.turn is not None else np.eye(3)
    stretch = position.size / leader.size if position.size is not None else np.ones(3)
    across = turn @ (leader.turn @ (stretch * (leader.turn.T @ (own.at - leader.at))))
    return Wish(
        position.at + across,
        turn @ own.turn if position.turn is not None else None,
        own.size * stretch if position.size is not None else None,
    )
