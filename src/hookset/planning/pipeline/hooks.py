"""A pack's entries into their seats, each over the state that the ones before it leave."""

from __future__ import annotations

from collections.abc import Container, Iterator, Mapping, Sequence
from difflib import SequenceMatcher

import msgspec
from msgspec.structs import replace

from hookset.edits import EntryState, entry_state, in_given_order
from hookset.model import Spot
from hookset.planning.filling import Filling
from hookset.planning.naming.rewriting import NameMap
from hookset.planning.pipeline.entries import StagedEntries, complete_entry, listed_keys, put_entry, set_pending
from hookset.planning.pipeline.name_rows import entry_names
from hookset.planning.pipeline.removal import entry_step, remove_entries
from hookset.planning.pipeline.request import HookRequest, copy_key, shown
from hookset.planning.placing.moving import unplaced_digest
from hookset.planning.plan import HookState, HookStep, Unsure
from hookset.planning.state import PlanState
from hookset.project import LedgerHook
from hookset.scene.records import with_values

__all__ = ["stage_entries"]


def stage_entries(
    state: PlanState,
    where: str,
    wanted: Sequence[HookRequest],
    filling: Filling,
    names: NameMap,
    earlier: Sequence[LedgerHook],
) -> StagedEntries:
    """Set new entries, leave unchanged ones, replace changed ones, and remove those no longer requested.

    `where` is the hook sheet, for messages; `earlier` are the pack's entries by the ledger.
    """
    matched = _matched(state, wanted, earlier)
    asked = {one.key for one in wanted}
    # What is wanted and matches nothing was taken out by hand.
    left = [hook for hook in earlier if hook.key not in asked]
    listed = {key for one in wanted for key in listed_keys(one, filling)}
    taken = _taken_over(state, wanted, left, matched)
    following = {hook.order for _, hook in taken}
    kept = [hook for hook in left if (hook.key in listed or not hook.of_sheet) and hook.order not in following]
    done = StagedEntries(state, standing=frozenset(hook.key for hook in kept))
    new_ones = [one for one in wanted if one.key not in matched and all(one is not other for other, _ in taken)]
    pairs = _alike(new_ones, [h for h in left if h not in kept and h.order not in following])
    # A row that a file has by itself now stays where the sheet had it.
    known = [(one, matched[one.key]) for one in wanted if one.key in matched]
    rows = [(one, hook) for one, hook in (*known, *pairs) if not one.line and _are_one_row(one, hook)]
    kept += [hook for _, hook in rows]
    pairs = [pair for pair in (*known, *pairs) if pair not in rows]
    done = replace(done, state=done.state.with_unsure(_copies_of_what_goes(state, kept, taken)))
    instead: dict[int, LedgerHook | None] = {hook.order: None for hook in left if hook not in kept}
    made: dict[int, tuple[HookRequest, LedgerHook]] = {}
    for one, hook in [*pairs, *taken]:
        done, new = complete_entry(done, where, one, filling, names, hook)
        if new is None:
            instead.pop(hook.order, None)
            kept.append(hook)
        else:
            further = hook.order in following and (one.key in matched or any(one is o for o, _ in made.values()))
            new = _kept_place(msgspec.structs.replace(new, key=copy_key(hook.order)) if further else new, hook)
            made[hook.order] = (one, new)
            if (new.text, new.record, new.anchor) != (hook.text, hook.record, hook.anchor):
                instead[hook.order] = new
            else:
                # A name that the new version calls otherwise was changed in the map already: it stands as it is to be.
                instead.pop(hook.order, None)
    # What waits is to go into the files as they are now.
    rewound, by_hand = _rewound(set_pending(done), earlier, instead, made)
    done = replace(rewound, waiting=None)
    standing = {hook.order: hook for path in {hook.path for hook in earlier} for hook in done.state.entries_in(path)}
    for order, (one, new) in made.items():
        now = standing.get(order)
        if now is not None:
            updated = msgspec.structs.replace(
                new, order=now.order, edits=now.edits, was_there=now.was_there, text=now.text, record=now.record
            )
            if order in by_hand:
                # What somebody has changed since stays as it is, where it stands as well.
                updated = msgspec.structs.replace(updated, placed={}, unplaced="")
            step = entry_step(one.seat, one.title, one.path, HookState.THERE, new, one.note)
            done = done.with_entry(updated, *(() if order in instead else (step,)))
    done = replace(done, hooks=(*done.hooks, *(standing.get(hook.order, hook) for hook in kept)))
    settled = {one.key for one, _ in (*made.values(), *rows)}
    first = done.state.order
    for one in wanted:
        if one.key not in settled and one.key not in matched:
            done = _with_new(done, where, one, filling, names)
    return _in_given_order(set_pending(done), first)


