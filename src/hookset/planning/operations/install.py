"""Making the plan of an install or an upgrade: every pack in its turn, over the state that the ones before it leave."""

from __future__ import annotations

import graphlib
from collections.abc import Sequence

from msgspec.structs import replace

from hookset.model import RefusedError
from hookset.model.visible import as_argument
from hookset.packs import Pack, SheetedPack
from hookset.planning.choices import Choices, Question
from hookset.planning.naming.renames import rename_since
from hookset.planning.pipeline.parts import chosen_parts
from hookset.planning.pipeline.staging import PACK, stage_pack
from hookset.planning.pipeline.targets import called_as_here
from hookset.planning.plan import HookStep, Plan, Stop
from hookset.planning.state import PlanState, plan_state_for
from hookset.project import Ledger, LedgerPack, MapProject

__all__ = ["plan_install", "plan_upgrade"]


def plan_install(
    project: MapProject,
    ledger: Ledger,
    ledger_bytes: bytes | None,
    packs: Sequence[Pack],
    choices: Choices,
    now: str,
) -> Plan:
    """What setting these packs into the map would do. Reads trees, writes nothing.

    Raises RefusedError for packs that cannot be planned at all (no hook sheet, a circle of needs), WrongUseError for
    answers that mean nothing.
    """
    state = plan_state_for(project, ledger, choices, now)
    ordered = _in_order(state, packs)
    for pack in ordered:
        installed = ledger.pack(pack.name)
        if installed is not None and installed.version != pack.version:
            state = state.with_stops([_other_version(pack, installed)])
    return _with_all(state, ordered).plan(ledger_bytes)


def plan_upgrade(
    project: MapProject,
    ledger: Ledger,
    ledger_bytes: bytes | None,
    packs: Sequence[Pack],
    choices: Choices,
    now: str,
) -> Plan:
    """Plan to replace the installed versions with these. Raises as `plan_install`."""
    state = plan_state_for(project, ledger, choices, now)
    ordered = _in_order(state, packs)
    renamed: dict[str, tuple[HookStep, ...]] = {}
    for pack in ordered:
        installed = ledger.pack(pack.name)
        if installed is None:
            raise RefusedError(
                "not-installed",
                f"{pack.name} is not installed",
                where=str(pack.source),
                why="there is no installed version to replace",
                remedy=f"set it in: hookset install {as_argument(pack.source)}",
            )
        state, renamed[pack.name] = rename_since(state, pack, installed.version)
    plan = _with_all(state, ordered).plan(ledger_bytes)
    planned = tuple(replace(one, hooks=(*one.hooks, *renamed.get(one.name, ()))) for one in plan.packs)
    return replace(plan, packs=planned)


def _with_all(state: PlanState, ordered: Sequence[SheetedPack]) -> PlanState:
    versions = {pack.name: pack.version for pack in state.ledger.packs}
    versions |= {pack.name: pack.version for pack in ordered}
    for pack in ordered:
        state = state.with_stops(_pack_stops(state, pack))
        state = stage_pack(state, pack, versions, chosen_parts(state, pack, versions))
    return state


def _in_order(state: PlanState, packs: Sequence[Pack]) -> list[SheetedPack]:
    """Packs after those that they need, with their files called as in this map."""
    return [called_as_here(pack, state.tree, state.layout, state.root.name) for pack in _ordered(packs)]


def _ordered(packs: Sequence[Pack]) -> list[SheetedPack]:
    """Packs after those that they need. Each must have a hook sheet."""
    named: dict[str, SheetedPack] = {}
    for pack in packs:
        if not isinstance(pack, SheetedPack):
            raise RefusedError(
                "no-hook-sheet",
                "has no hook sheet",
                where=str(pack.source),
                why="only a hook sheet says which entries the pack needs in the map's files",
                remedy="let one be drafted: hookset draft PACK; or write it (docs/hook-sheets.md shows how)",
            )
        if pack.name in named:
            raise RefusedError(
                "two-of-a-name", f"two of the packs are both called {pack.name}", remedy="name one of them only"
            )
        named[pack.name] = pack
    sorter: graphlib.TopologicalSorter[str] = graphlib.TopologicalSorter()
    for name, pack in named.items():
        needed = [need.name for need in pack.sheet.needs if need.kind == PACK]
        sorter.add(name, *(other for other in needed if other in named))
    try:
        return [named[name] for name in sorter.static_order()]
    except graphlib.CycleError as error:
        raise RefusedError(
            "circle-of-needs",
            f"these packs need each other in a circle: {' → '.join(error.args[1])}",
            why="none of them can be installed first",
            remedy="take the need out of one of their hook sheets",
        ) from error


def _other_version(pack: SheetedPack, installed: LedgerPack) -> Stop:
    return Stop(
        "already-installed",
        f"{pack.name} {installed.version} is installed already",
        where=str(pack.source),
        why="two versions side by side would define the same names twice",
        remedy=f"replace it with {pack.version} and keep your changes: hookset upgrade {pack.source}",
    )


def _pack_stops(state: PlanState, pack: SheetedPack) -> list[Stop]:
    """Why a pack as a whole cannot be set into this map."""
    stops: list[Stop] = []
    sheet, layout = pack.sheet, state.layout.name
    if sheet.pack.layouts and layout not in sheet.pack.layouts:
        stops.append(
            Stop(
                "other-layout",
                f"{pack.name} is made for {', '.join(sheet.pack.layouts)}; this map's layout is {layout}",
                where=str(pack.source),
                why="its seats and file forms are those of another kind of map",
                remedy="ask its author for one that suits this layout",
            )
        )
    for other in state.ledger.packs:
        same = [job for job in sheet.pack.does if job in other.does]
        if other.name != pack.name and same and not state.choices.both_jobs:
            options = (("both", "set it in all the same"),)
            stops.append(
                Stop(
                    "doing-the-same",
                    f"{pack.name} and {other.name} do the same: {', '.join(same)}",
                    where=str(pack.source),
                    why="both run, and what they do is done twice or undone by the other",
                    remedy=f"take the other out first: hookset remove {other.name}; or have both: --both-jobs",
                    question=Question(
                        key=("both-jobs", ""), text=f"Have both {pack.name} and {other.name}?", options=options
                    ),
                )
            )
    return stops
