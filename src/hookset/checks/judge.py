"""From a web to findings. The same for the map as it is and as a plan would leave it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping

from msgspec import Struct, field
from msgspec.structs import replace

from hookset.checks.causes import with_causes
from hookset.checks.declare import Case, Check, UnplacedFinding, all_checks
from hookset.checks.idle import layout_sees_nothing, stands_about_nothing
from hookset.checks.kept_standing import KeptStanding, standing_of
from hookset.checks.terms import accepted_nothing
from hookset.checks.unloaded import apart, in_unloaded_file
from hookset.config.layouts import Layout
from hookset.model import Finding, Severity, Spot, Where
from hookset.project import Ledger, Stock, Terms
from hookset.symbols import Analysis, FactsCache, Resolution, Web, analyse, keep_settled, spots_in
from hookset.trees import Overlay, Tree
from hookset.verdicts import Counts, OpenReference, RuleCount, Summary

__all__ = ["Verdict", "judge", "judge_analysis"]


_NOTHING_STANDS = KeptStanding("", {})


class Verdict(Struct, frozen=True):
    """What there is to tell, and what it was drawn from."""

    summary: Summary
    case: Case
    standing: KeptStanding = _NOTHING_STANDS
    """What was found of where things stand."""
    places: Mapping[tuple[str, Where], Spot] = field(default_factory=dict)
    """Lines and columns of what is told."""

    @property
    def findings(self) -> tuple[Finding, ...]:
        """All findings, in order."""
        return self.summary.findings

    @property
    def open(self) -> tuple[OpenReference, ...]:
        """References that cannot be checked before the game runs."""
        return self.summary.open

    @property
    def counts(self) -> Counts:
        """How much was looked at."""
        return self.summary.counts

    @property
    def accepted(self) -> int:
        """How many findings the terms accept."""
        return self.summary.accepted

    @property
    def errors(self) -> tuple[Finding, ...]:
        """The findings that refuse a build."""
        return self.summary.errors

    @property
    def clean(self) -> bool:
        """Whether there are only notes."""
        return self.summary.clean


def judge(
    tree: Tree,
    layout: Layout,
    stock: Stock,
    ledger: Ledger | None = None,
    terms: Terms | None = None,
    cache: FactsCache | None = None,
    last: Verdict | None = None,
) -> Verdict:
    """Read a tree and judge it. The ledger lists the entries that packs set, the terms what the builder accepts.

    Of a map that was judged `last` and that the tree lies over, only what differs is read, and what was found and rests
    on what is the same is not looked for again.
    """
    analysis = analyse(tree, layout, stock, cache, last.case.analysis if last is not None else None)
    return judge_analysis(analysis, ledger or Ledger(), terms or Terms(), cache, last)


def judge_analysis(
    analysis: Analysis,
    ledger: Ledger,
    terms: Terms,
    cache: FactsCache | None = None,
    last: Verdict | None = None,
) -> Verdict:
    """Judge what was read. The cache knows where findings stand that are there still, and so does what was told `last`
    of a map that this one lies over."""
    checks = tuple(one for one in all_checks() if terms.severities.get(one.code, one.severity) is not None)
    case = Case(analysis, ledger, terms)
    judging = {one.code: one.function for one in checks if one.standing}
    if layout_sees_nothing in checks:
        judging[layout_sees_nothing.code] = stands_about_nothing
    positions = case.layout.positions
    placing = positions.placed or positions.volumes or positions.stands
    known = last.standing if last is not None else None
    changed = _changed(last, analysis.web)
    # By the same layout and terms the same checks have looked at the same places.
    alike = last is not None and last.case.layout is case.layout and last.case.terms == terms
    # A case of its own: where things stand takes more memory than all that is asked for afterwards.
    standing = (
        standing_of(replace(case), judging, cache, known, changed if alike else None) if placing else _NOTHING_STANDS
    )
    all_drafts = [
        (check, draft)
        for check in checks
        for draft in (*(() if check.standing else check.function(case)), *standing.drafts.get(check.code, ()))
    ]
    counted, unloaded = apart(case, all_drafts)
    drafts = with_causes(case, counted)
    if in_unloaded_file in checks:
        late_case = replace(case, unloaded=unloaded)
        drafts += ((in_unloaded_file, draft) for draft in in_unloaded_file.function(late_case))
    undecided = case.resolutions.open
    wanted = [(draft.path, draft.where) for _, draft in drafts if draft.where is not None]
    wanted += [(r.reference.path, r.reference.where) for r in undecided]
    wanted += [(hit.path, hit.where) for r in undecided for hit in r.hits]
    places = dict(_still(last, changed))
    places |= spots_in(analysis.web, [place for place in wanted if place not in places], cache)
    levels = {kind.name: kind.entry.severity for kind in case.layout.kinds.values() if kind.entry.severity}
    wanted_drafts = [
        (check, draft) for check, draft in drafts if check.code in terms.severities or levels.get(draft.kind) != "off"
    ]
    placed = [_finding(check, draft, places, _level(check, draft, terms, levels)) for check, draft in wanted_drafts]
    # The same thing at the same place is told once, however many rules or uses lead to it.
    found = list({(*one.identity, one.order): one for one in placed}.values())
    if any(one.severity is Severity.ERROR for one in found):
        # A rule may see nothing since something else is wrong: that comes first.
        found = [one for one in found if one.code != layout_sees_nothing.code]
    findings = [one for one in found if not any(accepted.covers(one) for accepted in terms.accepted)]
    idle = tuple(accepted for accepted in terms.accepted if not any(accepted.covers(one) for one in found))
    late = (
        _finding(accepted_nothing, draft, {}, _level(accepted_nothing, draft, terms, {}))
        for draft in accepted_nothing.function(replace(case, idle=idle))
    )
    summary = Summary(
        findings=tuple(sorted((*findings, *late), key=lambda f: f.order)),
        open=tuple(sorted((_open(case, r, places) for r in undecided), key=lambda o: (o.spot, o.name))),
        counts=_counts(case, len(checks)),
        accepted=len(found) - len(findings),
    )
    if cache is not None and not isinstance(analysis.web.tree, Overlay) and analysis.settled != analysis.before:
        # What a plan would make of the map is remembered once it is written.
        keep_settled(analysis.web, analysis.settled, cache)
    return Verdict(summary, case, standing, {place: places[place] for place in wanted})


def _still(last: Verdict | None, changed: frozenset[str] | None) -> Iterator[tuple[tuple[str, Where], Spot]]:
    """Where what was told last stands, in files that are as they were."""
    if last is not None and changed is not None:
        yield from ((place, spot) for place, spot in last.places.items() if place[0] not in changed)


def _changed(last: Verdict | None, web: Web) -> frozenset[str] | None:
    """The files that are not as they were in the map that was judged last; None where that is not known."""
    return web.tree.differs_from(last.case.web.tree) if last is not None and isinstance(web.tree, Overlay) else None


def _open(case: Case, resolution: Resolution, places: Mapping[tuple[str, Where], Spot]) -> OpenReference:
    reference = resolution.reference
    return OpenReference(
        spot=places[reference.path, reference.where],
        kind=reference.kind,
        name=reference.name,
        fits=len(case.index.matching(reference.kind, reference.name)),
        built=reference.pattern,
        optional=not reference.pattern and (reference.optional or bool(reference.guards)),
        made=tuple(places[one.path, one.where] for one in resolution.hits),
    )


def _level(check: Check, draft: UnplacedFinding, terms: Terms, levels: Mapping[str, str]) -> Severity:
    """How grave a finding is: as the builder says of the check, the layout of the case or the kind, or the check."""
    said = terms.severities.get(check.code)
    if said is None:
        said = draft.severity
    if said is None and draft.kind in levels:
        said = Severity[levels[draft.kind].upper()]
    return check.severity if said is None else said


def _finding(
    check: Check, draft: UnplacedFinding, places: Mapping[tuple[str, Where], Spot], severity: Severity
) -> Finding:
    spot = Spot(draft.path, draft.line) if draft.where is None else places[draft.path, draft.where]
    return Finding(
        code=check.code,
        severity=severity,
        spot=spot,
        message=draft.message,
        why=draft.why or check.why,
        remedy=draft.remedy or check.remedy,
        kind=draft.kind,
        name=draft.name,
        side=draft.side,
        mend=draft.mend,
        instead=draft.instead,
        follows=draft.follows,
    )


def _counts(case: Case, checks: int) -> Counts:
    found = case.resolutions
    files = case.web.files
    return Counts(
        files=len(files),
        opened=sum(file.opened for file in files),
        unread=tuple(file.path for file in files if not file.opened),
        definitions=sum(len(block.names) for file in files for block in file.defined),
        in_map=found.in_map,
        in_stock=found.in_stock,
        missing=len(found.missing),
        not_checkable=len(found.open),
        checks=checks,
        by_rule=_by_rule(case),
    )


def _by_rule(case: Case) -> tuple[RuleCount, ...]:
    sums = {number: [0, 0, 0] for number in range(1, len(case.layout.reads) + 1)}
    # Many files say the same as others: those of which only the path counts.
    for said, files in Counter(file.by_rule for file in case.web.files).items():
        for number, defined, referred in said:
            one = sums[number]
            one[0] += files
            one[1] += files * sum(defined)
            one[2] += files * sum(referred)
    return tuple(RuleCount(rule=n, files=f, defined=d, referred=r) for n, (f, d, r) in sums.items())
