"""Fill entries again after a value has changed: a setting, a claim, a blank, the map's name."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from hookset.planning.filling import Filling, MapValues, Unfillable, Unlisted, filled
from hookset.planning.naming.rewriting import swapped
from hookset.planning.pipeline.removal import remove_entries
from hookset.planning.plan import HookState, HookStep
from hookset.planning.state import PlanState
from hookset.project import LedgerFill, LedgerHook, LedgerPack

__all__ = ["filling_of", "refill"]

_LASTING = frozenset({"next", "listed", "lookup", "value", "path", "map", "setting", "claim", "blank"})


def filling_of(state: PlanState, pack: LedgerPack, changed: frozenset[str]) -> Filling:
    """What a pack's entries are filled with; all but the words that have `changed` stays as it was."""
    return Filling(
        map=MapValues(state.layout, state.tree, state.stock),
        folder=state.root.name,
        lookups=state.layout.lookups,
        settings={one.name: one.value for one in pack.settings},
        claims=pack.claims,
        blanks={one.name: one.filled or f"unfilled-{one.name}" for one in pack.blanks if one.kind == "text"},
        lasting=_LASTING - changed,
    )


def refill(
    state: PlanState, name: str, changed: frozenset[str], renamed: Mapping[str, str]
) -> tuple[PlanState, tuple[HookStep, ...]]:
    """Replace the entries of a pack in which something has changed. `renamed`: what was filled in as a name of this
    map → what it is now. Returns also a step for each entry."""
    pack = state.ledger.pack(name)
    if pack is None:
        return state, ()
    filling = filling_of(state, pack, changed)
    new: dict[str, dict[int, LedgerHook | None]] = {}
    for hook in pack.hooks:
        again = _again(hook, filling, renamed)
        if again is not None and (again.text, again.record) != (hook.text, hook.record):
            new.setdefault(hook.path, {})[hook.order] = again
    told: list[HookStep] = []
    for path, instead in new.items():
        state, steps = remove_entries(state, path, instead)
        for order, step in steps.items():
            again = instead[order]
            shown = again.shown if again is not None else step.shown
            outcome = step.state if step.state is HookState.BY_HAND else HookState.REPLACED
            told.append(
                HookStep(seat=step.seat, title=step.title, path=path, state=outcome, shown=shown, note=step.note)
            )
    return state, tuple(told)


def _again(hook: LedgerHook, filling: Filling, renamed: Mapping[str, str]) -> LedgerHook | None:
    if hook.raw_text is None and hook.raw_record is None and not renamed:
        return None
    known = {fill.asked: fill for fill in hook.fills}
    text, record = hook.text, hook.record
    fills: tuple[LedgerFill, ...] = hook.fills
    if hook.raw_text is not None or hook.raw_record is not None:
        try:
            body = filled(hook.raw_text, hook.raw_record, _with(filling, known))
        except (Unfillable, Unlisted):
            return None
        text, record, fills = body.text, body.record, body.fills
        for fill in (one for one in hook.fills if not one.asked.startswith("{")):
            text, record = swapped(text, fill.asked, fill.value), swapped(record, fill.asked, fill.value)
            fills = (*fills, fill)
    for fill in hook.fills:
        if not fill.asked.startswith("{") and fill.value in renamed:
            text, record = (swapped(value, fill.value, renamed[fill.value]) for value in (text, record))
            fills = tuple(replace(one, value=renamed[fill.value]) if one == fill else one for one in fills)
    return replace(hook, text=text, record=record, fills=fills)


def _with(filling: Filling, known: dict[str, LedgerFill]) -> Filling:
    return replace(filling, earlier=known)
