"""Taking packs out: what they set and nothing else."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from hookset.config.sheets import nearest
from hookset.model import WrongUseError
from hookset.planning.choices import Choices
from hookset.planning.pipeline.files import remove_files
from hookset.planning.pipeline.removal import remove_entries
from hookset.planning.plan import HookStep, PackPlan, Plan, Stop
from hookset.planning.state import PlanState, plan_state_for
from hookset.project import Ledger, LedgerHook, LedgerPack, MapProject
from hookset.trees import Tree

__all__ = ["installed_pack", "map_without", "plan_remove"]


def plan_remove(
    project: MapProject,
    ledger: Ledger,
    ledger_bytes: bytes | None,
    names: Sequence[str],
    choices: Choices,
    now: str,
    anyway: bool = False,
) -> Plan:
    """What taking these packs out would do. Raises WrongUseError for a name that no installed pack has."""
    state = plan_state_for(project, ledger, choices, now)
    stops: list[Stop] = []
    packs = [installed_pack(ledger, name) for name in dict.fromkeys(names)]
    going = {pack.name for pack in packs}
    for other in ledger.packs:
        needed = [name for name in other.needs if name in going]
        if other.name not in going and needed and not anyway:
            stops.append(
                Stop(
                    "needed-by-others",
                    f"{other.name} needs {', '.join(needed)}",
                    why=f"without it {other.name} would not work",
                    remedy=f"take {other.name} out as well: hookset remove {' '.join([*names, other.name])};"
                    " or take it out all the same: --anyway",
                )
            )
    state = state.with_stops(stops)
    # Those that need others go first, and of the rest the one that was set last.
    for pack in sorted(packs, key=lambda pack: max((h.order for h in pack.hooks), default=0), reverse=True):
        current = state.ledger.pack(pack.name)
        if current is not None:
            state = _without(state, current)
    return state.plan(ledger_bytes)


def map_without(project: MapProject, ledger: Ledger, name: str) -> Tree:
    """The map as it would be without an installed pack, in memory, whatever was changed in it by hand. Raises
    WrongUseError for a name that no installed pack has."""
    state = plan_state_for(project, ledger, Choices(by_hand="drop"), "")
    return _without(state, installed_pack(ledger, name)).tree


def installed_pack(ledger: Ledger, name: str) -> LedgerPack:
    """Raises WrongUseError."""
    pack = ledger.pack(name)
    if pack is None:
        known = sorted(one.name for one in ledger.packs)
        raise WrongUseError(
            "not-installed",
            f"no pack called `{name}` is installed in this map{nearest(name, known)}",
            remedy="`hookset list` shows what is set",
        )
    return pack


def _without(state: PlanState, pack: LedgerPack) -> PlanState:
    told: list[HookStep] = []
    instead: dict[str, dict[int, LedgerHook | None]] = {}
    for hook in pack.hooks:
        instead.setdefault(hook.path, {})[hook.order] = None
    for path, orders in instead.items():
        # A file that goes as a whole takes its entries with it.
        state, steps = remove_entries(state, path, orders)
        told += steps.values()
    state, files = remove_files(state, pack.name, pack.files)
    step = PackPlan(name=pack.name, version="", before=pack.version, files=files, hooks=tuple(told))
    return replace(state, ledger=state.ledger.without(pack.name)).with_plan_of(step)
