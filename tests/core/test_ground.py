"""How high the ground is: tables with holes, pictures of greys, and what is neither."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from hookset.config.layouts import Layout
from hookset.config.layouts.load import load_layout
from hookset.model import CouldNotError
from hookset.scene.ground import ground_by
from hookset.trees import EmptyTree, Inline, Overlay
from tests.conftest import run_hookset

HEAD = """
[layout]
name = "own"
title = "A town on a hill"
[space]
up = "z"
[[read]]
files = ["heights.csv", "posts.csv"]
format = "csv"
[[seat]]
name = "posts"
title = "posts"
file = "posts.csv"
put = {}
[[placed]]
name = "posts"
title = "posts"
file = "posts.csv"
ask = { column = "post" }
key = "post"
at = { x = "x", y = "y", z = "z" }
seat = "posts"
[[ground]]
title = "posts stand on the hill"
things = [{ file = "posts.csv", ask = { column = "post" }, x = "x", y = "y", height = "z" }]
lowest = -0.5
highest = 0.5
"""
PICTURE = 'picture = { file = "hill.png", left = 0, right = 100, top = 50, bottom = -50, white = 255.0 }\n'
TABLE = 'table = { file = "heights.csv", ask = { column = "x" }, x = "x", y = "y", height = "h" }\n'


def layout(ground: str) -> Layout:
    return load_layout((HEAD + ground).encode(), "own.toml")


def png(levels: object, mode: str | None = None) -> bytes:
    out = io.BytesIO()
    picture = Image.fromarray(np.array(levels))
    (picture.convert(mode) if mode else picture).save(out, "png")
    return out.getvalue()


def hill(data: bytes, ground: str = PICTURE):  # type: ignore[no-untyped-def]
    return ground_by(Overlay(EmptyTree(), {"hill.png": Inline(data)}), layout(ground).grounds[0])


GREYS = np.array([[0, 100, 200], [10, 110, 210]], dtype=np.uint8)


def test_a_picture_says_how_high_the_ground_is() -> None:
    ground, faults = hill(png(GREYS))
    assert not faults
    assert [ground.at(0, 50), ground.at(100, 50), ground.at(0, -50), ground.at(50, -50)] == [0, 200, 10, 110]
    assert ground.at(25, 0) == pytest.approx(55)
    assert ground.extent == (0, -50, 100, 50)
    assert ground.covers(100, 50)
    assert not ground.covers(101, 0)


@settings(max_examples=20)
@given(
    st.integers(2, 9),
    st.integers(2, 9),
    st.sampled_from([np.uint8, np.uint16]),
    st.booleans(),
    st.booleans(),
    st.data(),
)
def test_every_pixel_is_where_it_is_said_to_be(
    width: int, height: int, kind: type, mirrored: bool, upside_down: bool, data: st.DataObject
) -> None:
    most = np.iinfo(kind).max
    levels: np.ndarray = np.array(
        data.draw(st.lists(st.integers(0, most), min_size=width * height, max_size=width * height)), dtype=kind
    ).reshape(height, width)
    left, right = (7.0, -3.0) if mirrored else (-3.0, 7.0)
    top, bottom = (-20.0, 5.0) if upside_down else (5.0, -20.0)
    said = f'picture = {{ file = "hill.png", left = {left}, right = {right}, top = {top}, bottom = {bottom}, '
    ground, faults = hill(png(levels), said + "black = -10.0, white = 30.0 }\n")
    assert not faults
    column, row = data.draw(st.integers(0, width - 1)), data.draw(st.integers(0, height - 1))
    x, y = left + (right - left) * column / (width - 1), top + (bottom - top) * row / (height - 1)
    assert ground.at(x, y) == pytest.approx(-10 + 40 * int(levels[row, column]) / most, abs=1e-3)


@pytest.mark.parametrize(
    "data",
    [png(np.zeros((2, 2, 3), dtype=np.uint8)), b"no picture", png(GREYS)[:40], b""],
    ids=["colours", "text", "cut off", "empty"],
)
def test_what_is_no_picture_of_heights_is_told(data: bytes) -> None:
    ground, faults = hill(data)
    assert ground is None
    assert [one.what for one in faults] == ["picture"]


@pytest.mark.parametrize(
    "ground",
    [PICTURE + TABLE, "", PICTURE.replace("right = 100", "right = 0"), PICTURE.replace("white = 255.0", "white = 0")],
    ids=["two grounds", "no ground", "no width", "no height"],
)
def test_a_layout_says_one_ground_that_can_be(ground: str) -> None:
    with pytest.raises(CouldNotError):
        layout(ground)


def town(root: Path, ground: str, **files: bytes) -> Path:
    root.mkdir()
    (root / "own.toml").write_text(HEAD + ground, encoding="utf-8")
    (root / "hookset.toml").write_text('[map]\nname = "town"\nlayout = "own.toml"\n', encoding="utf-8")
    (root / "posts.csv").write_text("post,x,y,z\na,0,50,0\n", encoding="utf-8")
    for name, data in files.items():
        (root / name.replace("_", ".")).write_bytes(data)
    return root


def told(root: Path, code: str) -> list[str]:
    found = run_hookset(root, "check", "--json").data["findings"]
    return [one["message"] for one in found if one["code"] == code]


def test_a_post_is_placed_on_the_hill_of_a_picture(tmp_path: Path) -> None:
    root = town(tmp_path / "town", PICTURE, hill_png=png(GREYS))
    assert run_hookset(root, "place", "a", "--at", "50,-50", "--on-ground").code == 0
    assert (root / "posts.csv").read_text().splitlines()[-1] == "a_2,50,-50,110"
    assert not told(root, "off-the-ground")
    assert run_hookset(root, "place", "a", "--at", "101,0", "--on-ground").code == 2
    assert run_hookset(root, "draw", "map.png").code == 0


def test_a_grid_with_holes_and_words_in_it_is_told(tmp_path: Path) -> None:
    rows = [f"{x},{y},{x + y}" for x in range(5) for y in range(5) if (x, y) not in ((2, 2), (4, 0))]
    table = "\n".join(["x,y,h", *rows, "9,9,high"]) + "\n"
    root = town(tmp_path / "town", TABLE, heights_csv=table.encode())
    (hole, word) = told(root, "ground-unknown")
    assert "(2, 2)" in hole
    assert "1 more" in hole
    assert "`h`" in word


def test_heights_here_and_there_are_no_grid_with_holes(tmp_path: Path) -> None:
    root = town(tmp_path / "town", TABLE, heights_csv=b"x,y,h\n0,0,1\n8,0,3\n3,5,2\n1,7,2\n")
    assert not told(root, "ground-unknown")
