"""What a check has to say, as plain data for `--json` and for saved reports."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Iterable

    from hookset.checks import Since
    from hookset.model import Finding
    from hookset.planning import FileDiff, MendPlan
    from hookset.verdicts import Counts, OpenReference, Summary

__all__ = ["check_data", "counts_data", "finding_data", "mend_data", "since_data"]


def finding_data(finding: Finding) -> dict[str, Any]:
    return {
        "code": finding.code,
        "severity": finding.severity.word,
        "path": finding.spot.path,
        "line": finding.spot.line,
        "column": finding.spot.column,
        "message": finding.message,
        "why": finding.why,
        "remedy": finding.remedy,
        "kind": finding.kind,
        "name": finding.name,
        "side": finding.side,
        "mendable": finding.mend is not None,
        "instead": list(finding.instead),
        "follows": finding.follows,
    }


def counts_data(counts: Counts) -> dict[str, Any]:
    return {
        "files": counts.files,
        "opened": counts.opened,
        "unread": list(counts.unread),
        "definitions": counts.definitions,
        "references": counts.references,
        "in_map": counts.in_map,
        "in_stock": counts.in_stock,
        "missing": counts.missing,
        "not_checkable": counts.not_checkable,
        "checks": counts.checks,
        "by_rule": [
            {"rule": one.rule, "files": one.files, "defined": one.defined, "referred": one.referred}
            for one in counts.by_rule
        ],
    }


def _open(reference: OpenReference) -> dict[str, Any]:
    spot = reference.spot
    return {
        "kind": reference.kind,
        "name": reference.name,
        "path": spot.path,
        "line": spot.line,
        "column": spot.column,
        "fits": reference.fits,
        "built_at_run_time": reference.built,
        "optional": reference.optional,
        "may_be_made_at": [{"path": one.path, "line": one.line, "column": one.column} for one in reference.made],
    }


def check_data(verdict: Summary) -> dict[str, Any]:
    return {
        "findings": [finding_data(finding) for finding in verdict.findings],
        "not_checkable": [_open(reference) for reference in verdict.open],
        "accepted": verdict.accepted,
        "counts": counts_data(verdict.counts),
    }


def since_data(compared: Since) -> dict[str, Any]:
    return {"new": len(compared.fresh), "known": compared.known, "gone": compared.gone}


def mend_data(plan: MendPlan, diffs: Iterable[FileDiff], written: bool) -> dict[str, Any]:
    return {
        "written": written,
        "mended": [finding_data(finding) for finding in plan.mended],
        "left": [finding_data(finding) for finding in plan.after.findings],
        "diffs": [{"path": diff.path, "lines": list(diff.lines)} for diff in diffs],
    }
