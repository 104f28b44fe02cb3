"""The same as `--json` prints: for programs, and for `--since`."""

from __future__ import annotations

from hookset.reports.checked import check_data
from hookset.reports.data import enveloped
from hookset.reports.saved.report_input import ReportInput, SavedReport

__all__ = ["REPORT"]


def _written(told: ReportInput) -> str:
    return enveloped("check", told.verdict.clean, check_data(told.verdict)) + "\n"


REPORT = SavedReport(".json", "JSON, for programs and for --since", _written)
