"""The shipped layout of a JSON table of types and a CSV list of instances, on its own small map."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.checks import judge
from hookset.project import open_project
from tests.conftest import run_hookset, snapshot
from tests.core.test_install import write_pack
from tests.shipped import assert_told, replaced, started


@pytest.fixture
def shore(tmp_path: Path) -> Path:
    return started("type-table", tmp_path)


def test_the_map_is_recognised_and_clean(shore: Path) -> None:
    project = open_project(shore)
    assert (project.layout.name, project.file.map.name, project.file.map.version) == (
        "type-table",
        "brackwater-shore",
        "1.4",
    )
    verdict = judge(project.tree, project.layout, project.stock, None, project.terms)
    assert verdict.findings == ()
    assert [path for path in verdict.counts.unread if not path.endswith(".bin")] == []


TYPES, PLACES, GROUPS = "tables/types.json", "tables/places.csv", "tables/groups.json"
FAULTS = [
    ("type that the table lacks", "missing-name", PLACES, 5, replaced(PLACES, "gull;4", "seagull;4")),
    ("type taken out of the table", "missing-name", PLACES, 5, replaced(TYPES, '{ "type": "gull", "shape": "gull", "rank": "wild", "sound": "gull", "reach": 30 },', "")),
    ("rank that the map does not know", "missing-name", TYPES, 5, replaced(TYPES, '"rank": "wild"', '"rank": "feral"')),
    ("type twice, in another letter case", "defined-twice", TYPES, 5, replaced(TYPES, '"type": "gull"', '"type": "SHED"')),
    ("group that is not there", "missing-name", PLACES, 3, replaced(PLACES, "90;shore", "90;shores")),
    ("one of two groups that is not there", "missing-name", PLACES, 4, replaced(PLACES, "shore + crew 1", "shore + crew 3")),
    ("group twice", "defined-twice", GROUPS, 4, replaced(GROUPS, '"crew 1", "owner"', '"shore", "owner"')),
    ("group without an owner", "bad-record", GROUPS, 3, replaced(GROUPS, '"shore", "owner": "nobody"', '"shore"')),
    ("shape misspelt", "missing-file", TYPES, 4, replaced(TYPES, '"shape": "shed"', '"shape": "sheds"')),
    ("shape in another letter case", "wrong-case", TYPES, 4, replaced(TYPES, '"shape": "shed"', '"shape": "Shed"')),
    ("sound deleted", "missing-file", TYPES, 5, lambda root: (root / "sounds/gull.wav").unlink()),
    ("sound without its reach", "bad-record", TYPES, 5, replaced(TYPES, ', "reach": 30', "")),
    ("position that is no number", "bad-record", PLACES, 3, replaced(PLACES, "10.5", "10,5")),
    ("turn of more than a full one", "bad-record", PLACES, 4, replaced(PLACES, ";270;", ";450;")),
    ("texture deleted", "missing-file", "shapes/shed.gltf", 0, lambda root: (root / "shapes/planks.png").unlink()),
    ("table with a bracket missing", "unreadable", TYPES, 0, replaced(TYPES, '"mark"],', '"mark",')),
    ("quote that is not closed", "unreadable", PLACES, 3, replaced(PLACES, "shed;10.5", '"shed;10.5')),
]  # fmt: skip


@pytest.mark.parametrize(
    ("code", "path", "line", "make"), [pytest.param(*fault[1:], id=fault[0].replace(" ", "-")) for fault in FAULTS]
)
def test_faults_are_found_where_they_are(
    code: str, path: str, line: int, make: Callable[[Path], object], shore: Path
) -> None:
    make(shore)
    assert_told(shore, code, path, line)


def test_each_player_needs_a_landing(shore: Path) -> None:
    project = shore / "hookset.toml"
    project.write_text(project.read_text().replace("players = 2", "players = 3"))
    told = run_hookset(shore, "check")
    assert told.code == 1
    assert "landing: 2 there, at least 3 must be, one for each player" in told.out


SHEET = """
[pack]
name = "heronry"
version = "1.0"
layouts = ["type-table"]
[[files]]
from = "content/**"
[[hook]]
seat = "types"
record = { type = "heron", shape = "heron", rank = "RANK" }
[[hook]]
seat = "places"
record = { type = "heron", x = 7, y = 0.5, z = -1, turn = 45, group = "shore" }
[[hook]]
seat = "places"
record = { type = "heron", x = 9, y = 0.5, z = -2, turn = 120, group = "shore" }
"""


def test_instances_come_with_their_type_and_a_rank_that_is_known(shore: Path) -> None:
    shape = (shore / "shapes/gull.gltf").read_text()
    files = {"content/shapes/heron.gltf": shape}
    before = snapshot(shore)
    write_pack(shore.parent / "heronry", SHEET.replace("RANK", "rare"), files)
    refused = run_hookset(shore, "install", "../heronry", "--json")
    assert (refused.code, refused.told) == (1, ["word-not-said"])
    assert snapshot(shore) == before
    write_pack(shore.parent / "heronry", SHEET.replace("RANK", "wild"), files)
    assert run_hookset(shore, "install", "../heronry").code == 0
    places = (shore / "tables/places.csv").read_bytes()
    assert places.endswith(b"heron;7;0.5;-1;45;shore\r\nheron;9;0.5;-2;120;shore\r\n")
    assert "Größe".encode("cp1252") in places
    assert run_hookset(shore, "check").code == 0
    assert run_hookset(shore, "undo").code == 0
    assert snapshot(shore) == before
