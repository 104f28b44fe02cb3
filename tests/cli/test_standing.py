"""Where things stand, at the command line: found, drawn, placed, and what is refused."""

from __future__ import annotations

import json
import re
import shutil
import struct
from collections.abc import Callable
from pathlib import Path

import pytest

from tests.conftest import Ran, run_hookset, snapshot
from tests.shipped import assert_told, judged, replaced, started
from tests.test_house import DATA

Run = Callable[..., Ran]


def edited(path: str, change: Callable[[dict], None]) -> Callable[[Path], object]:  # type: ignore[type-arg]
    def make(root: Path) -> None:
        data = json.loads((root / path).read_text())
        change(data)
        (root / path).write_text(json.dumps(data, indent=2))

    return make


def node(key: str, **values: object) -> Callable[[Path], object]:
    """Other values for a placed object of the scene; `extras` are added to its own."""

    def change(data: dict) -> None:  # type: ignore[type-arg]
        (one,) = [each for each in data["nodes"] if each.get("extras", {}).get("key") == key]
        extras = values.pop("extras", {})
        assert isinstance(extras, dict)
        one["extras"] |= extras
        one.update(values)

    return edited("scene/brackwater.gltf", change)


def more(**values: object) -> Callable[[Path], object]:
    def change(data: dict) -> None:  # type: ignore[type-arg]
        data["scenes"][0]["nodes"].append(len(data["nodes"]))
        data["nodes"].append(values)

    return edited("scene/brackwater.gltf", change)


