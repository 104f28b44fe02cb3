"""Writing a plan: all or nothing, whatever happens to the disk or to us, and back again."""

from __future__ import annotations

import errno
import json
import os
import shutil
import subprocess
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from hookset.applying import Change, Disk, apply_changes, recover
from hookset.cli.main import main
from hookset.model import CouldNotError, RefusedError
from hookset.packs import open_pack
from hookset.planning import Choices, Plan, plan_install, plan_undo
from hookset.project import Ledger, MapProject
from hookset.trees import Inline, sha256_of
from tests.conftest import snapshot, tell
from tests.kills import Counting, killed_at, laid_again, points, state
from tests.refusals import refused

# Long, and what it runs others run as well.
pytestmark = pytest.mark.no_cover


@pytest.fixture(autouse=True)
def _quick(monkeypatch: pytest.MonkeyPatch) -> None:
    """Nobody pulls the plug in a test: what matters is the order of things, not that the platter turned."""
    monkeypatch.setattr(os, "fsync", lambda _: None)


def planned(project: MapProject) -> Plan:
    packs = [open_pack(project.root.parent / "packs" / f"{name}.zip") for name in ("lift-bridge", "fog-bell")]
    return plan_install(project, Ledger(), None, packs, Choices(), "2026-01-01T00:00:00Z")


def apply(root: Path, plan: Plan, disk: Disk) -> None:
    (root / ".hookset").mkdir(exist_ok=True)
    apply_changes(root, plan.all_changes, action="install", title="install both", time="t", disk=disk)


@pytest.mark.no_cover
def test_killed_at_every_point_the_map_is_before_or_after(
    project: MapProject, capsys: pytest.CaptureFixture[str]
) -> None:
    root = project.root
    plan = planned(project)
    before = state(root)
    count = points(root, lambda disk: apply(root, plan, disk))
    fresh = root.parent / "fresh"
    shutil.copytree(root, fresh)
    outcomes = {"before": 0, "after": 0}
    for point in range(count):
        laid_again(root, fresh)
        killed_at(point, lambda disk: apply(root, plan, disk))
        told = ""
        if point % 10:
            recover(root, Disk())
        else:
            # As every command does it that comes next.
            assert main(["--map", str(root), "list"]) == 0
            told = capsys.readouterr().err
        now = state(root)
        if now == before:
            outcomes["before"] += 1
            assert not told or "the map is as before it" in told
        else:
            outcomes["after"] += 1
            assert ".hookset/ledger.json" in now
            assert point % 10 or main(["--map", str(root), "check"]) == 0
            assert point % 10 or "the map is as it was meant" in told or not (root / ".hookset" / "work").exists()
        assert not (root / ".hookset" / "work").exists()
    assert min(outcomes.values()) > 20
    tell(f"killed at {count} points of install: {outcomes}")


@pytest.mark.no_cover
def test_undo_killed_at_every_point_the_map_is_before_or_after(packed: MapProject) -> None:
    root = packed.root

    def act(disk: Disk) -> None:
        plan = plan_undo(root)
        apply_changes(root, plan.changes, action="undo", title="undo", time="t", disk=disk, undoes=plan.entry.id)

    after_install = state(root)
    count = points(root, act)
    fresh = root.parent / "fresh"
    shutil.copytree(root, fresh)
    seen = set()
    # Taking back is a change like others, of which every point is tried in test_killed.py.
    for point in range(0, count, 3):
        laid_again(root, fresh)
        killed_at(point, act)
        recover(root, Disk())
        now = state(root)
        seen.add(now == after_install)
        if now != after_install:
            assert ".hookset/ledger.json" not in now
            assert not (root / "scripts/server/packs").exists()
    assert seen == {True, False}


def refusing(point: int, lasting: bool) -> Callable[[str], None]:
    """A disk that is full from one point on, for good or for one moment."""
    left = point

    def trip(what: str) -> None:
        nonlocal left
        left -= 1
        if what.startswith("before") and (left == -1 or (lasting and left < 0)):
            raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC), "somewhere")

    return trip


