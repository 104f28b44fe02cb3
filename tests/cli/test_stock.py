"""The stock made of a base game's own files, and finding things in it."""

from __future__ import annotations

import re
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.project.stocks import StockRow, read_stock, write_database
from tests.conftest import Ran, run_hookset

Run = Callable[..., Ran]


@pytest.fixture
def base(demo: Path) -> Path:
    """A base game: some sounds of its own and a model, partly in an archive."""
    game = demo.parent / "game"
    (game / "sounds").mkdir(parents=True)
    wav = (demo / "sounds/harbour/gull_1.wav").read_bytes()
    (game / "sounds/far.wav").write_bytes(wav)
    names = ("fog_bell_hum", "fog_bell_toll", "water_lap")
    (game / "sounds/base.toml").write_text(
        "".join(f'[[sound]]\nalias = "{n}"\nfile = "far.wav"\nreach = 1.0\n' for n in names)
    )
    (game / "models").mkdir()
    for ending in (".gltf", ".bin"):
        (game / f"models/crane{ending}").write_bytes((demo / f"models/winch_house{ending}").read_bytes())
    return game


@pytest.mark.parametrize(
    ("layout", "file", "text"),
    [
        ("paired-modules", "words/de.po", 'msgid ""\nmsgstr ""\n\nmsgid "sign.low"\nmsgstr "Niedrig"\n'),
        ("scene-graph", "texts/de.xml", '<Texts><Text key="sign.low">Niedrig</Text></Texts>'),
        ("split-lua", "texts/de.toml", '[sign]\nlow = "Niedrig"\n'),
    ],
)
def test_texts_are_found_with_what_they_say(layout: str, file: str, text: str, tmp_path: Path) -> None:
    (tmp_path / "game" / file).parent.mkdir(parents=True)
    (tmp_path / "game" / file).write_text(text)
    assert run_hookset(tmp_path, "stock", "make", "game", "--to", "x.stock", "--layout", layout).code == 0
    (row,) = read_stock([tmp_path / "x.stock"]).search("sign")
    assert (row.name, row.detail) == ("sign.low", "de: Niedrig")


def test_a_stock_made_of_the_game_s_files_serves_the_check(base: Path, demo: Path, hookset: Run) -> None:
    made = hookset("stock", "make", "../game", "--layout", "split-lua", "--to", "../game.stock", "--title", "The game")
    assert (made.code, "7 names" in made.out) == (0, True), made.out
    assert base.exists()
    project = demo / "hookset.toml"
    assert 'stock = ["../game.stock"]' in made.out
    project.write_text(project.read_text().replace("../base.stock.json", "../game.stock"))
    again = hookset("stock", "make", "../game", "--layout", "split-lua", "--to", "../game.stock", "--title", "The game")
    assert (again.code, "hookset check" in again.out, "hookset.toml" in again.out) == (0, True, False)
    checked = hookset("check", "--json").data
    # The game's files say nothing of the classes that objects can have.
    assert [(one["code"], one["kind"]) for one in checked["findings"]] == [("no-rule-defines", "class")]
    assert checked["counts"]["in_stock"] == 1
    found = hookset("stock", "find", "FAR").out
    assert "stock  file  sounds/far.wav  wav, 0.16 s, 1 channel, 11025 Hz" in found
    crane = hookset("stock", "find", "crane.gltf", "--kind", "file", "--json").data["names"]
    assert [(one["from"], one["detail"]) for one in crane] == [("stock", "1 node, 1 material, 4 x 3.2 x 3 m")]
    assert "Nothing in the map or its stock" in hookset("stock", "find", "no such thing").out


PREFIXED = """
[layout]
name = "quay"
title = "a quay"
may_be_empty = true
[kinds.file]
label = "file"
path = true
stock_prefix = "base/"
[kinds.dye]
label = "dye"
[[read]]
files = "paint/*.lua"
format = "lua"
defines = [{ kind = "dye", call = "dye", arg = 1 }]
refers = [{ kind = "dye", call = "paint", arg = 1 }, { kind = "file", call = "show", arg = 1 }]
[[read]]
files = "pictures/**"
format = "any"
defines = [{ kind = "file", name = "{path}" }]
"""


@pytest.mark.parametrize("ending", [".stock", "root"])
def test_one_layout_reads_the_map_and_the_game(ending: str, tmp_path: Path) -> None:
    quay = tmp_path / "quay"
    for file, text in {
        "game/paint/a.lua": 'dye("plain")\nfor _, c in pairs(colours) do dye("dye:" .. c) end\n',
        "game/pictures/sky.txt": "sky",
        "quay/pictures/own.txt": "own",
        "quay/paint/b.lua": 'paint("plain") paint("dye:red") paint("dry:red")\n'
        'show("base/pictures/sky.txt") show("pictures/own.txt") show("pictures/sky.txt")\n',
        "quay.toml": PREFIXED,
        "quay/hookset.toml": '[map]\nname = "quay"\nlayout = "../quay.toml"\n[content]\n'
        + ('roots = ["../game"]\n' if ending == "root" else 'stock = ["../game.stock"]\n'),
    }.items():
        (tmp_path / file).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / file).write_text(text)
    if ending != "root":
        made = run_hookset(tmp_path, "stock", "make", "game", "--to", "game.stock", "--layout", "quay.toml")
        assert made.code == 0, made.err
    checked = run_hookset(quay, "check", "--json").data
    assert {(one["code"], one["name"]) for one in checked["findings"] if one["severity"] == "error"} == {
        ("missing-name", "dry:red"),
        ("missing-file", "pictures/sky.txt"),
    }
    assert (checked["counts"]["in_stock"], checked["counts"]["not_checkable"]) == (2, 1)