def _matched(state: PlanState, wanted: Sequence[HookRequest], earlier: Sequence[LedgerHook]) -> dict[str, LedgerHook]:
    """The entries that are wanted and stand. What the builder took out is set again like a new one."""
    by_key = {hook.key: hook for hook in earlier}
    found: dict[str, LedgerHook] = {}
    for one in wanted:
        hook = by_key.get(one.key)
        if hook is not None and hook.path == one.path and not _is_gone(state, hook):
            found[one.key] = hook
    return found


def _are_one_row(one: HookRequest, hook: LedgerHook) -> bool:
    """Whether two entries say the same, however their words are set apart."""
    return bool(one.text) and hook.text is not None and (one.text or "").split() == hook.text.split()


def _is_gone(state: PlanState, hook: LedgerHook) -> bool:
    return entry_state(state.layout, state.tree, hook, state.entries_in(hook.path)) is EntryState.GONE


def _taken_over(
    state: PlanState, wanted: Sequence[HookRequest], left: Sequence[LedgerHook], matched: Container[str]
) -> list[tuple[HookRequest, LedgerHook]]:
    """What an earlier version has set at places that are others now, each with the entry that it becomes there: the
    first of a place becomes the first. What has a name of its own is there once only."""
    pairs: list[tuple[HookRequest, LedgerHook]] = []
    used: set[str] = set()
    for place in dict.fromkeys(hook.place for hook in left if hook.place and hook.of_sheet):
        before = [hook for hook in left if hook.place == place and hook.of_sheet]
        now = [one for one in wanted if place in one.was]
        for one, hook in zip(now, before, strict=False):
            further = one.key in used or one.key in matched
            named = further and bool(entry_names(state, hook, state.entries_in(hook.path))[0])
            if one.path == hook.path and not named:
                pairs.append((one, hook))
                used.add(one.key)
    return pairs


def _copies_of_what_goes(
    state: PlanState, kept: Sequence[LedgerHook], taken: Sequence[tuple[HookRequest, LedgerHook]]
) -> Iterator[Unsure]:
    """Further copies that the builder has set of things that become others: they stay what they are."""
    becomes = {hook.place: one.place for one, hook in taken}
    for hook in kept:
        if not hook.of_sheet and hook.place in becomes:
            names = sorted(name for _, name in entry_names(state, hook, state.entries_in(hook.path))[0])
            called = f"`{names[0]}`" if names else "a further copy"
            yield Unsure(
                Spot(hook.path),
                f"{called} stays what it is, though the place `{hook.place}` becomes `{becomes[hook.place]}`: "
                "`hookset swap` makes it like another thing",
            )


def _alike(wanted: Sequence[HookRequest], left: Sequence[LedgerHook]) -> list[tuple[HookRequest, LedgerHook]]:
    """New entries with the earlier ones that they take the place of: the same seat, and much the same said."""
    pairs: list[tuple[HookRequest, LedgerHook]] = []
    free = list(left)
    # What says the same is no other's predecessor.
    for one in sorted(wanted, key=lambda one: not any(_are_one_row(one, hook) for hook in left)):
        best, score = None, 0.6
        for hook in free:
            if (hook.seat, hook.path) == (one.seat, one.path):
                alike = _alikeness(one, hook)
                if alike > score:
                    best, score = hook, alike
        if best is not None:
            free.remove(best)
            pairs.append((one, best))
    return pairs


