"""A part of a layout that means nothing in the whole map says so, at its own line: whatever part it is."""

from __future__ import annotations

import json
import re

import pytest

from hookset.checks import judge
from hookset.config.layouts import Layout
from hookset.config.layouts.load import load_layout
from hookset.project import Stock
from hookset.trees import EmptyTree, Inline, Overlay

LAYOUT = """[layout]
name = "own"
title = "t"
[descriptor]
file = "bells.json"
name = "$.name"
[space]
up = "z"
[kinds.bell]
label = "bell"
[kinds.spot]
label = "spot"
[kinds.shelf]
label = "shelf"

[[read]]
files = "bells.json"
format = "json"
defines = [
  { kind = "bell", at = "$.bells[*].key" },
  { kind = "spot", at = "$.spots[*]" },
]
refers = [
  { kind = "bell", at = "$.calls[*]" },
]

[[read]]
files = "{shelf}/*.ini"
format = "ini"
defines = [{ kind = "shelf", section = "bell", key = "key" }]

[[read]]
files = "notes/*.txt"
format = "lines"

[[seat]]
name = "bells"
title = "bells"
file = "quay/bell.ini"
put = { section = "bell" }

[[count]]
kind = "spot"
most = 9

[[agree]]
title = "two say the same"
values = [{ file = "bells.json", ask = { at = "$.calls[0]" } }, { file = "bells.json", ask = { at = "$.bells[0].key" } }]

[[bounds]]
title = "weights"
values = [{ file = "bells.json", ask = { at = "$.bells[*].weight" } }]
most = 9

[[order]]
title = "order"
values = [{ file = "bells.json", ask = { at = "$.order[*]" } }]
first = ["great"]

[[called]]
files = "lists/*.txt"
name = "{map|lower}.txt"

[[paired]]
title = "prices"
one = { file = "bells.json", ask = { at = "$.bells[*]" }, key = "key", value = "weight" }
other = { file = "bells.json", ask = { at = "$.weights[*]" }, key = "key", value = "weight" }

[[placed]]
name = "things"
title = "things"
file = "bells.json"
ask = { at = "$.bells[*]" }
key = "key"
class = "sort"
at = "at"

[[volume]]
title = "water"
means = "water"
file = "bells.json"
ask = { at = "$.water[*]" }
shape = "outline"
points = "points"

[[track]]
title = "roads"
means = "road"
file = "bells.json"
ask = { at = "$.roads[*]" }
points = "points"

[[stand]]
title = "bells are dry"
of = "things"
class = "bell"
outside = ["water"]
"""
BELLS = {
    "name": "Own",
    "bells": [{"key": "great", "sort": "bell", "weight": 4, "at": [1, 2, 3]}],
    "spots": ["spot 1"],
    "calls": ["great"],
    "order": ["great", "small"],
    "weights": [{"key": "great", "weight": 4}],
    "water": [{"points": [[10, 10], [12, 10], [12, 12]]}],
    "roads": [{"points": [[0, 0, 0], [0, 9, 0]]}],
}
FILES = {
    "bells.json": json.dumps(BELLS),
    "quay/bell.ini": "[bell]\nkey = great\n",
    "lists/own.txt": "great\n",
    "notes/a.txt": "a\n",
}


def idle(layout: Layout, files: dict[str, str]) -> list[tuple[int, str]]:
    tree = Overlay(EmptyTree(), {path: Inline(text.encode()) for path, text in files.items()})
    found = judge(tree, layout, Stock()).findings
    return [(one.spot.line, one.message) for one in found if one.code == "layout-sees-nothing"]


def loaded(text: str) -> Layout:
    return load_layout(text.encode(), "own.toml")


def test_where_everything_means_something_nothing_is_told() -> None:
    assert idle(loaded(LAYOUT), FILES) == []


