"""The built program, as a builder drives it: from an empty folder to a built and tried map."""

from __future__ import annotations

import hashlib
import json
import os
import subprocess
import sys
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest
from filelock import FileLock

from hookset.project import MapProject
from tests.conftest import Ran, run_hookset, snapshot

Run = Callable[..., Ran]
BRIDGE, BELL = "../packs/lift-bridge.zip", "../packs/fog-bell.zip"


def test_demo_plays_the_whole_journey(tmp_path: Path) -> None:
    ran = run_hookset(tmp_path, "demo")
    assert ran.code == 0, ran.err
    for told in (
        "hookset.toml is written",
        "the file `sounds/harbour/gul_3.wav` is not there",
        "did you mean `harbour/gull_3.wav`?",
        "No findings: every reference that can be checked is met.",
        "brackwater 3 is built",
        "bridge_lever  lift_bridge.pull on the server",
        "bridge_span by (0, 0.75, 0)",
        "No errors: everything that was asked for was there.",
    ):
        assert told in ran.out, told
    assert "it is not built" in ran.err
    assert (tmp_path / "hookset-demo/brackwater/build/brackwater-3.zip").is_file()
    for _ in range(2):
        assert run_hookset(tmp_path / "hookset-demo/brackwater", "undo").code == 0
    again = run_hookset(tmp_path, "demo", "--json")
    assert (again.code, again.told) == (1, ["file-exists"])


@pytest.mark.no_cover
def test_demo_for_programs(tmp_path: Path) -> None:
    ran = run_hookset(tmp_path, "demo", "x", "--json")
    assert [step["exit"] for step in ran.data["steps"]] == [0, 1, 1, *[0] * 21]


def test_start_tells_what_it_recognised(demo: Path, hookset: Run) -> None:
    (demo / "hookset.toml").unlink()
    ran = hookset("start")
    assert ran.code == 0
    assert "scripts/server/main.lua  the server's main script" in ran.out
    assert 'stock = ["../base.stock.json"]' in (demo / "hookset.toml").read_text()
    assert hookset("start").code == 1
    (demo / "hookset.toml").unlink()
    assert hookset("start", "--json").data["layout"] == "split-lua"


def test_inspect_outside_of_a_map_and_inside(demo: Path, hookset: Run) -> None:
    outside = hookset("inspect", "packs/lift-bridge.zip", folder=demo.parent)
    assert outside.code == 0
    for told in ("lift-bridge 1.2.0", "by Fen Workshop; licence: CC-BY-4.0", "winch-house", "open-seconds", "sign-picture",
                 "LICENSE.txt, README.txt, preview.png", "packs.lift_bridge (client, server)", "no map here"):  # fmt: skip
        assert told in outside.out, told
    assert 'scripts/server/main.lua  local lift_bridge = require("packs.lift_bridge")' in outside.out
    alone = hookset("inspect", "packs/lift-bridge.zip", "--json", folder=demo.parent).data
    assert {entry["state"] for entry in alone["plan"]["entries"]} == {"set"}
    assert alone["brings"]["sound"] == ["bridge_chain", "bridge_horn"]
    assert alone["brings"]["text"][0] == "lift_bridge.down (de, en)"
    assert alone["brings"]["object"] == ["bridge_lever", "bridge_span"]
    assert [(one["kind"], one["name"]) for one in alone["asks_for"]] == [
        ("object class", "lever"),
        ("object class", "moving-part"),
    ]
    inside = hookset("inspect", BRIDGE)
    assert "met  object-class `winch-house`" in inside.out
    assert "Read for the map brackwater." in inside.out
    data = hookset("inspect", BRIDGE, "--json").data
    assert data["brings"]["callback"] == [
        "lift_bridge.pull (server)",
        "lift_bridge.pulled (client)",
        "lift_bridge.state (client)",
    ]
    assert data["needs"] == [
        {"kind": "object-class", "name": "winch-house", "version": "", "met": True, "by": "in scene/brackwater.gltf"}
    ]
    assert data["sha256"] == hashlib.sha256((demo.parent / "packs/lift-bridge.zip").read_bytes()).hexdigest()
    hookset("install", BRIDGE)
    assert hookset("inspect", BRIDGE, "--json").data["brings"] == data["brings"]


