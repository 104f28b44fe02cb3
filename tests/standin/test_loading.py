"""The stand-in game: what it says of a map whose content is wrong."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from tests.conftest import run_hookset
from tests.standin.test_standin import dry_run

SCENE: dict[str, object] = {"nodes": []}


def nodes(*extras: dict[str, object]) -> str:
    return json.dumps({"nodes": [{"extras": one} for one in extras]})


@pytest.mark.parametrize(
    ("files", "error"),
    [
        pytest.param({"map.toml": "[map"}, "cannot be read", id="descriptor"),
        pytest.param({"texts/en.toml": "x = 1"}, "no text 't' in 'en'", id="title"),
        pytest.param({"scene.gltf": "{"}, "cannot be read", id="scene"),
        pytest.param({"scene.gltf": nodes({"class": "crane"})}, "no object class 'crane'", id="class"),
        pytest.param({"scene.gltf": nodes({"key": "a"}, {"key": "a"})}, "two objects have the key 'a'", id="key-twice"),
        pytest.param({"scene.gltf": nodes({"target": "b"})}, "the target 'b' is not there", id="target"),
        pytest.param({"scene.gltf": nodes({"model": "m.gltf"})}, "no file 'm.gltf'", id="model"),
        pytest.param({"scene.gltf": nodes({"sound": "s"})}, "no sound alias 's'", id="sound"),
        pytest.param({"scene.gltf": nodes({"label": "l"})}, "no text 'l' in 'en'", id="label"),
        pytest.param({"scene.gltf": nodes({"server_call": "c"})}, "calls 'c' on the server", id="callback"),
        pytest.param({"scene.gltf": '{"images": [{"uri": "i.png"}]}'}, "no file 'i.png'", id="image"),
        pytest.param(
            {"scene.gltf": '{"images": [{"uri": "i.png"}]}', "i.png": "no picture"}, "cannot be shown", id="picture"
        ),
        pytest.param({"scene.gltf": '{"buffers": [{"uri": "b.bin"}]}'}, "no file 'b.bin'", id="buffer"),
        pytest.param(
            {"sounds/a.toml": '[[sound]]\nalias = "a"\nfile = "a.wav"\nreach = 1\n'},
            "no file 'sounds/a.wav'",
            id="sound-file",
        ),
        pytest.param(
            {"sounds/a.toml": '[[sound]]\nalias = "a"\nfile = "a.wav"\nreach = 1\n', "sounds/a.wav": "x"},
            "cannot be played",
            id="no-sound",
        ),
        pytest.param({"scripts/client/main.lua": "x ="}, "unexpected symbol", id="client-script"),
        pytest.param({"scripts/client/main.lua": 'require("gone")'}, "no script 'gone'", id="client-import"),
    ],
)
def test_each_fault_is_an_error(files: dict[str, str], error: str, tmp_path: Path) -> None:
    log = dry_run(tmp_path, "", files)
    assert any(error in line.text for line in log.errors), log.errors


@pytest.mark.parametrize(
    ("script", "error"),
    [
        ('on("a", print or log) on("a", log)', "the callback 'a' is registered twice"),
        ('play_sound("a")', "no sound alias 'a'"),
        ('play_sound("water_lap", "a")', "no object has the key 'a'"),
        ('object("a")', "no object has the key 'a'"),
        ('show_text("a")', "no text 'a' in 'en'"),
        ('tell_clients("a")', "nobody on the client has registered 'a'"),
        ("error({})", "an error that is no text"),
        ('after(1, function() error("late") end)', "late"),
    ],
)
def test_each_wrong_call_is_an_error(script: str, error: str, tmp_path: Path) -> None:
    log = dry_run(tmp_path, script)
    assert any(error in line.text for line in log.errors), log.errors


def test_the_same_error_is_written_once(tmp_path: Path) -> None:
    log = dry_run(tmp_path, 'for n = 1, 5 do play_sound("a") end')
    assert len(log.errors) == 1


def test_the_base_game_s_own_is_there(tmp_path: Path) -> None:
    log = dry_run(tmp_path, 'require("clock") play_sound("water_lap") show_text("game.use")')
    assert log.errors == []


@pytest.mark.no_cover
def test_the_demo_is_the_same_each_time(tmp_path: Path) -> None:
    logs = []
    for name in ("a", "b"):
        assert run_hookset(tmp_path, "demo", name, "--files").code == 0
        root = tmp_path / name / "brackwater"
        assert run_hookset(root, "start").code == 0
        for pack in ("lift-bridge", "fog-bell"):
            assert run_hookset(root, "install", f"../packs/{pack}.zip").code == 0
        assert run_hookset(root, "build").code == 0
        logs.append(run_hookset(root, "trial", "--log").out)
    assert logs[0] == logs[1]
    assert logs[0].count("\n") > 100
