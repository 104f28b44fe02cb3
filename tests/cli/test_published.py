"""Packs without a hook sheet, as a builder meets them: inspected, drafted, installed, kept on the shelf."""

from __future__ import annotations

import json
import shutil
import tomllib
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.demo import lay_out
from tests.conftest import Ran, run_hookset, snapshot
from tests.pages import page_and_truth

Run = Callable[..., Ran]
BELL, HERONS = "../published/fog_bell_v0.4.zip", "../published/Heronry 1.0.zip"


@pytest.mark.usefixtures("demo")
def test_inspect_tells_what_is_inside(hookset: Run) -> None:
    ran = hookset("inspect", BELL)
    assert ran.code == 0
    for told in ("2  script", "readme.txt", "fog_bell_toll", "in the stock", "by a draft", "licence: CC0-1.0"):
        assert told in ran.out, told
    data = hookset("inspect", BELL, "--json").data
    assert (data["hook_sheet"], data["unused"], data["collides"]) == (False, [], [])
    assert data["sorts"] == {"script": 2, "notes": 1}
    notes = hookset("inspect", BELL, "--notes").out
    assert '15        local fog_bell = require("packs.fog_bell")' in notes


def test_inspect_tells_what_collides_and_what_is_unused(demo: Path, hookset: Run) -> None:
    assert hookset("install", "../packs/fog-bell.zip").code == 0
    folder = demo.parent / "more"
    shutil.unpack_archive(str(demo.parent / "published/fog_bell_v0.4.zip"), folder)
    (folder / "scripts/server/packs/fog_bell.lua").write_text("return {}\n")
    (folder / "scripts/server/packs/idle.lua").write_text("x = 1\n")
    (folder / "run me.exe").write_bytes(b"MZ\x90")
    (folder / "picture.png").write_bytes(b"GIF89a")
    data = hookset("inspect", "../more", "--json").data
    assert any("fog_bell" in stop["what"] for stop in data["collides"])
    assert any("run me.exe is a program" in one for one in data["warnings"])
    assert any("picture.png is GIF" in one for one in data["warnings"])


def test_inspect_without_a_map(demo: Path, tmp_path: Path) -> None:
    ran = run_hookset(tmp_path, "inspect", str(demo.parent / "published/silt-0.9-final.zip"))
    assert ran.code == 0
    assert "look like the layout scene-graph" in ran.out
    (tmp_path / "odd").mkdir()
    (tmp_path / "odd/thing.bin").write_bytes(b"\0\1")
    assert "lies like no layout that is known" in run_hookset(tmp_path, "inspect", "odd").out


def test_archives_in_archives_are_drafted_and_set_in(demo: Path, hookset: Run) -> None:
    outer = demo.parent / "download.zip"
    with zipfile.ZipFile(outer, "w") as archive:
        archive.write(demo.parent / "published/fog_bell_v0.4.zip", "Fog Bell/fog_bell_v0.4.zip")
        archive.writestr("Fog Bell/visit us.url", "[InternetShortcut]")
    assert hookset("draft", "../download.zip").code == 0
    sheet = (demo.parent / "download.hooksheet.toml").read_text(encoding="utf-8")
    assert 'from = "fog_bell_v0.4.zip/scripts/**"' in sheet
    assert hookset("install", "../download.zip").code == 0
    assert (demo / "scripts/server/packs/fog_bell.lua").is_file()
    assert hookset("check").code == 0


def test_draft_writes_beside_the_pack_and_never_over_it(demo: Path, hookset: Run) -> None:
    before = snapshot(demo)
    assert hookset("draft", BELL).code == 0
    file = demo.parent / "published/fog_bell_v0.4.hooksheet.toml"
    assert "# readme.txt:15" in file.read_text(encoding="utf-8")
    file.write_text(
        file.read_text(encoding="utf-8").replace("fog_bell.start(7)", "fog_bell.start(9)"), encoding="utf-8"
    )
    again = hookset("draft", BELL, "--json")
    assert (again.code, again.told) == (1, ["file-exists"])
    assert snapshot(demo) == before
    assert hookset("install", BELL).code == 0
    assert "fog_bell.start(9)" in (demo / "scripts/server/main.lua").read_text()
    assert hookset("draft", BELL, "--over").code == 0
    assert "fog_bell.start(7)" in file.read_text(encoding="utf-8")


