"""An object of another map, lifted into a pack with all that it needs."""

from __future__ import annotations

import json
import shutil
from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.demo import lay_out
from tests.conftest import Ran, run_hookset, snapshot
from tests.test_house import ROOT

Run = Callable[..., Ran]


@pytest.fixture
def old_quay(demo: Path) -> Path:
    return demo.parent / "maps" / "old-quay"


def test_a_lifted_crane_works_in_another_map(demo: Path, hookset: Run, old_quay: Path) -> None:
    before = snapshot(old_quay)
    data = hookset("lift", "tide_crane", "--from", "../maps/old-quay", "--json").data
    assert snapshot(old_quay) == before
    assert [one["path"] for one in sorted(data["files"], key=lambda one: one["path"])] == [
        "models/quay/jib.bin",
        "models/quay/jib.gltf",
        "models/quay/tower.bin",
        "models/quay/tower.gltf",
        "scripts/client/quay/crane_view.lua",
        "scripts/server/quay/crane.lua",
        "scripts/shared/quay/winding.lua",
        "sounds/quay/creak.wav",
        "textures/quay/planks.png",
    ]
    assert {one["name"] for one in data["in_stock"]} == {"lever", "moving-part"}
    assert {(one["thing"], one["name"]) for one in data["differences"]} == {
        ("tide_crane", "children"),
        ("crane_jib", "translation"),
        ("crane_jib", "rotation"),
    }
    town = snapshot(demo)
    assert hookset("install", "../tide-crane").code == 0
    assert hookset("check").code == 0
    assert hookset("build").code == 0
    trial = hookset("trial").out
    assert "crane_jib by (0, 4, 0)" in trial and "No errors" in trial
    assert "Made from old-quay 5." in hookset("credits").out
    assert hookset("remove", "tide-crane").code == 0
    left = {path: data for path, data in snapshot(demo).items() if not path.startswith("build/")}
    assert left == town


@pytest.mark.usefixtures("demo")
def test_what_hangs_on_a_lifted_thing_stands_where_it_stood(hookset: Run, old_quay: Path) -> None:
    assert old_quay.is_dir()
    (jib,) = [
        one["record"]
        for one in hookset("lift", "crane_jib", "--from", "../maps/old-quay", "--preview", "--json").data["entries"]
        if one["record"] and one["record"].get("name") == "crane jib"
    ]
    # Two metres along its own x, on a crane at (10, 1, -6) that is turned by 90 degrees about the upright.
    assert jib["translation"] == [10.0, 7.0, -8.0]


@pytest.mark.usefixtures("demo")
def test_what_only_hangs_on_a_lifted_thing_comes_along(hookset: Run, old_quay: Path) -> None:
    (scene,) = (old_quay / "scene").glob("*.gltf")
    said = json.loads(scene.read_text(encoding="utf-8"))
    said["nodes"][1]["children"].append(3)
    said["scenes"][0]["nodes"].remove(3)
    scene.write_text(json.dumps(said), encoding="utf-8")
    data = hookset("lift", "tide_crane", "--from", "../maps/old-quay", "--preview", "--json").data
    names = [one["record"]["name"] for one in data["entries"] if one["seat"] == "scene-objects"]
    assert sorted(names) == ["crane jib", "lamp", "tide crane"]


def test_what_stood_within_another_thing_is_to_be_looked_at(demo: Path, tmp_path: Path) -> None:
    basin = demo.parent / "maps/basin"
    assert run_hookset(basin, "start").code == 0
    scene = basin / "scene/basin.xml"
    text = scene.read_text(encoding="utf-8")
    assert not noted_within(run_hookset(tmp_path, "lift", "water_surface", "--from", str(basin), "--preview", "--json"))
    nested = text.replace('<Thing key="water_surface" at="0 -1 0"/>', "")
    nested = nested.replace('<Thing key="basin">', '<Thing key="basin"><Thing key="water_surface" at="0 -1 0"/>')
    scene.write_text(nested, encoding="utf-8")
    ran = run_hookset(tmp_path, "lift", "water_surface", "--from", str(basin), "--preview", "--json")
    assert noted_within(ran), ran.out


def noted_within(ran: Ran) -> list[str]:
    assert ran.code == 0, ran.err
    return [one for one in ran.data["notes"] if "basin" in one and "within" in one]


