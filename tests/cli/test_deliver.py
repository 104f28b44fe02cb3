"""A built map comes to where the game looks: whole, once, with a way back; and what is then to be looked for."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import time
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.building.delivery.delivery import deliver
from hookset.model import CouldNotError
from tests.conftest import Ran
from tests.terminal import interruptible

Run = Callable[..., Ran]


@pytest.fixture
def game(demo: Path) -> Path:
    """Where a game looks for maps."""
    folder = demo.parent / "game/maps"
    folder.mkdir(parents=True)
    return folder


def maps(folder: Path) -> dict[str, bytes]:
    return {one.name: one.read_bytes() for one in folder.iterdir()}


def test_a_map_is_delivered_once_and_comes_back(demo: Path, game: Path, hookset: Run) -> None:
    assert hookset("deliver").code == 2
    assert hookset("deliver", "game", "--to", str(game / "gone")).code == 2
    first = hookset("deliver", "game", "--to", str(game), "--json").data["delivered"]
    assert [(one["destination"], one["same"], one["aside"]) for one in first] == [("game", False, [])]
    before = maps(game)
    (name,) = before
    with zipfile.ZipFile(game / name) as archive:
        assert archive.testzip() is None
    # The same once more changes nothing.
    assert hookset("deliver", "--json").data["delivered"][0]["same"] is True
    (demo / "scripts/server/harbour.lua").write_bytes(
        (demo / "scripts/server/harbour.lua").read_bytes() + b"\n-- more\n"
    )
    ran = hookset("deliver", "game", "--json")
    (aside,) = ran.data["delivered"][0]["aside"]
    assert Path(aside["kept"]).read_bytes() == before[name]
    assert maps(game) != before
    assert list(maps(game)) == [name]
    assert hookset("deliver", "--back").code == 0
    assert maps(game) == before
    assert hookset("deliver", "--back").code == 2


def test_other_copies_of_the_same_map_go_and_maps_of_others_stay(demo: Path, game: Path, hookset: Run) -> None:
    assert hookset("build").code == 0
    (built,) = (demo / "build").iterdir()
    shutil.copy(built, game / "brackwater-old.zip")
    shutil.copy(built, game / "Copy of brackwater (2).zip")
    other = game / "elsewhere.zip"
    with zipfile.ZipFile(other, "w") as archive:
        archive.writestr("map.toml", 'name = "elsewhere"\nversion = "1"\n')
    (game / "broken.zip").write_bytes(b"PK\x03\x04 cut off")
    (game / "notes.txt").write_text("mine")
    before = maps(game)
    ran = hookset("deliver", "game", "--to", str(game), "--json").data["delivered"][0]
    assert {Path(one["was"]).name for one in ran["aside"]} == {"brackwater-old.zip", "Copy of brackwater (2).zip"}
    assert set(maps(game)) == {built.name, "elsewhere.zip", "broken.zip", "notes.txt"}
    assert hookset("deliver", "--back").code == 0
    assert maps(game) == before


def test_a_map_with_an_error_is_not_delivered(demo: Path, game: Path, hookset: Run) -> None:
    (demo / "sounds/harbour/gull_3.wav").unlink()
    assert hookset("deliver", "game", "--to", str(game)).code == 1
    assert not maps(game)
    assert hookset("deliver", "--anyway").code == 0
    assert maps(game)


def test_destinations_are_several_and_forgotten(demo: Path, game: Path, hookset: Run) -> None:
    server = demo.parent / "server"
    server.mkdir()
    assert hookset("deliver", "game", "--to", str(game)).code == 0
    assert hookset("deliver", "server", "--to", str(server)).code == 0
    assert [one["name"] for one in hookset("deliver", "--destinations", "--json").data["destinations"]] == [
        "game",
        "server",
    ]
    (demo / "scripts/server/harbour.lua").write_bytes(
        (demo / "scripts/server/harbour.lua").read_bytes() + b"\n-- more\n"
    )
    assert len(hookset("deliver", "--json").data["delivered"]) == 2
    assert maps(game) == maps(server)
    assert hookset("deliver", "nowhere").code == 2
    assert hookset("deliver", "server", "--forget").code == 0
    assert [one["name"] for one in hookset("deliver", "--destinations", "--json").data["destinations"]] == ["game"]
    assert maps(server)


def test_a_folder_that_is_gone_is_not_made(game: Path, hookset: Run) -> None:
    assert hookset("deliver", "game", "--to", str(game)).code == 0
    shutil.rmtree(game.parent)
    ran = hookset("deliver", "--json")
    assert (ran.code, ran.told) == (3, ["not-found"])
    assert "--forget" in ran.wrong[0]["remedy"]
    assert not game.parent.exists()


def test_what_came_to_one_destination_can_be_taken_back_where_the_next_one_fails(
    demo: Path, game: Path, hookset: Run
) -> None:
    server = demo.parent / "server"
    server.mkdir()
    assert hookset("deliver", "game", "--to", str(game)).code == 0
    assert hookset("deliver", "server", "--to", str(server)).code == 0
    before = maps(game)
    server.rename(server.with_name("elsewhere"))
    (demo / "scripts/server/harbour.lua").write_bytes(
        (demo / "scripts/server/harbour.lua").read_bytes() + b"\n-- more\n"
    )
    assert hookset("deliver", "game", "server").code == 3
    assert maps(game) != before
    assert hookset("deliver", "game", "--back").code == 0
    assert maps(game) == before


def test_a_copy_that_cannot_be_taken_away_is_told(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "game").mkdir()
    other = tmp_path / "game/copy.zip"
    other.write_bytes(b"other")
    new = tmp_path / "map.zip"
    new.write_bytes(b"new")
    real = Path.unlink

    def held(self: Path, missing_ok: bool = False) -> None:
        if self == other:
            raise PermissionError(13, "somebody has it open")
        real(self, missing_ok)

    monkeypatch.setattr(Path, "unlink", held)
    done = deliver(new, tmp_path / "game", [other], tmp_path / "aside", "1")
    assert (done.left, done.aside) == ((other,), ())
    assert maps(tmp_path / "game") == {"copy.zip": b"other", "map.zip": b"new"}


def test_a_game_that_has_the_map_open_is_told(demo: Path, game: Path, hookset: Run) -> None:
    assert hookset("deliver", "game", "--to", str(game)).code == 0
    (name,) = maps(game)
    (demo / "scripts/server/harbour.lua").write_bytes(
        (demo / "scripts/server/harbour.lua").read_bytes() + b"\n-- more\n"
    )
    if not Path("/proc/self/fd").is_dir():
        pytest.skip("the system does not tell who has a file open")
    with (game / name).open("rb"):
        assert hookset("deliver", "--json").data["delivered"][0]["open_in"]


@pytest.mark.parametrize("place", [1, 2, 3, 4])
def test_wherever_it_stops_a_whole_map_lies_there(place: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The disk fails at each of the steps of a delivery."""
    (tmp_path / "game").mkdir()
    for name, data in (("map.zip", b"old" * 5_000), ("copy.zip", b"other" * 4_000)):
        (tmp_path / "game" / name).write_bytes(data)
    new = tmp_path / "map.zip"
    new.write_bytes(b"new" * 9_000)
    real, left = os.fsync, [place]

    def failing(number: int) -> None:
        left[0] -= 1
        if not left[0]:
            raise OSError(28, "no room")
        real(number)

    monkeypatch.setattr(os, "fsync", failing)
    others = [tmp_path / "game/copy.zip"]
    if place < 4:
        with pytest.raises(CouldNotError):
            deliver(new, tmp_path / "game", others, tmp_path / "aside", "1")
        assert maps(tmp_path / "game") == {"map.zip": b"old" * 5_000, "copy.zip": b"other" * 4_000}
    else:
        deliver(new, tmp_path / "game", others, tmp_path / "aside", "1")
        assert maps(tmp_path / "game") == {"map.zip": b"new" * 9_000}