def test_inspect_a_pack_without_a_hook_sheet(demo: Path, hookset: Run) -> None:
    (demo.parent / "raw").mkdir()
    (demo.parent / "raw/a.lua").write_text("return 1")
    assert "It has no hook sheet" in hookset("inspect", "../raw").out
    refused = hookset("install", "../raw", "--json")
    assert (refused.code, refused.told) == (1, ["draft-not-agreed"])


def test_preview_shows_all_and_writes_nothing(demo: Path, hookset: Run) -> None:
    before = snapshot(demo)
    ran = hookset("install", BRIDGE, "--preview")
    assert ran.code == 0
    for told in (
        "files       9 new",
        '+local lift_bridge = require("packs.lift_bridge")',
        "no new findings",
        "met  object-class `winch-house`",
        "Nothing was written: this was a preview.",
    ):
        assert told in ran.out, told
    assert snapshot(demo) == before
    data = hookset("install", BRIDGE, "--preview", "--json").data
    assert (data["written"], data["stops"], data["new_findings"]) == (False, [], [])
    assert {diff["path"] for diff in data["diffs"]} >= {"scripts/server/main.lua", "scene/brackwater.gltf"}


def test_install_list_undo(demo: Path, hookset: Run) -> None:
    before = snapshot(demo)
    installed = hookset("install", BRIDGE, BELL)
    assert installed.code == 0
    assert "the horn sounds before the span moves" in installed.out
    assert hookset("check").code == 0
    assert [(p["name"], p["version"]) for p in hookset("list", "--json").data["packs"]] == [
        ("fog-bell", "0.4"),
        ("lift-bridge", "1.2.0"),
    ]
    assert "Marrow & Tern" in hookset("list").out
    after = snapshot(demo)
    assert "nothing was written" in hookset("install", BRIDGE, BELL).out
    assert snapshot(demo) == after
    assert "Would be undone" in hookset("undo", "--preview").out
    assert snapshot(demo) == after
    undone = hookset("undo", "--json").data
    assert undone["written"] is True
    assert snapshot(demo) == before
    assert hookset("undo").code == 1
    assert "No packs are installed" in hookset("list").out


def test_each_undo_goes_one_further_back(demo: Path, hookset: Run) -> None:
    states = [snapshot(demo)]
    for pack in (BRIDGE, BELL):
        assert hookset("install", pack).code == 0
        states.append(snapshot(demo))
    for state in reversed(states[:-1]):
        assert hookset("undo").code == 0
        assert snapshot(demo) == state


def test_undo_does_not_lose_what_was_changed_since(demo: Path, hookset: Run) -> None:
    hookset("install", BRIDGE)
    script = demo / "scripts/server/main.lua"
    script.write_text(script.read_text() + "-- mine\n")
    refused = hookset("undo", "--json")
    assert (refused.code, refused.told) == (1, ["changed-by-you"])
    assert any("scripts/server/main.lua" in line for line in refused.wrong[0]["details"])
    assert script.read_text().endswith("-- mine\n")


def test_install_refuses_what_would_break_the_map(demo: Path, hookset: Run) -> None:
    pack = demo.parent / "packs/broken"
    pack.mkdir()
    (pack / "hooksheet.toml").write_text(
        '[pack]\nname = "broken"\nversion = "1"\n[[hook]]\nseat = "server-import"\ntext = \'require("packs.broken")\'\n'
    )
    before = snapshot(demo)
    refused = hookset("install", "../packs/broken", "--json")
    assert (refused.code, refused.told) == (1, ["map-has-errors"])
    assert any("`packs.broken`" in line for line in refused.wrong[0]["details"])
    assert snapshot(demo) == before
    assert hookset("install", "../packs/broken", "--anyway").code == 0
    assert hookset("check").code == 1


def test_install_refuses_when_a_need_is_not_met(demo: Path, hookset: Run) -> None:
    scene = demo / "scene/brackwater.gltf"
    scene.write_text(scene.read_text().replace('"class": "winch-house"', '"class": "post"'))
    refused = hookset("install", BRIDGE, "--json")
    assert (refused.code, refused.told) == (1, ["need-not-met"])
    assert any("winch-house" in line for line in refused.wrong[0]["details"])
    assert hookset("install", BRIDGE, "--preview").code == 1
    assert hookset("install", BRIDGE, "--anyway").code == 0