def test_lift_looks_up_ids(demo: Path, tmp_path: Path) -> None:
    basin = demo.parent / "maps/basin"
    assert run_hookset(basin, "start").code == 0
    assert run_hookset(tmp_path, "lift", "gate_wheel", "--from", str(basin)).code == 0
    sheet = (tmp_path / "gate-wheel/hooksheet.toml").read_text(encoding="utf-8")
    assert 'form="{listed:file-id:assets/wheel.gltf}"' in sheet
    assert '<Run source="{listed:file-id:code/basin.lua}"/>' in sheet
    lay_out(tmp_path / "two")
    other = tmp_path / "two/maps/basin"
    scene = other / "scene/basin.xml"
    text = scene.read_text(encoding="utf-8")
    start, end = text.index('    <Thing key="basin">'), text.index('    <Thing key="water')
    text = (text[:start] + text[end:]).replace(
        '<Source no="1" from="assets/tide_gate.gltf"/>', '<Source no="41" from="assets/tide_gate.gltf"/>'
    )
    scene.write_text(text.replace('    <Run source="7"/>\n', ""), encoding="utf-8")
    assert run_hookset(other, "start").code == 0
    ran = run_hookset(other, "install", str(tmp_path / "gate-wheel"), "--anyway")
    assert ran.code == 0, ran.err
    assert 'form="41"' in scene.read_text(encoding="utf-8")


def test_what_stands_within_a_lifted_thing_comes_once(demo: Path, tmp_path: Path) -> None:
    """The wheel within the basin is linked to the gate within the basin: neither is an entry of its own then."""
    basin = demo.parent / "maps/basin"
    assert run_hookset(basin, "start").code == 0
    told = run_hookset(tmp_path, "lift", "basin", "--from", str(basin), "--json")
    assert told.code == 0, told.err
    sheet = (tmp_path / "basin/hooksheet.toml").read_text(encoding="utf-8")
    assert [sheet.count(f'<Thing key="{name}"') for name in ("basin", "tide_gate", "gate_wheel")] == [1, 1, 1]
    assert [entry for entry in told.data["entries"] if entry["seat"] == "nodes"] != []
    assert "assets/tide_gate.gltf" in {file["path"] for file in told.data["files"]}
    assert "stood within" not in told.out


@pytest.mark.usefixtures("demo")
def test_lift_leaves_out_what_is_told(hookset: Run, old_quay: Path) -> None:
    assert old_quay.is_dir()
    data = hookset("lift", "weigh_house", "--from", "../maps/old-quay", "--leave", "weigh_bell", "--json").data
    assert data["left"] == [{"kind": "sound", "name": "weigh_bell"}]
    assert [one["path"] for one in data["files"]] == ["scripts/server/weigh_house.lua"]
    wrong = hookset("lift", "weigh_hous", "--from", "../maps/old-quay", "--json")
    assert (wrong.code, wrong.told) == (2, ["unknown-name"])
    assert "`weigh_house`" in wrong.wrong[0]["what"]


def test_lift_in_maps_of_other_layouts(tmp_path: Path) -> None:
    shipped = ROOT / "src/hookset/demo/data"
    for name in ("mirrored-folders", "numbered-marks", "paired-modules"):
        shutil.copytree(shipped / name, tmp_path / name)
        assert run_hookset(tmp_path / name, "start").code == 0
    shed = run_hookset(tmp_path, "lift", "rope_shed", "--from", "mirrored-folders", "--preview", "--json").data
    assert {"quay/sheds/rope_shed.yaml", "code/walk.lua"} <= {one["path"] for one in shed["files"]}
    assert {"stands", "code", "noises"} <= {one["seat"] for one in shed["entries"]}
    (buoy,) = run_hookset(tmp_path, "lift", "red_1", "--from", "numbered-marks", "--preview", "--json").data["entries"]
    assert buoy["text"] == '<Buoy name="red_1" slot="{next:slot}" at="30 12"/>'
    wheel = run_hookset(tmp_path, "lift", "lock_wheel", "--from", "paired-modules", "--preview", "--json").data
    assert {"server-import", "server-begin", "objects", "texts"} <= {one["seat"] for one in wheel["entries"]}


YARD = """[layout]
name = "yard"
title = "A yard"
[kinds.thing]
label = "thing"
unique = true
numbers = { first = 1 }
[kinds.paint]
label = "paint"
unique = true
numbers = { first = 1 }
[[read]]
files = "yard.xml"
format = "xml"
defines = [{ kind = "thing", at = "//Thing/@id" }, { kind = "paint", at = "//Paint/@id" }]
refers = [{ kind = "paint", at = "//Thing/@paint" }, { kind = "thing", at = "//Thing/@beside" }]
[[read]]
files = "tags.json"
format = "json"
refers = [{ kind = "thing", at = "$.tags[*].thing" }, { kind = "thing", at = "$.tags[*].other" }]
[[read]]
files = "walk.lua"
format = "lua"
refers = [{ kind = "thing", call = "visit", arg = 1 }]
[[seat]]
name = "things"
title = "things"
file = "yard.xml"
put = { into = "/Yard/Things" }
[[seat]]
name = "paints"
title = "paints"
file = "yard.xml"
put = { into = "/Yard/Paints" }
[[seat]]
name = "tags"
title = "tags"
file = "tags.json"
put = { into = "/tags" }
[[lookup]]
name = "paint-id"
title = "paint-id"
file = "yard.xml"
ask = { at = "/Yard/Paints/Paint" }
key = "name"
value = "id"
seat = "paints"
text = '<Paint id="{next:paint}" name="{key}"/>'
"""


