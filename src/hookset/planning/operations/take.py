"""Things of a map taken away: those of packs with their entries, the builder's own out of their files."""

from __future__ import annotations

from collections.abc import Sequence

from hookset.planning.choices import Choices
from hookset.planning.pipeline.removal import remove_entries
from hookset.planning.placing.moving import owner_of, position_text, refused
from hookset.planning.placing.positions import row_called
from hookset.planning.plan import HookState, HookStep, PackPlan, Plan
from hookset.planning.state import PlanState, plan_state_for
from hookset.project import Ledger, MapProject
from hookset.scene.records import open_for_edits, without_entry
from hookset.scene.rows import Thing
from hookset.scene.scene import Scene
from hookset.scene.values import CannotSay
from hookset.trees import Inline

__all__ = ["plan_take", "with_taken"]


def plan_take(
    project: MapProject,
    ledger: Ledger,
    ledger_bytes: bytes | None,
    names: Sequence[str],
    choices: Choices,
    now: str,
) -> Plan:
    """Take things out of the map, with what stands in their records. Raises WrongUseError for names of nothing."""
    state = plan_state_for(project, ledger, choices, now)
    state, steps = with_taken(state, Scene(project.tree, project.layout), names)
    return state.with_plan_of(PackPlan(name=", ".join(names), version="", hooks=steps)).plan(ledger_bytes)


def with_taken(state: PlanState, scene: Scene, names: Sequence[str]) -> tuple[PlanState, tuple[HookStep, ...]]:
    """The plan without things, and what became of each."""
    steps: list[HookStep] = []
    for name in names:
        # Each is looked for in the plan so far: numbers of records change when one goes.
        row = row_called(scene, name)
        thing = scene.things.rows[row]
        at = position_text(scene.things.at[row], thing.rule.at[2] is None)
        try:
            file = open_for_edits(state.tree, thing.rule, thing.path)
            owner = owner_of(state, file, thing)
            if owner is not None:
                state, removed = remove_entries(state, thing.path, {owner[1].order: None})
                steps += removed.values()
            else:
                edits = without_entry(file, state.layout, thing)
                state = _without(state, scene, thing, file.text.encode(edits))
                steps.append(
                    HookStep(
                        seat="",
                        title=thing.rule.entry.title,
                        path=thing.path,
                        state=HookState.OUT,
                        shown=f"{thing.called} at {at}",
                    )
                )
        except CannotSay as error:
            return state.with_stops([refused(thing, error)]), tuple(steps)
        scene = Scene(state.tree, state.layout)
    return state, tuple(steps)


def _without(state: PlanState, scene: Scene, thing: Thing, data: bytes) -> PlanState:
    """The plan with a file in which a thing is no more, and all others are as they were. Raises CannotSay."""
    after_state = state.with_contents({thing.path: Inline(data)})
    after = Scene(after_state.tree, state.layout)
    gone = {thing.index}
    for row in range(thing.index + 1, len(scene.things)):
        if int(scene.things.outer[row]) in gone and (thing.rule.entry.nested or scene.things.rows[row].within):
            gone.add(row)
    left = [row for row in range(len(scene.things)) if row not in gone]
    same = len(after.things) == len(left) and all(
        (scene.things.rows[row].key, scene.things.rows[row].class_) == (one.key, one.class_)
        and (scene.things.at[row] == after.things.at[one.index]).all()
        for row, one in zip(left, after.things.rows, strict=True)
    )
    if not same:
        raise CannotSay("taking it out would change others that stand there")
    return after_state
