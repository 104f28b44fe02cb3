"""Every pack of the demo, from download to removal, by the commands that a builder would type."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.demo import lay_out
from tests.conftest import Ran, run_hookset, snapshot
from tests.pages import page_and_truth

In = Callable[..., Ran]


@pytest.fixture
def demo(tmp_path: Path) -> Path:
    lay_out(tmp_path / "demo")
    return tmp_path / "demo"


@pytest.fixture
def town(demo: Path) -> In:
    """Commands in the town's map."""
    root = demo / "brackwater"
    assert run_hookset(root, "start").code == 0
    return lambda *arguments: run_hookset(root, *arguments)


def small(demo: Path, name: str) -> tuple[Path, In]:
    """One of the small maps, and commands in it."""
    root = demo / "maps" / name
    assert run_hookset(root, "start", "--stock", "../../base.stock.json").code == 0
    return root, lambda *arguments: run_hookset(root, *arguments)


def test_cable_ferry_has_another_half_where_the_bridge_is(demo: Path, town: In) -> None:
    main = demo / "brackwater/scripts/server/main.lua"
    refused = town("install", "../packs/cable-ferry.zip", "--json")
    assert (refused.code, refused.told) == (1, ["need-not-met"])
    assert "lift-bridge" in refused.wrong[0]["details"][0]
    both = town("install", "../packs/cable-ferry.zip", "../packs/lift-bridge.zip")
    assert both.code == 0, both.err
    assert "cable_ferry.mind_the_bridge()" in main.read_text()
    assert "keep_to_the_tide" not in main.read_text()
    assert town("check").code == 0
    town("remove", "cable-ferry")
    town("remove", "lift-bridge")
    assert town("install", "../packs/cable-ferry.zip", "--anyway").code == 0
    assert "cable_ferry.keep_to_the_tide()" in main.read_text()


@pytest.mark.no_cover
def test_a_part_of_cable_ferry_brings_just_what_it_needs(demo: Path, town: In) -> None:
    root = demo / "brackwater"
    before = snapshot(root)
    town("install", "../packs/lift-bridge.zip")
    alone = town("install", "../packs/cable-ferry.zip", "--part", "mooring-lights", "--preview")
    assert alone.code == 0, alone.out
    assert "files       1 new" in alone.out
    assert "ferry/bell.wav" not in alone.out
    assert town("install", "../packs/cable-ferry.zip", "--part", "ferry").code == 0
    assert (root / "sounds/ferry/bell.wav").exists()
    assert (root / "models/cable_ferry/pontoon.bin").exists()
    assert not (root / "scripts/server/packs/mooring_lights.lua").exists()
    scene = json.loads((root / "scene/brackwater.gltf").read_text())
    keys = [node.get("extras", {}).get("key") for node in scene["nodes"]]
    assert "landing_5" in keys
    assert town("check").code == 0
    assert town("remove", "lift-bridge", "cable-ferry").code == 0
    assert snapshot(root) == before


def test_lamp_row_is_upgraded_with_what_the_builder_changed(demo: Path, town: In) -> None:
    root = demo / "brackwater"
    assert town("install", "../packs/lamp-row-1.0.0.zip", "--set", "step=5", "--set", "dusk-hour=20").code == 0
    script, scene = root / "scripts/server/packs/lamp_row.lua", root / "scene/brackwater.gltf"
    script.write_text(script.read_text().replace("return row", "-- lit by Ode\nreturn row"))
    scene.write_text(scene.read_text().replace('"brightness": 0.8', '"brightness": 0.5', 1))
    status = town("status")
    assert status.code == 1
    assert "+-- lit by Ode" in status.out
    assert '+      "extras": {"key": "row_lamp_1", "class": "lamp", "brightness": 0.5}' in status.out
    before = snapshot(root)
    upgraded = town("upgrade", "../packs/lamp-row-2.0.0.zip")
    assert upgraded.code == 0, upgraded.err
    assert "lamp-row 2.0.0 is now in brackwater" in upgraded.out
    now = script.read_text()
    assert "local STEP = 5" in now
    assert "-- lit by Ode\nreturn row" in now
    assert "go out at dawn" in now
    assert "lamp_row.start(20, 6)" in (root / "scripts/server/main.lua").read_text()
    nodes = {n["name"]: n.get("extras", {}) for n in json.loads(scene.read_text())["nodes"]}
    assert nodes["lamp post 1"]["brightness"] == 0.5
    assert nodes["lamp post 2"]["brightness"] == 0.8
    assert {nodes[f"lamp {number}"]["class"] for number in range(1, 9)} == {"lantern"}
    assert nodes["lamp 3"]["key"] == "lamp_3"
    assert not (root / "scripts/client/packs/lamp_glow.lua").exists()
    assert town("check").code == 0
    assert town("undo").code == 0
    assert snapshot(root) == before


