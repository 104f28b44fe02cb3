"""Further copies of things that stand in a map."""

from __future__ import annotations

import msgspec
from msgspec import Struct

from hookset.model import WrongUseError
from hookset.planning.choices import Choices
from hookset.planning.operations.take import with_taken
from hookset.planning.pipeline.copying import with_copies
from hookset.planning.pipeline.prefabs import prefab_called, with_prefab
from hookset.planning.placing.moving import refused_name
from hookset.planning.placing.positions import PositionWish, positions_for, row_called
from hookset.planning.plan import PackPlan, Plan
from hookset.planning.state import plan_state_for
from hookset.project import Ledger, MapProject
from hookset.scene.scene import Scene
from hookset.scene.values import CannotSay

__all__ = ["PlaceRequest", "plan_place"]


class PlaceRequest(Struct, frozen=True, kw_only=True):
    """What is to be placed once more, and where."""

    names: tuple[str, ...]
    """The first goes to the position; the others keep their places to it."""
    wish: PositionWish
    group: str | None = None
    instead_of: str = ""
    """A thing in whose place it comes, turned as that; it goes."""


def plan_place(
    project: MapProject, ledger: Ledger, ledger_bytes: bytes | None, asked: PlaceRequest, choices: Choices, now: str
) -> Plan:
    """Set copies of things. Those of a pack's things belong to the pack; others are the builder's own. Raises
    WrongUseError for names and places that mean nothing."""
    state = plan_state_for(project, ledger, choices, now)
    scene = Scene(project.tree, project.layout)
    single = asked.names[0] if len(asked.names) == 1 else ""
    prefab = prefab_called(scene, single) if single and single not in scene.things.by_key else ""
    rows = [] if prefab else [row_called(scene, name) for name in asked.names]
    wish = asked.wish
    if asked.instead_of:
        if scene.things.nested and asked.instead_of in asked.names:
            raise WrongUseError(
                "conflicting-options",
                f"`{asked.instead_of}` cannot be copied to its own place and go",
                remedy="`hookset move` moves it; name another thing to be copied",
            )
        wish = msgspec.structs.replace(wish, beside=asked.instead_of)
    positions = positions_for(scene, wish)
    try:
        if prefab:
            state, plans = with_prefab(state, scene, prefab, positions, asked.group)
        else:
            state, plans = with_copies(state, scene, rows, positions, asked.names, asked.group)
    except CannotSay as error:
        path = prefab or scene.things.rows[rows[0]].path
        return state.with_stops([refused_name(asked.names[0], path, error)]).plan(ledger_bytes)
    if asked.instead_of and not state.stops:
        state, steps = with_taken(state, Scene(state.tree, state.layout), [asked.instead_of])
        plans = (*plans, PackPlan(name=asked.instead_of, version="", hooks=steps))
    for plan in plans:
        state = state.with_plan_of(plan)
    return state.plan(ledger_bytes)
