"""A draft tried on: the map as it would be with it, in memory, and what is still missing then."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from hookset.authoring.draft.site import Site
from hookset.checks import Case, judge_analysis
from hookset.model import Finding, Severity
from hookset.packs import SheetedPack
from hookset.planning.choices import Choices
from hookset.planning.pipeline.staging import stage_pack
from hookset.planning.pipeline.targets import called_as_here
from hookset.planning.plan import HookState, PackPlan, Stop
from hookset.planning.preview import findings_beyond
from hookset.planning.state import PlanState
from hookset.project import Ledger, LedgerPack
from hookset.symbols import Analysis, Resolution, analyse
from hookset.trees import Content, EmptyTree, Inline, Overlay

__all__ = ["DryRun", "dry_run", "fresh_findings"]


class DryRun(Struct, frozen=True):
    """What came of it."""

    analysis: Analysis
    ledger: Ledger
    missing: tuple[Resolution, ...]
    """References that are missing now and were not before."""
    stops: tuple[Stop, ...]
    plan: PackPlan
    targets: frozenset[str]
    """Files that the pack would bring."""
    changed: frozenset[str]
    """Files of the map that it would change."""


def dry_run(site: Site, pack: SheetedPack) -> DryRun:
    """Install the pack in memory."""
    base = Overlay(site.tree, _seats_alone(site))
    pack = called_as_here(pack, base, site.layout, site.folder)
    state = PlanState(
        layout=site.layout,
        stock=site.stock,
        root=Path(site.folder),
        base=base,
        choices=Choices(other_bytes="mine"),
        before=Ledger(),
        ledger=Ledger(),
        now="",
    )
    state = stage_pack(state, pack, dict.fromkeys((pack.name,), ""))
    analysis = analyse(state.tree, site.layout, site.stock, last=site.analysis)
    asked = ((one, one.reference) for one in analysis.resolutions.missing)
    fresh = tuple(one for one, it in asked if (it.kind, it.name, it.path) not in site.missing)
    plan = state.packs[0]
    changed = frozenset(step.path for step in plan.hooks if step.state is HookState.SET)
    return DryRun(analysis, state.ledger, fresh, state.stops, plan, frozenset(pack.targets), changed)


def fresh_findings(site: Site, last: DryRun) -> tuple[Finding, ...]:
    """What the check of the map would tell with the draft that it does not tell now, but for notes. Without a map
    nobody knows what it has."""
    if isinstance(site.tree, EmptyTree):
        return ()
    # Of packs that are installed it counts that they are there: what they have set is in the map.
    beside = tuple(
        LedgerPack(name=one.name, version=one.version, excludes=one.excludes, files=one.files) for one in site.installed
    )
    after = judge_analysis(last.analysis, replace(last.ledger, packs=(*beside, *last.ledger.packs)), site.terms)
    told = {one.code for one in after.findings if one.severity is not Severity.NOTE}
    fresh = findings_beyond(Case(site.analysis, Ledger(packs=beside), site.terms), after, told)
    return tuple(one for one in fresh if one.severity is not Severity.NOTE and not _asked_about(site, one.kind))


def _asked_about(site: Site, kind: str) -> bool:
    """Whether a map may have words of its own for a kind: which, is asked when the pack is installed."""
    return kind in site.layout.kinds and site.layout.kinds[kind].entry.mapped


def _seats_alone(site: Site) -> dict[str, Content | None]:
    """Files that hold only seats, where the map has none."""
    return {
        seat_file.path: Inline(seat_file.text.string.encode())
        for seat_file in reversed(site.seat_files)
        if seat_file.blank
    }
