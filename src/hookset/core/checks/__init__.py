"""Floor 10: judging a web. One module per family of checks; a new check is one decorated function."""

from hookset.core.checks.declare import Case, Check, Draft, all_checks
from hookset.core.checks.judge import Counts, OpenReference, RuleCount, Summary, Verdict, judge, judge_web
from hookset.core.checks.recall import recall, remember, verdict_key
from hookset.core.checks.since import Since, since

__all__ = [
    "Case",
    "Check",
    "Counts",
    "Draft",
    "OpenReference",
    "RuleCount",
    "Since",
    "Summary",
    "Verdict",
    "all_checks",
    "judge",
    "judge_web",
    "recall",
    "remember",
    "since",
    "verdict_key",
]