def test_draft_for_a_layout_without_a_map(demo: Path, tmp_path: Path) -> None:
    bell = str(demo.parent / "published/fog_bell_v0.4.zip")
    none = run_hookset(tmp_path, "draft", bell, "--json")
    assert (none.code, none.told) == (2, ["no-map"])
    assert "--layout" in none.wrong[0]["remedy"]
    ran = run_hookset(tmp_path, "draft", bell, "--layout", "split-lua", "--show")
    assert ran.code == 0 and 'seat = "server-import"' in ran.out
    assert not (demo.parent / "published/fog_bell_v0.4.hooksheet.toml").exists()


def test_install_of_a_draft_asks_first(demo: Path, hookset: Run) -> None:
    before = snapshot(demo)
    refused = hookset("install", BELL, "--json")
    assert (refused.code, refused.told) == (1, ["draft-not-agreed"])
    assert "--as-drafted" in refused.wrong[0]["remedy"]
    assert snapshot(demo) == before
    assert hookset("install", BELL, "--as-drafted").code == 0
    assert hookset("check").code == 0
    assert hookset("remove", "fog-bell").code == 0
    assert snapshot(demo) == before


def test_words_of_another_map_are_still_asked_for(demo: Path) -> None:
    shore = demo.parent / "maps/shore"

    def run(*arguments: str) -> Ran:
        return run_hookset(shore, *arguments)

    assert run("start").code == 0
    herons = "../../published/Heronry 1.0.zip"
    stopped = run("install", herons, "--as-drafted", "--json")
    assert (stopped.code, stopped.told) == (1, ["word-not-said"])
    assert "--word rank:shy=" in stopped.wrong[0]["remedy"]
    assert run("install", herons, "--as-drafted", "--word", "rank:shy=wild").code == 0
    assert run("check").code == 0


def test_hostile_packs_are_refused_by_every_command(demo: Path, hookset: Run) -> None:
    bad = demo.parent / "bad.zip"
    with zipfile.ZipFile(bad, "w") as archive:
        archive.writestr("readme.txt", "hello")
        archive.writestr("../../evil.lua", "x")
    before = snapshot(demo.parent)
    for command in (["inspect"], ["draft"], ["install"], ["install", "--as-drafted"], ["shelf", "keep"]):
        ran = hookset(*command, "../bad.zip", "--json")
        assert (ran.code, ran.told) == (3, ["unsafe-archive"]), command
    assert snapshot(demo.parent) == before


def test_a_sheet_that_cannot_be_read_is_drafted_over(hookset: Run, demo: Path) -> None:
    sheet = demo.parent / "published/fog_bell_v0.4.hooksheet.toml"
    for broken in (
        "[pack",
        '[pack]\nname = "x"\nversion = "1"\n[[hook]]\nseat = "texts"\nplace = "nowhere"\ntext = "x"\n',
    ):
        sheet.write_text(broken, encoding="utf-8")
        assert hookset("draft", BELL).code == 3
        assert hookset("draft", BELL, "--over").code == 0
        assert hookset("install", BELL, "--preview").code == 0


@pytest.mark.no_cover
def test_the_page_about_published_packs_shows_what_is_so(tmp_path: Path) -> None:
    page, truth = page_and_truth("published.md", tmp_path)
    assert truth == page


# ---- the shelf -------------------------------------------------------------------------------------------------------


def test_packs_are_found_by_name_from_any_map(demo: Path, hookset: Run) -> None:
    packs = ["../packs/lamp-row-1.0.0.zip", "../packs/lamp-row-2.0.0.zip", BELL]
    assert hookset("shelf", "keep", *packs).code == 0
    data = hookset("shelf", "--json").data
    assert [(one["name"], one["version"], one["hook_sheet"]) for one in data["packs"]] == [
        ("fog-bell", "0.4", False),
        ("lamp-row", "2.0.0", True),
        ("lamp-row", "1.0.0", True),
    ]
    assert hookset("install", "lamp-row==1.0.0").code == 0
    assert hookset("upgrade", "lamp-row").code == 0
    assert json.loads((demo / ".hookset/ledger.json").read_text())["packs"][0]["version"] == "2.0.0"
    assert hookset("draft", "fog-bell").code == 0
    assert hookset("install", "fog-bell").code == 0
    wrong = hookset("install", "lamprow", "--json")
    assert (wrong.code, wrong.told) == (2, ["not-found"])
    assert "`lamp-row`" in wrong.wrong[0]["what"]
    assert hookset("shelf", "drop", "lamp-row").code == 0
    assert [one["version"] for one in hookset("shelf", "--json").data["packs"]] == ["0.4", "1.0.0"]


