"""Each check on its own examples: it tells the one, and is silent on the other and on the whole map."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Mapping
from pathlib import Path

import pytest

from hookset.checks import Check, all_checks, judge
from hookset.checks.examples import FILES, LAYOUT
from hookset.config.layouts import load_layout
from hookset.model import Finding
from hookset.project import (
    Ledger,
    LedgerBlank,
    LedgerEdit,
    LedgerExclusion,
    LedgerFile,
    LedgerHook,
    LedgerPack,
    LedgerPlace,
    LedgerSetting,
    LedgerSpot,
    Stock,
    read_project,
)
from hookset.project.stocks import StockList, StockNames
from hookset.trees import EmptyTree, Inline, Overlay
from tests.test_house import ROOT


class Linked(EmptyTree):
    def __init__(self, links: tuple[str, ...]) -> None:
        self.links = links


def findings(
    one: Check, changed: Mapping[str, str | None], project: str = "", links: tuple[str, ...] = ()
) -> tuple[Finding, ...]:
    """What a check says of the small map with some files changed."""
    example = one.example
    files = {path: text for path, text in {**FILES, **changed}.items() if text is not None}
    tree = Overlay(Linked(links), {path: Inline(text.encode()) for path, text in files.items()})
    source = LAYOUT + example.layout
    layout = load_layout(
        (source.replace("may_be_empty = true\n", "") if example.idle else source).encode(), "example.toml"
    )
    groups = tuple(StockNames(kind=kind, names=names) for kind, names in example.stock.items())
    hooks: tuple[LedgerHook, ...] = ()
    if example.set_by_pack is not None:
        seat, path, text = example.set_by_pack
        hooks = (LedgerHook(order=1, seat=seat, path=path, key="", text=text, edits=(LedgerEdit(new=text),)),)
    files_of_pack = tuple(LedgerFile(path=path, sha256="") for path in example.brought_by_pack)
    filled = "sign.png" if changed is example.passes and not project else ""
    blanks = (LedgerBlank(name=example.left_blank, kind="picture", filled=filled),) if example.left_blank else ()
    spots = tuple(LedgerSpot(file=path, ask={"assign": "TOLL"}) for path in example.tuned)
    settings = (LedgerSetting(name="toll", type="int", value=3, write=spots),) if spots else ()
    places: tuple[LedgerPlace, ...] = ()
    if example.left_unplaced:
        places = (LedgerPlace(name=example.left_unplaced, least=1),)
        stands = LedgerHook(order=1, path="things.csv", key="", record={}, place=example.left_unplaced, was_there=True)
        hooks = (stands,) if filled else ()
    excludes = (LedgerExclusion(kind=example.excluded[0], name=example.excluded[1]),) if example.excluded else ()
    pack = LedgerPack(
        name="bell",
        version="1",
        files=files_of_pack,
        hooks=hooks,
        blanks=blanks,
        places=places,
        settings=settings,
        excludes=excludes,
    )
    ledger = Ledger(packs=(pack,))
    head = '[map]\nname = "x"\nlayout = "example.toml"\n'
    _, terms = read_project((head + project).encode())
    return judge(tree, layout, Stock((StockList("base", groups),)), ledger, terms).findings


# Hundreds of thousands of things stand in the example of this one, which runs what those of its neighbours run.
LONG = frozenset(("too-many-in-prefabs",))


@pytest.mark.parametrize(
    "one",
    [
        pytest.param(one, id=one.code, marks=pytest.mark.no_cover if one.code in LONG else pytest.mark.each_covers)
        for one in all_checks()
    ],
)
def test_a_check_keeps_to_its_examples(one: Check) -> None:
    failing = findings(one, one.example.fails, one.example.project, one.example.links)
    assert one.code in {finding.code for finding in failing}
    passes = {finding.code for finding in findings(one, one.example.passes)}
    assert one.code not in passes
    assert passes <= {"unused-file", "defined-in-stock"}


@pytest.mark.no_cover
def test_the_page_of_checks_is_up_to_date(tmp_path: Path) -> None:
    made = subprocess.run([sys.executable, ROOT / "tools/make_checks_page.py", tmp_path / "checks.md"], check=False)
    assert made.returncode == 0
    assert (tmp_path / "checks.md").read_text() == (ROOT / "docs/checks.md").read_text()