@pytest.mark.no_cover
def test_failing_at_every_point_nothing_is_half_done(project: MapProject) -> None:
    """The disk refuses from some point on, for good or once only."""
    root = project.root
    plan = planned(project)
    before = state(root)
    count = points(root, lambda disk: apply(root, plan, disk))
    for lasting in (False, True):
        for point in range(0, count, 2 if not lasting else 9):
            shutil.rmtree(root / ".hookset", ignore_errors=True)
            try:
                apply(root, plan, Counting(refusing(point, lasting)))
            except CouldNotError:
                if not lasting:
                    assert state(root) == before
            recover(root, Disk())
            now = state(root)
            assert now == before or ".hookset/ledger.json" in now
            if now != before:
                undo = plan_undo(root)
                apply_changes(root, undo.changes, action="undo", title="u", time="t", disk=Disk(), undoes=undo.entry.id)
                assert state(root) == before
            assert not (root / ".hookset" / "work").exists()


@pytest.fixture
def small_disk(tmp_path: Path) -> Iterator[Path]:
    """A file system with little room, where this machine lets us have one."""
    folder = tmp_path / "small"
    folder.mkdir()
    made = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", "size=640k", "tmpfs", str(folder)], capture_output=True, check=False
    )
    if made.returncode != 0:
        pytest.skip("no file system of our own can be mounted here")
    yield folder
    subprocess.run(["umount", str(folder)], check=True)


def test_full_disk_leaves_the_map_as_it_was(
    small_disk: Path, project: MapProject, capsys: pytest.CaptureFixture[str]
) -> None:
    packs = project.root.parent / "packs"
    shutil.copy(project.root.parent / "base.stock.json", small_disk)
    root = small_disk / "brackwater"
    shutil.copytree(project.root, root)
    room = os.statvfs(small_disk).f_bavail * os.statvfs(small_disk).f_frsize
    (small_disk / "filler").write_bytes(bytes(room - 60_000))
    before = snapshot(root)
    assert main(["--map", str(root), "install", str(packs / "lift-bridge.zip")]) == 3
    told = " ".join(capsys.readouterr().err.split())
    assert "make room on the disk" in told
    assert "nothing was changed" in told
    assert snapshot(root) == before
    (small_disk / "filler").unlink()
    assert main(["--map", str(root), "install", str(packs / "lift-bridge.zip")]) == 0


def test_read_only_disk_is_told(small_disk: Path, project: MapProject, capsys: pytest.CaptureFixture[str]) -> None:
    packs = project.root.parent / "packs"
    shutil.copy(project.root.parent / "base.stock.json", small_disk)
    shutil.copytree(project.root, small_disk / "brackwater")
    subprocess.run(["mount", "-o", "remount,ro", str(small_disk)], check=True)
    root = str(small_disk / "brackwater")
    assert main(["--map", root, "install", str(packs / "lift-bridge.zip"), "--json"]) == 3
    assert json.loads(capsys.readouterr().out)["error"]["code"] == "not-writable"
    assert main(["--map", root, "check"]) == 0


def test_undo_brings_back_bytes_modes_and_times(project: MapProject) -> None:
    root = project.root
    script = root / "scripts/server/main.lua"
    script.chmod(0o640)
    os.utime(script, ns=(1_500_000_000_000_000_000, 1_500_000_000_123_456_789))
    before = state(root)
    apply(root, planned(project), Disk())
    assert state(root) != before
    assert script.stat().st_mode & 0o777 == 0o640
    undo = plan_undo(root)
    apply_changes(root, undo.changes, action="undo", title="u", time="t", disk=Disk(), undoes=undo.entry.id)
    assert state(root) == before
    assert script.stat().st_mtime_ns == 1_500_000_000_123_456_789
    assert not (root / "textures/lift_bridge").exists()
    with refused("nothing-to-undo"):
        plan_undo(root)


def test_a_file_changed_meanwhile_is_told_and_nothing_written(project: MapProject) -> None:
    plan = planned(project)
    file = project.root / "manifest.txt"
    file.write_bytes(file.read_bytes() + b"# mine\n")
    before = state(project.root)
    with pytest.raises(RefusedError) as refused:
        apply(project.root, plan, Disk())
    assert refused.value.details == ("manifest.txt",)
    assert state(project.root) == before


def test_a_file_taken_out_comes_back(tmp_path: Path) -> None:
    (tmp_path / ".hookset").mkdir()
    (tmp_path / "a.txt").write_bytes(b"one")
    change = Change(path="a.txt", before=sha256_of(Inline(b"one")), after=None)
    apply_changes(tmp_path, [change], action="x", title="x", time="t", disk=Disk())
    assert not (tmp_path / "a.txt").exists()
    undo = plan_undo(tmp_path)
    apply_changes(tmp_path, undo.changes, action="undo", title="u", time="t", disk=Disk(), undoes=undo.entry.id)
    assert (tmp_path / "a.txt").read_bytes() == b"one"
