"""What is remembered of files: used when nothing changed, never when something did, lost without harm."""

from __future__ import annotations

import os
import sqlite3
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from hookset.checks import Verdict, judge
from hookset.config.layouts import Layout
from hookset.project import MapProject, open_project
from hookset.symbols import FactsCache, reading, workers
from hookset.symbols import cache as cache_module
from hookset.trees import Inline, Overlay
from tests.conftest import run_hookset

PAST = time.time_ns() - 3_600_000_000_000


@pytest.fixture
def settled(packed: MapProject) -> MapProject:
    """The demo's map as it would be an hour after somebody worked on it."""
    age(packed.root)
    return packed


def age(root: Path) -> None:
    """The system sets times of change itself: they are made old by looking at the files as if from later."""
    for file in root.rglob("*"):
        if file.is_file():
            os.utime(file, ns=(PAST, PAST))


@pytest.fixture(autouse=True)
def later(monkeypatch: pytest.MonkeyPatch) -> None:
    """Files settle two seconds after they were written; nobody wants to wait for that."""
    monkeypatch.setattr("hookset.trees.folder._SETTLES", -3_600_000_000_000)


@pytest.fixture
def reads(monkeypatch: pytest.MonkeyPatch) -> Iterator[list[str]]:
    """The files that are parsed."""
    seen: list[str] = []
    read_file = reading.read_file

    def noted(tree: object, path: str, *more: object) -> object:
        seen.append(path)
        return read_file(tree, path, *more)  # type: ignore[arg-type]

    monkeypatch.setattr(workers, "read_file", noted)
    yield seen


def judged(project: MapProject, cache: FactsCache) -> Verdict:
    return judge(project.tree, project.layout, project.stock, None, None, cache)


def told(verdict: Verdict) -> tuple[object, ...]:
    return verdict.findings, verdict.open, verdict.counts


def test_nothing_is_read_twice_and_everything_is_told_alike(
    settled: MapProject, tmp_path: Path, reads: list[str]
) -> None:
    (settled.root / "textures/planks.png").unlink()
    cache = FactsCache(tmp_path / "c.sqlite")
    first = judged(settled, cache)
    assert len(reads) == first.counts.files
    reads.clear()
    again = judged(settled, cache)
    assert reads == []
    assert told(again) == told(first)
    assert told(judged(settled, FactsCache(tmp_path / "other.sqlite"))) == told(first)


SCRIPT = "scripts/server/harbour.lua"


def same_size_and_times(root: Path) -> None:
    file = root / SCRIPT
    state = file.stat()
    file.write_text(file.read_text().replace("quay_bell", "quay_bull"))
    os.utime(file, ns=(state.st_atime_ns, state.st_mtime_ns))


def in_the_future(root: Path) -> None:
    file = root / SCRIPT
    file.write_text(file.read_text().replace("quay_bell", "quay_bull"))
    os.utime(file, (time.time() + 1e6, time.time() + 1e6))


def put_in_place(root: Path) -> None:
    fresh = root / "fresh.tmp"
    fresh.write_text((root / SCRIPT).read_text().replace("quay_bell", "quay_bull"))
    os.utime(fresh, ns=(PAST, PAST))
    os.replace(fresh, root / SCRIPT)


@pytest.mark.parametrize("change", [same_size_and_times, in_the_future, put_in_place])
def test_a_change_is_seen_whatever_the_clock_says(
    change: Callable[[Path], None], settled: MapProject, tmp_path: Path, reads: list[str]
) -> None:
    cache = FactsCache(tmp_path / "c.sqlite")
    assert judged(settled, cache).findings == ()
    reads.clear()
    change(settled.root)
    assert [f.code for f in judged(settled, cache).findings if f.code == "missing-name"] == ["missing-name"]
    assert reads == [SCRIPT]


def test_a_file_that_only_looks_changed_is_not_parsed(settled: MapProject, tmp_path: Path, reads: list[str]) -> None:
    cache = FactsCache(tmp_path / "c.sqlite")
    judged(settled, cache)
    reads.clear()
    for file in (settled.root / "scripts").rglob("*.lua"):
        file.touch()
    judged(settled, cache)
    assert reads == []


def test_files_come_and_go(settled: MapProject, tmp_path: Path, reads: list[str]) -> None:
    cache = FactsCache(tmp_path / "c.sqlite")
    judged(settled, cache)
    reads.clear()
    (settled.root / "textures/planks.png").unlink()
    (settled.root / "scripts/server/more.lua").write_text('play_sound("nothing")\n')
    verdict = judged(settled, cache)
    assert reads == ["scripts/server/more.lua"]
    assert {"missing-file", "in-unloaded-file"} <= {f.code for f in verdict.findings}
    assert told(verdict) == told(judged(settled, FactsCache(tmp_path / "other.sqlite")))


def test_another_layout_or_another_name_of_the_map_reads_anew(
    settled: MapProject, tmp_path: Path, reads: list[str]
) -> None:
    cache = FactsCache(tmp_path / "c.sqlite")
    judged(settled, cache)
    reads.clear()
    from msgspec.structs import replace

    other: Layout = replace(settled.layout, fingerprint="another")
    judge(settled.tree, other, settled.stock, None, None, cache)
    assert len(reads) > 30
    reads.clear()
    descriptor = settled.root / "map.toml"
    descriptor.write_text(descriptor.read_text().replace('version = "3"', 'version = "4"'))
    judge(settled.tree, other, settled.stock, None, None, cache)
    assert len(reads) > 30


