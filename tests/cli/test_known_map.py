"""A map in which nothing has changed is not opened for a check; whatever a verdict rests on, a change of it is seen."""

from __future__ import annotations

import json
import shutil
import time
from collections.abc import Callable
from pathlib import Path

import pytest

import hookset.trees.folder
from hookset.cli.main import main
from hookset.config.layouts import layout_source
from tests.conftest import Ran

NOT_OPENED = "the map is not opened"
Check = Callable[..., tuple[bool, str]]


@pytest.fixture
def check(demo: Path, monkeypatch: pytest.MonkeyPatch, capfd: pytest.CaptureFixture[str]) -> Check:
    """Check the demo's map, for which files are at rest at once. Gives whether it was left unopened, and what was said,
    which has to be what a check from nothing says."""
    monkeypatch.setattr(hookset.trees.folder, "_SETTLES", 0)

    def run(*options: str) -> tuple[bool, str]:
        # The clock of files has steps of some thousandths of a second.
        time.sleep(0.02)
        code = main(["-v", "--map", str(demo), "check", *options])
        known = capfd.readouterr()
        assert main(["--no-cache", "--map", str(demo), "check", *options]) == code
        assert capfd.readouterr().out == known.out
        return NOT_OPENED in known.err, known.out

    return run


def test_nothing_is_opened_where_nothing_has_changed(check: Check) -> None:
    assert not check()[0]
    assert check()[0]
    assert check("--json")[0]
    assert check("--all")[0]


def test_what_needs_the_layout_opens_the_map(check: Check, demo: Path) -> None:
    kept = demo.parent / "kept.json"
    check()
    check("--report", str(kept))
    assert not check("--report", str(kept))[0]
    assert not check("--coverage")[0]
    unopened, said = check("--since", str(kept), "--json")
    assert unopened
    assert json.loads(said)["since"]["gone"] == 0


def edited(path: str, old: str, new: str) -> Callable[[Path], None]:
    def change(demo: Path) -> None:
        file = demo / path
        before = file.read_bytes()
        file.write_bytes(before.replace(old.encode(), new.encode()))
        assert file.read_bytes() != before

    return change


def new_file(path: str) -> Callable[[Path], None]:
    def change(demo: Path) -> None:
        (demo / path).parent.mkdir(exist_ok=True)
        (demo / path).write_bytes(b"it is new")

    return change


CHANGES: dict[str, Callable[[Path], None]] = {
    "a name in a file": edited("map.toml", "name", "nane"),
    "a file that is gone": lambda demo: (demo / "textures/planks.png").unlink(),
    "a further file": new_file("sounds/new.wav"),
    "a further file where builds go": new_file("build/page.html"),
    "a script where builds go": new_file("build/new.lua"),
    "what the builder accepts": edited(
        "hookset.toml", "[content]", '[check.severity]\nfile-missing = "note"\n[content]'
    ),
    "a rule of the layout": edited("own.toml", 'label = "file"', 'label = "thing"'),
    "what the layout ignores": edited("own.toml", "ignore = [", 'ignore = ["texts/**", '),
    "the stock": edited("../base.stock.json", '"lamp"', '"lamps"'),
}


@pytest.mark.parametrize("change", CHANGES.values(), ids=CHANGES)
def test_a_change_of_what_a_verdict_rests_on_is_seen(check: Check, demo: Path, change: Callable[[Path], None]) -> None:
    (demo / "own.toml").write_text(layout_source("split-lua"), "utf-8")
    edited("hookset.toml", '"split-lua"', '"own.toml"')(demo)
    check()
    assert check()[0]
    change(demo)
    assert not check()[0]
    check()
    assert check()[0]


def test_files_that_builds_leave_do_not_open_the_map_each_time(check: Check, demo: Path) -> None:
    source = layout_source("split-lua").replace('files = "**"', 'files = "{sounds,models,textures}/**"', 1)
    (demo / "own.toml").write_text(source, "utf-8")
    edited("hookset.toml", '"split-lua"', '"own.toml"')(demo)
    new_file("build/report.html")(demo)
    check()
    assert check()[0]
    new_file("build/brackwater-3.zip")(demo)
    assert check()[0]


def test_an_interrupted_change_opens_the_map(check: Check, demo: Path) -> None:
    check()
    (demo / ".hookset/work").mkdir(parents=True)
    assert not check()[0]


def test_a_layout_that_is_gone_is_told(check: Check, demo: Path, hookset: Callable[..., Ran]) -> None:
    (demo / "own.toml").write_text(layout_source("split-lua"), "utf-8")
    edited("hookset.toml", '"split-lua"', '"own.toml"')(demo)
    check()
    (demo / "own.toml").unlink()
    assert hookset("check").code == 3


def test_a_map_that_was_moved_is_judged_where_it_is(check: Check, demo: Path, hookset: Callable[..., Ran]) -> None:
    check()
    moved = demo.parent / "elsewhere"
    shutil.move(demo, moved)
    (moved / "textures/planks.png").unlink()
    assert "planks.png" in hookset("check", folder=moved).out
