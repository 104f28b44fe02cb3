"""The shipped layout of folders that mirror the base game's, on its own small map."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path

import pytest
import yaml

from hookset.checks import judge
from hookset.project import open_project
from tests.conftest import run_hookset, snapshot
from tests.core.test_install import write_pack
from tests.shipped import assert_told, replaced, started


@pytest.fixture
def ropewalk(tmp_path: Path) -> Path:
    return started("mirrored-folders", tmp_path)


def test_the_map_is_recognised_and_clean(ropewalk: Path) -> None:
    project = open_project(ropewalk)
    assert (project.layout.name, project.file.map.name, project.file.map.version) == (
        "mirrored-folders",
        "brackwater-ropewalk",
        "7",
    )
    verdict = judge(project.tree, project.layout, project.stock)
    assert verdict.findings == ()
    assert [path for path in verdict.counts.unread if not path.endswith(".bin")] == []


ABOUT, POST, SHED, FERRY = (
    "about.yaml",
    "quay/posts/oak_post.yaml",
    "quay/sheds/rope_shed.yaml",
    "craft/boats/ferry.yaml",
)
FAULTS = [
    ("thing that is nowhere", "missing-name", ABOUT, 11, replaced(ABOUT, "thing: rope_shed", "thing: rope_shack")),
    ("thing twice", "defined-twice", SHED, 2, replaced(FERRY, "thing: ferry", "thing: rope_shed")),
    ("thing of the base game's name", "defined-in-stock", POST, 1, replaced(POST, "thing: oak_post", "thing: lamp_iron")),
    ("shape misspelt", "missing-file", FERRY, 3, replaced(FERRY, "shape: ferry", "shape: fery")),
    ("shape in another letter case", "wrong-case", SHED, 4, replaced(SHED, "rope_shed.gltf", "Rope_shed.gltf")),
    ("sort that the game has not", "wrong-folder", FERRY, 2, replaced(FERRY, "sort: boat", "sort: raft")),
    ("folder of another sort", "wrong-folder", "quay/posts/ferry.yaml", 2, lambda root: [shutil.move(file, root / "quay/posts" / file.name) for file in (root / "craft/boats").glob("ferry*")]),
    ("way that the game has not", "missing-name", FERRY, 4, replaced(FERRY, "moves: swings", "moves: swinging")),
    ("link to a noise that is nowhere", "missing-name", POST, 6, replaced(POST, "rope_creak", "rope_squeak")),
    ("link to a thing by a noise's word", "missing-name", POST, 7, replaced(POST, "thing_tied", "noise_tied")),
    ("link by a word that the game has not", "bad-record", POST, 7, replaced(POST, "thing_tied", "thong_tied")),
    ("deed that nobody does", "missing-name", SHED, 7, replaced("code/walk.lua", '"wind_rope"', '"wind_ropes"')),
    ("script that is not loaded any more", "not-loaded", SHED, 7, replaced(ABOUT, "code: [walk]", "code: []")),
    ("picture that a script names", "missing-file", "code/walk.lua", 4, replaced("code/walk.lua", "planks.png", "plank.png")),
    ("noise's file deleted", "missing-file", "noises.yaml", 2, lambda root: (root / "noises/creak.wav").unlink()),
    ("noise without an end", "bad-record", "noises.yaml", 4, replaced("noises.yaml", "  until: left\n", "")),
    ("thing that floats", "off-the-ground", ABOUT, 9, replaced(ABOUT, "4.0 1.2 9.5", "4.0 4.2 9.5")),
    ("thing under the ground", "off-the-ground", ABOUT, 13, replaced(ABOUT, "6 1.1 8", "6 -1.1 8")),
    ("place with a number lacking", "bad-record", ABOUT, 11, replaced(ABOUT, "12 1.4 3", "12 1.4")),
    ("weight of nothing", "bad-record", FERRY, 5, replaced(FERRY, "900.5", "0")),
]  # fmt: skip


@pytest.mark.parametrize(
    ("code", "path", "line", "make"), [pytest.param(*fault[1:], id=fault[0].replace(" ", "-")) for fault in FAULTS]
)
def test_faults_are_found_where_they_are(
    code: str, path: str, line: int, make: Callable[[Path], object], ropewalk: Path
) -> None:
    make(ropewalk)
    assert_told(ropewalk, code, path, line)


def test_the_right_folder_is_learned_from_the_base_game_s_own_files(ropewalk: Path) -> None:
    game = ropewalk.parent / "game"
    for path, sort in (("quay/lamps/a.yaml", "lamp"), ("quay/lamps/b.yaml", "lamp"), ("roads/lamps/c.yaml", "lamp")):
        (game / path).parent.mkdir(parents=True, exist_ok=True)
        (game / path).write_text(f"thing: lamp_{Path(path).stem}\nsort: {sort}\nshape: x\n")
    made = run_hookset(ropewalk, "stock", "make", "../game", "--to", "../game.stock", "--layout", "mirrored-folders")
    assert made.code == 0, made.err
    project = ropewalk / "hookset.toml"
    project.write_text(project.read_text().replace('"../base.stock.json"', '"../base.stock.json", "../game.stock"'))
    (ropewalk / "quay/posts/lamp.yaml").write_text("thing: lamp_new\nsort: lamp\nshape: oak_post\n")
    told = run_hookset(ropewalk, "check")
    assert "`lamp` lies in `quay/posts` here; the game keeps its own in `quay/lamps` or `roads/lamps`" in told.out
    (ropewalk / "roads/lamps").mkdir(parents=True)
    (ropewalk / "quay/posts/lamp.yaml").rename(ropewalk / "roads/lamps/lamp.yaml")
    assert "wrong-folder" not in run_hookset(ropewalk, "check").out


def test_backslashes_are_taken_where_the_game_takes_them(ropewalk: Path) -> None:
    replaced("code/walk.lua", "quay/sheds/planks.png", r"quay\\sheds\\planks.png")(ropewalk)
    assert run_hookset(ropewalk, "check").code == 0


SHEET = """
[pack]
name = "lamp-row"
version = "1.0"
layouts = ["mirrored-folders"]
[[files]]
from = "content/**"
[[hook]]
seat = "noises"
record = { lamp_hiss = { file = "hiss.wav", times = 1 } }
[[hook]]
seat = "stands"
record = { thing = "row_lamp", at = "6 1.2 4" }
"""


def test_a_pack_is_set_in_and_taken_back(ropewalk: Path) -> None:
    post = "thing: row_lamp\nsort: lamp\nshape: row_lamp\nlinks:\n  noise_near: lamp_hiss\n"
    shape = (ropewalk / "quay/posts/oak_post.gltf").read_text().replace("planks.png", "../posts/planks.png")
    shape = shape.replace("oak_post.bin", "../posts/oak_post.bin")
    write_pack(
        ropewalk.parent / "lamp-row",
        SHEET,
        {"content/quay/lamps/row_lamp.yaml": post, "content/quay/lamps/row_lamp.gltf": shape},
    )
    (ropewalk.parent / "lamp-row/content/noises").mkdir()
    shutil.copy(ropewalk / "noises/creak.wav", ropewalk.parent / "lamp-row/content/noises/hiss.wav")
    before = snapshot(ropewalk)
    installed = run_hookset(ropewalk, "install", "../lamp-row")
    assert installed.code == 0, installed.err
    assert run_hookset(ropewalk, "check").code == 0, run_hookset(ropewalk, "check").out
    noises = yaml.safe_load((ropewalk / "noises.yaml").read_text())
    assert noises["lamp_hiss"] == {"file": "hiss.wav", "times": 1}
    assert run_hookset(ropewalk, "undo").code == 0
    assert snapshot(ropewalk) == before
