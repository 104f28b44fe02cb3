"""SARIF 2.1.0 (OASIS): what code editors and code hosts show beside the lines."""

from __future__ import annotations

import json
from typing import Any
from urllib.parse import quote

from hookset import __version__
from hookset.checks import all_checks
from hookset.model import Finding, Severity
from hookset.model.visible import json_escaped
from hookset.reports.saved.report_input import ReportInput, SavedReport

__all__ = ["REPORT"]

_LEVELS = {Severity.ERROR: "error", Severity.WARNING: "warning", Severity.NOTE: "note"}


def _rule(code: str, title: str, why: str, remedy: str, level: Severity) -> dict[str, Any]:
    return {
        "id": code,
        "shortDescription": {"text": title},
        "fullDescription": {"text": f"{title}: {why}."},
        "help": {"text": remedy},
        "defaultConfiguration": {"level": _LEVELS[level]},
    }


def _result(finding: Finding, numbers: dict[str, int]) -> dict[str, Any]:
    place: dict[str, Any] = {
        "artifactLocation": {"uri": quote(finding.spot.path.encode("utf-8", "surrogateescape")), "uriBaseId": "MAP"}
    }
    if finding.spot.line:
        place["region"] = {"startLine": finding.spot.line}
        if finding.spot.column:
            place["region"]["startColumn"] = finding.spot.column
    return {
        "ruleId": finding.code,
        "ruleIndex": numbers[finding.code],
        "level": _LEVELS[finding.severity],
        "message": {"text": f"{finding.message}. Why: {finding.why}. Do: {finding.remedy}"},
        "locations": [{"physicalLocation": place}],
        "partialFingerprints": {"finding/v1": "/".join(finding.identity)},
    }


def _written(told: ReportInput) -> str:
    checks = all_checks()
    numbers = {check.code: number for number, check in enumerate(checks)}
    run = {
        "tool": {
            "driver": {
                "name": "Hook Set",
                "version": __version__,
                "rules": [_rule(c.code, c.title, c.why, c.remedy, c.severity) for c in checks],
            }
        },
        "columnKind": "unicodeCodePoints",
        "originalUriBaseIds": {"MAP": {"description": {"text": f"the folder of {told.name}"}}},
        "results": [_result(finding, numbers) for finding in told.findings],
    }
    log = {
        "$schema": "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
        "version": "2.1.0",
        "runs": [run],
    }
    return json_escaped(json.dumps(log, ensure_ascii=False, indent=1)) + "\n"


REPORT = SavedReport(".sarif", "SARIF 2.1.0, for editors and code hosts", _written)
