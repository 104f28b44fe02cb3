"""Judge the names of a map. One module per family; a new check is one decorated function."""

from hookset.checks.declare import Case, Check, UnplacedFinding, all_checks
from hookset.checks.exclusions import Clash, ExclusionState
from hookset.checks.judge import Counts, OpenReference, RuleCount, Summary, Verdict, judge, judge_analysis
from hookset.checks.recall import Ground, ground_of, ground_then, recall, remember, remember_facts
from hookset.checks.since import Since, since

__all__ = [
    "Case",
    "Check",
    "Clash",
    "Counts",
    "ExclusionState",
    "Ground",
    "OpenReference",
    "RuleCount",
    "Since",
    "Summary",
    "UnplacedFinding",
    "Verdict",
    "all_checks",
    "ground_of",
    "ground_then",
    "judge",
    "judge_analysis",
    "recall",
    "remember",
    "remember_facts",
    "since",
]
