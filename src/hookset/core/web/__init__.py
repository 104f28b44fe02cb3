"""Floor 9: the web of names. Collect definitions and references over a tree, then resolve every reference."""

from hookset.core.web.cache import FactsCache
from hookset.core.web.collect import Web, collect
from hookset.core.web.explain import Explained, Seen, explain
from hookset.core.web.facts import FileFacts
from hookset.core.web.index import Index
from hookset.core.web.locate import spots, spots_in
from hookset.core.web.reach import Reach, reach_of
from hookset.core.web.reading import read_file
from hookset.core.web.resolve import Miss, Outcome, Resolution, Resolutions, resolve, resolve_all
from hookset.core.web.shipped import Listed, listed, listed_paths
from hookset.core.web.stocking import particulars, rooted, rows_like, stock_rows
from hookset.core.web.survey import RuleSurvey, SeatSurvey, Survey, survey
from hookset.core.web.trace import Trace, trace

__all__ = [
    "Explained",
    "FactsCache",
    "FileFacts",
    "Index",
    "Listed",
    "Miss",
    "Outcome",
    "Reach",
    "Resolution",
    "Resolutions",
    "RuleSurvey",
    "SeatSurvey",
    "Seen",
    "Survey",
    "Trace",
    "Web",
    "collect",
    "explain",
    "listed",
    "listed_paths",
    "particulars",
    "reach_of",
    "read_file",
    "resolve",
    "resolve_all",
    "rooted",
    "rows_like",
    "spots",
    "spots_in",
    "stock_rows",
    "survey",
    "trace",
]
