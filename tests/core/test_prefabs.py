"""Files with things of their own, which stand wherever a record of the map, or of another such file, names them."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from hookset.config.layouts.load import load_layout
from hookset.scene.scene import Scene
from hookset.trees import EmptyTree, Inline, Overlay
from tests.conftest import run_hookset, snapshot

LAYOUT = """
[layout]
name = "own"
title = "A town of prefabs"
[space]
up = "z"
[[read]]
files = ["town.json", "prefabs/*.json"]
format = "json"
[[seat]]
name = "things"
title = "things"
file = "town.json"
put = { into = "/things", form = "row" }
"""
PLACED = """
[[placed]]
name = "{name}"
title = "{name}"
file = "{file}"
ask = {{ at = "$.things[*]" }}
key = "key"
class = "sort"
at = "at"
turn = {{ from = "turn", about = "xyz" }}
size = "size"
links = ["opens"]
prefab = "file"
prefab_file = "prefabs/{{value}}.json"
"""
NEW = """record = { sort = "prefab", file = "{prefab}", at = [0, 0, 0], turn = [0, 0, 0] }
"""
OWN = (
    LAYOUT
    + PLACED.format(name="town", file="town.json")
    + 'seat = "things"\n'
    + NEW
    + PLACED.format(name="parts", file="prefabs/*.json")
    + "in_prefabs = true\n"
)
ANGLES = st.tuples(*[st.integers(-180, 180)] * 3)
PLACES = st.tuples(*[st.integers(-50, 50)] * 3)
STEPS = st.lists(st.tuples(PLACES, ANGLES, st.integers(1, 3)), min_size=2, max_size=5)


def scene_of(files: dict[str, list[dict[str, Any]]]) -> Scene:
    contents = {path: Inline(json.dumps({"things": things}).encode()) for path, things in files.items()}
    return Scene(Overlay(EmptyTree(), contents), load_layout(OWN.encode(), "own.toml"))


def folder_of(root: Path, files: dict[str, list[dict[str, Any]]]) -> Path:
    (root / "prefabs").mkdir(parents=True)
    for path, things in files.items():
        body = ",\n    ".join(json.dumps(one) for one in things)
        (root / path).write_text(f'{{\n  "things": [\n    {body}\n  ]\n}}\n', encoding="utf-8")
    (root / "own.toml").write_text(OWN, encoding="utf-8")
    (root / "hookset.toml").write_text('[map]\nname = "town"\nlayout = "own.toml"\n', encoding="utf-8")
    return root


@settings(max_examples=15)
@given(STEPS)
def test_what_stands_in_a_prefab_in_a_prefab_is_where_all_of_them_take_it(
    steps: list[tuple[tuple[int, ...], tuple[int, ...], int]],
) -> None:
    files: dict[str, list[dict[str, Any]]] = {}
    for level, (at, turn, size) in enumerate(steps):
        path = f"prefabs/n{level - 1}.json" if level else "town.json"
        files[path] = [{"key": f"k{level}", "at": at, "turn": turn, "size": size, "file": f"n{level}"}]
    files[f"prefabs/n{len(steps) - 1}.json"] = [{"key": "last", "at": [1, 2, 3]}]
    things = scene_of(files).things
    expected = np.array([1.0, 2.0, 3.0])
    for at, turn, size in reversed(steps):
        expected = np.array(at) + Rotation.from_euler("xyz", turn, degrees=True).apply(expected * size)
    assert [thing.key for thing in things.rows] == [*(f"k{level}" for level in range(len(steps))), "last"]
    assert np.allclose(things.at[-1], expected, atol=1e-6)
    assert things.rows[-1].within == " of ".join(f"k{level}" for level in reversed(range(len(steps))))


def test_a_link_goes_to_what_stands_in_the_same_one() -> None:
    things = scene_of(
        {
            "town.json": [
                {"key": "gate", "at": [90, 0, 0]},
                {"key": "north", "at": [0, 0, 0], "file": "house"},
                {"key": "south", "at": [0, 50, 0], "file": "house"},
            ],
            "prefabs/house.json": [
                {"key": "gate", "at": [1, 0, 0]},
                {"key": "lever", "at": [0, 0, 0], "opens": "gate"},
                {"key": "bell", "at": [0, 0, 0], "opens": "north"},
            ],
        }
    ).things
    levers = [thing for thing in things.rows if thing.key == "lever"]
    gates = [things.at[things.linked(one.index, "gate")[0]].tolist() for one in levers]
    assert gates == [[1, 0, 0], [1, 50, 0]]
    bell = next(thing for thing in things.rows if thing.key == "bell")
    assert [things.rows[row].key for row in things.linked(bell.index, "north")] == ["north"]
    # From outside, the name means what stands in the map itself.
    assert [things.at[row].tolist() for row in things.by_key["gate"]] == [[90, 0, 0]]


TOWN: dict[str, list[dict[str, Any]]] = {
    "town.json": [
        {"key": "camp_1", "sort": "camp", "at": [10, 0, 0], "file": "camp"},
        {"key": "camp_2", "sort": "camp", "at": [50, 0, 0], "turn": [0, 0, 90], "file": "camp"},
        {"key": "well", "sort": "well", "at": [0, 0, 0]},
    ],
    "prefabs/camp.json": [{"key": "tent", "sort": "tent", "at": [2, 0, 0], "file": "tent"}],
    "prefabs/tent.json": [{"key": "pole", "sort": "pole", "at": [0, 1, 0]}],
    "prefabs/unused.json": [{"key": "ghost", "sort": "ghost", "at": [0, 0, 0]}],
}


def test_moving_the_prefab_moves_what_is_in_it(tmp_path: Path) -> None:
    root = folder_of(tmp_path / "town", TOWN)
    found = run_hookset(root, "where", "pole", "--json").data["things"]
    assert [(one["of"], one["at"]) for one in found] == [
        ("tent of camp_1", [12, 1, 0]),
        ("tent of camp_2", pytest.approx([49, 2, 0])),
    ]
    assert run_hookset(root, "move", "camp_1", "--at", "20,5,0").code == 0
    found = run_hookset(root, "where", "pole", "--json").data["things"]
    assert found[0]["at"] == [22, 6, 0]
    assert run_hookset(root, "place", "camp_2", "--at", "0,90,0", "--turn", "0").code == 0
    found = run_hookset(root, "where", "pole", "--json").data["things"]
    assert [one["at"] for one in found][-1] == pytest.approx([2, 91, 0])
    assert run_hookset(root, "take", "camp_2").code == 0
    found = run_hookset(root, "where", "pole", "--json").data["things"]
    assert [one["of"] for one in found] == ["tent of camp_1", "tent of camp_3"]


def test_what_stands_in_a_prefab_is_not_moved_by_itself(tmp_path: Path) -> None:
    root = folder_of(tmp_path / "town", TOWN)
    before = snapshot(root)
    for command in (("move", "pole", "--at", "1,1,1"), ("place", "pole", "--at", "1,1,1"), ("take", "pole")):
        ran = run_hookset(root, *command)
        assert ran.code == 2
        assert "prefabs/tent.json" in ran.err
    assert run_hookset(root, "where", "ghost").code == 2
    assert snapshot(root) == before


@pytest.mark.no_cover
def test_prefabs_without_end_are_told_and_stop(tmp_path: Path) -> None:
    """Forty files of which each names the next one ten times, one that names itself, two that name each other."""
    files: dict[str, list[dict[str, Any]]] = {
        "town.json": [{"key": one, "at": [at, 0, 0], "file": one} for at, one in enumerate(("self", "a", "gone", "n0"))]
    }
    for level in range(40):
        files[f"prefabs/n{level}.json"] = [{"at": [0, 0, 0], "file": f"n{level + 1}"}] * 10
    files["prefabs/self.json"] = [{"at": [0, 0, 0], "file": "self"}]
    files["prefabs/a.json"] = [{"at": [0, 0, 0], "file": "b"}]
    files["prefabs/b.json"] = [{"at": [0, 0, 0], "file": "a"}]
    root = folder_of(tmp_path / "town", files)
    found = run_hookset(root, "check", "--json").data["findings"]
    told = {(one["code"], one["path"]) for one in found}
    assert {
        ("prefab-contains-itself", "prefabs/self.json"),
        ("prefab-contains-itself", "prefabs/b.json"),
        ("prefab-stands-for-nothing", "town.json"),
    } <= told
    assert "too-many-in-prefabs" in {code for code, _ in told}


def test_a_prefab_that_lies_outside_of_the_map_is_not_looked_for() -> None:
    misplaced = scene_of({"town.json": [{"key": "out", "at": [0, 0, 0], "file": "../../secret"}]}).misplaced
    assert [(one.what, one.said) for one in misplaced] == [("prefab", "../../secret")]


def test_a_prefab_that_stands_nowhere_yet_is_placed(tmp_path: Path) -> None:
    root = folder_of(tmp_path / "town", TOWN)
    before = snapshot(root)
    assert (
        run_hookset(root, "place", "prefabs/unused.json", "--at", "1,2,3", "--line-to", "5,2,3", "--count", "2").code
        == 0
    )
    found = run_hookset(root, "where", "ghost", "--json").data["things"]
    assert [one["at"] for one in found] == [[1, 2, 3], [5, 2, 3]]
    # By what records say of it, turned; what stands in it turns along.
    assert run_hookset(root, "place", "tent", "--at", "0,0,0", "--turn", "90").code == 0
    poles = run_hookset(root, "where", "pole", "--json").data["things"]
    assert any(one["at"] == pytest.approx([-1, 0, 0]) for one in poles)
    assert run_hookset(root, "place", "nowhere", "--at", "0,0,0").code == 2
    for _ in range(2):
        assert run_hookset(root, "undo").code == 0
    assert snapshot(root) == before


def test_a_pack_that_brings_a_prefab_asks_where_it_stands(tmp_path: Path) -> None:
    root = folder_of(tmp_path / "town", TOWN)
    pack = tmp_path / "well-house"
    (pack / "prefabs").mkdir(parents=True)
    (pack / "prefabs/well_house.json").write_text('{ "things": [{ "key": "roof", "sort": "roof", "at": [0, 0, 3] }] }')
    (pack / "readme.txt").write_text("Copy prefabs into your map. Then place well_house where you like.\n")
    draft = run_hookset(root, "draft", str(pack), "--json").data
    assert [(one["entry"]["name"], one["entry"]["must"]) for one in draft["place"]] == [("well-house", True)]
    assert run_hookset(root, "install", str(pack)).code == 0
    assert run_hookset(root, "where", "roof").code == 2
    found = run_hookset(root, "check", "--json").data["findings"]
    assert "still-to-be-placed" in {one["code"] for one in found}
    assert run_hookset(root, "install", str(pack), "--at", "well-house=7,8,0 9,9,0@90").code == 0
    roofs = run_hookset(root, "where", "roof", "--json").data["things"]
    assert [one["at"] for one in roofs] == [[7, 8, 3], [9, 9, 3]]
    assert run_hookset(root, "remove", "well-house").code == 0
    assert run_hookset(root, "where", "roof").code == 2


def well_house(tmp_path: Path, decided: str) -> tuple[Path, Path]:
    root, pack = folder_of(tmp_path / "town", TOWN), tmp_path / "well-house"
    (pack / "prefabs").mkdir(parents=True)
    (pack / "prefabs/well_house.json").write_text('{ "things": [{ "key": "roof", "sort": "roof", "at": [0, 0, 3] }] }')
    (pack / "readme.txt").write_text("Copy prefabs into your map.\nThen place well_house where you like.\n")
    (tmp_path / "decided.toml").write_text(decided)
    return root, pack


def test_what_a_walk_says_of_a_place_is_what_the_sheet_says(tmp_path: Path) -> None:
    place = '[[step.place]]\nname = "well-house"\nsays = "on the green"\nwas = ["pump"]\n'
    root, pack = well_house(tmp_path, f'[[step]]\nlines = "readme.txt:2"\n{place}')
    draft = run_hookset(root, "draft", str(pack), "--answers", "../decided.toml", "--json").data
    assert [(one["entry"]["name"], one["entry"]["says"]) for one in draft["place"]] == [("well-house", "on the green")]
    assert run_hookset(root, "install", str(pack), "--at", "well-house=7,8,0").code == 0


def test_a_prefab_that_a_walk_leaves_out_stands_nowhere(tmp_path: Path) -> None:
    root, pack = well_house(tmp_path, '[[step]]\nlines = "readme.txt:2"\ndo = "leave"\n')
    draft = run_hookset(root, "draft", str(pack), "--answers", "../decided.toml", "--json").data
    assert (draft["place"], draft["hook"]) == ([], [])


def test_angles_are_written_as_the_map_writes_them(tmp_path: Path) -> None:
    """Some maps count from 0 to a whole turn."""
    for others, written in (([0, 0, 270], 350), ([0, 0, -90], -10)):
        things = [{"key": "a", "at": [0, 0, 0], "turn": [0, 0, 10]}, {"key": "b", "at": [1, 0, 0], "turn": others}]
        root = folder_of(tmp_path / str(written), {"town.json": things})
        assert run_hookset(root, "move", "a", "--turn", "350").code == 0
        assert json.loads((root / "town.json").read_text())["things"][0]["turn"] == [0, 0, written]


def test_what_stands_for_one_prefab_comes_to_stand_for_another(tmp_path: Path) -> None:
    """By its name, or by where its record begins, for those that have none."""
    town = TOWN | {
        "town.json": [*TOWN["town.json"], *[{"sort": "camp", "at": [9, y, 0], "file": "camp"} for y in (1, 2)]]
    }
    root = folder_of(tmp_path / "town", town)
    assert run_hookset(root, "swap", "camp", "--like", "prefabs/tent.json").code == 2
    lines = (root / "town.json").read_text().splitlines()
    (line,) = [number for number, text in enumerate(lines, 1) if "[9, 2, 0]" in text]
    assert run_hookset(root, "swap", "camp_1", f"town.json:{line}", "--like", "prefabs/tent.json").code == 0
    things = json.loads((root / "town.json").read_text())["things"]
    assert [one.get("file") for one in things] == ["tent", "camp", None, "camp", "tent"]
    assert things[0] == TOWN["town.json"][0] | {"file": "tent"}
    assert run_hookset(root, "swap", "well", "--like", "prefabs/tent.json").code == 1


def test_a_whole_class_becomes_another_and_keeps_all_else(tmp_path: Path) -> None:
    root = folder_of(tmp_path / "town", TOWN)
    assert run_hookset(root, "swap", "--class", "camp", "--as", "bivouac").code == 0
    things = json.loads((root / "town.json").read_text())["things"]
    assert things == [one | ({"sort": "bivouac"} if one["sort"] == "camp" else {}) for one in TOWN["town.json"]]
    assert run_hookset(root, "swap", "--class", "camp", "--as", "bivouac").code == 2
    assert run_hookset(root, "swap", "well", "--as", "pump", "--like", "camp_1").code == 2