def test_conflicting_files_are_the_builder_s_choice(demo: Path, hookset: Run) -> None:
    mine = demo / "sounds/bridge/horn.wav"
    mine.parent.mkdir()
    mine.write_bytes((demo / "sounds/harbour/gull_1.wav").read_bytes())
    stopped = hookset("install", BRIDGE, "--json")
    assert (stopped.code, stopped.told) == (1, ["file-exists"])
    assert "--keep-mine" in stopped.wrong[0]["remedy"]
    assert not (demo / "sounds/bridge/chain.wav").exists()
    own = mine.read_bytes()
    assert hookset("install", BRIDGE, "--keep-mine").code == 0
    assert mine.read_bytes() == own
    hookset("undo")
    assert hookset("install", BRIDGE, "--take-theirs").code == 0
    assert mine.read_bytes() != own
    hookset("undo")
    assert mine.read_bytes() == own


def test_check_for_people_and_programs(packed: MapProject, hookset: Run) -> None:
    clean = hookset("check")
    assert clean.code == 0
    assert "144 references: 116 met in the map, 26 in the stock, 0 missing, 2 not checkable" in clean.out
    assert "scripts/server/harbour.lua:16:16" in clean.out
    (packed.root / "sounds/harbour/quay_bell.wav").unlink()
    broken = hookset("check")
    assert broken.code == 1
    assert "missing-file" in broken.out and "row-without-file" in broken.out
    data = hookset("check", "--json").data
    assert not data["ok"]
    assert [(f["code"], f["path"], f["line"]) for f in data["findings"]] == [
        ("row-without-file", "manifest.txt", 35),
        ("missing-file", "sounds/aliases.toml", 5),
    ]
    assert data["counts"]["missing"] == 2


@pytest.mark.no_cover
def test_build_is_refused_then_right_and_reproducible(packed: MapProject, hookset: Run) -> None:
    root = packed.root
    wav = root / "sounds/harbour/quay_bell.wav"
    data = wav.read_bytes()
    wav.unlink()
    refused = hookset("build", "--json")
    assert (refused.code, refused.told) == (1, ["map-has-errors"])
    assert not (root / "build").exists()
    assert hookset("build", "--anyway", "--to", "../anyway").code == 0
    wav.write_bytes(data)
    (root / "notes.txt").write_text("mine")
    built = hookset("build", "--json").data
    assert built["left_out"] == ["notes.txt"]
    archive = root / "build/brackwater-3.zip"
    assert hashlib.sha256(archive.read_bytes()).hexdigest() == built["sha256"]
    with zipfile.ZipFile(archive) as opened:
        assert opened.namelist()[:2] == ["map.toml", "manifest.txt"]
        assert opened.testzip() is None
        assert {info.date_time for info in opened.infolist()} == {(1980, 1, 1, 0, 0, 0)}
        names = opened.namelist()
    assert not [name for name in names if "hookset" in name or name.startswith("build/")]
    first = archive.read_bytes()
    os.utime(root / "map.toml", (1, 1))
    archive.unlink()
    assert hookset("build").code == 0
    assert archive.read_bytes() == first


def test_trial_tells_what_the_game_says(packed: MapProject, hookset: Run) -> None:
    assert hookset("trial").code == 2
    hookset("build")
    clean = hookset("trial")
    assert clean.code == 0
    assert "lift_bridge.pull on the server" in clean.out
    assert "'The bridge is rising'" in clean.out
    script = packed.root / "scripts/server/main.lua"
    script.write_text(script.read_text().replace("  lift_bridge.start()\n", ""))
    hookset("build")
    failed = hookset("trial")
    assert failed.code == 1
    assert "bridge_lever calls 'lift_bridge.pull' on the server, which nobody registered" in failed.out
    data = hookset("trial", "--json").data
    assert data["errors"] == 1
    assert "fired" in hookset("trial", "--log").out


