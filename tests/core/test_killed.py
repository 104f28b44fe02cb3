"""Every way of changing a map, killed at every point: the map is exactly before or exactly after it."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.applying import Change, Disk, apply_changes, recover
from hookset.cli.main import main
from hookset.packs import open_pack
from hookset.planning import Choices, plan_install, plan_mend, plan_redo, plan_remove, plan_undo, plan_upgrade
from hookset.planning.operations.rename import plan_rename
from hookset.planning.operations.tune import plan_tune
from hookset.project import LEDGER, MapProject, open_project, read_ledger
from tests.conftest import tell
from tests.core.test_apply import refusing
from tests.kills import Counting, killed_at, laid_again, points, state, trips
from tests.refusals import refused

Changes = Callable[[Path], tuple[Change, ...]]


@pytest.fixture(autouse=True)
def _quick(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(os, "fsync", lambda _: None)


def pack(root: Path, name: str) -> Path:
    return root.parent / "packs" / f"{name}.zip"


def data(root: Path) -> bytes | None:
    return (root / LEDGER).read_bytes() if (root / LEDGER).exists() else None


def removed(root: Path) -> tuple[Change, ...]:
    ledger = read_ledger(root)
    return plan_remove(open_project(root), ledger, data(root), ["lamp-row"], Choices(), "t").all_changes


def upgraded(root: Path) -> tuple[Change, ...]:
    packs = [open_pack(pack(root, "lamp-row-2.0.0"))]
    return plan_upgrade(open_project(root), read_ledger(root), data(root), packs, Choices(), "t").all_changes


def tuned(root: Path) -> tuple[Change, ...]:
    values = {"step": "7", "dusk-hour": "21"}
    project = open_project(root)
    return plan_tune(project, read_ledger(root), data(root), "lamp-row", values, Choices(), "t").all_changes


def renamed(root: Path) -> tuple[Change, ...]:
    project = open_project(root)
    return plan_rename(project, read_ledger(root), data(root), "Reach", "4", Choices(), "t").all_changes


def mended(root: Path) -> tuple[Change, ...]:
    return plan_mend(open_project(root), read_ledger(root)).changes


def undone(root: Path) -> tuple[Change, ...]:
    return plan_undo(root).changes


WAYS: dict[str, Changes] = {
    "remove": removed,
    "upgrade": upgraded,
    "tune": tuned,
    "rename": renamed,
    "mend": mended,
    "undo": undone,
}


@pytest.fixture
def lit(project: MapProject) -> Path:
    """The town with the lamp row, and two slips that can be mended."""
    root = project.root
    packs = [open_pack(pack(root, "lamp-row-1.0.0"))]
    plan = plan_install(project, read_ledger(root), None, packs, Choices(), "t")
    (root / ".hookset").mkdir(exist_ok=True)
    apply_changes(root, plan.all_changes, action="install", title="install", time="t", disk=Disk())
    return root


def slipped(root: Path) -> None:
    aliases, manifest = root / "sounds/aliases.toml", root / "manifest.txt"
    aliases.write_bytes(aliases.read_bytes().replace(b"harbour/gull_1.wav", b"harbour/Gull_1.wav"))
    manifest.write_bytes(manifest.read_bytes().replace(b"texts/en.toml\n", b""))


@pytest.mark.no_cover
@pytest.mark.parametrize("way", WAYS)
def test_killed_at_every_point(way: str, lit: Path) -> None:
    if way == "mend":
        slipped(lit)
    changes = WAYS[way](lit)
    assert changes
    entry = plan_undo(lit).entry.id if way == "undo" else ""

    def act(disk: Disk) -> None:
        apply_changes(lit, changes, action=way, title=way, time="t", disk=disk, undoes=entry)

    before = state(lit)
    count = points(lit, act)
    fresh = lit.parent / "fresh"
    shutil.copytree(lit, fresh)
    act(Disk())
    after = state(lit)
    assert after != before
    outcomes = {"before": 0, "after": 0}
    for point in range(count):
        laid_again(lit, fresh)
        killed_at(point, act)
        recover(lit, Disk())
        now = state(lit)
        assert now in (before, after), point
        outcomes["before" if now == before else "after"] += 1
        assert not (lit / ".hookset" / "work").exists()
    assert min(outcomes.values()) > 5
    tell(f"killed at {count} points of {way}: {outcomes}")


@pytest.mark.parametrize("way", WAYS)
def test_refused_by_the_disk_at_every_point(way: str, lit: Path) -> None:
    if way == "mend":
        slipped(lit)
    changes = WAYS[way](lit)
    entry = plan_undo(lit).entry.id if way == "undo" else ""

    def act(disk: Disk) -> None:
        apply_changes(lit, changes, action=way, title=way, time="t", disk=disk, undoes=entry)

    before = state(lit)
    told = trips(lit, act)
    fresh = lit.parent / "fresh"
    shutil.copytree(lit, fresh)
    for point in (number for number, what in enumerate(told) if what.startswith("before")):
        laid_again(lit, fresh)
        try:
            act(Counting(refusing(point, lasting=False)))
        except Exception as error:  # noqa: BLE001 - what it is, the next line sees
            assert type(error).__name__ == "CouldNotError"
            assert state(lit) == before, point
        recover(lit, Disk())
        assert not (lit / ".hookset" / "work").exists()


@pytest.mark.parametrize("way", WAYS)
def test_a_file_changed_meanwhile_is_told(way: str, lit: Path) -> None:
    if way == "mend":
        slipped(lit)
    changes = WAYS[way](lit)
    changed = next(lit / change.path for change in changes if (lit / change.path).is_file())
    changed.write_bytes(changed.read_bytes() + b"\n")
    before = state(lit)
    with refused("changed-meanwhile"):
        apply_changes(lit, changes, action=way, title=way, time="t", disk=Disk())
    assert state(lit) == before


def test_a_redo_after_everything_brings_it_all_back(lit: Path) -> None:
    states = [state(lit)]
    for way in ("tune", "upgrade", "rename", "remove"):
        apply_changes(lit, WAYS[way](lit), action=way, title=way, time="t", disk=Disk())
        states.append(state(lit))
    for earlier in reversed(states[:-1]):
        plan = plan_undo(lit)
        apply_changes(lit, plan.changes, action="undo", title="u", time="t", disk=Disk(), undoes=plan.entry.id)
        assert state(lit) == earlier
    plan = plan_redo(lit)
    apply_changes(lit, plan.changes, action="redo", title="r", time="t", disk=Disk(), undoes=plan.entry.id)
    assert state(lit) == states[1]


def test_folders_that_a_pack_made_go_with_it(lit: Path) -> None:
    assert (lit / "sounds/lamps").is_dir()
    (lit / "sounds/empty").mkdir()
    assert main(["--map", str(lit), "remove", "lamp-row"]) == 0
    assert not (lit / "sounds/lamps").exists()
    assert not (lit / "scripts/server/packs").exists()
    assert (lit / "sounds/empty").is_dir()
    assert main(["--map", str(lit), "undo"]) == 0
    assert (lit / "sounds/lamps/hiss.wav").is_file()
