"""`hookset watch`, as a builder has it running beside an editor."""

from __future__ import annotations

import json
import signal
import subprocess
import sys
import time
import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest

from tests.cli.test_json import WORDS, keys
from tests.conftest import Ran, run_hookset
from tests.program import command_line
from tests.terminal import interruptible

Run = Callable[..., Ran]
PATIENCE = 30.0


class Watching:
    """The program at work; what it says is read line by line."""

    def __init__(self, process: subprocess.Popen[str], said: Path) -> None:
        self.process, self.said, self.read = process, said, 0

    def lines(self) -> list[str]:
        text = self.said.read_text(encoding="utf-8")
        return text[: text.rfind("\n") + 1].splitlines()

    def next(self) -> dict[str, Any]:
        """What it says of the next change."""
        end = time.monotonic() + PATIENCE
        while len(self.lines()) <= self.read:
            assert time.monotonic() < end and self.process.poll() is None, self.said.read_text(encoding="utf-8")
            time.sleep(0.02)
        self.read += 1
        found: dict[str, Any] = json.loads(self.lines()[self.read - 1])
        return found

    def end(self) -> int:
        self.process.send_signal(signal.SIGINT)
        return self.process.wait(PATIENCE)


@contextmanager
def watching(demo: Path, *more: str) -> Iterator[Watching]:
    said = demo.parent / "said.txt"
    with said.open("w") as stream:
        command = command_line("watch", *more)
        process = subprocess.Popen(
            command, cwd=demo, stdout=stream, stderr=subprocess.STDOUT, text=True, preexec_fn=interruptible
        )
        try:
            yield Watching(process, said)
        finally:
            process.kill()
            process.wait()


def names(findings: list[dict[str, Any]]) -> list[str]:
    return sorted(one["name"] for one in findings)


def test_each_change_tells_what_it_brings_and_takes(demo: Path, hookset: Run) -> None:
    script, texts = demo / "scripts/server/main.lua", demo / "texts/de.toml"
    text, german = script.read_bytes(), texts.read_bytes()
    with watching(demo, "--json") as seen:
        first = seen.next()
        assert (first["ok"], first["changed"], first["came"]) == (True, [], [])
        assert first["references"] == hookset("check", "--json").data["counts"]["references"]
        time.sleep(0.3)
        script.write_bytes(text.replace(b'"tide"', b'"tid"'))
        broken = seen.next()
        assert (broken["ok"], broken["changed"], names(broken["came"])) == (False, ["scripts/server/main.lua"], ["tid"])
        assert broken["errors"] == 1
        assert not set(keys(broken)) - WORDS
        texts.unlink()
        gone = seen.next()
        assert gone["changed"] == ["texts/de.toml"] and gone["errors"] > 1 and "tid" not in names(gone["came"])
        texts.write_bytes(german)
        assert sorted(map(str, seen.next()["went"])) == sorted(map(str, gone["came"]))
        script.write_bytes(text)
        mended = seen.next()
        assert (mended["ok"], names(mended["went"]), mended["errors"]) == (True, ["tid"], 0)
        # What a pack sets is judged as well, and what is saved as it was is no change.
        script.write_bytes(text)
        assert hookset("install", "../packs/fog-bell.zip").code == 0
        while (last := seen.next())["ok"] is False or len(last["changed"]) == 0:
            pass
        assert seen.end() == 0


def test_whatever_happens_to_the_map_it_goes_on(demo: Path) -> None:
    project = demo / "hookset.toml"
    text = project.read_text(encoding="utf-8")
    with watching(demo, "--json") as seen:
        assert seen.next()["ok"]
        time.sleep(0.3)
        project.write_text(text + "\nbroken", encoding="utf-8")
        assert seen.next()["error"]["where"].startswith("hookset.toml")
        (demo / "texts/fr.toml").write_bytes(b"\xff\xff")
        assert "error" in seen.next()
        project.write_text(text, encoding="utf-8")
        told = seen.next()
        assert [one["code"] for one in told["came"] if one["path"] == "texts/fr.toml"]
        away = demo.with_name("away")
        demo.rename(away)
        time.sleep(1.5)
        (away / "texts/fr.toml").unlink()
        away.rename(demo)
        lines = seen.lines
        end = time.monotonic() + PATIENCE
        while '"errors": 0' not in lines()[-1]:
            assert time.monotonic() < end and seen.process.poll() is None, lines()
            time.sleep(0.05)
        assert seen.end() == 0


def test_what_is_written_before_anybody_watches_is_seen(demo: Path) -> None:
    """Between the first check and the moment when the system begins to tell of changes."""
    script = demo / "scripts/server/main.lua"
    with watching(demo, "--json") as seen:
        assert seen.next()["ok"]
        script.write_bytes(script.read_bytes().replace(b'"tide"', b'"tid"'))
        assert names(seen.next()["came"]) == ["tid"]
        assert seen.end() == 0


