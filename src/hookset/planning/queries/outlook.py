"""A plan, judged before anything is written: the map as it is, as it would be, and what that means for each need."""

from __future__ import annotations

from dataclasses import dataclass

from hookset.applying.change import changed_tree
from hookset.checks import Case, Verdict, ground_of, judge, recall, remember
from hookset.model import Finding, Severity
from hookset.planning.plan import Plan
from hookset.planning.preview import new_findings
from hookset.planning.queries.needs import NeedState, needs_state
from hookset.project import Ledger, MapProject
from hookset.symbols import FactsCache, analyse

__all__ = ["NamesOfKind", "Outlook", "outlook", "verdict_now"]


_OF_THE_BUILDER = {"blank-open", "still-to-be-placed"}
"""What is the builder's to do after an install, and before a build."""


@dataclass(frozen=True, slots=True)
class NamesOfKind:
    """How many names of a kind the map has now, and would have then."""

    kind: str
    label: str
    before: int
    after: int
    gone: tuple[str, ...]
    """Those that would not be there any more."""


@dataclass(frozen=True, slots=True)
class Outlook:
    """What a plan would lead to."""

    before: Verdict
    after: Verdict
    needs: dict[str, tuple[NeedState, ...]]
    """By pack."""
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


def verdict_now(project: MapProject, ledger: Ledger, cache: FactsCache | None = None) -> Verdict:
    """Judge the map as it is, or recall what was told of it. Done once, before anything is planned: what is read for it
    serves planning as well."""
    if cache is None:
        return judge(project.tree, project.layout, project.stock, ledger, project.terms)
    ground = ground_of(project, project.tree)
    known = recall(ground, cache)
    if known is not None:
        analysis = analyse(project.tree, project.layout, project.stock, cache)
        return Verdict(known, Case(analysis, ledger, project.terms))
    verdict = judge(project.tree, project.layout, project.stock, ledger, project.terms, cache)
    remember(ground, cache, verdict)
    return verdict


def outlook(project: MapProject, plan: Plan, before: Verdict, cache: FactsCache | None = None) -> Outlook:
    """Judge what the map would be. What a pack brings does not meet its own needs; what another brings does."""
    changed = changed_tree(project.tree, plan.changes)
    after = judge(changed, project.layout, project.stock, plan.ledger, project.terms, cache, before)
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
    return Outlook(before, after, needs, new_findings(before, after))