def test_a_damaged_cache_is_no_harm(settled: MapProject, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    file = tmp_path / "c.sqlite"
    file.write_bytes(b"no database at all" * 100)
    assert judged(settled, FactsCache(file)).findings == ()
    file.unlink()
    judged(settled, FactsCache(file))
    data = bytearray(file.read_bytes())
    data[len(data) // 2 : len(data) // 2 + 4000] = b"\xff" * 4000
    file.write_bytes(data)
    assert judged(settled, FactsCache(file)).findings == ()
    (tmp_path / "taken").write_text("")
    assert judged(settled, FactsCache(tmp_path / "taken/c.sqlite")).findings == ()
    monkeypatch.setattr(cache_module, "_fingerprint", lambda *_: "")
    assert judged(settled, FactsCache(tmp_path / "d.sqlite")).findings == ()


def test_plans_are_judged_with_the_cache_and_not_remembered(settled: MapProject, tmp_path: Path) -> None:
    cache = FactsCache(tmp_path / "c.sqlite")
    clean = judged(settled, cache)
    script = (settled.root / SCRIPT).read_bytes().replace(b"quay_bell", b"quay_bull")
    planned = judge(Overlay(settled.tree, {SCRIPT: Inline(script)}), settled.layout, settled.stock, None, None, cache)
    assert "missing-name" in {f.code for f in planned.findings}
    assert told(judged(settled, cache)) == told(clean)


def test_a_recalled_verdict_is_the_same_until_something_changes(packed: MapProject) -> None:
    root = packed.root
    (root / "textures/planks.png").unlink()
    age(root)
    time.sleep(2.1)
    first = run_hookset(root, "check")
    again = run_hookset(root, "-v", "check")
    assert "nothing has changed since the last check" in again.err
    assert again.out == first.out
    project = root / "hookset.toml"
    project.write_text(project.read_text() + '\n[check]\nseverity = { missing-file = "note" }\n')
    milder = run_hookset(root, "-v", "check")
    assert "nothing has changed" not in milder.err
    assert milder.out != first.out
    stock = root.parent / "base.stock.json"
    stock.write_text(stock.read_text().replace('"fog_bell_toll", ', ""))
    assert "fog_bell_toll" in run_hookset(root, "check").out
    assert run_hookset(root, "--no-cache", "check").out == run_hookset(root, "check").out
    assert open_project(root).terms.severities


def test_places_are_remembered_and_follow_what_changes(
    settled: MapProject, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    scene = settled.root / "scene/brackwater.gltf"
    text = scene.read_text(encoding="utf-8")
    scene.write_text(text.replace('"lamp_1"', '"lamp_2"').replace("lock.gate", "lock.gat"), encoding="utf-8")
    age(settled.root)
    cache = FactsCache(tmp_path / "cache.sqlite")
    looked: list[str] = []
    from hookset.symbols import locate

    plain = locate.spots_in_file

    def noted(tree: object, layout: object, path: str, wheres: object) -> object:
        looked.append(path)
        return plain(tree, layout, path, wheres)  # type: ignore[arg-type]

    monkeypatch.setattr(locate, "spots_in_file", noted)
    first = judged(open_project(settled.root), cache)
    assert {f.spot.path for f in first.findings} == {"scene/brackwater.gltf"}
    assert "scene/brackwater.gltf" in looked
    looked.clear()
    # Another file changes: findings in the scene stand where they stood, and nobody looks for them again.
    (settled.root / "scripts/server/harbour.lua").write_bytes(
        b"-- one line more\n" + (settled.root / "scripts/server/harbour.lua").read_bytes()
    )
    again = judged(open_project(settled.root), cache)
    assert again.findings == first.findings
    assert "scene/brackwater.gltf" not in looked
    assert again.open[0].spot.line == first.open[0].spot.line + 1
    # The scene itself changes: they move with it.
    scene.write_text("\n\n" + scene.read_text(encoding="utf-8"), encoding="utf-8")
    moved = judged(open_project(settled.root), cache)
    assert [f.spot.line for f in moved.findings] == [f.spot.line + 2 for f in first.findings]
    assert moved.findings == judge(settled.tree, settled.layout, settled.stock).findings


def test_nothing_of_it_stays_open(settled: MapProject, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Windows moves no file that somebody has open, and a watched map is watched for days."""
    connected: list[sqlite3.Connection] = []
    plain = sqlite3.connect

    def noting(*where: Any, **how: Any) -> sqlite3.Connection:
        connected.append(plain(*where, **how))
        return connected[-1]

    monkeypatch.setattr(sqlite3, "connect", noting)
    for _ in range(2):
        judge(settled.tree, settled.layout, settled.stock, cache=FactsCache(tmp_path / "maps/map.sqlite"))
    assert connected
    for connection in connected:
        with pytest.raises(sqlite3.ProgrammingError):
            connection.execute("SELECT 1")
