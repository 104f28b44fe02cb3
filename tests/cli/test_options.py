"""Options that change what a command does: each is used, and what it changes is looked at in the map."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
import tomllib
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from tests.conftest import Ran, snapshot
from tests.packs import made_pack

Hookset = Callable[..., Ran]

FILES = """
[[files]]
from = "content/**"
to = "."
"""
IMPORT = """
[[hook]]
seat = "server-import"
text = 'local towpath = require("packs.towpath")'
"""
SCRIPT = "local towpath = {}\nfunction towpath.start(pace) end\nreturn towpath\n"


def start(arguments: str) -> str:
    return f"\n[[hook]]\nseat = \"server-start\"\ntext = 'towpath.start({arguments})'\n"


def content(more: dict[str, str | bytes] | None = None, script: str = SCRIPT) -> dict[str, str | bytes]:
    return {"content/scripts/server/packs/towpath.lua": script} | {f"content/{k}": v for k, v in (more or {}).items()}


@pytest.fixture
def towpath(demo: Path, tmp_path: Path, hookset: Hookset) -> Callable[..., Path]:
    """The first version in the map; a call makes the second."""
    assert demo.is_dir()
    first = made_pack(tmp_path, "towpath", FILES + IMPORT + start("4"), content())
    ran = hookset("install", str(first))
    assert ran.code == 0, ran.out + ran.err

    def later(sheet: str = "", arguments: str = "4", files: dict[str, str | bytes] | None = None, **more: Any) -> Path:
        return made_pack(
            tmp_path, "towpath", sheet + FILES + IMPORT + start(arguments), files or content(**more), "2.0"
        )

    return later


def main_script(demo: Path) -> str:
    return (demo / "scripts/server/main.lua").read_text("utf-8")


# An upgrade takes the decisions that an install takes.


def test_an_upgrade_sets_a_new_setting(towpath: Callable[..., Path], demo: Path, hookset: Hookset) -> None:
    pace = '\n[[setting]]\nname = "pace"\ntype = "int"\nrange = [1, 9]\ndefault = 4\nsays = "how fast"\n'
    pack = towpath(pace, "{setting:pace}")
    assert hookset("upgrade", str(pack), "--set", "pace=7").code == 0
    assert "towpath.start(7)" in main_script(demo)
    assert hookset("upgrade", str(pack), "--set", "pace=12", "--json").told


def test_an_upgrade_claims_what_it_is_told(towpath: Callable[..., Path], demo: Path, hookset: Hookset) -> None:
    pack = towpath('\n[[claim]]\nkind = "berth"\npublished = "north-1"\n', '"{claim:berth}"')
    assert hookset("upgrade", str(pack), "--claim", "berth=north-2").code == 0
    assert 'towpath.start("north-2")' in main_script(demo)


def test_an_upgrade_fills_blanks(towpath: Callable[..., Path], demo: Path, hookset: Hookset) -> None:
    blank = '\n[[blank]]\nname = "keeper"\nkind = "text"\nsays = "who keeps it"\n'
    pack = towpath(blank, '"{blank:keeper}"')
    assert hookset("upgrade", str(pack), "--blank", "keeper=Ada Brine").code == 0
    assert 'towpath.start("Ada Brine")' in main_script(demo)


def test_an_upgrade_calls_something_otherwise(towpath: Callable[..., Path], demo: Path, hookset: Hookset) -> None:
    horn = (
        '\n[[hook]]\nseat = "sound-table"\nrecord = { alias = "tow_horn", file = "tow.wav", repeat = 1, reach = 9.0 }\n'
    )
    pack = towpath(horn, more={"sounds/tow.wav": (demo / "sounds/harbour/gull_1.wav").read_bytes()})
    ran = hookset("upgrade", str(pack), "--call", "sound:tow_horn=my_horn")
    assert ran.code == 0, ran.out + ran.err
    aliases = (demo / "sounds/aliases.toml").read_text("utf-8")
    assert "my_horn" in aliases and "tow_horn" not in aliases


def test_an_upgrade_moves_folders(towpath: Callable[..., Path], demo: Path, hookset: Hookset) -> None:
    pack = towpath(more={"textures/tow/rope.png": (demo.parent / "packs/silt.zip").read_bytes()[:0] or b""})
    ran = hookset("upgrade", str(pack), "--move", "textures/tow=textures/ropes")
    assert ran.code == 0, ran.out + ran.err
    assert (demo / "textures/ropes/rope.png").exists() and not (demo / "textures/tow").exists()


PARTS = """
[[part]]
name = "ropes"
title = "the ropes"
files = ["content/textures/tow/rope.png"]
[[part]]
name = "path"
title = "the path itself"
files = ["content/scripts/server/packs/towpath.lua"]
"""


def test_an_upgrade_takes_a_part(towpath: Callable[..., Path], demo: Path, hookset: Hookset) -> None:
    script, rope = demo / "scripts/server/packs/towpath.lua", demo / "textures/tow/rope.png"
    pack = towpath(PARTS, more={"textures/tow/rope.png": b""})
    assert hookset("upgrade", str(pack), "--part", "path").code == 0
    assert script.exists() and not rope.exists()
    assert hookset("undo").code == 0
    assert hookset("upgrade", str(pack), "--part", "ropes").code == 0
    assert rope.exists() and not script.exists()
    assert 'require("packs.towpath")' not in main_script(demo)


@pytest.mark.parametrize(
    ("option", "mine", "theirs"),
    [
        (("--keep-mine",), b"mine", None),
        (("--take-theirs",), b"theirs", None),
        (("--keep-both",), b"mine", "textures/*rope*.png"),
        (("--beside", "textures/rope.png=textures/tow_rope.png"), b"mine", "textures/tow_rope.png"),
    ],
)
def test_an_upgrade_with_a_file_that_is_there(
    option: tuple[str, ...], mine: bytes, theirs: str | None, towpath: Callable[..., Path], demo: Path, hookset: Hookset
) -> None:
    (demo / "textures/rope.png").write_bytes(b"mine")
    pack = towpath(more={"textures/rope.png": b"theirs"})
    before = snapshot(demo)
    assert hookset("upgrade", str(pack), "--json").told
    assert snapshot(demo) == before
    ran = hookset("upgrade", str(pack), *option, "--anyway")
    assert ran.code == 0, ran.out + ran.err
    assert (demo / "textures/rope.png").read_bytes() == mine
    if theirs is not None:
        others = [path for path in demo.glob(theirs) if path.read_bytes() == b"theirs"]
        assert len(others) == 1


def test_an_upgrade_asks_before_files_that_other_programs_obey(
    towpath: Callable[..., Path], demo: Path, hookset: Hookset
) -> None:
    pack = towpath(more={"Makefile": "all:\n"})
    assert hookset("upgrade", str(pack)).code == 1 and not (demo / "Makefile").exists()
    assert hookset("upgrade", str(pack), "--control-files").code == 0 and (demo / "Makefile").exists()


@pytest.mark.usefixtures("demo")
def test_an_upgrade_asks_before_two_packs_do_one_job(
    towpath: Callable[..., Path], tmp_path: Path, hookset: Hookset
) -> None:
    # `does` stands in [pack], which is what a made sheet begins with.
    job = 'does = ["keeps-the-path"]\n'
    assert (
        hookset(
            "install",
            str(
                made_pack(
                    tmp_path, "other", f'{job}[[files]]\nfrom = "a.png"\nto = "textures/other.png"\n', {"a.png": b""}
                )
            ),
        ).code
        == 0
    )
    pack = towpath(job)
    refused = hookset("upgrade", str(pack), "--json")
    assert refused.code == 1 and refused.told
    assert hookset("upgrade", str(pack), "--both-jobs").code == 0


@pytest.mark.parametrize(
    ("option", "left"), [("--keep-changed", "towpath.start(4, 5)"), ("--drop-changed", "towpath.start(6)")]
)
def test_an_upgrade_with_an_entry_that_was_changed(
    option: str, left: str, towpath: Callable[..., Path], demo: Path, hookset: Hookset
) -> None:
    script = demo / "scripts/server/main.lua"
    script.write_bytes(script.read_bytes().replace(b"towpath.start(4)", b"towpath.start(4, 5)"))
    pack = towpath(arguments="6")
    before = snapshot(demo)
    refused = hookset("upgrade", str(pack), "--json")
    assert refused.code == 1 and refused.told
    assert snapshot(demo) == before
    ran = hookset("upgrade", str(pack), option)
    assert ran.code == 0, ran.out + ran.err
    assert left in main_script(demo)


@pytest.mark.no_cover
def test_an_upgrade_decides_as_in_another_map(
    towpath: Callable[..., Path], demo: Path, tmp_path: Path, hookset: Hookset
) -> None:
    pace = '\n[[setting]]\nname = "pace"\ntype = "int"\nrange = [1, 9]\ndefault = 4\nsays = "how fast"\n'
    pack = towpath(pace, "{setting:pace}")
    assert hookset("demo", str(tmp_path / "second")).code == 0
    other = tmp_path / "second/brackwater"
    assert hookset("install", str(pack), "--set", "pace=8", folder=other).code == 0
    assert hookset("upgrade", str(pack), "--like", str(other)).code == 0
    assert "towpath.start(8)" in main_script(demo)


def test_an_upgrade_decides_as_a_file_says(
    towpath: Callable[..., Path], demo: Path, tmp_path: Path, hookset: Hookset
) -> None:
    pace = '\n[[setting]]\nname = "pace"\ntype = "int"\nrange = [1, 9]\ndefault = 4\nsays = "how fast"\n'
    pack = towpath(pace, "{setting:pace}")
    assert hookset("upgrade", str(pack), "--set", "pace=3").code == 0
    answers = tmp_path / "answers.toml"
    assert hookset("list", "--answers", str(answers)).code == 0
    assert hookset("undo").code == 0
    assert hookset("upgrade", str(pack), "--answers", str(answers)).code == 0
    assert "towpath.start(3)" in main_script(demo)


def test_an_upgrade_places_a_thing(demo: Path, hookset: Hookset) -> None:
    packs = demo.parent / "packs"
    assert hookset("install", str(packs / "lamp-row-1.0.0.zip")).code == 0
    ran = hookset("upgrade", str(packs / "lamp-row-2.0.0.zip"), "--at", "row=-10,1,12")
    assert ran.code == 0, ran.out + ran.err
    scene = json.loads((demo / "scene/brackwater.gltf").read_text("utf-8"))
    at = {one["extras"]["key"]: one["translation"] for one in scene["nodes"] if "key" in one.get("extras", {})}
    assert at["row_lamp_1"] == [-10, 1, 12]


# Removing.


@pytest.mark.parametrize(("option", "left"), [("--keep-changed", True), ("--drop-changed", False)])
@pytest.mark.usefixtures("towpath")
def test_what_was_changed_stays_or_goes_with_a_pack(option: str, left: bool, demo: Path, hookset: Hookset) -> None:
    script = demo / "scripts/server/packs/towpath.lua"
    script.write_text(SCRIPT + "-- mine\n", encoding="utf-8")
    refused = hookset("remove", "towpath", "--json")
    assert refused.code == 1 and refused.told and script.exists()
    ran = hookset("remove", "towpath", option)
    assert ran.code == 0, ran.out + ran.err
    assert script.exists() is left
    assert "towpath" not in main_script(demo)


# Things in the scene.


def things(hookset: Hookset, *words: str) -> dict[str, dict[str, Any]]:
    return {one["key"]: one for one in hookset("where", *words, "--json").data["things"]}


def test_what_is_placed_has_a_size(demo: Path, hookset: Hookset) -> None:
    before = set(things(hookset))
    ran = hookset("place", "lamp_8", "--at", "1,1,12", "--size", "2")
    assert ran.code == 0, ran.out + ran.err
    (new,) = set(things(hookset)) - before
    (node,) = (
        one
        for one in json.loads((demo / "scene/brackwater.gltf").read_text("utf-8"))["nodes"]
        if new == one.get("extras", {}).get("key")
    )
    assert node["scale"] == [2, 2, 2]


@pytest.mark.usefixtures("demo")
def test_a_grid(hookset: Hookset) -> None:
    before = set(things(hookset))
    ran = hookset("place", "lamp_8", "--at", "-10,1,11", "--count", "3", "--rows", "2", "--step", "4,2")
    assert ran.code == 0, ran.out + ran.err
    after = things(hookset)
    at = sorted(tuple(after[key]["at"]) for key in set(after) - before)
    assert at == sorted((-10 + 4 * column, 1, 11 + 2 * row) for column in range(3) for row in range(2))


@pytest.mark.parametrize(
    ("words", "changed"),
    [
        (("--beside", "lock_wheel", "--by", "0,0,-3"), {"at": [24, 1, -12]}),
        (("--at", "2,1,12", "--size", "1.5"), {"at": [2, 1, 12]}),
    ],
)
def test_what_is_moved(words: tuple[str, ...], changed: dict[str, Any], demo: Path, hookset: Hookset) -> None:
    before = things(hookset)["lamp_8"]
    scene = (demo / "scene/brackwater.gltf").read_bytes()
    shown = hookset("move", "lamp_8", *words, "--preview", "--json")
    assert shown.code == 0 and shown.data["command"] == "move"
    assert (demo / "scene/brackwater.gltf").read_bytes() == scene
    assert hookset("move", "lamp_8", *words).code == 0
    after = things(hookset)["lamp_8"]
    assert {key: after[key] for key in changed} == changed
    assert {key for key in before if after[key] != before[key]} <= {*changed, "near", "size", "line"}


@pytest.mark.no_cover
@pytest.mark.parametrize(
    ("command", "words", "ending"),
    [
        ("install", ("../packs/fog-bell.zip",), "png"),
        ("place", ("lamp_8", "--at", "1,1,12"), "png"),
        ("move", ("lamp_8", "--at", "1,1,12"), "svg"),
        ("take", ("lamp_8",), "png"),
        ("swap", ("lamp_8", "--like", "bell_post"), "svg"),
    ],
)
def test_a_figure_of_before_and_after(
    command: str, words: tuple[str, ...], ending: str, demo: Path, tmp_path: Path, hookset: Hookset
) -> None:
    before = snapshot(demo)
    figure = tmp_path / f"figure.{ending}"
    shown = hookset(command, *words, "--anyway", "--preview", "--figure", str(figure), "--json")
    assert shown.code == 0 and shown.data["command"] == command
    assert snapshot(demo) == before
    drawn = figure.read_bytes()
    assert drawn.startswith(b"\x89PNG\r\n" if ending == "png" else b"<?xml")
    figure.unlink()
    assert hookset(command, *words, "--anyway", "--figure", str(figure)).code == 0
    assert figure.read_bytes() == drawn
    assert snapshot(demo) != before


def test_a_figure_of_another_kind_is_refused(demo: Path, hookset: Hookset) -> None:
    before = snapshot(demo)
    assert hookset("take", "lamp_8", "--figure", "map.txt", "--json").code == 2
    assert snapshot(demo) == before


def test_what_is_taken_is_shown_first(demo: Path, hookset: Hookset) -> None:
    before = snapshot(demo)
    shown = hookset("take", "lamp_8", "--preview", "--json")
    assert shown.code == 0 and snapshot(demo) == before
    done = hookset("take", "lamp_8", "--json")
    assert done.code == 0 and "lamp_8" not in things(hookset)
    assert done.data["written"] and not shown.data["written"]
    assert done.data["packs"] == shown.data["packs"]


def test_a_swap_is_shown_first_and_keeps_what_it_is_told(demo: Path, hookset: Hookset) -> None:
    before = snapshot(demo)
    shown = hookset("swap", "lamp_8", "--like", "bell_post", "--anyway", "--preview", "--json")
    assert shown.code == 0 and snapshot(demo) == before
    assert hookset("swap", "lamp_8", "--like", "bell_post", "--anyway").code == 0
    assert things(hookset)["lamp_8"]["class"] == "post"


@pytest.mark.usefixtures("demo")
def test_a_drawing_of_a_part(tmp_path: Path, hookset: Hookset) -> None:
    wide, narrow = tmp_path / "wide.svg", tmp_path / "narrow.svg"
    assert hookset("draw", str(wide), "--around", "lock_wheel", "--within", "40").code == 0
    ran = hookset("draw", str(narrow), "--around", "lock_wheel", "--within", "8", "--json")
    assert ran.code == 0 and ran.data["command"] == "draw"
    assert "bell_post" in wide.read_text("utf-8") and "bell_post" not in narrow.read_text("utf-8")
    assert hookset("draw", str(narrow), "--around", "lock_wheel", "--within", "0").code == 2


@pytest.mark.usefixtures("demo")
def test_a_drawing_in_which_a_pack_stands_out(tmp_path: Path, hookset: Hookset) -> None:
    assert hookset("install", "../packs/fog-bell.zip").code == 0
    plain, told = tmp_path / "plain.svg", tmp_path / "told.svg"
    assert hookset("draw", str(plain)).code == 0
    assert hookset("draw", str(told), "--pack", "fog-bell").code == 0
    assert "fog-bell" in told.read_text("utf-8") and "fog-bell" not in plain.read_text("utf-8")
    assert hookset("draw", str(told), "--pack", "nobody", "--json").told


@pytest.mark.usefixtures("demo")
def test_every_one_is_told_of_where_asked_for(hookset: Hookset) -> None:
    few, all_ = hookset("where"), hookset("where", "--all")
    assert len(all_.out.splitlines()) >= len(few.out.splitlines())
    assert all(key in all_.out for key in things(hookset) if key != "-")


# Building, and what comes after.


def clean(demo: Path, hookset: Hookset) -> None:
    """The demo's map without the one fault that it is laid out with."""
    aliases = demo / "sounds/aliases.toml"
    aliases.write_bytes(aliases.read_bytes().replace(b"gull_3.wav", b"gull_1.wav"))
    assert hookset("check").code == 0


