"""Conflicts are told before anything is written, and each can be decided: by an option, or when asked."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.conftest import run_hookset, snapshot
from tests.shipped import demo_in
from tests.terminal import at_terminal

BRIDGE = "../packs/lift-bridge.zip"


@pytest.fixture
def town(tmp_path: Path) -> Path:
    return demo_in(tmp_path / "demo")


def own_texture(town: Path) -> Path:
    """A texture of the builder's own where the pack brings another."""
    mine = town / "textures/lift_bridge/steel.png"
    mine.parent.mkdir()
    mine.write_bytes((town / "textures/iron.png").read_bytes())
    return mine


def test_another_file_of_that_name_stops(town: Path) -> None:
    own_texture(town)
    before = snapshot(town)
    stopped = run_hookset(town, "install", BRIDGE, "--json")
    assert (stopped.code, stopped.told) == (1, ["file-exists"])
    assert stopped.wrong[0]["where"] == "lift-bridge"
    for option in ("--keep-mine", "--take-theirs", "--keep-both"):
        assert option in stopped.wrong[0]["remedy"]
    assert snapshot(town) == before


def test_both_stay_and_what_refers_to_the_pack_s_follows(town: Path) -> None:
    mine = own_texture(town)
    before, kept = snapshot(town), mine.read_bytes()
    assert run_hookset(town, "install", BRIDGE, "--keep-both").code == 0
    assert mine.read_bytes() == kept
    assert (town / "textures/lift_bridge/steel_lift_bridge.png").exists()
    model = (town / "models/lift_bridge/span.gltf").read_text()
    assert "../../textures/lift_bridge/steel_lift_bridge.png" in model
    assert "textures/lift_bridge/steel_lift_bridge.png" in (town / "manifest.txt").read_text()
    assert not [f for f in run_hookset(town, "check", "--json").data["findings"] if f["severity"] == "error"]
    assert "nothing was written" in run_hookset(town, "install", BRIDGE).out
    assert run_hookset(town, "remove", "lift-bridge").code == 0
    assert snapshot(town) == before


def test_mine_comes_back_when_theirs_goes(town: Path) -> None:
    mine = own_texture(town)
    before = snapshot(town)
    assert run_hookset(town, "install", BRIDGE, "--take-theirs").code == 0
    assert mine.read_bytes() != before["textures/lift_bridge/steel.png"]
    assert run_hookset(town, "remove", "lift-bridge").code == 0
    assert snapshot(town) == before


def test_folders_of_a_pack_can_lie_elsewhere(town: Path) -> None:
    before = snapshot(town)
    moves = ("--move", "models/lift_bridge=models/bridges/lift", "--move", "scripts/server/packs=scripts/server/third")
    installed = run_hookset(town, "install", BRIDGE, *moves)
    assert installed.code == 0, installed.err
    assert '"../../../textures/lift_bridge/steel.png"' in (town / "models/bridges/lift/span.gltf").read_text()
    assert '"models/bridges/lift/span.gltf"' in (town / "scene/brackwater.gltf").read_text()
    assert 'require("third.lift_bridge")' in (town / "scripts/server/main.lua").read_text()
    assert 'require("packs.lift_bridge")' in (town / "scripts/client/main.lua").read_text()
    assert 'require("packs.lift_bridge_rules")' in (town / "scripts/server/third/lift_bridge.lua").read_text()
    assert run_hookset(town, "check").code == 0
    assert "nothing was written" in run_hookset(town, "install", BRIDGE).out
    assert run_hookset(town, "remove", "lift-bridge").code == 0
    assert snapshot(town) == before


def test_a_name_that_is_taken_is_told_and_can_be_another(town: Path) -> None:
    aliases = town / "sounds/aliases.toml"
    aliases.write_text(
        aliases.read_text() + '\n[[sound]]\nalias = "bridge_horn"\nfile = "harbour/quay_bell.wav"\nreach = 9.0\n'
    )
    stopped = run_hookset(town, "install", BRIDGE, "--json")
    assert (stopped.code, stopped.told) == (1, ["name-taken"])
    assert "--call sound:bridge_horn=" in stopped.wrong[0]["remedy"]
    assert run_hookset(town, "install", BRIDGE, "--call", "sound:bridge_horn=lift_horn").code == 0
    script = (town / "scripts/server/packs/lift_bridge.lua").read_text()
    assert 'play_sound("lift_horn", "bridge_lever")' in script
    assert 'alias = "lift_horn"' in aliases.read_text()
    assert run_hookset(town, "check").code == 0


def test_what_an_option_says_is_understood_or_told(town: Path) -> None:
    for option, told in (
        (("--set", "tol=3"), "has no setting `tol`; did you mean `toll`?"),
        (("--set", "toll=lots"), "'lots' is no whole number"),
        (("--set", "toll"), "--set toll says no value"),
        (("--blank", "sign-picture=nowhere.png"), "there is no file nowhere.png"),
        (("--part", "deck"), "has no part `deck`"),
        (("--answers", "none.toml"), "cannot be read"),
    ):
        refused = run_hookset(town, "install", BRIDGE, *option)
        assert refused.code in (2, 3), option
        assert told in refused.err, refused.err
    both = run_hookset(town, "install", BRIDGE, "../packs/fog-bell.zip", "--set", "toll=3", "--json")
    assert (both.code, both.told) == (2, ["incomplete-option"])


