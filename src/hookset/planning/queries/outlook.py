"""A plan, judged before anything is written: the map as it is, as it would be, and what that means for each need."""

from __future__ import annotations

from msgspec import Struct

from hookset.applying.change import changed_tree
from hookset.checks import Case, ExclusionState, Verdict, ground_of, judge_analysis
from hookset.checks.exclusions import exclusion_states
from hookset.model import Finding, Severity
from hookset.planning.plan import Plan
from hookset.planning.preview import findings_beyond, new_findings
from hookset.planning.queries.needs import NeedState, needs_state
from hookset.project import Ledger, MapProject
from hookset.symbols import FactsCache, analyse
from hookset.verdicts import Summary, recall

__all__ = ["NamesOfKind", "Outlook", "map_now", "outlook"]


_OF_THE_BUILDER = {"blank-open", "still-to-be-placed"}
"""What is the builder's to do after an install, and before a build."""


class MapNow(Struct, frozen=True):
    """The map before anything is planned."""

    case: Case
    told: Summary | None = None
    """What was found of it, where that is kept."""


class NamesOfKind(Struct, frozen=True):
    """How many names of a kind the map has now, and would have then."""

    kind: str
    label: str
    before: int
    after: int
    gone: tuple[str, ...]
    """Those that would not be there any more."""


class Outlook(Struct, frozen=True):
    """What a plan would lead to."""

    before: MapNow
    after: Verdict
    needs: dict[str, tuple[NeedState, ...]]
    """By pack."""
    excluded: dict[str, tuple[ExclusionState, ...]]
    """By pack: what it cannot stand beside."""
    fresh: tuple[Finding, ...]
    """Findings that the plan would bring."""

    @property
    def names(self) -> tuple[NamesOfKind, ...]:
        """What comes and goes, by kind; kinds of which all names stay are not told."""
        found: list[NamesOfKind] = []
        layout = self.before.case.layout
        for name, kind in layout.kinds.items():
            now, then = (verdict.case.index.known(name) for verdict in (self.before, self.after))
            if name not in layout.belonging_kinds and now.keys() != then.keys():
                gone = tuple(sorted(now.keys() - then.keys()))
                found.append(NamesOfKind(name, kind.label, len(now), len(then), gone))
        return tuple(found)

    @property
    def unmet(self) -> tuple[NeedState, ...]:
        """The needs that would not be met."""
        return tuple(state for states in self.needs.values() for state in states if not state.met)

    @property
    def broken(self) -> tuple[Finding, ...]:
        """References and the like that would be wrong then and are not now."""
        return tuple(f for f in self.fresh if f.severity is Severity.ERROR and f.code not in _OF_THE_BUILDER)


def map_now(project: MapProject, ledger: Ledger, cache: FactsCache | None = None) -> MapNow:
    """Read the map as it is, and recall what was told of it. Done once, before anything is planned: what is read for it
    serves planning as well."""
    told = recall(ground_of(project, project.tree), cache.verdicts) if cache is not None else None
    return MapNow(Case(analyse(project.tree, project.layout, project.stock, cache), ledger, project.terms), told)


def outlook(project: MapProject, plan: Plan, before: MapNow, cache: FactsCache | None = None) -> Outlook:
    """Judge what the map would be. What a pack brings does not meet its own needs; what another brings does."""
    changed = changed_tree(project.tree, plan.changes)
    analysis = analyse(changed, project.layout, project.stock, cache, before.case.analysis)
    after = judge_analysis(analysis, plan.ledger, project.terms, cache)
    if before.told is not None:
        fresh = new_findings(before.told, after)
    else:
        fresh = findings_beyond(before.case, after, {one.code for one in after.findings}, cache)
    versions = {pack.name: pack.version for pack in plan.ledger.packs}
    needs: dict[str, tuple[NeedState, ...]] = {}
    for one in plan.packs:
        if one.sheet is None:
            continue
        states = needs_state(one.sheet, before.case.index, versions)
        if len(plan.packs) > 1:
            later = needs_state(one.sheet, after.case.index, versions)
            states = tuple(now if now.met else then for now, then in zip(states, later, strict=True))
        needs[one.name] = states
    installed = {one.name: plan.ledger.pack(one.name) for one in plan.packs}
    excluded = {name: tuple(exclusion_states(pack, after.case)) for name, pack in installed.items() if pack is not None}
    return Outlook(before, after, needs, excluded, fresh)
