"""What a check tells, kept for as long as all that it rests on is the same. What the commands need of it stays light:
most checks are of a map in which nothing has changed, and open none of it."""

from hookset.verdicts.ground import Ground
from hookset.verdicts.kept import VerdictCache
from hookset.verdicts.memo import KnownMap, MapMemo, keep_memo, known_map
from hookset.verdicts.recall import recall, remember
from hookset.verdicts.summary import Counts, OpenReference, RuleCount, Summary

__all__ = [
    "Counts",
    "Ground",
    "KnownMap",
    "MapMemo",
    "OpenReference",
    "RuleCount",
    "Summary",
    "VerdictCache",
    "keep_memo",
    "known_map",
    "recall",
    "remember",
]
