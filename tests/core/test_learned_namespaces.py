"""Learned from files that are meant with the folder of their module in front, with a colon behind it."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from hookset.checks import judge
from hookset.config.layouts.load import load_layout
from hookset.learning import learned
from hookset.project import Ledger, Stock
from hookset.trees import FolderTree
from tests.core.test_learning import rules, written

THINGS = [
    f"{what}_{how}" for what in ("reed", "salt", "tar", "oak") for how in ("post", "slab", "lamp", "rope", "seat")
]


@pytest.fixture
def assets(tmp_path: Path) -> FolderTree:
    """Two modules with shapes and pictures of the same names, and looks that say which shape is meant; one is not."""
    files: dict[str, str] = {}
    for one in ("shore", "harbour"):
        for thing in THINGS:
            name = f"{one}:piece/{thing}"
            files[f"assets/{one}/pictures/piece/{thing}.png"] = "solid"
            files[f"assets/{one}/shapes/piece/{thing}.json"] = json.dumps({"sides": 4, "pictures": {"all": name}})
            files[f"assets/{one}/looks/{thing}.json"] = json.dumps({"turned": True, "as": [{"shape": name}]})
    files["assets/shore/looks/tar_lamp.json"] = files["assets/shore/looks/tar_lamp.json"].replace("tar_lamp", "tar_lam")
    return written(tmp_path / "map", files)


def test_files_are_meant_by_their_module(assets: FolderTree) -> None:
    result = learned(assets, "assets")
    found = rules(result)
    assert found["at=$.as[*].shape"] == ("shape", "sure")
    assert found["at=$.pictures.all"] == ("picture", "sure")
    assert 'files = "assets/{module}/shapes/**/*.json"' in result.text
    assert '{ kind = "picture", name = "{module}:{inner}" }' in result.text


def test_one_that_is_not_there_is_told(assets: FolderTree) -> None:
    layout = load_layout(learned(assets, "assets").text.encode(), "assets.toml")
    told = judge(assets, layout, Stock(), Ledger()).findings
    assert [one.name for one in told if one.code == "missing-name"] == ["shore:piece/tar_lam"]


def test_a_few_texts_with_a_colon_make_no_modules(tmp_path: Path) -> None:
    files = {f"assets/shore/shapes/piece/{thing}.json": json.dumps({"sides": 4}) for thing in THINGS}
    notes = json.dumps({"see": ["shore:piece/reed_post", "shore:piece/oak_slab", "http://example.org/shore"]})
    result = learned(written(tmp_path / "map", {**files, "notes.json": notes}), "assets")
    assert "{module}" not in result.text