@pytest.fixture
def yard(tmp_path: Path) -> Path:
    """A shed by the number 41, painted 3, with a skin 12 and a shelf 3 of which no rule knows; a crane beside it."""
    root = tmp_path / "yard"
    root.mkdir()
    (tmp_path / "yard.toml").write_text(YARD, encoding="utf-8")
    (root / "hookset.toml").write_text('[map]\nname = "yard"\nlayout = "../yard.toml"\n', encoding="utf-8")
    (root / "yard.xml").write_text(
        '<Yard>\n  <Paints>\n    <Paint id="3" name="dye/tar"/>\n  </Paints>\n  <Things>\n'
        '    <Thing id="41" called="the long shed" shelf="3" paint="3" skin="12" key="dull"/>\n'
        '    <Thing id="42" called="the crane" beside="41" paint="3" key="dull"/>\n'
        "  </Things>\n</Yard>\n",
        encoding="utf-8",
    )
    tags = [{"tag": "dry", "thing": 41}, {"tag": "pair", "thing": 41, "other": 42}, {"tag": "high", "thing": 42}]
    (root / "tags.json").write_text(json.dumps({"tags": tags}, indent=2), encoding="utf-8")
    (root / "walk.lua").write_text("visit(42)\nvisit(41)\n", encoding="utf-8")
    return root


def test_numbers_are_given_anew_only_where_a_rule_reads_them(yard: Path, tmp_path: Path) -> None:
    data = run_hookset(tmp_path, "lift", "41", "--from", str(yard), "--call", "shed", "--json").data
    (shed,) = [one["text"] for one in data["entries"] if one["seat"] == "things"]
    assert shed == (
        '<Thing id="{value:thing-41}" called="the long shed" shelf="3" paint="{listed:paint-id:dye/tar}" skin="12" key="dull"/>'
    )
    assert [(one["name"], one["value"], one["ids"]) for one in data["numbers_copied"]] == [
        ("Thing@shelf", "3", "the paint 3"),
        ("Thing@skin", "12", ""),
    ]
    sheet = (tmp_path / "shed/hooksheet.toml").read_text(encoding="utf-8")
    assert "Thing@skin 12" in sheet


def test_what_is_about_the_thing_alone_comes_along_and_the_rest_is_told(yard: Path, tmp_path: Path) -> None:
    data = run_hookset(tmp_path, "lift", "41", "--from", "yard", "--call", "shed", "--json").data
    (tag,) = [one["record"] for one in data["entries"] if one["seat"] == "tags"]
    assert tag == {"tag": "dry", "thing": "{value:thing-41|number}"}
    places = [(one["path"], one["line"]) for one in data["left_behind"]]
    assert places == [("tags.json", 9), ("walk.lua", 2), ("yard.xml", 7)]
    other = tmp_path / "other"
    shutil.copytree(yard, other)
    ran = run_hookset(other, "install", "../shed", "--anyway")
    assert ran.code == 0, ran.err
    assert '"thing": 43' in (other / "tags.json").read_text(encoding="utf-8")
    assert '<Thing id="43"' in (other / "yard.xml").read_text(encoding="utf-8")
    left = run_hookset(tmp_path, "lift", "41", "--from", "yard", "--leave", "tags", "--preview", "--json").data
    assert [one for one in left["entries"] if one["seat"] == "tags"] == []


def test_a_thing_is_named_by_what_only_it_has(yard: Path, tmp_path: Path) -> None:
    def lifted(name: str) -> Ran:
        return run_hookset(tmp_path, "lift", name, "--from", str(yard), "--preview", "--json")

    for name in ("the long shed", "yard.xml:6", "12"):
        (shed,) = [one["text"] for one in lifted(name).data["entries"] if one["seat"] == "things"]
        assert 'called="the long shed"' in shed, name
    both = lifted("dull")
    assert (both.code, "yard.xml:6" in both.out, "yard.xml:7" in both.out) == (2, True, True)
    assert lifted("yard.xml:99").code == 2