def test_trial_stops_a_game_that_hangs(packed: MapProject, hookset: Run) -> None:
    script = packed.root / "scripts/server/main.lua"
    script.write_text(script.read_text() + "string.find(('a'):rep(3000), ('.-'):rep(30) .. 'b')\n")
    assert hookset("build").code == 0
    ran = hookset("trial", "--limit", "2")
    assert ran.code == 1
    assert "did not end within 2 s" in ran.out


# ---- what bad use and bad input get ---------------------------------------------------------------------------------


def test_a_folder_without_a_project_file(tmp_path: Path) -> None:
    ran = run_hookset(tmp_path, "check", "--json")
    assert (ran.code, ran.told) == (2, ["no-map"])
    assert "hookset start" in ran.wrong[0]["remedy"]
    data = run_hookset(tmp_path, "check", "--json").data
    assert (data["command"], data["ok"]) == ("check", False)
    assert data["error"]["remedy"]


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("page.zip", b"<html>404</html>", "is not an archive"),
        ("cut.zip", None, "is a damaged zip archive"),
        ("empty.zip", b"PK\x05\x06" + bytes(18), "is empty"),
        ("missing.zip", b"", "is not an archive"),
    ],
)
def test_packs_that_are_none(name: str, data: bytes | None, words: str, demo: Path, hookset: Run) -> None:
    whole = (demo.parent / "packs/lift-bridge.zip").read_bytes()
    (demo.parent / "packs" / name).write_bytes(whole[:9000] if data is None else data)
    before = snapshot(demo)
    for command in ("inspect", "install"):
        ran = hookset(command, f"../packs/{name}")
        assert ran.code == 3
        assert words in ran.err
    assert snapshot(demo) == before
    assert hookset("install", "../packs/nowhere.zip").code == 3


def test_a_second_run_at_the_same_time_is_refused(demo: Path, hookset: Run) -> None:
    (demo / ".hookset").mkdir()
    with FileLock(demo / ".hookset/lock"):
        refused = hookset("install", BRIDGE, "--json")
        assert (refused.code, refused.told) == (1, ["map-busy"])
        assert hookset("check").code == 0
    assert hookset("install", BRIDGE).code == 0


def test_help_has_an_example_for_each_command(tmp_path: Path) -> None:
    listed = run_hookset(tmp_path, "--help").out
    for name in ("demo", "start", "inspect", "install", "check", "undo", "list", "build", "trial"):
        assert f"\n  {name} " in listed
        told = run_hookset(tmp_path, name, "--help").out
        assert "Example" in told and f"hookset {name}" in told


@pytest.mark.usefixtures("demo")
def test_wrong_use_is_told_by_its_exit_code(hookset: Run) -> None:
    assert hookset("chekc").code == 2
    assert hookset("install").code == 2
    assert hookset("check", "--jsno").code == 2
    assert hookset("--version").out == "hookset 0.1.0\n"


def test_the_map_can_be_named_from_elsewhere(demo: Path, hookset: Run, tmp_path: Path) -> None:
    assert hookset("--map", str(demo), "check", folder=tmp_path).code == 0
    assert hookset("check", folder=demo / "scripts" / "server").code == 0


def test_verbose_says_what_is_done_and_keeps_it(demo: Path, tmp_path: Path) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "hookset", "-v", "check"], cwd=demo, capture_output=True, text=True, check=False,
        env=os.environ | {"XDG_STATE_HOME": str(tmp_path / "state")},
    )  # fmt: skip
    assert "layout split-lua" in done.stderr
    assert "layout split-lua" in next((tmp_path / "state").rglob("hookset.log")).read_text()


def test_damaged_files_of_our_own_are_told(packed: MapProject, hookset: Run) -> None:
    ledger = packed.root / ".hookset/ledger.json"
    ledger.write_text(json.dumps({"packs": 3}))
    ran = hookset("list", "--json")
    assert (ran.code, ran.told) == (3, ["unexpected-content"])
    assert "ledger.json: /packs" in ran.wrong[0]["details"][0]


@pytest.mark.usefixtures("packed")
def test_output_away_from_a_terminal_has_no_colour_and_no_blanks_at_line_ends(hookset: Run) -> None:
    out = hookset("check").out + hookset("list").out + hookset("inspect", BRIDGE).out
    assert "\x1b" not in out
    assert not [line for line in out.splitlines() if line != line.rstrip()]
