"""The shipped layout of one XML scene graph with a table of files by id, on its own small map."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from xml.etree import ElementTree

import pytest

from hookset.checks import judge
from hookset.project import open_project
from tests.conftest import run_hookset, snapshot
from tests.core.test_install import write_pack
from tests.shipped import assert_told, replaced, started


@pytest.fixture
def basin(tmp_path: Path) -> Path:
    return started("scene-graph", tmp_path)


def test_the_map_is_recognised_and_clean(basin: Path) -> None:
    project = open_project(basin)
    assert (project.layout.name, project.file.map.name, project.file.map.version) == (
        "scene-graph",
        "brackwater-basin",
        "5",
    )
    verdict = judge(project.tree, project.layout, project.stock)
    assert verdict.findings == ()
    assert [path for path in verdict.counts.unread if not path.endswith(".bin")] == []


SCENE = "scene/basin.xml"
FAULTS = [
    ("file's path misspelt", "missing-file", SCENE, 5, replaced(SCENE, "tide_gate.gltf", "tide_gat.gltf")),
    ("file's path in another letter case", "wrong-case", SCENE, 7, replaced(SCENE, "gate_groan", "Gate_groan")),
    ("listed script deleted", "missing-file", SCENE, 8, lambda root: (root / "code/basin.lua").unlink()),
    ("id that is not in the table", "missing-name", SCENE, 20, replaced(SCENE, 'form="2"', 'form="4"')),
    ("sound's id that is not in the table", "missing-name", SCENE, 16, replaced(SCENE, 'noise="3"', 'noise="33"')),
    ("id twice", "defined-twice", SCENE, 6, replaced(SCENE, '<Source no="2"', '<Source no="1"')),
    ("node twice", "defined-twice", SCENE, 20, replaced(SCENE, '"gate_wheel"', '"tide_gate"')),
    ("link misspelt", "missing-name", SCENE, 22, replaced(SCENE, '<link key="opens" is="tide_gate"', '<link key="opens" is="tidegate"')),
    ("function misspelt on a node", "missing-name", SCENE, 21, replaced(SCENE, "Basin.turn", "Basin.trun")),
    ("function renamed in the script", "missing-name", SCENE, 21, replaced("code/basin.lua", "Basin.turn", "Basin.spin")),
    ("script that the scene no longer lists", "not-loaded", SCENE, 20, replaced(SCENE, '    <Run source="7"/>\n', "")),
    ("include misspelt", "missing-file", "code/basin.lua", 2, replaced("code/basin.lua", '"clock"', '"clok"')),
    ("node misspelt in a script", "missing-name", "code/basin.lua", 6, replaced("code/basin.lua", '"tide_gate"', '"tide_gates"')),
    ("label lacking in one language", "missing-in-language", "texts/de.xml", 0, replaced("texts/de.xml", 'key="gate.wheel"', 'key="gate.weel"')),
    ("number that is none", "bad-record", SCENE, 18, replaced(SCENE, '"1200.5"', '"heavy"')),
    ("flag that is none", "bad-record", SCENE, 17, replaced(SCENE, '"false"', '"no"')),
    ("number without its key", "bad-record", SCENE, 18, replaced(SCENE, 'number key="weight"', "number")),
    ("node not closed", "unreadable", SCENE, 0, replaced(SCENE, "    </Thing>\n    <Thing key=\"water", "    <Thing key=\"water")),
    ("scene misspelt in the descriptor", "missing-file", "world.json", 4, replaced("world.json", "basin.xml", "basins.xml")),
]  # fmt: skip


@pytest.mark.parametrize(
    ("code", "path", "line", "make"), [pytest.param(*fault[1:], id=fault[0].replace(" ", "-")) for fault in FAULTS]
)
def test_faults_are_found_where_they_are(
    code: str, path: str, line: int, make: Callable[[Path], object], basin: Path
) -> None:
    make(basin)
    assert_told(basin, code, path, line)


SHEET = """
[pack]
name = "silt"
version = "0.9"
layouts = ["scene-graph"]
[[files]]
from = "content/**"
[[hook]]
seat = "files"
text = '<Source no="20" from="code/silt.lua"/>'
[[hook]]
seat = "scripts"
text = '<Run source="20"/>'
[[hook]]
seat = "water"
text = '''
<Thing key="silt_bank" form="1" at="0 -2 0">
  <call key="onUse" is="Silt.dig"/>
  <text key="label" is="silt.bank"/>
</Thing>
'''
[[hook]]
seat = "texts"
[hook.each]
en = '<Text key="silt.bank">Silt</Text>'
de = '<Text key="silt.bank">Schlick</Text>'
"""


def test_a_draft_copies_no_thing_of_the_map_to_have_a_script_loaded(basin: Path) -> None:
    # Nothing here names a script that is a thing of its own, but for what the map has made for itself.
    scene = basin / SCENE
    lone = '    <Thing key="gong" form="2" at="1 2 3"><call key="onUse" is="gong"/></Thing>\n'
    scene.write_text(scene.read_text().replace("  </Things>", lone + "  </Things>"))
    (basin / "code/gong.lua").write_text("function gong(who) end\n")
    pack = basin.parent / "piles"
    (pack / "code").mkdir(parents=True)
    for name in ("pile", "winch"):
        (pack / f"code/{name}.lua").write_text(f"function {name}(who) end\n")
    (pack / "readme.txt").write_text("Copy the folder code into your map.\n")
    data = run_hookset(basin, "draft", "../piles", "--show", "--json").data
    assert (data["hook"], data["place"]) == ([], [])
    assert [one for one in data["decide"] if "code/pile.lua" in one and "code/winch.lua" in one]


def test_a_pack_is_set_in_where_order_matters_and_taken_back(basin: Path) -> None:
    write_pack(basin.parent / "silt", SHEET, {"content/code/silt.lua": "Silt = {}\nfunction Silt.dig(who) end\n"})
    before = snapshot(basin)
    installed = run_hookset(basin, "install", "../silt")
    assert installed.code == 0, installed.err
    assert run_hookset(basin, "check").code == 0
    scene = (basin / SCENE).read_text()
    things = ElementTree.fromstring(scene).find("Things")
    assert things is not None
    assert [thing.get("key") for thing in things] == ["basin", "silt_bank", "water_surface"]
    assert '    <Thing key="silt_bank" form="1" at="0 -2 0">\n      <call key="onUse"' in scene
    assert '  <Text key="silt.bank">Schlick</Text>\n</Texts>' in (basin / "texts/de.xml").read_text(encoding="utf-8")
    assert "nothing was written" in run_hookset(basin, "install", "../silt").out
    assert run_hookset(basin, "undo").code == 0
    assert snapshot(basin) == before


def test_many_things_are_told_of_as_each_is(basin: Path) -> None:
    scene = basin / SCENE
    turns = ("0 0 0", "0 40 0", "30 0 0", "10 20 30", "0 270 0", "90 90 0")
    rows = "".join(
        f'    <Thing key="post_{number}" form="1" at="{number % 17} {number % 5} {number // 9}" turn="{turn}"/>\n'
        for number, turn in enumerate(turns * 50)
    )
    scene.write_text(scene.read_text().replace("  </Things>", rows + "  </Things>"))
    found = {one["key"]: one for one in run_hookset(basin, "where", "--json").data["things"]}
    for name in ("post_0", "post_1", "post_2", "post_3", "post_94", "post_95", "tide_gate"):
        (alone,) = run_hookset(basin, "where", name, "--json").data["things"]
        assert found[name] | {"near": ()} == alone | {"near": ()}
        # Of the first ones it is told what is near.
        assert found[name]["near"] == alone["near"]
    assert [len(found[f"post_{number}"]["turn"]) for number in range(6)] == [0, 3, 1, 3, 3, 3]
