"""Judge the names of a map. One module per family; a new check is one decorated function."""

from hookset.checks.declare import Case, Check, UnplacedFinding, all_checks
from hookset.checks.exclusions import Clash, ExclusionState
from hookset.checks.grounds import ground_of, ground_then, remember_facts, remember_map, remember_verdict
from hookset.checks.judge import Verdict, judge, judge_analysis
from hookset.checks.since import Since, since

__all__ = [
    "Case",
    "Check",
    "Clash",
    "ExclusionState",
    "Since",
    "UnplacedFinding",
    "Verdict",
    "all_checks",
    "ground_of",
    "ground_then",
    "judge",
    "judge_analysis",
    "remember_facts",
    "remember_map",
    "remember_verdict",
    "since",
]