SCENE, THINGS, PLACES = "scene/brackwater.gltf", "scene/basin.xml", "tables/places.csv"
COURSE, ABOUT, OBJECTS = "scene/course.xml", "about.yaml", "objects.yaml"
FAULTS: list[tuple[str, Callable[[Path], object], str, str, str]] = [
    # layout, fault, code, file, on what
    ("brackwater", node("landing_1", translation=[60.0, 1.0, -14.0]), "out-of-place", SCENE, "landing_1"),
    ("brackwater", node("landing_2", translation=[-8.0, -9.0, -14.0]), "out-of-place", SCENE, "landing_2"),
    ("brackwater", node("landing_3", translation=[0.0, 1.0, 2.0]), "out-of-place", SCENE, "landing_3"),
    ("brackwater", node("landing_4", translation=[35.0, 1.0, 0.0]), "out-of-place", SCENE, "landing_4"),
    ("brackwater", node("landing_2", translation=[-11.5, 1.0, -14.0]), "too-close", SCENE, "landing_1"),
    ("brackwater", node("lock_wheel", translation=[-39.0, 1.0, -9.0]), "too-far", SCENE, "lock_wheel"),
    ("brackwater", node("gull_rock", translation=[-28.0, 0.4, -15.0]), "reaches-too-far", SCENE, "gull_rock"),
    ("brackwater", node("gull_rock", extras={"reach": 90.0}), "reaches-too-far", SCENE, "gull_rock"),
    ("brackwater", node("lamp_2", translation=[-27.0, 1.0, 8.5]), "same-spot", SCENE, "lamp_2"),
    ("brackwater", node("lamp_3", translation=["a", 1, 2]), "unreadable-place", SCENE, "a"),
    ("brackwater", node("lamp_3", translation=[1.0, 2.0]), "unreadable-place", SCENE, "2 numbers"),
    ("brackwater", node("lamp_4", translation="1 2 east"), "unreadable-place", SCENE, "1 2 east"),
    ("brackwater", node("lamp_4", translation=[1e999, 0, 0]), "unreadable-place", SCENE, ""),
    ("brackwater", node("lamp_5", rotation=[0, 0, "x", 1]), "unreadable-place", SCENE, "x"),
    ("brackwater", node("lamp_5", scale=[1, 0, 1]), "nothing-left", SCENE, "its size"),
    ("brackwater", node("lamp_6", matrix=[0] * 16), "nothing-left", SCENE, "the matrix"),
    ("brackwater", node("lamp_6", matrix=[1, 2, 3]), "unreadable-place", SCENE, "3 numbers"),
    ("brackwater", node("lamp_7", children=[99]), "stands-by-nothing", SCENE, "99"),
    ("brackwater", node("lamp_7", children=[19]), "stands-by-itself", SCENE, "lamp_7"),
    ("brackwater", node("gull_rock", extras={"reach": "far"}), "unreadable-place", SCENE, "far"),
    (
        "brackwater",
        more(translation=[1, 1, -9], extras={"key": "lock_gate_2", "class": "moving-part"}),
        "",
        SCENE,
        "",
    ),
    ("brackwater", replaced("zones.toml", "[[-40, -24], [40, -24]", "[[-40, -24, 3], [40, -24]"), "unreadable-place", "zones.toml", "points of two and of three numbers"),
    ("brackwater", replaced("zones.toml", "width = 4.0", 'width = "wide"'), "unreadable-place", "zones.toml", "wide"),
    ("scene-graph", replaced(THINGS, 'at="4 0 -2"', 'at="4 0"'), "unreadable-place", THINGS, "4 0"),
    ("scene-graph", replaced(THINGS, 'at="6 1 -2"', 'at="6 nan -2"'), "unreadable-place", THINGS, "6 nan -2"),
    ("scene-graph", replaced(THINGS, 'at="6 1 -2"', 'at="6 1 -2" turn="left"'), "unreadable-place", THINGS, "left"),
    ("scene-graph", replaced(THINGS, 'at="6 1 -2"', 'at="6 1 -2" size="0"'), "nothing-left", THINGS, "its size"),
    ("type-table", replaced(PLACES, "landing;3;0;2", "landing;0.5;0;2", "cp1252"), "too-close", PLACES, "landing"),
    ("type-table", replaced(PLACES, "Shed;22;0;-3;270", "shed;10.5;0;-3;90", "cp1252"), "same-spot", PLACES, "shed"),
    ("type-table", replaced(PLACES, "Shed;22;0;-3;270", "Shed;10.5;0;-3;90", "cp1252"), "same-spot", PLACES, "Shed"),
    ("type-table", replaced(PLACES, "landing;3;0;2", "Landing;0.5;0;2", "cp1252"), "too-close", PLACES, "landing"),
    ("mirrored-folders", replaced(ABOUT, '"8.0 1.3 9.5"', '"4.0 1.2 9.5"'), "same-spot", ABOUT, "oak_post"),
    ("numbered-marks", replaced(COURSE, 'at="66 -2"', 'at="64 -7"'), "too-close", COURSE, "red_2"),
    ("numbered-marks", replaced(COURSE, '"blue" at="4 0"', '"blue" at="0.5 0"'), "too-close", COURSE, "red"),
    ("paired-modules", replaced(OBJECTS, "at: [24.0, -1.0, 0.0]", "at: [24.0, -1.0, 0.0]\n    stands_on: quay"), "stands-by-nothing", OBJECTS, "quay"),
    ("paired-modules", replaced(OBJECTS, "at: [24.0, -1.0, 0.0]", "at: [24.0, .nan, 0.0]"), "unreadable-place", OBJECTS, ""),
    ("paired-modules", replaced(OBJECTS, "opens: [lock_gate]", "opens: [lock_gate]\n    stands_on: lock_wheel"), "stands-by-itself", OBJECTS, "lock_wheel"),
]  # fmt: skip
CODES = {fault[2] for fault in FAULTS} - {""}


@pytest.mark.parametrize("number", range(len(FAULTS)))
def test_a_planted_fault_is_found_on_what_it_is_in(number: int, tmp_path: Path) -> None:
    layout, fault, code, path, name = FAULTS[number]
    root = started(layout, tmp_path)
    fault(root)
    found = [one for one in judged(root).findings if one.code in CODES]
    if not code:
        assert not found
        return
    assert code in {one.code for one in found}, [(one.code, one.message) for one in judged(root).findings]
    assert [one for one in found if one.code == code and one.spot.path == path and (not name or one.name == name)], [
        (one.code, one.name, one.message) for one in found
    ]


