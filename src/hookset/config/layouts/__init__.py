"""Compile a layout file into rules, seats and kinds. The shipped layouts are data beside this code."""

from hookset.config.layouts._engines import own_engines
from hookset.config.layouts._steps import project_steps
from hookset.config.layouts.descriptor import map_words
from hookset.config.layouts.layout import Layout
from hookset.config.layouts.listing import Manifest, Row, path_parts
from hookset.config.layouts.load import (
    layout_file,
    layout_source,
    load_layout,
    named_layout,
    shipped_layout,
    shipped_names,
)
from hookset.config.layouts.recognise import Likeness, recognise
from hookset.config.layouts.rules import DefineRule, Kind, ReadRule, ReferRule, Seat

__all__ = [
    "DefineRule",
    "Kind",
    "Layout",
    "Likeness",
    "Manifest",
    "ReadRule",
    "ReferRule",
    "Row",
    "Seat",
    "layout_file",
    "layout_source",
    "load_layout",
    "map_words",
    "named_layout",
    "own_engines",
    "path_parts",
    "project_steps",
    "recognise",
    "shipped_layout",
    "shipped_names",
]
