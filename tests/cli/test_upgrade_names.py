"""An upgrade to a version that calls things otherwise: nothing is lost, all of it is told, and removal takes it back."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

import pytest

from tests.conftest import Ran, snapshot
from tests.packs import made_pack

Run = Callable[..., Ran]

SHEET = """
[[hook]]
seat = "scene-objects"
record = {{ name = "{name}", translation = [1, 2, 3], extras = {{ key = "{name}" }} }}
[[hook]]
seat = "server-import"
text = "require('packs.post')"
[[files]]
from = "scripts/**"
to = "scripts"
"""
RENAMED = '[[renamed]]\nkind = "object"\nfrom = "post_old"\nto = "post_new"\n'


@pytest.fixture
def posts(tmp_path: Path) -> tuple[Path, Path]:
    """Two versions of a pack; the second calls its object otherwise, and places it at the same spot."""
    script = {"scripts/server/packs/post.lua": 'local p = object("{}")\n'}

    def version(name: str, number: str, more: str) -> Path:
        files = {path: text.format(name) for path, text in script.items()}
        return made_pack(tmp_path, "post", more + SHEET.format(name=name), files, number)

    return version("post_old", "1.0", ""), version("post_new", "2.0", RENAMED)


def objects(root: Path) -> list[str]:
    nodes = json.loads((root / "scene/brackwater.gltf").read_text())["nodes"]
    return [node["name"] for node in nodes if node["name"].startswith("post")]


def test_a_renamed_object_stays_and_goes_with_its_pack(demo: Path, posts: tuple[Path, Path], hookset: Run) -> None:
    before = snapshot(demo)
    assert hookset("install", str(posts[0])).code == 0
    main = demo / "scripts/server/main.lua"
    own = '\nlocal mine = object("post_old")\n'
    main.write_text(main.read_text() + own)
    upgraded = hookset("upgrade", str(posts[1]), "--json")
    assert upgraded.code == 0, upgraded.out
    assert objects(demo) == ["post_new"]
    assert 'object("post_new")' in main.read_text()
    told = {
        entry["path"] for pack in upgraded.data["packs"] for entry in pack["entries"] if entry["state"] == "replaced"
    }
    assert {"scene/brackwater.gltf", "scripts/server/main.lua"} <= told
    assert hookset("check").code == 0
    assert hookset("status").code == 0
    assert hookset("remove", "post", "--anyway").code == 0
    after = snapshot(demo)
    assert after.pop("scripts/server/main.lua").decode() == before.pop("scripts/server/main.lua").decode() + own
    assert after == before
