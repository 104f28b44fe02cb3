"""Going back by several steps, and forward again."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from tests.conftest import Ran, snapshot

Run = Callable[..., Ran]


@pytest.fixture
def states(demo: Path, hookset: Run) -> list[dict[str, bytes]]:
    """The map before, between and after two installs."""
    found = [snapshot(demo)]
    for pack in ("lift-bridge", "fog-bell"):
        assert hookset("install", f"../packs/{pack}.zip").code == 0
        found.append(snapshot(demo))
    return found


def test_any_number_of_steps_back_and_forward_again(demo: Path, hookset: Run, states: list[dict[str, bytes]]) -> None:
    before, between, after = states
    assert hookset("undo", "2").code == 0
    assert snapshot(demo) == before
    redone = hookset("undo", "--redo")
    assert redone.code == 0
    assert "Taken back: undo of install lift-bridge" in redone.out
    assert snapshot(demo) == between
    assert hookset("undo", "--redo").code == 0
    assert snapshot(demo) == after
    none = hookset("undo", "--redo", "--json")
    assert (none.code, none.told) == (1, ["nothing-to-undo"])
    assert hookset("undo").code == 0
    assert snapshot(demo) == between


def test_more_steps_than_there_are_goes_as_far_as_it_can(
    demo: Path, hookset: Run, states: list[dict[str, bytes]]
) -> None:
    far = hookset("undo", "5", "--json")
    assert far.code == 1
    assert [one["title"] for one in far.data["further"]] == ["install lift-bridge"]
    assert snapshot(demo) == states[0]
    assert hookset("undo", "5", "--json").told == ["nothing-to-undo"]


def test_a_step_whose_bytes_are_damaged_leaves_the_ones_before_it(
    demo: Path, hookset: Run, states: list[dict[str, bytes]]
) -> None:
    for kept in (demo / ".hookset/history/0001/old").iterdir():
        kept.write_bytes(b"others")
    stopped = hookset("undo", "2", "--json")
    assert (stopped.code, stopped.told) == (3, ["bytes-not-kept"])
    assert stopped.data["undone"]["title"] == "install fog-bell"
    assert snapshot(demo) == states[1]


def test_a_step_that_is_refused_leaves_the_ones_before_it(
    demo: Path, hookset: Run, states: list[dict[str, bytes]]
) -> None:
    bridge = demo / "scripts/server/packs/lift_bridge.lua"
    text = bridge.read_text()
    bridge.write_text(text + "-- mine\n")
    stopped = hookset("undo", "2", "--json")
    assert (stopped.code, stopped.told) == (1, ["changed-by-you"])
    assert any("lift_bridge.lua" in line for line in stopped.wrong[0]["details"])
    bridge.write_text(text)
    assert {path: data for path, data in snapshot(demo).items() if "lift_bridge.lua" not in path} == {
        path: data for path, data in states[1].items() if "lift_bridge.lua" not in path
    }


def test_nothing_is_done_again_over_a_newer_change(demo: Path, hookset: Run, states: list[dict[str, bytes]]) -> None:
    del states
    assert hookset("undo").code == 0
    manifest = demo / "manifest.txt"
    manifest.write_text(manifest.read_text().replace("textures/planks.png\n", ""))
    assert hookset("check", "--mend").code == 0
    refused = hookset("undo", "--redo", "--json")
    assert (refused.code, refused.told) == (1, ["nothing-to-undo"])
    assert hookset("undo", "--json").data["undone"]["title"] == "check --mend"
    assert hookset("undo", "--redo").code == 0
    assert "textures/planks.png\n" in manifest.read_text()


def test_preview_writes_nothing(demo: Path, hookset: Run, states: list[dict[str, bytes]]) -> None:
    assert "Would be undone: install fog-bell" in hookset("undo", "--preview").out
    assert hookset("undo", "2", "--preview").code == 2
    assert snapshot(demo) == states[2]
