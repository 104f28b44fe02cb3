"""Learned from pictures that lie in a folder of each module, and are meant by their names alone."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from hookset.checks import judge
from hookset.config.layouts.load import load_layout
from hookset.learning import learned
from hookset.project import Ledger, Stock
from hookset.trees import FolderTree
from tests.core.test_learning import rules, written

LOT = random.Random(9)
MODULES = ("reed", "quay", "tide", "salt", "peat", "dune")
THINGS = {one: [f"{one}:{what}" for what in ("block", "brick", "slab", "post", "lamp", "rope")] for one in MODULES}
ALL = [name for names in THINGS.values() for name in names]
GROUPS = ("group:soft", "group:wet", "group:old")


def picture(name: str) -> str:
    return name.replace(":", "_")


def module(one: str, pictures: list[str]) -> str:
    lines = [f"{one} = {{}}"]
    for number, name in enumerate(THINGS[one]):
        pile = f"^{picture(LOT.choice(ALL))}_side.png" if number % 3 == 0 else ""
        lines.append(
            f"""shore.register_thing("{name}", {{
  tiles = {{ "{picture(name)}.png", "{picture(name)}_side.png" }},
  shown_as = "{picture(name)}.png{pile}",
  steps = {{ name = "{picture(LOT.choice(ALL[::4]))}_step", gain = 1 }},
}})
shore.register_craft({{
  output = "{name} {number + 2}",
  recipe = {{ "{LOT.choice(ALL)}", "{LOT.choice(ALL)}", "{LOT.choice(GROUPS)}" }},
}})"""
        )
        pictures += [f"{picture(name)}.png", f"{picture(name)}_side.png"]
    return "\n".join(lines)


@pytest.fixture
def shore(tmp_path: Path) -> FolderTree:
    """Modules with their things and pictures; one picture is not there, and one thing is misspelt."""
    files: dict[str, str] = {}
    for one in MODULES:
        pictures: list[str] = []
        files[f"modules/{one}/init.lua"] = module(one, pictures)
        files |= {f"modules/{one}/textures/{name}": "solid" for name in pictures}
        steps = [f"{picture(name)}_step.{number}" for name in THINGS[one] for number in (1, 2)]
        files |= {f"modules/{one}/sounds/{step}.ogg": "OggS" for step in steps}
    del files["modules/tide/textures/tide_slab_side.png"]
    files["modules/salt/init.lua"] += '\nshore.register_craft({ output = "salt:blok 4", recipe = {} })\n'
    return written(tmp_path / "map", files)


def test_pictures_are_meant_by_name_in_any_folder(shore: FolderTree) -> None:
    result = learned(shore, "shore")
    found = rules(result)
    assert found["call=shore.register_thing arg=2 field=tiles.*"] == ("texture", "sure")
    assert found["call=shore.register_thing arg=2 field=shown_as"] == ("texture", "sure")
    assert found["call=shore.register_thing arg=2 field=steps.name"] == ("sound", "sure")
    assert 'files = "**/textures/*.png"' in result.text


def test_what_is_missing_is_told_by_name(shore: FolderTree) -> None:
    layout = load_layout(learned(shore, "shore").text.encode(), "shore.toml")
    told = judge(shore, layout, Stock(), Ledger()).findings
    assert {one.name for one in told if one.code == "missing-name"} >= {"tide_slab_side.png", "salt:blok"}


def test_what_begins_as_no_name_does_is_left_out(shore: FolderTree) -> None:
    result = learned(shore, "shore")
    assert rules(result)["call=shore.register_craft field=recipe.*"] == ("thing", "sure")
    layout = load_layout(result.text.encode(), "shore.toml")
    assert not [one for one in judge(shore, layout, Stock(), Ledger()).findings if one.name in GROUPS]


def test_in_a_few_folders_they_are_files(tmp_path: Path) -> None:
    files: dict[str, str] = {}
    for one in MODULES[:2]:
        pictures: list[str] = []
        files[f"modules/{one}/init.lua"] = module(one, pictures)
        files |= {f"modules/{one}/textures/{name}": "solid" for name in pictures}
    found = rules(learned(written(tmp_path / "map", files), "shore"))
    assert found["call=shore.register_thing arg=2 field=tiles.*"] == ("file", "sure")