@pytest.mark.no_cover
def test_an_upgrade_says_how_many_names_of_each_kind_there_were(demo: Path, town: In) -> None:
    del demo
    town("install", "../packs/lamp-row-2.0.0.zip")
    older = town("upgrade", "../packs/lamp-row-1.0.0.zip", "--preview", "--anyway", "--json").data["names"]
    lost = {one["kind"]: (one["before"] - one["after"], one["gone"]) for one in older if one["gone"]}
    assert lost["object-class"] == (1, ["lantern"])
    assert "gone: lantern" in town("upgrade", "../packs/lamp-row-1.0.0.zip", "--anyway").out


def test_where_both_changed_the_same_lines_it_stops_and_shows_them(demo: Path, town: In) -> None:
    root = demo / "brackwater"
    town("install", "../packs/lamp-row-1.0.0.zip")
    script = root / "scripts/server/packs/lamp_row.lua"
    script.write_text(script.read_text().replace('log("dusk is at " .. hour)', 'log("it gets dark at " .. hour)'))
    stopped = town("upgrade", "../packs/lamp-row-2.0.0.zip", "--json")
    assert (stopped.code, stopped.told) == (1, ["changed-by-you"])
    shown = str(stopped.wrong[0])
    assert 'log("it gets dark at " .. hour)' in shown
    assert 'log("dusk is at " .. dusk .. ", dawn at " .. dawn)' in shown
    assert town("upgrade", "../packs/lamp-row-2.0.0.zip", "--drop-changed").code == 0
    assert "it gets dark" not in script.read_text()
    assert town("status").code == 0


def test_market_stall_claims_a_berth_and_is_filled(demo: Path, town: In) -> None:
    root = demo / "brackwater"
    before = snapshot(root)
    assert town("install", "../packs/market-stall.zip", "--claim", "berth=moon").code == 1
    installed = town("install", "../packs/market-stall.zip", "--claim", "berth=south-2")
    assert installed.code == 0, installed.err
    assert "sign is still to be filled" in installed.out
    assert '"berth": "south-2"' in (root / "scene/brackwater.gltf").read_text()
    assert 'market_stall.open("south-2"' in (root / "scripts/server/main.lua").read_text()
    assert town("build").code == 1
    assert "blank-open" in town("check").out
    wrong = town("tune", "market-stall", "jingle=../market/sign.png", "--json")
    assert (wrong.code, wrong.told) == (2, ["wrong-value"])
    filled = town("tune", "market-stall", "sign=../market/sign.png", "jingle=../market/jingle.wav", "keeper=Ode's")
    assert filled.code == 0, filled.err
    assert '"Ode\'s")' in (root / "scripts/server/main.lua").read_text()
    assert (root / "sounds/market/jingle.wav").read_bytes() == (demo / "market/jingle.wav").read_bytes()
    assert "sounds/market/jingle.wav" in (root / "manifest.txt").read_text()
    assert town("check").code == 0
    assert town("tune", "market-stall", "berth=island").code == 0
    assert '"berth": "island"' in (root / "scene/brackwater.gltf").read_text()
    assert 'market_stall.open("island", "Ode\'s")' in (root / "scripts/server/main.lua").read_text()
    assert town("status").code == 0
    assert town("remove", "market-stall").code == 0
    assert snapshot(root) == before


def test_heronry_uses_a_word_that_the_map_knows_and_remembers_it(demo: Path) -> None:
    root, shore = small(demo, "shore")
    before = snapshot(root)
    stopped = shore("install", "../../packs/heronry.zip", "--json")
    assert (stopped.code, stopped.told) == (1, ["word-not-said"])
    assert shore("install", "../../packs/heronry.zip", "--word", "rank:shy=wild").code == 0
    types = json.loads((root / "tables/types.json").read_text())["types"]
    assert types[-1] == {"type": "heron", "shape": "heron", "rank": "wild", "sound": "heron", "reach": 25}
    assert shore("check").code == 0
    assert shore("remove", "heronry").code == 0
    assert snapshot(root) == before
    assert shore("install", "../../packs/heronry.zip").code == 0


