"""Reports that are kept in a file. One module per format; its ending finds it."""

from __future__ import annotations

import importlib
import pkgutil

from hookset.reports.saved.report_input import ReportInput, SavedReport

__all__ = ["ReportInput", "SavedReport", "endings", "report_for"]


def _modules() -> dict[str, SavedReport]:
    found: dict[str, SavedReport] = {}
    for module in pkgutil.iter_modules(__path__):
        report = getattr(importlib.import_module(f"{__name__}.{module.name}"), "REPORT", None)
        if isinstance(report, SavedReport):
            found[report.ending] = report
    return found


def endings() -> tuple[str, ...]:
    """What a report's file can end in."""
    return tuple(sorted(_modules()))


def report_for(name: str) -> SavedReport | None:
    """The format that a file of this name is written in."""
    lowered = name.lower()
    return next((report for ending, report in _modules().items() if lowered.endswith(ending)), None)