def test_a_build_from_the_start(demo: Path, hookset: Hookset) -> None:
    clean(demo, hookset)
    first = hookset("build", "--digest", "--json")
    assert first.code == 0, first.out
    assert re.fullmatch("[0-9a-f]{64}", first.data["sha256"])
    assert hookset("build", "--full", "--digest", "--json").data["sha256"] == first.data["sha256"]


def test_a_trial_of_some_ticks(demo: Path, hookset: Hookset) -> None:
    clean(demo, hookset)
    assert hookset("build").code == 0
    short = hookset("trial", "--ticks", "1", "--json")
    long = hookset("trial", "--ticks", "90", "--json")
    assert short.code == long.code == 0
    assert len(short.data["log"]) < len(long.data["log"])


def test_a_log_of_one_pack(demo: Path, tmp_path: Path, hookset: Hookset) -> None:
    assert hookset("install", "../packs/lift-bridge.zip", "../packs/fog-bell.zip").code == 0
    (demo / "sounds/bridge/horn.wav").unlink()
    assert hookset("build", "--anyway").code == 0
    log = tmp_path / "game.log"
    assert hookset("trial", "--save", str(log)).code == 1
    every = hookset("log", str(log), "--json").data["troubles"]
    bridge = hookset("log", str(log), "--pack", "lift-bridge", "--json").data["troubles"]
    bell = hookset("log", str(log), "--pack", "fog-bell", "--json").data["troubles"]
    assert bridge and len(bell) < len(bridge) <= len(every)