@pytest.mark.usefixtures("base")
def test_wrong_use_of_stock_is_told(demo: Path, hookset: Run) -> None:
    assert hookset("stock", "make", "../game", "--layout", "split-lua", "--to", "x.json").code == 2
    assert hookset("stock", "make", "../gone", "--layout", "split-lua", "--to", "x.stock").code == 2
    wrong = hookset("stock", "make", "../game", "--layout", "split-lua", "--to", "x.stock", "--kind", "sond", "--json")
    assert (wrong.code, wrong.told) == (2, ["unknown-kind"])
    assert "sound" in wrong.data["error"]["remedy"]
    assert hookset("stock", "make", "../game", "--layout", "split-lua", "--to", "nowhere/x.stock").code == 3
    (demo.parent / "bad.stock").write_text("no database")
    project = demo / "hookset.toml"
    project.write_text(project.read_text().replace("../base.stock.json", "../bad.stock"))
    ran = hookset("check", "--json")
    assert (ran.code, ran.told) == (3, ["unexpected-content"])


@pytest.mark.no_cover
def test_many_names_are_asked_without_being_loaded(tmp_path: Path) -> None:
    rows = (StockRow("sound", f"Sound_{n:06}", ("server", "client")[n % 2], "x.toml") for n in range(200_000))
    assert write_database(tmp_path / "big.stock", "big", rows) == 200_000
    stock = read_stock([tmp_path / "big.stock"])
    assert stock.sides("sound", "Sound_123456") == ("server",)
    assert stock.sides("sound", "sound_123456") == ()
    assert stock.folded("sound", "sound_123457") == "Sound_123457"
    assert stock.sides("text", "Sound_123456") == ()
    assert stock.knows("sound") and not stock.knows("text")
    assert [row.name for row in stock.search("SOUND_00012")] == [f"Sound_00012{n}" for n in range(10)]


def test_a_stock_that_is_missing_is_refused_and_can_be_made(demo: Path, tmp_path: Path) -> None:
    (demo / "hookset.toml").unlink()
    refused = run_hookset(tmp_path, "--map", str(demo), "start", "--stock", "gone.stock")
    assert refused.code == 2
    assert not (demo / "hookset.toml").exists()
    assert run_hookset(tmp_path, "--map", str(demo), "start").code == 0
    project = demo / "hookset.toml"
    project.write_text(re.sub(r"stock = .*", 'stock = ["game.stock"]', project.read_text()))
    assert run_hookset(demo, "check").code == 3
    # What the map names is made although it is not there yet.
    assert run_hookset(demo, "stock", "make", ".", "--to", "game.stock").code == 0
    assert run_hookset(demo, "check").code in (0, 1)


def test_a_layout_counts_from_where_the_builder_is(demo: Path, tmp_path: Path) -> None:
    (demo / "hookset.toml").unlink()
    (tmp_path / "layouts").mkdir()
    text = run_hookset(demo, "layout", "show", "split-lua", "--source").out
    (tmp_path / "layouts/mine.toml").write_text(text)
    started = run_hookset(tmp_path, "--map", str(demo), "start", "--layout", "layouts/mine.toml")
    assert started.code == 0, started.err
    assert run_hookset(demo, "check").code in (0, 1)


def test_what_another_version_of_the_game_lacks(demo: Path) -> None:
    """Two versions, the newer one in an archive within an archive."""
    old, new = demo.parent / "old", demo.parent / "new"
    (old / "harbour").mkdir(parents=True)
    new.mkdir()
    for name in ("far", "near", "gone"):
        (old / f"harbour/{name}.wav").write_bytes(b"")
    with zipfile.ZipFile(new / "inner.zip", "w") as inner:
        for name in ("far", "near", "fresh"):
            inner.writestr(f"harbour/{name}.wav", b"")
    with zipfile.ZipFile(demo.parent / "new.zip", "w") as outer:
        outer.write(new / "inner.zip", "inner.zip")
    make = ("stock", "make", "--layout", "split-lua", "--kind", "file")
    assert run_hookset(demo, *make, "../old=sounds", "--to", "../old.stock").code == 0
    made = run_hookset(demo, *make, "../new.zip", "--to", "../new.stock", "--json")
    assert (made.code, made.data["names"]) == (0, 3)
    assert run_hookset(demo, *make, "../new/inner.zip=sounds", "--to", "../new.stock").code == 0
    same = run_hookset(demo, "stock", "diff", "../old.stock", "../new.stock", "--json")
    assert (same.code, same.data["used"]) == (0, [])
    assert same.data["kinds"] == [
        {"kind": "file", "dropped": ["sounds/harbour/gone.wav"], "added": ["sounds/harbour/fresh.wav"]}
    ]
    aliases = demo / "sounds/aliases.toml"
    aliases.write_text(aliases.read_text() + '\n[[sound]]\nalias = "x"\nfile = "harbour/gone.wav"\nreach = 1.0\n')
    used = run_hookset(demo, "stock", "diff", "../old.stock", "../new.stock", "--json")
    assert used.code == 1
    assert [(one["name"], one["path"]) for one in used.data["used"]] == [
        ("sounds/harbour/gone.wav", "sounds/aliases.toml")
    ]
    assert run_hookset(demo, *make, "../old=../out", "--to", "../x.stock").code == 2
