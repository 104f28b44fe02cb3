"""What is kept of what became of references: a check that goes by it says what a check from nothing says."""

from __future__ import annotations

import random
import shutil
import tomllib
from pathlib import Path

import msgspec
import pytest

from hookset.checks import judge
from hookset.checks.judge import Verdict
from hookset.config.layouts import shipped_layout
from hookset.model import Reference
from hookset.project import Ledger, MapProject, Terms, open_project, read_ledger
from hookset.project.stocks.stock import read_stock
from hookset.symbols import FactsCache, analyse, many_names
from hookset.symbols.resolve import _Judge
from hookset.trees import FolderTree
from tests.conftest import tell
from tests.core.test_layout_rows import ROWS, layout_of
from tests.core.test_watched import EDITING

EDITS = 40


@pytest.fixture
def cache(tmp_path: Path) -> FactsCache:
    return FactsCache(tmp_path / "cache/map.sqlite")


@pytest.fixture
def few(monkeypatch: pytest.MonkeyPatch) -> None:
    """A few names are many."""
    monkeypatch.setattr(many_names, "_MANY", 3)


def judged(root: Path, cache: FactsCache | None = None) -> Verdict:
    project = open_project(root)
    return judge(project.tree, project.layout, project.stock, read_ledger(root), project.terms, cache)


def looked_up(root: Path, cache: FactsCache, monkeypatch: pytest.MonkeyPatch) -> list[Reference]:
    """The references that a check judges one by one, or a block at a time."""
    found: list[Reference] = []
    plain = _Judge.doubtful

    def noting(self: _Judge, block: object) -> object:
        found.extend(block.reference("", row) for row in range(len(block.names)))  # type: ignore[attr-defined]
        return plain(self, block)  # type: ignore[arg-type]

    with monkeypatch.context() as patch:
        patch.setattr(_Judge, "doubtful", noting)
        judged(root, cache)
    return found


@pytest.mark.no_cover
@pytest.mark.usefixtures("few")
def test_after_each_edit_it_is_what_a_check_from_nothing_says(packed: MapProject, cache: FactsCache) -> None:
    choice = random.Random(7)
    shutil.copytree(packed.root, packed.root.parent / "first")
    verdicts, gone_by = set(), 0
    for _ in range(EDITS):
        choice.choice(EDITING)(packed.root, choice)
        truth = msgspec.msgpack.encode(judged(packed.root).summary)
        found = judged(packed.root, cache)
        assert msgspec.msgpack.encode(found.summary) == truth
        verdicts.add(truth)
        index = found.case.index
        gone_by += any(index.same(kind) for kind in index.layout.kinds)
    assert len(verdicts) > EDITS // 3 and gone_by > EDITS // 2
    tell(f"{EDITS} edits of a map with a cache, {len(verdicts)} different verdicts")


@pytest.mark.usefixtures("few")
@pytest.mark.parametrize("file", ROWS, ids=lambda file: file.stem)
def test_it_is_so_whatever_a_layout_says(file: Path, tmp_path: Path, cache: FactsCache) -> None:
    """Sides, owners, variants, guards: what else counts than that a name is defined."""
    row = tomllib.loads(file.read_text(encoding="utf-8"))
    layout, choice, root = layout_of(row), random.Random(file.stem), tmp_path / "map"
    texts = {path: text.removeprefix("\n") for path, text in row["files"].items()}

    def summary(kept: FactsCache | None) -> bytes:
        terms = Terms(players=2)
        return msgspec.msgpack.encode(judge(FolderTree(root), layout, read_stock([]), Ledger(), terms, kept).summary)

    for step in range(8):
        now = dict(texts)
        if step % 4:
            path = choice.choice(sorted(now))
            lines = now[path].splitlines(keepends=True)
            gone = choice.randrange(len(lines)) if lines else 0
            now[path] = "".join((*lines[:gone], *lines[gone + 1 :]))
        shutil.rmtree(root, ignore_errors=True)
        for path, text in now.items():
            (root / path).parent.mkdir(parents=True, exist_ok=True)
            (root / path).write_bytes(text.encode())
        assert summary(cache) == summary(None)


def test_what_nothing_touches_is_not_looked_up_again(
    packed: MapProject, cache: FactsCache, monkeypatch: pytest.MonkeyPatch
) -> None:
    script = packed.root / "scripts/server/main.lua"
    every = looked_up(packed.root, cache, monkeypatch)
    script.write_bytes(script.read_bytes() + b"-- the tide\n")
    few = looked_up(packed.root, cache, monkeypatch)
    assert 0 < len(few) < len(every) / 2


@pytest.mark.usefixtures("few")
def test_a_name_that_is_gone_is_missed_where_nothing_has_changed(packed: MapProject, cache: FactsCache) -> None:
    sounds = packed.root / "sounds/aliases.toml"
    before = judged(packed.root, cache)
    sounds.write_text(sounds.read_text().replace("quay_bell", "quay_gong"))
    after = judged(packed.root, cache)
    fresh = {finding.identity for finding in after.findings} - {finding.identity for finding in before.findings}
    assert any(name == "quay_bell" for _, _, _, name, _ in fresh)
    sounds.write_text(sounds.read_text().replace("quay_gong", "quay_bell"))
    assert judged(packed.root, cache).findings == before.findings


def test_another_stock_list_is_another_ground(demo: Path, cache: FactsCache) -> None:
    stock = demo.parent / "base.stock.json"
    before = judged(demo, cache)
    assert before.counts.in_stock
    stock.write_text(stock.read_text().replace('"names"', '"names" '))
    assert judged(demo, cache).counts == before.counts
    project = demo / "hookset.toml"
    project.write_text(project.read_text().replace('stock = ["../base.stock.json"]', "stock = []"))
    after = judged(demo, cache)
    assert after.counts.in_stock == 0 and after.counts.missing > before.counts.missing
    assert after.summary == judged(demo).summary


def test_another_layout_is_another_ground_in_a_map_that_is_watched(demo: Path) -> None:
    """Rules that see other things number blocks in another way."""
    project = open_project(demo)
    before = judge(project.tree, project.layout, project.stock)
    other = shipped_layout(project.layout.name)
    other = other if other is not project.layout else msgspec.structs.replace(other)
    again = analyse(project.tree, other, project.stock, last=before.case.analysis)
    assert again.before is None
    same = analyse(project.tree, project.layout, project.stock, last=before.case.analysis)
    assert same.before is not None