@pytest.mark.usefixtures("demo")
def test_credits_are_written(tmp_path: Path, hookset: Hookset) -> None:
    assert hookset("install", "../packs/fog-bell.zip").code == 0
    file = tmp_path / "CREDITS.md"
    assert hookset("credits", "--write", str(file)).code == 0
    written = file.read_text("utf-8")
    assert "Marrow" in written
    file.unlink()
    assert hookset("credits", "--write", str(file), "--json").data["ok"]
    assert file.read_text("utf-8") == written


# Packs made of what is there.


@pytest.mark.usefixtures("demo")
def test_a_pack_made_of_a_template(tmp_path: Path, hookset: Hookset) -> None:
    made = tmp_path / "fish"
    words = ("derive", "../packs/market-stall.zip", "--name", "fish-stand", "--yes", "--out", str(made))
    assert hookset(*words).code == 1, "the jingle would be the template's"
    assert not made.exists()
    assert hookset(*words, "--also", "market=fish", "--keep", "keeps-the-market").code == 0
    sheet = tomllib.loads((made / "hooksheet.toml").read_text("utf-8"))
    assert sheet["pack"]["name"] == "fish-stand"
    assert sheet["pack"]["does"] == ["keeps-the-market"]
    assert "fish_jingle" in (made / "hooksheet.toml").read_text("utf-8")
    again = hookset(*words, "--also", "market=fish", "--json")
    assert again.code == 1 and again.told == ["file-exists"]