@pytest.mark.usefixtures("demo")
def test_what_was_changed_on_the_shelf_is_told(hookset: Run) -> None:
    assert hookset("shelf", "keep", "../packs/lift-bridge.zip").code == 0
    (kept,) = hookset("shelf", "--json").data["packs"]
    with Path(kept["path"]).open("ab") as stream:
        stream.write(b"x")
    ran = hookset("install", "lift-bridge", "--json")
    assert (ran.code, ran.told) == (3, ["changed-since-kept"])


def test_the_shelf_keeps_to_itself(demo: Path, hookset: Run) -> None:
    pack = demo.parent / "evil"
    pack.mkdir()
    (pack / "hooksheet.toml").write_text('[pack]\nname = "../../../evil"\nversion = "1"\n')
    ran = hookset("shelf", "keep", "../evil", "--json")
    assert (ran.code, ran.told) == (1, ["wrong-name"])
    assert hookset("shelf", "keep", "../packs/fog-bell.zip").code == 0
    again = hookset("shelf", "keep", BELL, "--json")
    assert (again.code, again.told) == (1, ["file-exists"])


# ---- derive ----------------------------------------------------------------------------------------------------------


def test_derive_renames_in_every_letter_case(demo: Path, tmp_path: Path) -> None:
    lay_out(tmp_path / "other")
    template = tmp_path / "market-stall"
    shutil.unpack_archive(str(demo.parent / "packs/market-stall.zip"), template)
    script = template / "content/scripts/server/packs/market_stall.lua"
    more = 'MARKET_STALL = 1 -- MarketStall, marketStall, "market-stall", openMarketStall()\n-- market_stalls, supermarket_stall2 and Marketstalls stay\n'
    script.write_text(script.read_text() + more)
    before = snapshot(template)
    refused = run_hookset(tmp_path, "derive", "market-stall", "--name", "fish-stand")
    assert (refused.code, "`--also market=fish`" in refused.out) == (1, True)
    assert not (tmp_path / "fish-stand").exists()
    ran = run_hookset(
        tmp_path,
        "derive",
        "market-stall",
        "--name",
        "fish-stand",
        "--also",
        "market=fish",
        "--keep",
        "keeps-the-market",
    )
    assert ran.code == 0, ran.err
    assert snapshot(template) == before
    derived = snapshot(tmp_path / "fish-stand")
    assert not any("market" in path for path in derived)
    lua = derived["content/scripts/server/packs/fish_stand.lua"].decode()
    assert 'FISH_STAND = 1 -- FishStand, fishStand, "fish-stand", openFishStand()' in lua
    assert "market_stalls, supermarket_stall2 and Marketstalls stay" in lua.replace("fish_stalls", "market_stalls")
    sheet = derived["hooksheet.toml"].decode()
    assert 'made_from = "market-stall 1.0 by Tolly Reed"' in sheet and "keeps-the-market" in sheet


def test_a_template_that_calls_its_things_otherwise_than_itself(demo: Path, hookset: Run) -> None:
    template = demo.parent / "booth-template"
    for path, text in {
        "hooksheet.toml": '[pack]\nname = "booth-template"\nversion = "1"\nlayouts = ["split-lua"]\n'
        '# of the author\'s own\n[[needs]]\nkind = "script"\nname = "packs.ownbooth"\n\n'
        '[[needs]]\nkind = "script"\nname = "gates"\n\n'
        '[[files]]\nfrom = "content/**"\nto = "."\n[[hook]]\nseat = "server-import"\n'
        "text = 'local yourbooth = require(\"packs.yourbooth\")'\n",
        "content/scripts/server/packs/yourbooth.lua": "YOURBOOTH = 1\nreturn { openYourBooth = 2 }\n",
        "content/scripts/client/packs/yourbooth.lua": "return {}\n",
    }.items():
        (template / path).parent.mkdir(parents=True, exist_ok=True)
        (template / path).write_text(text)
    ran = hookset("derive", "../booth-template", "--name", "fish-booth", "--also", "ownbooth=fishbooth", "--json")
    assert ran.code == 0, ran.out
    made = snapshot(demo.parent / "fish-booth")
    assert made["content/scripts/server/packs/fishbooth.lua"] == b"FISHBOOTH = 1\nreturn { openFishBooth = 2 }\n"
    sheet = tomllib.loads(made["hooksheet.toml"].decode())
    # What it brings itself it needs no more.
    assert [need["name"] for need in sheet["needs"]] == ["gates"]


