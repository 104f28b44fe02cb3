"""The shipped layout of numbered buoys, tables per crew and an options file, on its own small map."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.checks import judge
from hookset.project import open_project
from tests.conftest import run_hookset, snapshot
from tests.core.test_install import write_pack
from tests.shipped import assert_told, replaced, started


@pytest.fixture
def regatta(tmp_path: Path) -> Path:
    return started("numbered-marks", tmp_path)


def test_the_map_is_recognised_and_clean(regatta: Path) -> None:
    project = open_project(regatta)
    assert (project.layout.name, project.file.map.name, project.file.map.version) == (
        "numbered-marks",
        "Brackwater Regatta",
        "2",
    )
    verdict = judge(project.tree, project.layout, project.stock, None, project.terms)
    assert verdict.findings == ()
    assert [path for path in verdict.counts.unread if not path.endswith(".bin")] == []


@pytest.mark.no_cover
def test_the_next_free_id_is_told(regatta: Path) -> None:
    told = json.loads(run_hookset(regatta, "layout", "explain", "--json").out)
    assert told["ids"] == [{"kind": "slot", "taken": 5, "next": "4"}]


INI, SCENE, RED, BLUE, RACE = "course.ini", "scene/course.xml", "crews/red.csv", "crews/blue.csv", "code/race.lua"
FAULTS = [
    ("folder that is not the name's", "values-differ", INI, 6, replaced(INI, "folder = brackwater_", "folder = brackwater-")),
    ("map renamed and nothing else", "missing-name", INI, 10, replaced(INI, "name = Brackwater R", "name = Old Quay R")),
    ("version raised and the badge not", "values-differ", SCENE, 2, replaced(INI, "version = 2", "version = 3")),
    ("path of another map", "missing-name", RACE, 4, replaced(RACE, 'play("courses/brackwater_regatta', 'play("courses/old_quay')),
    ("path without the map's folder", "missing-name", RED, 4, replaced(RED, "courses/brackwater_regatta/sounds", "sounds")),
    ("script in the options misspelt", "missing-name", INI, 10, replaced(INI, "code/race.lua", "code/racing.lua")),
    ("moment that nothing answers", "missing-name", INI, 14, replaced(INI, "start = race_start", "start = race_begin")),
    ("script that nothing loads any more", "not-loaded", RED, 7, replaced(RACE, 'load("courses/brackwater_regatta/code/wind.lua")\n', "")),
    ("buoy that is not in the scene", "missing-name", RED, 6, replaced(RED, "pass,red_3", "pass,red_4")),
    ("buoy taken out of the scene", "gap-in-series", SCENE, 9, replaced(SCENE, '<Buoy name="red_2" slot="2" at="64 -8"/>\n    ', "")),
    ("buoy that nobody sails to", "not-one-owner", SCENE, 10, replaced(RED, "3,pass,red_3,port\n", "")),
    ("buoy that two sail to", "not-one-owner", SCENE, 8, replaced(BLUE, "blue_1", "red_1")),
    ("buoy twice", "defined-twice", SCENE, 13, replaced(SCENE, '"blue_2"', '"blue_1"')),
    ("slot twice", "defined-twice", SCENE, 12, replaced(SCENE, 'slot="5"', 'slot="3"')),
    ("slot that the game has not", "id-out-of-range", SCENE, 13, replaced(SCENE, 'slot="6"', 'slot="25"')),
    ("start of a crew without a table", "missing-name", SCENE, 5, replaced(SCENE, 'crew="blue"', 'crew="green"')),
    ("start too few", "wrong-count", SCENE, 4, replaced(SCENE, '    <Start crew="blue" at="4 0"/>\n', "")),
    ("passed on no side", "missing-name", RED, 3, replaced(RED, "red_1,port", "red_1,left")),
    ("row that does nothing known", "bad-record", BLUE, 3, replaced(BLUE, "2,pass", "2,pas")),
    ("buoy at one number only", "bad-record", SCENE, 8, replaced(SCENE, '"30 12"', '"30"')),
    ("laps that are no number", "bad-record", INI, 5, replaced(INI, "laps = 3", "laps = many")),
]  # fmt: skip


@pytest.mark.parametrize(
    ("code", "path", "line", "make"), [pytest.param(*fault[1:], id=fault[0].replace(" ", "-")) for fault in FAULTS]
)
def test_faults_are_found_where_they_are(
    code: str, path: str, line: int, make: Callable[[Path], object], regatta: Path
) -> None:
    make(regatta)
    assert_told(regatta, code, path, line)


def test_moments_do_not_count_without_a_race(regatta: Path) -> None:
    replaced(INI, "race = on", "race = off")(regatta)
    replaced(INI, "start = race_start", "start = race_begin")(regatta)
    assert run_hookset(regatta, "check").code == 0


SHEET = """
[pack]
name = "third-mark"
version = "1.0"
layouts = ["numbered-marks"]
[[files]]
from = "content/**"
[[hook]]
seat = "buoys"
text = '<Buoy name="blue_3" slot="4" at="92 6"/>'
[[hook]]
seat = "scripts"
record = { gust = "courses/brackwater_regatta/code/gust.lua" }
[[hook]]
seat = "moments"
record = { gust = "gust" }
"""


def test_a_pack_is_set_in_and_taken_back(regatta: Path) -> None:
    write_pack(
        regatta.parent / "third-mark", SHEET, {"content/code/gust.lua": 'on("gust", function() buoy("blue_3") end)\n'}
    )
    before = snapshot(regatta)
    refused = run_hookset(regatta, "install", "../third-mark", "--json")
    assert (refused.code, refused.told) == (1, ["map-has-errors"])
    assert "`blue_3`" in refused.wrong[0]["details"][0]
    assert snapshot(regatta) == before
    replaced(BLUE, "2,pass,blue_2,port\r\n", "2,pass,blue_2,port\r\n3,pass,blue_3,port\r\n")(regatta)
    before = snapshot(regatta)
    installed = run_hookset(regatta, "install", "../third-mark")
    assert installed.code == 0, installed.err
    assert run_hookset(regatta, "check").code == 0
    assert b"\r\ngust = gust\r\n" in (regatta / INI).read_bytes()
    assert run_hookset(regatta, "undo").code == 0
    assert snapshot(regatta) == before
