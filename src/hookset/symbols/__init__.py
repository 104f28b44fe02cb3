"""The names of a map: collect definitions and references over a tree, then resolve every reference."""

from hookset.symbols.analysis import Analysis, analyse
from hookset.symbols.cache import UNREAD, FactsCache, Read
from hookset.symbols.collect import Web, collect, completed
from hookset.symbols.explain import Explained, LeftOut, SeenName, explain
from hookset.symbols.facts import FileFacts
from hookset.symbols.index import Index
from hookset.symbols.kept_settled import keep_settled
from hookset.symbols.locate import spots, spots_in
from hookset.symbols.reach import Reach, reach_of, reference_to
from hookset.symbols.reading import open_document, read_file, way_of
from hookset.symbols.resolve import Miss, Outcome, Resolution, Resolutions, resolve, resolve_all
from hookset.symbols.shipped import Listed, listed, listed_paths
from hookset.symbols.stock_changes import StockChanges, stock_changes
from hookset.symbols.stocking import rooted, rows_like, stock_rows
from hookset.symbols.survey import RuleSurvey, SeatSurvey, Survey, survey
from hookset.symbols.trace import Trace, trace

__all__ = [
    "UNREAD",
    "Analysis",
    "Explained",
    "FactsCache",
    "FileFacts",
    "Index",
    "LeftOut",
    "Listed",
    "Miss",
    "Outcome",
    "Reach",
    "Read",
    "Resolution",
    "Resolutions",
    "RuleSurvey",
    "SeatSurvey",
    "SeenName",
    "StockChanges",
    "Survey",
    "Trace",
    "Web",
    "analyse",
    "collect",
    "completed",
    "explain",
    "keep_settled",
    "listed",
    "listed_paths",
    "open_document",
    "reach_of",
    "read_file",
    "reference_to",
    "resolve",
    "resolve_all",
    "rooted",
    "rows_like",
    "spots",
    "spots_in",
    "stock_changes",
    "stock_rows",
    "survey",
    "trace",
    "way_of",
]
