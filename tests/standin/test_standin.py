"""The stand-in game: scripts reach only the game, and always end."""

from __future__ import annotations

import json
import subprocess
import sys
import zipfile
from collections.abc import Mapping, Sequence
from pathlib import Path

import pytest

from hookset.standin import Log, play

DESCRIPTOR = '[map]\nname = "x"\nversion = "1"\ntitle = "t"\nscene = "scene.gltf"\nlanguages = ["en"]\n'
FILES = {
    "map.toml": DESCRIPTOR,
    "texts/en.toml": 't = "T"\n',
    "scene.gltf": '{"nodes": []}',
    "scripts/client/main.lua": "",
}


def dry_run(folder: Path, server: str, files: dict[str, str] | None = None) -> Log:
    """Play a map with this script on the server."""
    everything = FILES | {"scripts/server/main.lua": server} | (files or {})
    rows = "\n".join(path for path in everything if path != "map.toml")
    with zipfile.ZipFile(folder / "map.zip", "w") as archive:
        for path, text in (everything | {"manifest.txt": rows}).items():
            archive.writestr(path, text)
    log = Log()
    play(folder / "map.zip", 5, log)
    return log


def said(log: Log) -> list[str]:
    return [line.text for line in log.lines if line.what == "said"]


@pytest.mark.parametrize(
    "reach",
    [
        "os.execute('true')", "io.open('/etc/passwd')", "debug.getregistry()", "package.loadlib('x', 'y')", "load('x = 1')()",
        "dofile('/etc/passwd')", "loadfile('/etc/passwd')", "python.eval('1')", "collectgarbage()", "string.dump(start)",
        "coroutine.create(start)", "host('log', 'a', 1, 'b')", "begin('x', 'y')", "require('../../etc/passwd')", "require('/etc/passwd')",
    ],
)  # fmt: skip
def test_scripts_cannot_reach_the_machine(reach: str, tmp_path: Path) -> None:
    log = dry_run(tmp_path, f"function start() {reach} log('reached') end")
    assert len(log.errors) == 1
    assert said(log) == []


@pytest.mark.parametrize(
    "endless",
    [
        "while true do end",
        "while true do pcall(function() while true do end end) end",
        "local function f() pcall(f) return f() end f()",
        "local s = 'x' while true do s = s .. s end",
        "local t = {} while true do t[#t + 1] = ('x'):rep(1000) end",
        "on('x', print) error(setmetatable({}, { __tostring = function() while true do end end }))",
    ],
)
def test_scripts_come_to_an_end(endless: str, tmp_path: Path) -> None:
    log = dry_run(tmp_path, f"function start() {endless} end")
    assert log.errors
    assert log.lines[-1].what == "ended"


def test_errors_have_the_script_s_own_place(tmp_path: Path) -> None:
    log = dry_run(tmp_path, 'function start()\n  play_sound("gone")\n  local x = nil + 1\nend')
    assert [(error.file, error.line) for error in log.errors] == [
        ("scripts/server/main.lua", 2),
        ("scripts/server/main.lua", 3),
    ]


def test_callbacks_timers_and_sides(tmp_path: Path) -> None:
    files = {
        "scripts/client/main.lua": 'on("shown", function(n) log("client " .. n) tell_server("back") end)',
        "scene.gltf": '{"nodes": [{"extras": {"key": "lever", "class": "lever", "server_call": "pull", "client_call": "x"}}]}',
    }
    server = (
        'on("pull", function(who) log(who) after(2, function() tell_clients("shown", 7) end) end)\n'
        'on("back", function() object("lever"):move(1, 0, 0) end)'
    )
    log = dry_run(tmp_path, server, files)
    assert said(log)[:3] == ["server: player 1", "server: player 1", "client: client 7"]
    assert "lever by (1, 0, 0)" in [line.text for line in log.lines if line.what == "moved"]
    assert [error.text for error in log.errors] == ["lever calls 'x' on the client, which nobody registered"]


def test_what_is_no_map_is_told(tmp_path: Path) -> None:
    (tmp_path / "map.zip").write_text("no zip")
    log = Log()
    play(tmp_path / "map.zip", 5, log)
    assert "cannot be opened" in log.errors[0].text
    with zipfile.ZipFile(tmp_path / "map.zip", "w") as archive:
        archive.writestr("deeper/map.toml", DESCRIPTOR)
    log = Log()
    play(tmp_path / "map.zip", 5, log)
    assert [error.text for error in log.errors] == ["no map.toml at the top of the archive"]


def test_it_runs_as_a_program_of_its_own(tmp_path: Path) -> None:
    dry_run(tmp_path, "function start() end")
    done = subprocess.run(
        [sys.executable, "-m", "hookset.standin", str(tmp_path / "map.zip"), "3"],
        capture_output=True,
        text=True,
        check=False,
    )
    assert (done.returncode, done.stderr) == (0, "")
    assert '"what": "ended"' in done.stdout.splitlines()[-1]


def played(folder: Path, nodes: Sequence[Mapping[str, object]], zones: str = "") -> Log:
    files = {"scene.gltf": json.dumps({"nodes": nodes, "scenes": [{"nodes": list(range(len(nodes)))}]})}
    server = "on('pull', function() end) function start() end"
    return dry_run(folder, server, files | ({"zones.toml": zones} if zones else {}))


def told(log: Log, what: str) -> list[tuple[str, str]]:
    return list(dict.fromkeys((line.name, line.to) for line in log.lines if line.what == what))


def lever(key: str, target: str) -> dict[str, object]:
    return {"extras": {"key": key, "class": "lever", "target": target, "server_call": "pull"}}


def test_a_copy_s_lever_works_the_copy_s_gate(tmp_path: Path) -> None:
    nodes: list[dict[str, object]] = [
        lever("lever", "gate"),
        {"extras": {"key": "gate", "class": "moving-part"}},
        lever("lever_2", "gate_2"),
        {"extras": {"key": "gate_2", "class": "moving-part"}},
    ]
    assert told(played(tmp_path, nodes), "worked") == [("lever", "gate"), ("lever_2", "gate_2")]


def test_players_land_on_points_of_their_own_and_hear_what_reaches_them(tmp_path: Path) -> None:
    landing: list[dict[str, object]] = [
        {"translation": [x, 0, 0], "extras": {"key": f"landing_{x}", "class": "landing"}} for x in (0, 10, 10, 90)
    ]
    # What stands in another node stands by its place and turn: 12 m along z of a post that is turned about y.
    post: dict[str, object] = {"translation": [12, 0, 0], "rotation": [0, 0.7071068, 0, 0.7071068], "children": [5]}
    horn: dict[str, object] = {
        "translation": [0, 0, -6],
        "extras": {"key": "horn", "class": "sound-source", "sound": "x", "reach": 5},
    }
    zones = '[[zone]]\nname = "quay"\nmeans = "playable"\noutline = [[-5, -5], [50, -5], [50, 5], [-5, 5]]\n'
    log = played(tmp_path, [*landing, post, horn], zones)
    assert [name for name, _ in told(log, "landed")] == ["landing_0", "landing_10"]
    # The horn stands at x = 6: the second player is 4 m away, the first 6.
    assert [line.text for line in log.lines if line.what == "heard"] == ["player 2 hears horn"]
    assert [("in the one" in one.text, "falls out" in one.text) for one in log.errors if "lands" in one.text] == [
        (True, False),
        (False, True),
    ]
