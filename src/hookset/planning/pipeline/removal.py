"""Remove or replace entries in the files of a map."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Literal

from msgspec.structs import replace

from hookset.edits import replay
from hookset.formats import Unreadable
from hookset.model import CouldNotError
from hookset.planning.choices import Question
from hookset.planning.diffs import diff_of
from hookset.planning.plan import HookState, HookStep, Stop
from hookset.planning.state import PlanState
from hookset.project import LedgerHook

__all__ = ["entry_step", "remove_entries"]


def remove_entries(
    state: PlanState, path: str, instead: Mapping[int, LedgerHook | None]
) -> tuple[PlanState, dict[int, HookStep]]:
    """Remove or replace entries of one file in the plan. Returns also what happens to each, by its order."""
    hooks = state.entries_in(path)
    by_order = {hook.order: hook for hook in hooks}
    steps: dict[int, HookStep] = {}
    live: dict[int, LedgerHook | None] = {}
    for order, new in instead.items():
        hook = by_order[order]
        seat = state.layout.seats.get(hook.seat)
        title = seat.title if seat else ""
        if new is None and hook.was_there:
            steps[order] = entry_step(hook.seat, title, path, HookState.STAYS, hook, "it was there before")
        elif not state.tree.has(path):
            steps[order] = entry_step(hook.seat, title, path, HookState.GONE, hook, "the file is gone")
        else:
            live[order] = new
            outcome = HookState.OUT if new is None else HookState.REPLACED
            steps[order] = entry_step(hook.seat, title, path, outcome, hook, "")
    state = state.with_entries(path, [one for one in hooks if one.order in live or one.order not in instead])
    if not live:
        return state, steps
    by_hand: Literal["keep", "drop"] = "drop" if state.choices.by_hand == "drop" else "keep"
    try:
        result = replay(state.layout, state.tree, path, state.entries_in(path), live, by_hand)
    except Unreadable as error:
        stop = Stop(
            "not-settable",
            f"entries cannot be taken out of {path}: it {error.what}",
            where=path,
            why="a file that is not understood is not edited",
            remedy="mend the file first; `hookset check` shows where",
        )
        return state.with_stops([stop]), steps
    except CouldNotError as error:
        return state.with_stops([Stop(error.code, error.what, where=path, why=error.why, remedy=error.remedy)]), steps
    stops: list[Stop] = []
    for one in result.by_hand:
        steps[one.hook.order] = replace(steps[one.hook.order], state=HookState.BY_HAND, note=_said_by_hand(by_hand))
        if state.choices.by_hand == "stop" and (one.conflicts or live[one.hook.order] is None):
            stops.append(_changed_entry(one.hook, one.was, one.now))
    for hook in result.gone:
        steps[hook.order] = replace(steps[hook.order], state=HookState.GONE, note="it is not there any more")
    staying = {hook.order for hook in result.hooks}
    for order in live:
        if live[order] is None and order not in staying and _heir_took(result.hooks, hooks, by_order[order]):
            steps[order] = replace(steps[order], state=HookState.STAYS, note="another pack sets it as well")
    return state.with_stops(stops).with_contents({path: result.content}).with_entries(path, result.hooks), steps


def _heir_took(now: Iterable[LedgerHook], before: Iterable[LedgerHook], hook: LedgerHook) -> bool:
    """Whether an entry that another pack had found there is now that pack's own."""
    waiting = {one.order for one in before if one.was_there}
    return any(
        one.order in waiting
        and not one.was_there
        and (one.seat, one.text, one.record) == (hook.seat, hook.text, hook.record)
        for one in now
    )


def _said_by_hand(by_hand: str) -> str:
    return "what you changed goes as well" if by_hand == "drop" else "what you changed stays"


def _changed_entry(hook: LedgerHook, was: str, now: str) -> Stop:
    diff = diff_of(hook.path, was.encode(), now.encode(), "as set", "now")
    return Stop(
        "changed-by-you",
        f"an entry in {hook.path} was changed by you since it was set",
        where=hook.path,
        why="taking it out would lose what you changed",
        remedy="leave what you changed: --keep-changed; or take it out with the rest: --drop-changed",
        details=tuple(line for line in diff if line[:1] in "+-" and line[:3] not in ("+++", "---"))[:12],
        question=Question(
            key=("by-hand", ""),
            text="What you have changed since it was set",
            options=(("keep", "stays in the map"), ("drop", "goes with the rest")),
            diff=diff,
        ),
    )


def entry_step(
    seat: str, title: str, path: str, state: HookState, hook: LedgerHook | None, note: str, said: str = ""
) -> HookStep:
    """Build the step that tells what happens to an entry."""
    return HookStep(
        seat=seat,
        title=title,
        path=path,
        state=state,
        shown=hook.shown if hook is not None else said,
        note=note,
        mind=note.startswith("not in `") or state is HookState.BY_HAND,
    )
