"""The repository keeps its own rules."""

from __future__ import annotations

import importlib.util
import subprocess
import sys
from pathlib import Path

import pygltflib
import pytest
from lupa.lua54 import LuaRuntime
from PIL import Image

from hookset.demo import lay_out

ROOT = Path(__file__).parent.parent
DATA = ROOT / "src/hookset/demo/data"


def tool(name: str):  # type: ignore[no-untyped-def]
    spec = importlib.util.spec_from_file_location(name, ROOT / "tools" / f"{name}.py")
    assert spec is not None and spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    sys.modules[name] = module
    spec.loader.exec_module(module)
    return module


def test_demo_assets_are_those_that_the_script_makes(tmp_path: Path) -> None:
    (tmp_path / "brackwater").mkdir()
    for part in ("scripts", "texts", "sounds"):
        for file in (DATA / "brackwater" / part).rglob("*.*"):
            copy = tmp_path / file.relative_to(DATA)
            copy.parent.mkdir(parents=True, exist_ok=True)
            copy.write_bytes(file.read_bytes())
    tool("make_demo_assets").make(tmp_path)
    made = {p.relative_to(tmp_path): p.read_bytes() for p in tmp_path.rglob("*.*") if p.is_file()}
    assert len([path for path in made if path.suffix in (".png", ".wav", ".gltf", ".bin")]) > 25
    for path, data in made.items():
        assert (DATA / path).read_bytes() == data, path


def test_published_schemas_are_those_of_the_code(tmp_path: Path) -> None:
    tool("make_schemas").make(tmp_path)
    published = ROOT / "src/hookset/schemas"
    assert {p.name: p.read_text() for p in tmp_path.iterdir()} == {
        p.name: p.read_text() for p in published.glob("*.json")
    }


def test_demo_files_are_real_ones() -> None:
    for file in DATA.rglob("*.gltf"):
        model = pygltflib.GLTF2().load(str(file))
        assert model is not None and model.nodes and model.asset.version == "2.0"
        for accessor in model.accessors:
            view = model.bufferViews[accessor.bufferView]
            assert view.byteOffset + view.byteLength <= model.buffers[0].byteLength
    for file in DATA.rglob("*.png"):
        with Image.open(file) as picture:
            picture.load()
    lua = LuaRuntime()
    for file in DATA.rglob("*.lua"):
        lua.compile(file.read_bytes())


def test_the_demo_s_zips_are_alike_each_time(tmp_path: Path) -> None:
    for name in ("a", "b"):
        lay_out(tmp_path / name)
    for pack in ("lift-bridge", "fog-bell"):
        one, other = (tmp_path / name / "packs" / f"{pack}.zip" for name in ("a", "b"))
        assert one.read_bytes() == other.read_bytes()


def test_the_game_and_the_stock_list_of_its_map_name_the_same_things() -> None:
    import json

    stock = json.loads((DATA / "base.stock.json").read_text())
    game = json.loads((ROOT / "src/hookset/standin/base_game.json").read_text())
    names = {(group["kind"], group.get("side", "")): group["names"] for group in stock["names"]}
    assert names[("class", "")] == game["class"]
    assert names[("sound", "")] == game["sound"]
    assert names[("text", "")] == game["text"]
    assert {side: names[("script", side)] for side in ("server", "client")} == game["script"]


@pytest.mark.parametrize("name", ["click", "rich", "matplotlib"])
def test_the_core_imports_no_interface(name: str) -> None:
    code = f"import sys, hookset.planning, hookset.building, hookset.checks; sys.exit({name!r} in sys.modules)"
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0