def test_a_pack_lifted_with_what_the_base_game_has(demo: Path, tmp_path: Path, hookset: Hookset) -> None:
    donor = demo.parent / "maps/old-quay"
    assert donor.is_dir(), list(demo.parent.iterdir())
    bare, full = tmp_path / "bare", tmp_path / "full"
    assert hookset("lift", "tide_crane", "--from", str(donor), "--out", str(bare)).code == 0
    assert hookset("lift", "tide_crane", "--from", str(donor), "--out", str(full), "--with-stock").code == 0
    few, many = ({path.relative_to(one) for path in one.rglob("*") if path.is_file()} for one in (bare, full))
    assert few < many or few == many


@pytest.mark.usefixtures("demo")
def test_names_of_the_stock_so_many_at_most(hookset: Hookset) -> None:
    some = hookset("stock", "find", "a", "--limit", "3", "--json").data
    more = hookset("stock", "find", "a", "--limit", "6", "--json").data
    assert len(some["names"]) == 3 and more["names"][:3] == some["names"]


@pytest.mark.parametrize(
    "words",
    [
        ("check", "--json"),
        ("inspect", "nothing.zip", "--json"),
        ("nonsense", "--json"),
        ("derive", "../packs/market-stall.zip", "--name", "silt", "--out", "scene", "--also", "market=fish", "--json"),
    ],
)
def test_whoever_reads_may_go_away(words: tuple[str, ...], demo: Path) -> None:
    reading, writing = os.pipe()
    os.close(reading)
    command = [sys.executable, "-m", "hookset", *words]
    done = subprocess.run(command, cwd=demo, stdout=writing, stderr=subprocess.PIPE, text=True, check=False)
    os.close(writing)
    assert done.returncode in (1, 2, 3) and done.stderr == ""
