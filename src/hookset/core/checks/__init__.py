"""Floor 9: judging a web. One module per family of checks; a new check is one decorated function."""

from hookset.core.checks.declare import Case, Check, Draft, all_checks
from hookset.core.checks.judge import Counts, OpenReference, Verdict, judge, judge_web

__all__ = ["Case", "Check", "Counts", "Draft", "OpenReference", "Verdict", "all_checks", "judge", "judge_web"]
