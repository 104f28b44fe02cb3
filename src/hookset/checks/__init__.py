"""Judge the names of a map. One module per family; a new check is one decorated function."""

from hookset.checks.declare import Case, Check, UnplacedFinding, all_checks
from hookset.checks.judge import Counts, OpenReference, RuleCount, Summary, Verdict, judge, judge_analysis
from hookset.checks.recall import recall, remember, verdict_key
from hookset.checks.since import Since, since

__all__ = [
    "Case",
    "Check",
    "Counts",
    "OpenReference",
    "RuleCount",
    "Since",
    "Summary",
    "UnplacedFinding",
    "Verdict",
    "all_checks",
    "judge",
    "judge_analysis",
    "recall",
    "remember",
    "since",
    "verdict_key",
]