def test_what_there_is_to_be_seen_is_ticked_off(game: Path, hookset: Run) -> None:
    assert hookset("look-for", "--json").data["look_for"] == []
    for pack in ("lift-bridge", "fog-bell"):
        assert hookset("install", f"../packs/{pack}.zip").code == 0
    told = hookset("deliver", "game", "--to", str(game), "--json").data["look_for"]
    assert {one["pack"] for one in told} == {"lift-bridge", "fog-bell"}
    assert not any(one["done"] for one in told)
    assert hookset("look-for", "1", "2").code == 0
    assert [one["done"] for one in hookset("look-for", "--json").data["look_for"]][:2] == [True, True]
    assert hookset("look-for", "99").code == 2
    # What was seen stays seen when another pack goes, and is looked for again when somebody says so.
    gone = told[-1]["pack"]
    assert hookset("remove", gone).code == 0
    left = hookset("look-for", "--json").data["look_for"]
    assert [one["says"] for one in left] == [one["says"] for one in told if one["pack"] != gone]
    assert any(one["done"] for one in left)
    assert hookset("look-for", "--again").code == 0
    assert not any(one["done"] for one in hookset("look-for", "--json").data["look_for"])


def test_a_watched_map_is_delivered_whenever_it_has_changed(demo: Path, game: Path, hookset: Run) -> None:
    assert hookset("deliver", "game", "--to", str(game)).code == 0
    (target,) = game.iterdir()
    script = demo / "scripts/server/harbour.lua"

    def until(done: Callable[[], bool]) -> None:
        end = time.monotonic() + 30
        while not done():
            assert time.monotonic() < end
            time.sleep(0.05)

    said = demo.parent / "said.txt"
    with said.open("w") as stream:
        command = [sys.executable, "-m", "hookset", "deliver", "--watch"]
        process = subprocess.Popen(command, cwd=demo, stdout=stream, stderr=stream, preexec_fn=interruptible)
        try:
            until(lambda: "is watched" in said.read_text())
            time.sleep(0.3)
            before = target.read_bytes()
            script.write_bytes(script.read_bytes() + b"\n-- more\n")
            until(lambda: target.read_bytes() != before)
            # A fault keeps it from being delivered, and no more than that: mended, it goes on.
            second = target.read_bytes()
            script.write_bytes(script.read_bytes() + b"\nif then\n")
            until(lambda: "it is not built" in said.read_text())
            assert target.read_bytes() == second
            script.write_bytes(script.read_bytes().replace(b"if then", b"-- mended"))
            until(lambda: target.read_bytes() != second)
            process.send_signal(signal.SIGINT)
            assert process.wait(30) == 0
        finally:
            process.kill()
            process.wait()


@pytest.mark.no_cover
def test_the_report_has_what_is_to_be_looked_for(demo: Path, hookset: Run) -> None:
    assert hookset("install", str(demo.parent / "packs/fog-bell.zip")).code == 0
    told = hookset("look-for", "--json").data["look_for"]
    assert told
    hookset("look-for", "1")
    hookset("check", "--report", "told.html")
    page = (demo / "told.html").read_text()
    assert "to look for in the game" in page
    assert told[0]["says"].split("'")[0][:30] in page
    assert "✓" in page