def test_the_layout_and_stock_lists_beside_the_map_count_as_well(demo: Path) -> None:
    layout = demo.parent / "own.toml"
    shown = run_hookset(demo, "layout", "show", "split-lua", "--source").out
    layout.write_text(shown, encoding="utf-8")
    project = demo / "hookset.toml"
    project.write_text(project.read_text().replace('"split-lua"', '"../own.toml"'), encoding="utf-8")
    with watching(demo, "--json") as seen:
        assert seen.next()["ok"]
        time.sleep(0.3)
        layout.write_text(shown + '\n[[read]]\nfiles = "nowhere/*.toml"\nformat = "toml"\n', encoding="utf-8")
        assert seen.next()["changed"] == ["../own.toml"]
        assert seen.end() == 0


@pytest.mark.parametrize("place", ["../library", "../library.zip", "library"])
def test_what_is_in_a_content_root_counts_as_well(demo: Path, place: str) -> None:
    """A sound that a folder, or a zip, beside the map brings, or a folder within it that is no part of the map."""
    script, project, root = demo / "scripts/server/main.lua", demo / "hookset.toml", demo / place
    script.write_bytes(script.read_bytes() + b'\nplay_sound("coot_cry", "lock_gate")\n')
    project.write_text(project.read_text().replace("[content]\n", f'[content]\nroots = ["{place}"]\n'))
    aliases = b'[[sound]]\nalias = "coot_cry"\nfile = "coot.wav"\n'

    def bring(data: bytes) -> None:
        if place.endswith(".zip"):
            with zipfile.ZipFile(root, "w") as archive:
                archive.writestr("sounds/coots.toml", data)
        else:
            (root / "sounds").mkdir(parents=True, exist_ok=True)
            (root / "sounds/coots.toml").write_bytes(data)

    bring(b"")
    with watching(demo, "--json") as seen:
        assert seen.next()["errors"] == 1
        time.sleep(0.3)
        bring(aliases)
        brought = seen.next()
        assert (names(brought["went"]), brought["errors"]) == (["coot_cry"], 0)
        assert brought["changed"] and all(path.startswith(place) for path in brought["changed"])
        bring(b"")
        assert names(seen.next()["came"]) == ["coot_cry"]


def test_a_command_is_run_after_each_check(demo: Path) -> None:
    log = demo.parent / "runs.txt"
    noting = demo.parent / "noting.py"
    noting.write_text(
        f"import os\nwith open({str(log)!r}, 'a') as f: f.write(os.environ['HOOKSET_ERRORS'] + os.getcwd() + '\\n')\n"
    )
    script = demo / "scripts/server/main.lua"
    with watching(demo, "--json", "--run", f"{sys.executable} {noting}") as seen:
        seen.next()
        time.sleep(0.3)
        script.write_bytes(script.read_bytes().replace(b'"tide"', b'"tid"'))
        seen.next()
        end = time.monotonic() + PATIENCE
        while not log.exists() or not log.read_text().endswith("\n"):
            assert time.monotonic() < end
            time.sleep(0.05)
        assert log.read_text().splitlines() == [f"1{demo.resolve()}"]


def test_people_read_what_came_and_what_went(demo: Path) -> None:
    script = demo / "scripts/server/main.lua"
    text = script.read_bytes()
    with watching(demo) as seen:

        def until(word: str) -> None:
            end = time.monotonic() + PATIENCE
            while word not in seen.said.read_text(encoding="utf-8"):
                assert time.monotonic() < end, seen.said.read_text(encoding="utf-8")
                time.sleep(0.02)

        until("All is well")
        time.sleep(0.3)
        script.write_bytes(text.replace(b'"tide"', b'"tid"'))
        until("1 error")
        script.write_bytes(text)
        until("gone  scripts/server/main.lua:")
        assert seen.end() == 0
        assert "KeyboardInterrupt" not in seen.said.read_text(encoding="utf-8")


@pytest.mark.parametrize("line", ["", "'open"])
def test_a_command_that_is_none_is_told(line: str, hookset: Run, demo: Path) -> None:
    assert demo.is_dir()
    assert hookset("watch", "--run", line).code == 2


def test_a_map_that_is_an_archive_is_watched_as_a_whole(demo: Path) -> None:
    import zipfile

    place = demo.parent / "zipped"
    place.mkdir()

    def pack(change: bytes) -> None:
        with zipfile.ZipFile(place / "new.zip", "w") as archive:
            for path in sorted(demo.rglob("*")):
                if path.is_file() and path.name != "hookset.toml":
                    data = path.read_bytes()
                    archive.writestr(path.relative_to(demo).as_posix(), data.replace(b'require("tide")', change))
        (place / "new.zip").replace(place / "map.zip")

    pack(b'require("tide")')
    assert run_hookset(place, "start", "map.zip", "--stock", "../base.stock.json").code == 0
    with watching(place, "--json") as seen:
        assert seen.next()["ok"]
        time.sleep(0.3)
        pack(b'require("tid")')
        while not (told := seen.next())["came"]:
            pass
        assert "tid" in names(told["came"])
