"""What the language of layouts can say: each row of docs/layout-language is a small layout, files, and what comes of it."""

from __future__ import annotations

import subprocess
import sys
import tomllib
from pathlib import Path
from typing import Any

import pytest

from hookset.checks import Verdict, judge
from hookset.config.layouts import Layout, load_layout
from hookset.edits import Put, put, with_words
from hookset.formats import format_named, format_names
from hookset.project import Ledger, LedgerHook, Stock, read_project
from hookset.project.stocks import StockList, StockNames
from hookset.trees import EmptyTree, Inline, Overlay, Tree
from tests.test_house import ROOT

ROWS = sorted((ROOT / "docs/layout-language").glob("*.toml"))
HEAD = '[layout]\nname = "row"\ntitle = "a row"\nmay_be_empty = true\n'


def layout_of(row: dict[str, Any]) -> Layout:
    source = row["layout"].lstrip()
    return load_layout((source if source.startswith("[layout]") else HEAD + source).encode(), "row.toml")


def tree_of(files: dict[str, str]) -> Tree:
    return Overlay(EmptyTree(), {path: Inline(text.removeprefix("\n").encode()) for path, text in files.items()})


def judged(row: dict[str, Any]) -> Verdict:
    layout = layout_of(row)
    names = tuple(StockNames(kind=kind, names=tuple(names)) for kind, names in row.get("stock", {}).items())
    project, terms = read_project(('[map]\nname = "row"\nlayout = "row.toml"\n' + row.get("project", "")).encode())
    assert project is not None
    return judge(tree_of(row["files"]), layout, Stock((StockList("base", names),)), Ledger(), terms)


@pytest.mark.each_covers
@pytest.mark.parametrize("file", ROWS, ids=lambda file: file.stem)
def test_what_a_layout_says_is_what_is_told(file: Path) -> None:
    row = tomllib.loads(file.read_text(encoding="utf-8"))
    verdict = judged(row)
    told = [
        f"{one.code} {one.spot.path}{f':{one.spot.line}' if one.spot.line else ''} {one.name}".strip()
        for one in verdict.findings
    ]
    assert sorted(told) == sorted(row["findings"])
    undecided = [f"{one.spot.path}:{one.spot.line} {one.name}" for one in verdict.open]
    assert sorted(undecided) == sorted(row.get("open", []))


@pytest.mark.parametrize("file", [file for file in ROWS if "\nhook = " in file.read_text()], ids=lambda file: file.stem)
def test_an_entry_is_set_as_the_layout_says(file: Path) -> None:
    row = tomllib.loads(file.read_text(encoding="utf-8"))
    asked, layout, tree = dict(row["hook"]), layout_of(row), tree_of(row["files"])
    if name := asked.pop("change", ""):
        asked["ask"] = with_words(layout.changes[name].ask, asked.pop("at"))
        asked["record"] = {"value": asked.pop("value")}
    result = put(layout, tree, LedgerHook(order=1, key="of a row", **asked))
    assert isinstance(result, Put), result
    after = {**row["files"], **row["after"]}
    assert result.content.read().decode() == after[asked["path"]].removeprefix("\n")
    assert [one.code for one in judged(row | {"files": after}).findings] == [
        line.split()[0] for line in row["findings"]
    ]


@pytest.mark.parametrize("name", format_names())
def test_every_option_of_a_format_is_in_a_row(name: str) -> None:
    shown: set[str] = set()
    for file in ROWS:
        layout = tomllib.loads(tomllib.loads(file.read_text(encoding="utf-8"))["layout"])
        shown |= {key for rule in layout.get("read", ()) if rule["format"] == name for key in rule.get("options", {})}
    # What is shown of one script language holds for the other.
    known = {"known"} if name in ("ecmascript", "gdscript") else set()
    assert set(format_named(name).options.__struct_fields__) <= shown | known


def test_the_page_is_up_to_date(tmp_path: Path) -> None:
    made = subprocess.run([sys.executable, ROOT / "tools/make_language_page.py", tmp_path / "page.md"], check=False)
    assert made.returncode == 0
    assert (tmp_path / "page.md").read_text() == (ROOT / "docs/layout-language.md").read_text()
