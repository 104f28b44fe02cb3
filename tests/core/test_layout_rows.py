"""What the language of layouts can say: each row of docs/layout-language is a small layout, files, and what comes of it."""

from __future__ import annotations

import subprocess
import sys
import tomllib
from pathlib import Path
from typing import Any

import pytest

from hookset.checks import Verdict, judge
from hookset.config.layouts import load_layout
from hookset.project import Ledger, Stock, read_project
from hookset.project.stocks import StockList, StockNames
from hookset.trees import EmptyTree, Inline, Overlay
from tests.test_house import ROOT

ROWS = sorted((ROOT / "docs/layout-language").glob("*.toml"))
HEAD = '[layout]\nname = "row"\ntitle = "a row"\nmay_be_empty = true\n'


def judged(row: dict[str, Any]) -> Verdict:
    files = {path: Inline(text.removeprefix("\n").encode()) for path, text in row["files"].items()}
    source = row["layout"].lstrip()
    layout = load_layout((source if source.startswith("[layout]") else HEAD + source).encode(), "row.toml")
    names = tuple(StockNames(kind=kind, names=tuple(names)) for kind, names in row.get("stock", {}).items())
    project, terms = read_project(('[map]\nname = "row"\nlayout = "row.toml"\n' + row.get("project", "")).encode())
    assert project is not None
    return judge(Overlay(EmptyTree(), files), layout, Stock((StockList("base", names),)), Ledger(), terms)


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


def test_the_page_is_up_to_date(tmp_path: Path) -> None:
    made = subprocess.run([sys.executable, ROOT / "tools/make_language_page.py", tmp_path / "page.md"], check=False)
    assert made.returncode == 0
    assert (tmp_path / "page.md").read_text() == (ROOT / "docs/layout-language.md").read_text()
