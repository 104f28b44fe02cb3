"""What was told as fine and was not: numbers given out twice, long concatenations, endings in the stock, ground between
points, sizes of pictures."""

from __future__ import annotations

import io
import json
from pathlib import Path

import pytest
from PIL import Image

from hookset.checks import judge
from hookset.config.layouts import load_layout
from hookset.formats import format_named
from hookset.formats._media import MediaFacts
from hookset.formats.document import facts_of
from hookset.project import Stock
from hookset.project.stocks import StockList, StockNames
from hookset.trees import FolderTree, Text
from tests.conftest import run_hookset
from tests.packs import made_pack
from tests.shipped import started

LONG = " .. ".join(f'"{letter}"' for letter in "abcdefghijklmnop")


def values(source: str, **ask: object) -> list[str]:
    form = format_named("lua")
    document = form.open(Text(source, "utf-8"), form.options())
    return [value.text for value in document.select(form.selector(**ask))]


@pytest.mark.parametrize(
    ("source", "ask", "found"),
    [
        (f"f({LONG})", {"call": "f"}, ["abcdefghijklmnop"]),
        (f"f({LONG} .. n .. {LONG})", {"call": "f"}, ["abcdefghijklmnop*abcdefghijklmnop"]),
        (f"x = {LONG}", {"strings": True}, ["abcdefghijklmnop"]),
        ('x = string.format("fog_%d.png", n)', {"strings": True}, ["fog_*.png"]),
        ('x = ("fog_%d.png"):format(n)', {"strings": True}, ["fog_*.png"]),
        ('x = string.format("%s", "inner.png")', {"strings": True}, ["inner.png", "inner.png"]),
    ],
)
def test_what_is_put_together_is_followed_to_its_end(source: str, ask: dict[str, object], found: list[str]) -> None:
    assert values(source, **ask) == found


def test_a_chain_of_choices_does_not_grow_without_end() -> None:
    chain = " .. ".join(f'(a{n} and "x{n}" or "y{n}")' for n in range(40))
    found = values(f'f("front_" .. {chain})', call="f")
    assert 0 < len(found) <= 64
    assert all(text.startswith("front_*") for text in found)


def test_every_ending_is_asked_of_the_stock(tmp_path: Path) -> None:
    layout = load_layout(
        b"""
[layout]
name = "x"
title = "x"
[kinds.file]
label = "file"
path = true
[[read]]
files = "**"
format = "any"
defines = [{ kind = "file", name = "{path}" }]
[[read]]
files = "a.list"
format = "lines"
refers = [{ kind = "file", suffix = [".dds", ".png", ".tga"] }]
""",
        "x.toml",
    )
    (tmp_path / "a.list").write_text("rope\nknot\n")
    stock = Stock((StockList("game", (StockNames(kind="file", names=("rope.tga",)),)),))
    missing = [f for f in judge(FolderTree(tmp_path), layout, stock).findings if f.code == "missing-file"]
    assert [finding.name for finding in missing] == ["knot.dds"]


@pytest.mark.parametrize(
    ("between", "height", "fine"), [("interpolated", 2, True), ("lowest", 2, False), ("highest", 4, True)]
)
def test_a_layout_says_what_the_ground_is_between_points(tmp_path: Path, between: str, height: int, fine: bool) -> None:
    layout = load_layout(
        f"""
[layout]
name = "x"
title = "x"
[kinds.file]
label = "file"
[[read]]
files = "*.csv"
format = "csv"
[[ground]]
title = "a post"
table = {{ file = "ground.csv", ask = {{ column = "x" }}, x = "x", y = "y", height = "height" }}
things = [{{ file = "posts.csv", ask = {{ column = "x" }}, x = "x", y = "y", height = "height" }}]
lowest = -0.5
highest = 0.5
between = "{between}"
""".encode(),
        "x.toml",
    )
    (tmp_path / "ground.csv").write_text("x,y,height\n0,0,0\n4,0,0\n0,4,4\n4,4,4\n")
    (tmp_path / "posts.csv").write_text(f"x,y,height\n2,2,{height}\n")
    codes = [finding.code for finding in judge(FolderTree(tmp_path), layout, Stock()).findings]
    assert ("off-the-ground" not in codes) is fine


@pytest.mark.parametrize(
    ("sheet", "slots"),
    [
        pytest.param(
            '[[hook]]\nseat = "buoys"\ntext = \'<Buoy name="a_1" slot="{next:slot}" at="1 1"/><Buoy name="a_2" slot="{next:slot}" at="2 2"/>\'\n',
            2,
            id="twice-in-one-hook",
        ),
        pytest.param(
            '[[value]]\nname = "one"\nis = "{next:slot}"\n[[value]]\nname = "two"\nis = "{next:slot}"\n'
            '[[hook]]\nseat = "buoys"\ntext = \'<Buoy name="a_1" slot="{value:one}" at="1 1"/>\'\n'
            '[[hook]]\nseat = "buoys"\ntext = \'<Buoy name="a_2" slot="{value:two}" at="2 2"/>\'\n',
            2,
            id="two-values",
        ),
    ],
)
def test_no_number_is_given_out_twice(tmp_path: Path, sheet: str, slots: int) -> None:
    root = started("numbered-marks", tmp_path / "map")
    ran = run_hookset(root, "install", str(made_pack(tmp_path, "twins", sheet)), "--anyway", "--json")
    assert ran.code == 0, ran.out
    given = [one["value"] for pack in ran.data["packs"] for one in pack["values"] if "{next:slot}" in one["what"]]
    text = "".join(path.read_text() for path in root.rglob("*.xml"))
    found = {
        part.split('"')[1] for part in text.split("<Buoy ") if 'name="a_' in part for part in [part.split("slot=")[1]]
    }
    assert len(found) == slots, (given, found)
    again = run_hookset(root, "install", str(tmp_path / "twins-1.0.zip"), "--anyway", "--json")
    assert again.code == 0 and "".join(path.read_text() for path in root.rglob("*.xml")) == text


def png(width: int, height: int) -> bytes:
    data = io.BytesIO()
    Image.new("RGB", (width, height)).save(data, "PNG")
    return data.getvalue()


@pytest.mark.parametrize(("size", "code"), [((64, 64), 0), ((164, 640), 2), ((64, 640), 2)])
def test_a_picture_is_as_large_as_its_blank_asks(demo: Path, tmp_path: Path, size: tuple[int, int], code: int) -> None:
    sheet = '[[blank]]\nname = "icon"\nkind = "picture"\ninto = "textures/own_icon.png"\nsize = [64, 64]\n'
    (tmp_path / "icon.png").write_bytes(png(*size))
    pack = made_pack(tmp_path, "sign", sheet)
    assert run_hookset(demo, "install", str(pack), "--blank", f"icon={tmp_path / 'icon.png'}").code == code


def test_facts_of_media_are_data() -> None:
    form = format_named("picture")
    assert facts_of(form.open(png(3, 5), form.options())) == MediaFacts(kind="PNG", width=3, height=5)
    model = {
        "asset": {"version": "2.0"},
        "nodes": [{}],
        "accessors": [{"type": "VEC3", "min": [0, 0, 0], "max": [1, 2, 3]}],
    }
    text = Text(json.dumps(model), "utf-8")
    assert facts_of(format_named("json").open(text, format_named("json").options())) == MediaFacts(
        nodes=1, extent=(1, 2, 3)
    )