def test_template_and_derived_pack_go_into_one_map(demo: Path, hookset: Run) -> None:
    ran = hookset(
        "derive",
        "../packs/market-stall.zip",
        "--name",
        "fish-stand",
        "--also",
        "market=fish",
        "--also",
        "keeps=sells",
        "--json",
    )
    assert ran.code == 0, ran.err
    assert not (demo / "fish-stand").exists(), "a new pack is no part of the map"
    answers = [x for name in ("market-stall", "fish-stand") for x in ("--blank", f"{name}.keeper=Tolly")]
    answers += [x for name in ("market-stall", "fish-stand") for x in ("--blank", f"{name}.sign=../market/sign.png")]
    answers += [
        x for name in ("market-stall", "fish-stand") for x in ("--blank", f"{name}.jingle=../market/jingle.wav")
    ]
    done = hookset("install", "../packs/market-stall.zip", "../fish-stand", *answers)
    assert done.code == 0, done.err
    # Both stand where the author has put the first.
    told = hookset("check", "--json").data["findings"]
    assert [(one["code"], one["name"]) for one in told] == [("same-spot", "fish_stand")]
    assert hookset("move", "fish_stand", "--by", "3,0,0").code == 0
    assert hookset("check").code == 0
    credits = hookset("credits").out
    assert "Made from market-stall 1.0 by Tolly Reed." in credits


# ---- logs ------------------------------------------------------------------------------------------------------------


@pytest.mark.no_cover
def test_a_log_tells_whose_the_errors_are(demo: Path, hookset: Run) -> None:
    assert hookset("install", BELL, "--as-drafted").code == 0
    script = demo / "scripts/server/packs/fog_bell.lua"
    script.write_text(script.read_text().replace("fog_bell_toll", "fog_bell_tol"))
    main = demo / "scripts/server/main.lua"
    main.write_text(main.read_text().replace("fog_bell.start(7)", "fog_bell.start(nil + 7)"))
    assert hookset("build", "--anyway").code == 0
    trial = hookset("trial", "--save", "../first.log")
    assert trial.code == 1 and "to blame" in trial.out and "fog-bell" in trial.out
    first = hookset("log", "../first.log", "--json")
    assert first.code == 1
    assert first.data["packs"] == [{"pack": "fog-bell", "errors": first.data["errors"]}]
    (whose,) = {
        blame["why"] for one in first.data["troubles"] for blame in one["blames"] if "main.lua" in blame["spot"]
    }
    assert whose == "its entry"
    main.write_text(main.read_text().replace("nil + 7", "7"))
    harbour = demo / "scripts/server/harbour.lua"
    harbour.write_text(harbour.read_text().replace('"gull_rock"', '"gul_rock"'))
    assert hookset("build", "--anyway").code == 0
    hookset("trial", "--save", "../second.log")
    second = hookset("log", "../second.log", "--json").data
    told = {one["text"]: (one["new"], one["pack"]) for one in second["troubles"]}
    assert any("fog_bell_tol" in text and pack == "fog-bell" for text, (_, pack) in told.items())
    assert any("gul_rock" in text and new and pack is None for text, (new, pack) in told.items())
    assert second["gone"]
    assert hookset("log", "../second.log", "--new", "--json").data["troubles"] == [
        one for one in second["troubles"] if one["new"]
    ]


def test_logs_of_a_game_that_no_pattern_knows(demo: Path, hookset: Run) -> None:
    assert hookset("install", "../packs/lift-bridge.zip", "--anyway").code == 0
    (demo.parent / "game.log").write_bytes(
        b"12:00:01 loading C:\\games\\x\\maps\\brackwater\\scripts\\server\\main.lua\r\n"
        b"12:00:02 ERROR: C:\\games\\x\\maps\\brackwater\\scripts\\server\\packs\\lift_bridge.lua(12): attempt to call nil\r\n"
        b'12:00:03 Warning: sound "bridge_horn" could not be opened\r\n'
        b'12:00:04 Warning: sound "bridge_horn" could not be opened\r\n\xff\xfe\r\n'
    )
    data = hookset("log", "../game.log", "--json").data
    assert [(one["level"], one["count"], one["pack"], one["path"]) for one in data["troubles"]] == [
        ("error", 1, "lift-bridge", "scripts/server/packs/lift_bridge.lua"),
        ("warning", 2, "lift-bridge", ""),
    ]
    assert hookset("log", "../nothing.log").code == 3