def _alikeness(one: HookRequest, hook: LedgerHook) -> float:
    raw_text = hook.raw_text if hook.raw_text is not None else hook.text
    raw_record = hook.raw_record if hook.raw_record is not None else hook.record
    if one.record and raw_record:
        first = next(iter(one.record))
        if one.record[first] == raw_record.get(first):
            return 1.0
    return SequenceMatcher(None, shown(one.text, one.record), shown(raw_text, raw_record), autojunk=False).ratio()


def _rewound(
    done: StagedEntries,
    earlier: Sequence[LedgerHook],
    instead: Mapping[int, LedgerHook | None],
    made: Mapping[int, tuple[HookRequest, LedgerHook]],
) -> tuple[StagedEntries, frozenset[int]]:
    """Remove and replace, file by file. Returns also which of them somebody has changed by hand."""
    by_order = {hook.order: hook for hook in earlier}
    by_hand: set[int] = set()
    for path in dict.fromkeys(by_order[order].path for order in instead):
        here = {order: new for order, new in instead.items() if by_order[order].path == path}
        state, steps = remove_entries(done.state, path, here)
        shown_steps = (
            _replaced(path, step, *made[order]) if order in made else _with_text(step, by_order[order])
            for order, step in steps.items()
        )
        done = replace(done, state=state, steps=(*done.steps, *shown_steps))
        by_hand.update(order for order, step in steps.items() if step.state is HookState.BY_HAND)
    return done, frozenset(by_hand)


def _kept_place(new: LedgerHook, hook: LedgerHook) -> LedgerHook:
    """The entry, with where the builder has put what it places: as it stands, if nothing else of it is new."""
    if not hook.placed:
        return new
    digest = unplaced_digest(new.text, new.record)
    record = with_values(new.record, hook.placed) if new.record is not None else None
    new = msgspec.structs.replace(new, placed=hook.placed, unplaced=digest, record=record)
    return msgspec.structs.replace(new, text=hook.text, record=hook.record) if digest == hook.unplaced else new


def _replaced(path: str, step: HookStep, one: HookRequest, new: LedgerHook) -> HookStep:
    return replace(entry_step(one.seat, one.title, path, HookState.REPLACED, new, one.note), note=step.note)


def _with_text(step: HookStep, hook: LedgerHook) -> HookStep:
    return step if step.shown else replace(step, shown=hook.shown)


def _in_given_order(done: StagedEntries, first: int) -> StagedEntries:
    """New entries (those from the order `first` on) of one seat as they come in the sheet, also where each goes above
    what is there."""
    seats: dict[str, list[LedgerHook]] = {}
    for hook in done.hooks:
        if hook.order >= first and hook.edits:
            beside = (hook.anchor.text, hook.anchor.way) if hook.anchor is not None else None
            seats.setdefault(repr((hook.path, hook.seat, sorted(hook.at.items()), beside)), []).append(hook)
    for hooks in seats.values():
        path = hooks[0].path
        result = in_given_order(done.state.layout, done.state.tree, path, hooks) if hooks[0].ask is None else None
        if result is not None:
            now = {id(was): hook for was, hook in zip(hooks, result[1], strict=True)}
            state = done.state.with_contents({path: result[0]})
            done = replace(done, state=state, hooks=tuple(now.get(id(hook), hook) for hook in done.hooks))
    return done


def _with_new(done: StagedEntries, where: str, one: HookRequest, filling: Filling, names: NameMap) -> StagedEntries:
    done, hook = complete_entry(done, where, one, filling, names, None)
    if hook is None:
        said = shown(one.text, one.record)
        step = entry_step(one.seat, one.title, one.path, HookState.STOPPED, None, one.note, said)
        return replace(done, steps=(*done.steps, step))
    return put_entry(done, f"{where}:{one.line}" if one.line else where, hook, one.note, one.title)[0]