def test_the_word_that_is_nearest_is_the_default(demo: Path) -> None:
    root, shore = small(demo, "shore")
    defaults = []
    for word in ("wild", "shyly"):
        types = root / "tables/types.json"
        types.write_text(types.read_text().replace('"wild"', f'"{word}"'))
        data = shore("install", "../../packs/heronry.zip", "--json").data
        defaults += [stop["question"]["default"] for stop in data["stops"] if stop["question"]["key"][0] == "word"]
    assert defaults == ["", "shyly"]


def test_silt_looks_its_numbers_up_and_dredger_does_the_same_job(demo: Path) -> None:
    root, basin = small(demo, "basin")
    before = snapshot(root)
    assert basin("install", "../../packs/silt.zip").code == 0
    scene = (root / "scene/basin.xml").read_text()
    assert '<Source no="9" from="code/silt.lua"/>' in scene
    assert '<Run source="9"/>' in scene
    assert scene.index("silt_bank") < scene.index("water_surface")
    stopped = basin("install", "../../packs/dredger.zip", "--json")
    assert (stopped.code, stopped.told) == (1, ["doing-the-same"])
    assert "moves-the-ground" in stopped.wrong[0]["what"]
    assert basin("install", "../../packs/dredger.zip", "--both-jobs").code == 0
    assert basin("check").code == 0
    assert basin("remove", "silt").code == 0
    assert "silt" not in (root / "scene/basin.xml").read_text()
    assert basin("check").code == 0
    assert basin("remove", "dredger").code == 0
    assert snapshot(root) == before


def test_regatta_follows_the_map_s_name(demo: Path) -> None:
    root, course = small(demo, "course")
    before = snapshot(root)
    assert course("install", "../../packs/regatta.zip", "--set", "laps=5").code == 0
    assert "laps = 5" in (root / "course.ini").read_text()
    assert "LAPS = 5" in (root / "code/green.lua").read_text()
    assert "old_quay_cup" not in (root / "crews/green.csv").read_text()
    assert '<Buoy name="green_1" slot="4"' in (root / "scene/course.xml").read_text()
    (root / "course.ini").write_bytes((root / "course.ini").read_bytes().replace(b"laps = 5", b"laps = 6"))
    told = course("check")
    assert "the setting `laps` of regatta is 5 in code/green.lua, 6 in course.ini" in told.out
    assert course("tune", "regatta", "laps=7").code == 0
    assert course("check").code == 0
    renamed = course("rename", "Brackwater Autumn Cup", "--version", "11")
    assert renamed.code == 0, renamed.err
    ini = (root / "course.ini").read_text()
    assert "folder = brackwater_autumn_cup\nbadge = brackwater_autumn_cup-011" in ini
    assert 'name = "Brackwater Autumn Cup"' in (root / "hookset.toml").read_text()
    assert "brackwater_regatta" not in (root / "crews/green.csv").read_text()
    assert course("check").code == 0
    assert course("status").code == 0
    assert course("undo").code == 0
    assert course("remove", "regatta").code == 0
    assert snapshot(root) == before


@pytest.mark.no_cover
def test_the_same_again_in_another_map(demo: Path, town: In, tmp_path: Path) -> None:
    town("install", "../packs/market-stall.zip", "--claim", "berth=island", "--blank", "sign=../market/sign.png")
    town("install", "../packs/lamp-row-1.0.0.zip", "--set", "step=9")
    assert town("list", "--answers", "../answers.toml").code == 0
    lay_out(tmp_path / "again")
    other = tmp_path / "again" / "brackwater"
    run_hookset(other, "start")
    like = run_hookset(other, "install", "../packs/lamp-row-1.0.0.zip", "--like", str(demo / "brackwater"))
    assert like.code == 0, like.err
    assert "local STEP = 9" in (other / "scripts/server/packs/lamp_row.lua").read_text()
    answers = run_hookset(other, "install", "../packs/market-stall.zip", "--answers", str(demo / "answers.toml"))
    assert answers.code == 0, answers.err
    assert '"berth": "island"' in (other / "scene/brackwater.gltf").read_text()
    assert (other / "textures/market_stall/sign.png").read_bytes() == (demo / "market/sign.png").read_bytes()
    credit = run_hookset(other, "credits").out
    assert "* **market-stall** 1.0 (A market stall: a template for your own) by Tolly Reed; licence CC0-1.0." in credit
    assert "SPDX-License-Identifier: CC-BY-SA-4.0 AND CC0-1.0" in credit


@pytest.mark.no_cover
def test_the_page_of_downloads_shows_what_is_so(tmp_path: Path) -> None:
    page, truth = page_and_truth("downloaded.md", tmp_path)
    assert truth == page
