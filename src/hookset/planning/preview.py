"""What a check would say after a plan, and only then."""

from __future__ import annotations

from collections.abc import Container

from msgspec.structs import replace

from hookset.checks import Case, Verdict, all_checks, judge_analysis
from hookset.model import Finding
from hookset.symbols import FactsCache
from hookset.verdicts import Summary

__all__ = ["findings_beyond", "new_findings"]


def findings_beyond(
    now: Case, after: Verdict, codes: Container[str], cache: FactsCache | None = None
) -> tuple[Finding, ...]:
    """The findings with these codes that a change of a map would cause. As it is `now` it is judged by the checks alone
    that would tell something: what others tell of it does not matter, and costs as much to find out."""
    told = {one.code for one in after.findings if one.code in codes}
    if not told:
        return ()
    off = {check.code: None for check in all_checks() if check.code not in told}
    terms = replace(now.terms, severities={**now.terms.severities, **off})
    before = judge_analysis(now.analysis, now.ledger, terms, cache)
    return tuple(one for one in new_findings(before.summary, after) if one.code in told)


def new_findings(before: Summary, after: Verdict) -> tuple[Finding, ...]:
    """The new findings that a change would cause, wherever lines have moved."""
    known = {finding.identity for finding in before.findings}
    return tuple(finding for finding in after.findings if finding.identity not in known)
