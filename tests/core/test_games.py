"""The check and the smaller stand-in games judge the maps of the other shipped layouts, each by code of its own."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.building import plan_archive, write_archive
from hookset.checks import Verdict
from hookset.project import open_project
from hookset.standin import Line, Log, play
from hookset.symbols import spots_in
from tests.conftest import run_hookset
from tests.core import test_mirrored_folders as mirrored
from tests.core import test_numbered_marks as marks
from tests.core import test_paired_modules as paired
from tests.core import test_scene_graph as scene
from tests.core import test_type_table as table
from tests.shipped import judged, started

FaultRow = tuple[str, str, str, int, Callable[[Path], object]]
MAPS: dict[str, list[FaultRow]] = {
    "paired-modules": paired.FAULTS,
    "scene-graph": scene.FAULTS,
    "type-table": table.FAULTS,
    "mirrored-folders": mirrored.FAULTS,
    "numbered-marks": marks.FAULTS,
}
UNSEEN = {
    "module that does not parse": "the game reads modules line by line: it has no engine for their language",
}
"""Faults that the game cannot notice, and why."""
CONSEQUENCES = {
    "include misspelt": "the script goes on without what it asked for, and fails a few lines further down",
    "map renamed and nothing else": "badges are made of the name by the game, and of the folder by the layout",
}
"""Faults of which the game also logs what follows from them, in places where nothing is wrong."""


def played(root: Path, verdict: Verdict) -> list[Line]:
    """The errors that the game logs for the map as it would be built."""
    archive = plan_archive(verdict.case, "map", "1")
    write_archive(open_project(root).tree, archive, root.parent / archive.name)
    log = Log()
    play(root.parent / archive.name, 5, log)
    assert log.lines[-1].what == "ended"
    return log.errors


@pytest.mark.each_covers
@pytest.mark.parametrize("name", MAPS)
def test_a_clean_map_has_no_finding_and_no_error(name: str, tmp_path: Path) -> None:
    root = started(name, tmp_path)
    verdict = judged(root)
    assert verdict.findings == ()
    assert played(root, verdict) == []


@pytest.mark.parametrize(
    ("name", "fault"),
    [pytest.param(name, row, id=f"{name}-{row[0].replace(' ', '-')}") for name, rows in MAPS.items() for row in rows],
)
def test_what_the_game_logs_is_found_in_the_same_lines(name: str, fault: FaultRow, tmp_path: Path) -> None:
    title, make = fault[0], fault[4]
    root = started(name, tmp_path)
    make(root)
    verdict = judged(root)
    errors = played(root, verdict)
    if title in UNSEEN:
        assert errors == []
        return
    assert errors, "the game noticed nothing"
    found = {(finding.spot.path, finding.spot.line) for finding in verdict.findings} | told_elsewhere(verdict)
    logged = {(error.file, error.line) for error in errors}
    assert (logged & found) if title in CONSEQUENCES else (logged <= found), (errors, found)


def told_elsewhere(verdict: Verdict) -> set[tuple[str, int]]:
    """Where names are used that are told of at the table that lacks them, or at the file that cannot be read."""
    at_table = {(one.kind, one.name) for one in verdict.findings if one.code == "missing-in-language"}
    folded = any(one.follows for one in verdict.findings)
    missing = [one.reference for one in verdict.case.resolutions.missing]
    uses = [(one.path, one.where) for one in missing if folded or (one.kind, one.name) in at_table]
    return {(spot.path, spot.line) for spot in spots_in(verdict.case.web, uses, None).values()}


def test_there_are_enough_faults() -> None:
    titles = [(name, row[0]) for name, rows in MAPS.items() for row in rows]
    assert len(set(titles)) == len(titles) >= 90
    assert all(len(rows) >= 12 for rows in MAPS.values())


def logged(root: Path, *whats: str) -> list[str]:
    """What the game says of the map as it would be built."""
    verdict = judged(root)
    archive = plan_archive(verdict.case, "map", "1")
    write_archive(open_project(root).tree, archive, root.parent / archive.name)
    log = Log()
    play(root.parent / archive.name, 5, log)
    return [line.text for line in log.lines if line.what in (*whats, "error")]


PLACED: list[tuple[str, tuple[str, ...], str, list[str], list[str]]] = [
    (
        "scene-graph",
        ("place", "gate_wheel", "tide_gate", "--at", "9,1,4"),
        "worked",
        ["gate_wheel works tide_gate"],
        ["gate_wheel_2 works tide_gate_2"],
    ),
    (
        "paired-modules",
        ("place", "lock_wheel", "lock_gate", "--at", "9,1,4"),
        "worked",
        ["lock_wheel works lock_gate"],
        ["lock_wheel_2 works lock_gate_2"],
    ),
    (
        "mirrored-folders",
        ("move", "ferry", "--at", "3,0.6,14"),
        "placed",
        ["ferry at 2, 0.6, 14.5"],
        ["ferry at 3, 0.6, 14"],
    ),
    (
        "numbered-marks",
        ("move", "red_2", "--at", "60,-6.5"),
        "passed",
        ["red passes red_2 at 64 -8"],
        ["red passes red_2 at 60 -6.5"],
    ),
    (
        "type-table",
        ("move", "tables/places.csv:7", "--at", "6,0,2"),
        "landed",
        ["player 2 at 3, 0, 2"],
        ["player 2 at 6, 0, 2"],
    ),
]


@pytest.mark.no_cover
@pytest.mark.parametrize(("name", "command", "what", "before", "after"), PLACED, ids=[one[0] for one in PLACED])
def test_the_game_uses_what_was_placed(
    name: str, command: tuple[str, ...], what: str, before: list[str], after: list[str], tmp_path: Path
) -> None:
    root = started(name, tmp_path)
    was = logged(root, what)
    assert set(before) <= set(was)
    assert not set(after) & set(was)
    assert run_hookset(root, *command).code == 0
    now = logged(root, what)
    assert set(after) <= set(now)
    if command[0] == "place":
        # The first one goes on working on its own.
        assert set(before) <= set(now)


@pytest.mark.no_cover
def test_two_players_on_one_spot_are_in_each_other(tmp_path: Path) -> None:
    root = started("type-table", tmp_path)
    assert run_hookset(root, "move", "tables/places.csv:7", "--at", "0,0,2", "--anyway").code == 0
    assert "player 2 lands in player 1" in logged(root, "landed")
