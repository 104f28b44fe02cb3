"""Other programs' work is never lost: edits after a kill, saves in the middle of a change, maps that cannot be written."""

from __future__ import annotations

import os
import shutil
import stat
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.applying import Change, Disk, Ending, apply_changes, history_size, interrupted, locked, own_seal, recover
from hookset.cli.main import main
from hookset.model import CouldNotError, RefusedError
from hookset.packs import open_pack
from hookset.planning import Choices, plan_install, plan_undo
from hookset.project import Ledger, MapProject, read_ledger
from hookset.trees import Inline, sha256_of
from tests.conftest import run_hookset, snapshot, tell
from tests.kills import Counting, killed_at, laid_again, points, state


@pytest.fixture(autouse=True)
def _quick(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(os, "fsync", lambda _: None)


@pytest.fixture
def bell(project: MapProject) -> tuple[Path, tuple[Change, ...]]:
    """The town, and what setting the bell in would do."""
    root = project.root
    packs = [open_pack(root.parent / "packs/fog-bell.zip")]
    changes = plan_install(project, Ledger(), None, packs, Choices(), "t").all_changes
    (root / ".hookset").mkdir()
    # The secret is made once, before a process of its own signs with it.
    assert own_seal().sign(b"x")
    return root, changes


def installing(root: Path, changes: tuple[Change, ...]) -> Callable[[Disk], None]:
    return lambda disk: void(apply_changes(root, changes, action="install", title="install", time="t", disk=disk))


def void(_: object) -> None:
    return


@pytest.mark.no_cover
@pytest.mark.parametrize("victim", ["scripts/server/main.lua", "manifest.txt"])
def test_killed_and_edited_at_every_point_both_are_there(victim: str, bell: tuple[Path, tuple[Change, ...]]) -> None:
    root, changes = bell
    act = installing(root, changes)
    count = points(root, act)
    fresh = root.parent / "fresh"
    shutil.copytree(root, fresh)
    before = state(root)
    act(Disk())
    after = state(root)
    outcomes: dict[str, int] = {}
    for point in range(count):
        laid_again(root, fresh)
        killed_at(point, act)
        edited = (root / victim).read_bytes() + b"\n-- typed by somebody\n"
        (root / victim).write_bytes(edited)
        recovery = recover(root, Disk())
        now = state(root)
        # The edit is there, and the rest is of one piece.
        assert now.pop(victim)[0] == edited, point
        others = now
        whole = [{k: v for k, v in one.items() if k != victim} for one in (before, after)]
        assert others in whole, point
        told = recovery is not None and victim in recovery.edited
        begun = (root / victim).read_bytes() != before[victim][0] + b"\n-- typed by somebody\n"
        if recovery is not None and recovery.aside:
            assert (root / recovery.aside).exists()
        name = f"{'after' if others == whole[1] else 'before'}{', told' if told else ''}{', written' if begun else ''}"
        outcomes[name] = outcomes.get(name, 0) + 1
    assert any("told" in name for name in outcomes)
    tell(f"killed and edited at {count} points ({victim}): {outcomes}")


def test_a_save_while_a_change_is_written_stops_it(bell: tuple[Path, tuple[Change, ...]]) -> None:
    root, changes = bell
    victim = (
        root / changes[-2].path if not changes[-2].path.startswith(".hookset") else root / "scripts/server/main.lua"
    )
    before = state(root)
    saved = b"-- saved by an editor\n"

    class Saving(Disk):
        """An editor saves right after the journal stands, before the file is replaced."""

        done = False

        def replace(self, source: Path, target: Path) -> None:
            super().replace(source, target)
            if target.name == "journal.json" and not self.done:
                self.done = True
                victim.write_bytes(saved)

    with pytest.raises(RefusedError):
        installing(root, changes)(Saving())
    now = state(root)
    assert victim.read_bytes() == saved
    key = victim.relative_to(root).as_posix()
    assert {k: v for k, v in now.items() if k != key} == {k: v for k, v in before.items() if k != key}
    assert not (root / ".hookset/work").exists()


def test_stopped_by_the_keyboard_the_map_is_as_it_was(bell: tuple[Path, tuple[Change, ...]]) -> None:
    root, changes = bell
    before = state(root)
    for point in range(0, points(root, installing(root, changes)), 5):

        def trip(_: str, left: list[int] = [point]) -> None:  # noqa: B006 - one list for each point
            left[0] -= 1
            if left[0] == -1:
                raise KeyboardInterrupt

        try:
            installing(root, changes)(Counting(trip))
        except KeyboardInterrupt:
            complete = (root / ".hookset/history").is_dir() and any((root / ".hookset/history").iterdir())
            if not complete:
                assert state(root) == before, point
        else:
            complete = True
        if complete:
            apply_changes(root, plan_undo(root).changes, action="undo", title="u", time="t", disk=Disk())
        recover(root, Disk())
        shutil.rmtree(root / ".hookset")
        (root / ".hookset").mkdir()


def interrupted_half_way(root: Path, changes: tuple[Change, ...]) -> None:
    """A change of this user that has replaced some files and not others."""
    count = points(root, installing(root, changes))
    killed_at(count * 3 // 4, installing(root, changes))
    found = interrupted(root)
    assert found is not None and found.begun and found.own


@pytest.mark.parametrize("ending", list(Ending))
def test_an_interrupted_change_ends_as_asked(ending: Ending, bell: tuple[Path, tuple[Change, ...]]) -> None:
    root, changes = bell
    before = state(root)
    interrupted_half_way(root, changes)
    half = state(root)
    recovery = recover(root, Disk(), ending)
    assert recovery is not None and recovery.ending is ending
    now = state(root)
    if ending is Ending.GIVE_UP:
        assert now == half and (root / recovery.aside).is_dir()
    else:
        assert (now == before) is (ending is Ending.TAKE_BACK)
    assert interrupted(root) is None


@pytest.mark.skipif(os.name == "nt" or os.geteuid() == 0, reason="whoever may do everything is refused nothing")
def test_a_map_that_cannot_be_written_is_read(bell: tuple[Path, tuple[Change, ...]]) -> None:
    root, changes = bell
    interrupted_half_way(root, changes)
    folder = root / "scripts/server"
    folder.chmod(0o555)
    try:
        for command in (["list"], ["status"], ["trace", "quay_bell"]):
            assert main(["--map", str(root), *command]) in (0, 1)
    finally:
        folder.chmod(0o755)


def test_a_change_that_cannot_be_ended_does_not_stop_reading(
    bell: tuple[Path, tuple[Change, ...]], monkeypatch: pytest.MonkeyPatch
) -> None:
    root, changes = bell
    interrupted_half_way(root, changes)

    def refused(*_: object) -> None:
        raise PermissionError(13, "Permission denied", str(root))

    monkeypatch.setattr(Disk, "replace", refused)
    assert main(["--map", str(root), "list"]) == 0
    assert main(["--map", str(root), "status"]) in (0, 1)
    with pytest.raises(CouldNotError):
        recover(root, Disk())
    monkeypatch.undo()
    assert recover(root, Disk(), Ending.GIVE_UP) is not None


def test_a_reader_waits_for_a_change_and_sees_all_of_it(demo: Path, capsys: pytest.CaptureFixture[str]) -> None:
    (demo / ".hookset/work").mkdir(parents=True)
    holding, over = threading.Event(), threading.Event()

    def hold() -> None:
        with locked(demo):
            holding.set()
            over.wait(5)
            shutil.rmtree(demo / ".hookset/work", ignore_errors=True)

    writer = threading.Thread(target=hold)
    writer.start()
    holding.wait(5)
    threading.Timer(0.5, over.set).start()
    begun = time.monotonic()
    assert main(["--map", str(demo), "check"]) == 0
    assert time.monotonic() - begun >= 0.4
    writer.join()
    assert "another hookset" not in capsys.readouterr().err


def one_change(root: Path, number: int) -> None:
    old = (root / "note.txt").read_bytes() if number else None
    change = Change(
        path="note.txt", before=sha256_of(Inline(old)) if old is not None else None, after=Inline(str(number).encode())
    )
    apply_changes(root, [change], action="note", title=f"note {number}", time="t", disk=Disk())


def test_the_history_goes_on_past_9999_and_can_be_forgotten(demo: Path) -> None:
    (demo / ".hookset").mkdir()
    one_change(demo, 0)
    (demo / ".hookset/history/0001").rename(demo / ".hookset/history/0001-moved")
    shutil.rmtree(demo / ".hookset/history/0001-moved")
    (demo / ".hookset/history/9998").mkdir()
    for number in range(1, 4):
        one_change(demo, number)
    assert sorted(path.name for path in (demo / ".hookset/history").iterdir()) == ["10000", "10001", "9998", "9999"]
    for number in (3, 2):
        assert (demo / "note.txt").read_text() == str(number)
        plan = plan_undo(demo)
        apply_changes(demo, plan.changes, action="undo", title="u", time="t", disk=Disk(), undoes=plan.entry.id)
        assert (demo / "note.txt").read_text() == str(number - 1)
    whole = history_size(demo)
    assert whole.changes >= 5 and whole.size > 0
    assert main(["--map", str(demo), "undo", "--keep-last", "1"]) == 0
    assert history_size(demo).changes == 1
    assert main(["--map", str(demo), "undo"]) == 1


def test_a_file_keeps_its_mode_and_gets_no_power(bell: tuple[Path, tuple[Change, ...]]) -> None:
    root, changes = bell
    target = root / "scripts/server/main.lua"
    target.chmod(0o640)
    installing(root, changes)(Disk())
    assert stat.S_IMODE(target.stat().st_mode) == 0o640
    Disk().set_times_and_mode(target, None, 0o4755)
    assert stat.S_IMODE(target.stat().st_mode) == 0o755


def test_other_names_of_a_file_are_told_before_it_is_written(project: MapProject) -> None:
    root = project.root
    os.link(root / "scripts/server/main.lua", root.parent / "twin.lua")
    packs = [open_pack(root.parent / "packs/fog-bell.zip")]
    plan = plan_install(project, Ledger(), None, packs, Choices(), "t")
    assert [(place.path, place.hard_links) for place in plan.separated] == [("scripts/server/main.lua", 2)]


@pytest.mark.no_cover
def test_two_that_change_a_map_at_once_both_do_or_one_is_told(demo: Path) -> None:
    """Started together again and again: what one of them did is never lost under the other's."""
    before = snapshot(demo)

    for _ in range(2):
        runs = {
            name: subprocess.Popen(
                [sys.executable, "-m", "hookset", "install", f"../packs/{name}.zip"],
                cwd=demo,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.PIPE,
                text=True,
            )
            for name in ("lift-bridge", "fog-bell")
        }
        errors = {name: process.communicate()[1] for name, process in runs.items()}
        codes = {name: process.returncode for name, process in runs.items()}
        done = [name for name, code in codes.items() if code == 0]
        assert done and set(codes.values()) <= {0, 1}, errors

        assert sorted(pack.name for pack in read_ledger(demo).packs) == sorted(done)
        assert run_hookset(demo, "check").code == 0
        for name in done:
            assert run_hookset(demo, "remove", name).code == 0
        assert snapshot(demo) == before
