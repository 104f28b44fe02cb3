"""Learned from keys with a colon and others further in below them, by tabs: what looks like YAML and is none."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from hookset.checks import judge
from hookset.config.layouts.load import load_layout
from hookset.learning import learned
from hookset.learning.material import material_of
from hookset.project import Ledger, Stock
from hookset.trees import FolderTree
from tests.core.test_learning import rules, written

LOT = random.Random(21)
BIRDS = [f"{how}{what}" for how in ("Grey", "Salt", "Reed", "Iron") for what in ("Heron", "Tern", "Gull", "Rail")]
BOATS = [f"{how}{what}" for how in ("Long", "Short", "Bent") for what in ("Punt", "Skiff", "Yawl")]


def bird(name: str) -> str:
    ride = f"\tRides@{LOT.choice(('calm', 'storm'))}:\n\t\tBoat: {LOT.choice(BOATS)}\n"
    return f"{name}:\n\tInherits: ^Bird\n\tTooltip:\n\t\tName: {name[:4]} one\n\tChases: {LOT.choice(BIRDS)}\n{ride}\n"


@pytest.fixture
def fen(tmp_path: Path) -> FolderTree:
    """Birds that ride boats, boats with their pictures, and maps with birds in them; one boat is misspelt."""
    files = {
        "rules/birds.yaml": "^Bird:\n\tHealth:\n\t\tHP: 3\n\n" + "".join(map(bird, BIRDS)),
        "rules/boats.yaml": "".join(f"{one}:\n\tDepth: 2\n\tShown: {one.lower()}.png\n" for one in BOATS),
    }
    files["rules/birds.yaml"] = files["rules/birds.yaml"].replace("Boat: ", "Boat: x", 1)
    for number in range(4):
        birds = "".join(f"\tPlace{n}: {LOT.choice(BIRDS)}\n\t\tAt: {n},{number}\n" for n in range(6))
        files[f"maps/m{number}/map.yaml"] = f"Title: Map {number}\nPlaces:\n{birds}"
    files |= {f"bits/{one.lower()}.png": "solid" for one in BOATS}
    return written(tmp_path / "map", files)


def test_keys_are_names_or_words(fen: FolderTree) -> None:
    result = learned(fen, "fen")
    found = rules(result)
    assert found["at=*/Rides?*/Boat"] == ("boat", "sure")
    assert found["at=*/Shown"] == ("file", "sure")
    assert found["at=*/Chases"] == found["at=Places/*"] == ("bird", "sure")
    assert '{ kind = "bird", keys = "" }' in result.text


def test_what_is_misspelt_is_told(fen: FolderTree) -> None:
    layout = load_layout(learned(fen, "fen").text.encode(), "fen.toml")
    told = judge(fen, layout, Stock(), Ledger()).findings
    (name,) = [one.name for one in told if one.code == "missing-name"]
    assert name.removeprefix("x") in BOATS


def test_what_is_yaml_is_read_as_that(tmp_path: Path) -> None:
    boats = "".join(f"{one}:\n  depth: 2\n  beside: {LOT.choice(BOATS)}\n" for one in BOATS)
    (sort,) = material_of(written(tmp_path / "map", {"boats.yaml": boats})).sorts
    assert sort.format == "yaml"


def test_files_that_say_other_things_are_of_other_sorts(fen: FolderTree) -> None:
    sorts = {frozenset(one.rpartition("/")[2] for one in sort.paths) for sort in material_of(fen).sorts}
    assert sorts == {frozenset({"birds.yaml"}), frozenset({"boats.yaml"}), frozenset({"map.yaml"})}