CHANGES = [
    pytest.param("notes/*.txt", "note/*.txt", "[[read]]", id="no such file"),
    pytest.param('key = "key" }]', 'key = "kee" }]', "", id="defines nothing"),
    pytest.param('"$.calls[*]"', '"$.call[*]"', "", id="refers to nothing"),
    pytest.param("quay/bell.ini", "quay/gone.ini", "[[seat]]", id="seat"),
    pytest.param("$.spots[*]", "$.spots[1:]", "", id="spots"),
    pytest.param("$.calls[0]", "$.calls[9]", "[[agree]]", id="agree"),
    pytest.param("$.bells[*].weight", "$.bells[*].wait", "[[bounds]]", id="bounds"),
    pytest.param("$.order[*]", "$.orders[*]", "[[order]]", id="order"),
    pytest.param("lists/*.txt", "list/*.txt", "[[called]]", id="called"),
    pytest.param("$.weights[*]", "$.weight[*]", "[[paired]]", id="paired"),
    pytest.param("$.water[*]", "$.waters[*]", "[[volume]]", id="volume"),
    pytest.param("$.roads[*]", "$.road[*]", "[[track]]", id="track"),
    pytest.param('class = "bell"', 'class = "bells"', "[[stand]]", id="stand"),
]


def line_of(text: str, offset: int) -> int:
    return text.count("\n", 0, offset) + 1


@pytest.mark.parametrize(("old", "new", "table"), CHANGES)
def test_a_part_that_means_nothing_is_told_at_its_line(old: str, new: str, table: str) -> None:
    at = LAYOUT.index(old)
    text = LAYOUT[:at] + new + LAYOUT[at + len(old) :]
    wanted = line_of(text, text.rindex(table, 0, at) if table else at)
    told = idle(loaded(text), FILES)
    assert wanted in [line for line, _ in told], told
    # What rests on it is told as well, and nothing else is.
    resting = {line_of(text, text.index("[[count]]"))} if "spots" in old else set()
    assert {line for line, _ in told} == {wanted} | resting


@pytest.mark.parametrize(("old", "new", "table"), CHANGES)
def test_a_part_that_may_be_empty_is_not_told(old: str, new: str, table: str) -> None:
    at = LAYOUT.index(old)
    text = LAYOUT[:at] + new + LAYOUT[at + len(old) :]
    whole = text.replace('title = "t"\n', 'title = "t"\nmay_be_empty = true\n', 1)
    assert idle(loaded(whole), FILES) == []
    if not table or table == "[[read]]":
        return
    start = text.rindex(table, 0, at) + len(table)
    alone = f"{text[:start]}\nmay_be_empty = true{text[start:]}"
    assert idle(loaded(alone), FILES) == []


def test_in_a_map_of_empty_files_all_of_it_is_told() -> None:
    tables = {line_of(LAYOUT, match.start()) for match in re.finditer(r"(?m)^\[\[\w+\]\]", LAYOUT)}
    # What is read there is told by what it should find.
    reads = {line_of(LAYOUT, match.start()) for match in re.finditer(r"\[\[read\]\]", LAYOUT)}
    inside = {line_of(LAYOUT, match.start()) for match in re.finditer(r"\{ kind", LAYOUT)}
    seats = {line_of(LAYOUT, LAYOUT.index("[[seat]]"))}
    files = {"bells.json": '{"name": "Own"}', "quay/bell.ini": "", "notes/a.txt": ""}
    told = {line for line, _ in idle(loaded(LAYOUT), files)}
    assert told == (tables - reads - seats) | inside


def test_where_nothing_at_all_is_seen_that_comes_first() -> None:
    assert idle(loaded(LAYOUT), {"other.txt": "x"}) == []


def test_a_shipped_layout_does_not_speak_of_itself() -> None:
    # Its lines are nobody's to mend.
    layout = loaded(LAYOUT)
    from msgspec.structs import replace

    assert idle(replace(layout, lines={}), {"other.txt": "x"}) == []
