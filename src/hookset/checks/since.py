"""What is new since an earlier report."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from msgspec import Struct

from hookset.model import CouldNotError, Finding
from hookset.trees import read_regular
from hookset.verdicts import Summary

__all__ = ["Since", "beyond", "since"]

Identity = tuple[str, str, str, str, str]

_LARGEST = 1 << 30
"""Bytes of a report."""


class Since(Struct, frozen=True):
    """A verdict beside an earlier one."""

    fresh: tuple[Finding, ...]
    """Findings that the earlier report has not."""
    known: int
    gone: int
    """How many of the earlier report's there are no more."""


def since(verdict: Summary, report: Path) -> Since:
    """Compare by code, file and name: lines may have moved. Raises CouldNotError for what is no saved report."""
    earlier = [_identity(row) for row in _rows(report)]
    fresh = beyond(verdict.findings, earlier)
    known = len(verdict.findings) - len(fresh)
    return Since(fresh, known, len(earlier) - known)


def beyond(findings: Iterable[Finding], known: Iterable[Identity]) -> tuple[Finding, ...]:
    """The findings that are more than what is `known`, each as often as it is."""
    left = Counter(known)
    found = []
    for finding in findings:
        if left[finding.identity] > 0:
            left[finding.identity] -= 1
        else:
            found.append(finding)
    return tuple(found)


def _identity(row: Any) -> Identity:
    return row["code"], row["path"], row["kind"], row["name"], row["side"]


def _rows(report: Path) -> list[Any]:
    try:
        rows = json.loads(read_regular(report, _LARGEST))["findings"]
        for row in rows:
            if not all(isinstance(part, str) for part in _identity(row)):
                raise TypeError
    except (ValueError, KeyError, TypeError, RecursionError) as error:
        raise CouldNotError(
            "unexpected-content",
            "is no report that an earlier check has saved",
            where=str(report),
            remedy="save one with `hookset check --report FILE.json`",
        ) from error
    return list(rows)