def test_at_a_terminal_it_asks(town: Path) -> None:
    own_texture(town)
    said = at_terminal(town, ["install", BRIDGE], [("answer", "mine\n"), ("answer", "\n")])
    assert "1  mine" in said.replace("\x1b", "") or "mine" in said
    assert "Which textures/lift_bridge/steel.png is the map to have?" in said
    assert "is set into brackwater" in said


def test_all_that_is_open_is_asked_before_the_map_is_judged_again(town: Path) -> None:
    mine = own_texture(town).read_bytes()
    horn = town / "sounds/bridge/horn.wav"
    horn.parent.mkdir()
    horn.write_bytes(b"RIFF....WAVE")
    said = at_terminal(town, ["install", BRIDGE], [("answer", "theirs\n"), ("answer", "mine\n"), ("answer", "-\n")])
    asked = [said.index(f"{number} of 2: Which {path}") for number, path in
             ((1, "sounds/bridge/horn.wav"), (2, "textures/lift_bridge/steel.png"))]  # fmt: skip
    assert asked == sorted(asked)
    assert "is set into brackwater" in said
    assert horn.read_bytes() != b"RIFF....WAVE"
    assert (town / "textures/lift_bridge/steel.png").read_bytes() == mine


@pytest.mark.no_cover
@pytest.mark.parametrize(("answer", "berth"), [("\n", "north-1"), ("island\n", "island"), ("-\n", "")])
def test_what_is_asked_has_an_answer_for_somebody_who_has_none(answer: str, berth: str, town: Path) -> None:
    arguments = ["install", "../packs/market-stall.zip", "--claim", "berth=nowhere"]
    data = run_hookset(town, *arguments, "--json").data
    (question,) = [stop["question"] for stop in data["stops"] if stop["question"] is not None]
    assert question["default"] == "north-1"
    at_terminal(town, arguments, [("answer", answer), ("answer", "\n"), ("answer", "\n"), ("answer", "\n")])
    main = (town / "scripts/server/main.lua").read_text(encoding="utf-8")
    assert (f'market_stall.open("{berth}"' in main) == bool(berth)
    assert ("market_stall" in main) == bool(berth)


def test_a_value_that_is_two_names_is_not_torn_apart(tmp_path: Path) -> None:
    (tmp_path / "own.toml").write_text(
        '[layout]\nname = "own"\ntitle = "Own"\n'
        '[kinds.thing]\nlabel = "thing"\n[kinds.signal]\nlabel = "signal"\n'
        '[[read]]\nfiles = "*.lua"\nformat = "lua"\n'
        'defines = [{ kind = "thing", call = "make", arg = 1 }, { kind = "signal", call = "make", arg = 1 }]\n'
        'refers = [{ kind = "thing", call = "find", arg = 1 }, { kind = "signal", call = "fire", arg = 1 }]\n'
        '[[read]]\nfiles = "list.xml"\nformat = "xml"\n'
        'defines = [{ kind = "thing", at = "//Thing/@name" }, { kind = "signal", at = "//Thing/@name" }]\n'
        '[[seat]]\nname = "things"\ntitle = "things"\nfile = "list.xml"\nput = { into = "/List" }\n',
        encoding="utf-8",
    )
    town, pack = tmp_path / "town", tmp_path / "pack"
    for folder, sheet, script in (
        (town, "", 'make("ebb")\n'),
        (pack, '[[files]]\nfrom = "tide.lua"\n', 'make("tide")\nfind("tide")\nfire("tide")\n'),
        (tmp_path / "two", '[[hook]]\nseat = "things"\ntext = \'<Thing name="tide"/>\'\n', None),
    ):
        folder.mkdir()
        head = f'[pack]\nname = "{folder.name}"\nversion = "1"\n'
        (folder / "hooksheet.toml").write_text(head + sheet, encoding="utf-8")
        if script:
            (folder / "tide.lua").write_text(script, encoding="utf-8")
    (town / "hooksheet.toml").unlink()
    (town / "tide.lua").rename(town / "main.lua")
    (town / "list.xml").write_text("<List>\n</List>\n", encoding="utf-8")
    (town / "hookset.toml").write_text('[map]\nname = "town"\nlayout = "../own.toml"\n', encoding="utf-8")
    before = snapshot(town)
    for name in ("pack", "two"):
        one = run_hookset(town, "install", f"../{name}", "--call", "thing:tide=flood", "--json")
        assert one.code == 1, one.out
        (stop,) = one.data["stops"]
        assert "--call signal:tide=flood" in stop["remedy"]
        assert snapshot(town) == before
    both = ("--call", "thing:tide=flood", "--call", "signal:tide=flood")
    assert run_hookset(town, "install", "../pack", *both).code == 0
    assert (town / "tide.lua").read_text(encoding="utf-8") == 'make("flood")\nfind("flood")\nfire("flood")\n'
    two = ("--call", "thing:tide=high", "--call", "signal:tide=high")
    assert run_hookset(town, "install", "../two", *two).code == 0
    assert '<Thing name="high"/>' in (town / "list.xml").read_text(encoding="utf-8")