@pytest.mark.parametrize("layout", sorted({fault[0] for fault in FAULTS}))
def test_none_is_found_on_a_clean_map(layout: str, tmp_path: Path) -> None:
    assert not [one for one in judged(started(layout, tmp_path)).findings if one.code in CODES]


def test_thirty_faults_are_planted() -> None:
    assert sum(bool(fault[2]) for fault in FAULTS) >= 30


def test_a_copy_that_works_on_the_first_ones_part(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    assert run_hookset(root, "place", "lock_wheel", "lock_gate", "--beside", "lock_wheel", "--by", "0,0,-4").code == 0
    assert not judged(root).findings
    node("lock_wheel_2", extras={"target": "lock_gate"})(root)
    assert_told(root, "link-to-original", SCENE, 0)
    (told,) = [one for one in judged(root).findings if one.code == "link-to-original"]
    assert told.instead == ("lock_gate_2",)


def test_where_things_stand(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    ran = run_hookset(root, "where", "lock_wheel", "--json")
    (thing,) = ran.data["things"]
    assert (thing["class"], thing["at"], thing["inside"]) == ("lever", [24, 1, -9], ["harbour"])
    assert thing["works_on"] == [{"name": "lock_gate", "distance": pytest.approx(9.21954)}]
    assert run_hookset(root, "where", "lock_gate", "--json").data["things"][0]["worked_on_by"] == ["lock_wheel"]
    # By class, by a pattern, by a callback that it names.
    assert len(run_hookset(root, "where", "lamp", "--json").data["things"]) == 8
    assert len(run_hookset(root, "where", "landing*", "gull_rock", "--json").data["things"]) == 5
    assert [one["key"] for one in run_hookset(root, "where", "harbour.ring", "--json").data["things"]] == ["bell_post"]
    assert run_hookset(root, "where", "nobody").code == 2
    assert len(run_hookset(root, "where", "--json").data["things"]) == 21


@pytest.mark.usefixtures("demo")
def test_what_a_pack_has_set_is_known(hookset: Run) -> None:
    assert hookset("install", "../packs/lift-bridge.zip").code == 0
    things = hookset("where", "--pack", "lift-bridge", "--json").data["things"]
    assert {one["key"] for one in things} == {"bridge_span", "bridge_lever"}
    assert hookset("where", "--pack", "nobody").code == 2


def size_of(file: Path) -> tuple[int, int]:
    data = file.read_bytes()
    assert data[:8] == b"\x89PNG\r\n\x1a\n"
    wide, high = struct.unpack(">II", data[16:24])
    return wide, high


@pytest.mark.parametrize(
    "options",
    [(), ("--side",), ("--around", "lock_wheel", "--within", "9"), ("--weight",), ("--names", "quay_bell")],
    ids=["from above", "from the side", "a part", "weight", "names"],
)
def test_figures(options: tuple[str, ...], tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    before = snapshot(root)
    for name in ("map.png",) if options else ("map.png", "again.png", "map.svg"):
        assert run_hookset(root, "draw", f"../{name}", *options).code == 0
    wide, high = size_of(tmp_path / "map.png")
    assert 700 <= wide <= 1700
    assert 350 <= high <= 1400
    if not options:
        same = (tmp_path / "map.png").read_bytes() == (tmp_path / "again.png").read_bytes()
        assert same, "the same map, the same bytes"
        assert b"<svg" in (tmp_path / "map.svg").read_bytes()
    changed = {path: data for path, data in snapshot(root).items() if not str(path).startswith(".hookset")}
    assert changed == {path: data for path, data in before.items() if not str(path).startswith(".hookset")}


@pytest.mark.no_cover
@pytest.mark.parametrize(
    "layout", ["scene-graph", "type-table", "mirrored-folders", "numbered-marks", "paired-modules"]
)
def test_every_map_can_be_drawn(layout: str, tmp_path: Path) -> None:
    root = started(layout, tmp_path)
    assert run_hookset(root, "draw", "../map.png").code == 0
    assert size_of(tmp_path / "map.png")[0] > 300
    assert run_hookset(root, "draw", "../side.png", "--side").code == (2 if layout == "numbered-marks" else 0)


@pytest.mark.parametrize(
    ("arguments", "code"),
    [
        (("draw", "map.bmp"), 2),
        (("draw", "map.toml/map.png"), 3),
        (("draw", "map.png", "--around", "nobody"), 2),
        (("draw", "map.png", "--weight", "--names", "quay_bell"), 2),
        (("place", "nobody", "--at", "1,2,3"), 2),
        (("place", "lamp_1", "--at", "1,nan,3"), 2),
        (("place", "lamp_1", "--at", "1,east,3"), 2),
        (("place", "lamp_1"), 2),
        (("place", "lamp_1", "--at", "1,2,3", "--line-to", "4,5,6"), 2),
        (("place", "lamp_1", "--at", "1,2,3", "--line-to", "9,9,9", "--every", "0.0001"), 2),
        (("move", "lamp_1", "--at", "1,2,3", "--group", "crew"), 2),
        (("move", "landing_1", "--at", "90,1,1"), 1),
        (("take", "nobody"), 2),
        (("install", "../packs/lift-bridge.zip", "--at", "bridge=east"), 2),
        (("install", "../packs/lift-bridge.zip", "--at", "brigde=1,2,3"), 2),
    ],
)
def test_what_is_refused_leaves_the_map_alone(arguments: tuple[str, ...], code: int, demo: Path, hookset: Run) -> None:
    before = snapshot(demo)
    ran = hookset(*arguments)
    assert ran.code == code, (ran.out, ran.err)
    assert "Traceback" not in ran.err
    after = {path: data for path, data in snapshot(demo).items() if not str(path).startswith(".hookset")}
    assert after == {path: data for path, data in before.items() if not str(path).startswith(".hookset")}


def test_places_out_of_a_table(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    (tmp_path / "lamps.csv").write_text("# three more\nx;y;z;turn\n1;1;20;90\n5;1;20;\n9;1;20;0\n")
    assert run_hookset(root, "place", "lamp_8", "--list", "../lamps.csv").code == 0
    things = {one["key"]: one for one in run_hookset(root, "where", "lamp", "--json").data["things"]}
    assert [things[f"lamp_{number}"]["at"] for number in (9, 10, 11)] == [[1, 1, 20], [5, 1, 20], [9, 1, 20]]
    assert things["lamp_9"]["turn"] == [90]
    (tmp_path / "lamps.csv").write_text("1,1,20\n5,east,20\n")
    ran = run_hookset(root, "place", "lamp_8", "--list", "../lamps.csv")
    assert ran.code == 2
    assert "lamps.csv:2" in ran.err


def test_in_the_place_of_something(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    assert run_hookset(root, "place", "bell_post", "--instead-of", "lamp_4").code == 0
    things = {one["key"]: one for one in run_hookset(root, "where", "--json").data["things"]}
    assert "lamp_4" not in things
    assert things["bell_post_2"]["at"] == [0, 1, 8.5]
    assert run_hookset(root, "undo").code == 0
    assert "lamp_4" in {one["key"] for one in run_hookset(root, "where", "--json").data["things"]}


def test_a_preview_writes_nothing_and_shows_where(tmp_path: Path) -> None:
    root = started("brackwater", tmp_path)
    before = snapshot(root)
    ran = run_hookset(root, "place", "lamp_8", "--at", "1,1,20", "--preview", "--json")
    assert ran.code == 0
    (packs,) = ran.data["packs"]
    assert packs["values"] == [{"what": "lamp_8", "value": "lamp_9", "by": "1,1,20"}]
    assert ran.data["written"] is False
    assert {path: data for path, data in snapshot(root).items() if ".hookset" not in str(path)} == {
        path: data for path, data in before.items() if ".hookset" not in str(path)
    }


@pytest.mark.usefixtures("demo")
def test_an_attribute_that_an_editor_left_out_is_told(demo: Path, hookset: Run) -> None:
    """A scene that was opened and saved again by a program that does not know what ties a lever to its script."""
    assert hookset("install", "../packs/lift-bridge.zip").code == 0
    assert not lost(hookset)
    file = demo / "scene/brackwater.gltf"
    data = json.loads(file.read_text())
    (lever,) = [one for one in data["nodes"] if one.get("extras", {}).get("key") == "bridge_lever"]
    gone = [way for way in lever["extras"] if way != "key"]
    lever["extras"] = {"key": "bridge_lever"}
    lever["translation"][0] += 1.5
    file.write_text(json.dumps(data, indent=2))
    assert {f"extras/{way}" for way in gone} == {way for name, way in lost(hookset) if name == "bridge_lever"}
    # What the check says to do.
    assert hookset("take", "bridge_lever", "--anyway").code == 0
    assert hookset("install", "../packs/lift-bridge.zip").code == 0
    assert not lost(hookset)


def lost(hookset: Run) -> list[tuple[str, str]]:
    found = hookset("check", "--json").data["findings"]
    return [(one["name"], one["message"].split("`")[3]) for one in found if one["code"] == "attribute-lost"]


MOVED = [
    ("brackwater", "fog-bell", "buoys", "30,1,20", {"fog_bell_1": [30, 1, 20], "fog_bell_2": [44, 1, 15]}),
    ("brackwater", "lamp-row", "row", "-30,1,-9.5@90", {"row_lamp_1": [-30, 1, -9.5], "row_lamp_3": [-30, 1, -21.5]}),
    ("type-table", "heronry", "herons", "3,0.5,4", {"heron": [3, 0.5, 4]}),
    ("numbered-marks", "regatta", "marks", "10,20", {"green_1": [10, 20], "green_2": [46, 4]}),
]


@pytest.mark.parametrize(("layout", "pack", "place", "at", "expected"), MOVED, ids=[one[1] for one in MOVED])
def test_packs_of_every_form_go_where_the_builder_says(
    layout: str, pack: str, place: str, at: str, expected: dict[str, list[float]], tmp_path: Path
) -> None:
    root = started(layout, tmp_path)
    before = snapshot(root)
    source = newest(pack)
    shutil.copytree(source, tmp_path / pack)
    sheet = tmp_path / pack / "hooksheet.toml"
    # What a newer version calls otherwise stays so when the pack goes.
    said = re.sub(r"(?s)\[\[renamed\]\].*?(?=\n\[)", "", sheet.read_text(encoding="utf-8"))
    sheet.write_text(said, encoding="utf-8")
    assert run_hookset(root, "install", f"../{pack}", "--at", f"{place}={at}", "--anyway").code == 0
    for key, where in expected.items():
        found = run_hookset(root, "where", key, "--pack", pack, "--json").data["things"]
        assert where in [one["at"] for one in found], found
    # The next version says more of it, and it stays where it was put.
    version = said.split('version = "')[1].split('"')[0]
    newer = said.replace(f'version = "{version}"', 'version = "9.0"', 1).replace('slot="', 'title="mark" slot="')
    sheet.write_text(newer, encoding="utf-8")
    assert run_hookset(root, "upgrade", f"../{pack}", "--anyway").code == 0
    for key, where in expected.items():
        found = run_hookset(root, "where", key, "--pack", pack, "--json").data["things"]
        assert where in [one["at"] for one in found], found
    assert run_hookset(root, "remove", pack).code == 0
    assert {path: data for path, data in snapshot(root).items() if not path.startswith(".hookset")} == before


def newest(pack: str) -> Path:
    return max((DATA / "packs").glob(f"{pack}*"))
