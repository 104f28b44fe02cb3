"""A map in an engine: what that says beside what the check says. The real engine runs where it is installed."""

from __future__ import annotations

import json
import os
import shutil
import stat
import sys
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from hookset.project import PROJECT_FILE
from tests.conftest import Ran, run_hookset, snapshot
from tests.engine_faults import FAULTS, EngineFault
from tests.shipped import beginning_of
from tests.test_house import DATA

Run = Callable[..., Ran]
ENGINE = "godot3-server"
with_engine = pytest.mark.skipif(
    shutil.which(ENGINE) is None, reason=f"{ENGINE} is not installed: apt-get install {ENGINE}"
)


_ALLOWED: dict[str, str] = {}
"""What was allowed once: asked for again in each test, it would take twice the time."""


@pytest.fixture
def quay(tmp_path: Path) -> Path:
    """A project of the real engine, started."""
    root = tmp_path / "quay"
    shutil.copytree(DATA / "godot-3", root)
    (root / PROJECT_FILE).write_text(beginning_of("godot-3", alone=True), encoding="utf-8")
    return root


def tried(root: Path, engine: str = ENGINE, *more: str) -> Ran:
    """A trial in an engine that is allowed."""
    more = (*more, "--ticks", "1") if engine == ENGINE else more
    file = Path(os.environ["XDG_CONFIG_HOME"]) / "hookset/allowed.toml"
    if engine in _ALLOWED and not file.exists():
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text(_ALLOWED[engine])
    first = run_hookset(root, "trial", "--in", engine, "--json", *more)
    if first.code != 1 or "error" not in first.data:
        return first
    word = first.data["error"]["remedy"].partition("--allow ")[2]
    done = run_hookset(root, "trial", "--in", engine, "--json", "--allow", word, *more)
    _ALLOWED[engine] = file.read_text()
    return done


def test_the_quay_is_clean(quay: Path) -> None:
    assert len([path for path in quay.rglob("*") if path.is_file() and path.name != "hookset.toml"]) >= 60
    found = run_hookset(quay, "check", "--json").data
    assert found["findings"] == []


@with_engine
def test_the_engine_loads_and_plays_the_quay_without_a_word(quay: Path) -> None:
    done = tried(quay)
    assert done.code == 0, done.out
    assert {key: done.data[key] for key in ("both", "follows", "only_engine", "only_check", "wrong")} == {
        "both": [], "follows": [], "only_engine": [], "only_check": [], "wrong": "",
    }  # fmt: skip
    assert "calls Gate _on_lever_pulled" in run_hookset(quay, "trial", "--in", ENGINE, "--log").out
    # What the engine makes of a project stays where it ran.
    assert not list(quay.rglob(".import"))


_TRIED = 15
"""Of so many faults, one with which the engine is started: docs/engine-faults.md is made by starting it with each."""


@pytest.mark.no_cover
@pytest.mark.parametrize("fault", FAULTS, ids=[one.title.replace(" ", "-") for one in FAULTS])
def test_what_the_engine_tells_of_is_a_finding_on_the_right_line(quay: Path, fault: EngineFault) -> None:
    fault.make(quay)
    if shutil.which(ENGINE) is None or FAULTS.index(fault) % _TRIED:
        findings = run_hookset(quay, "check", "--json").data["findings"]
        findings = [one for one in findings if one["severity"] != "note"]
    else:
        told = tried(quay).data
        assert told["only_engine"] == []
        assert bool(told["both"]) != fault.silent
        findings = [one["finding"] for one in told["both"]] + told["only_check"]
    assert findings
    here = {one["line"] for one in findings if one["path"] == fault.path}
    if here and fault.old:
        text = (quay / fault.path).read_text(encoding="utf-8")
        first = text[: text.index(fault.new)].count("\n") + 1
        # What is not closed is missed in the next line.
        assert here & ({fault.line} if fault.line is not None else {first, first + 1})


def engine(place: Path, **more: Any) -> None:
    """An engine of the user's: a small program that prints what it is told to."""
    lines = [f"{key} = {json.dumps(value)}" for key, value in more.items() if key != "log"]
    for rule in more.get("log", ()):
        lines += ["[[engine.log]]", *(f"{key} = '{value}'" for key, value in rule.items())]
    place.mkdir(parents=True, exist_ok=True)
    (place / "engines.toml").write_text("\n".join(["[[engine]]", *lines]) + "\n")


@pytest.fixture
def config() -> Path:
    return Path(os.environ["XDG_CONFIG_HOME"]) / "hookset"


PLAYS = """
import pathlib, sys
place = pathlib.Path(sys.argv[1])
for number, line in enumerate((place / "sounds/aliases.toml").read_text().splitlines(), 1):
    name = line.partition("file = ")[2].strip('"')
    if name and not (place / "sounds" / name).exists():
        print(f"sounds/aliases.toml:{number}: cannot load {name}")
print("nothing else is known of `lantern`")
print("loaded")
"""


def test_an_engine_of_the_users_own_is_compared_with_the_check(demo: Path, config: Path) -> None:
    program = demo.parent / "plays.py"
    program.write_text(PLAYS)
    rules = [
        {"match": r"^(?P<file>\S+):(?P<line>\d+): (?P<text>cannot load (?P<name>\S+))", "kind": "file"},
        {"match": "(?P<text>nothing else is known of `(?P<name>\\w+)`)"},
        {"match": ".", "level": "skip"},
    ]
    engine(config, name="mine", command=["{python}", str(program), "{map}"], loaded="^loaded", log=rules)
    told = tried(demo, "mine").data
    assert [one["name"] for one in told["only_engine"]] == ["lantern"]
    assert told["both"] == []
    (demo / "sounds/harbour/gull_3.wav").unlink()
    told = tried(demo, "mine")
    assert told.code == 1
    assert {one["finding"]["path"] for one in told.data["both"]} == {"sounds/aliases.toml", "manifest.txt"}
    assert all(one["finding"]["name"].endswith("gull_3.wav") for one in told.data["both"])
    assert told.data["both"][0]["engine"][0]["path"] == "sounds/aliases.toml"
    (demo / "scripts/server/harbour.lua").write_text('require("nowhere")\n')
    told = tried(demo, "mine").data
    assert told["only_check"]


def test_what_the_check_only_warns_of_stands_beside_what_the_engine_says_of_it(quay: Path, config: Path) -> None:
    gate = quay / "scenes/things/gate.tscn"
    gate.write_text(gate.read_text().replace('[node name="Sound"', '[node name="Noise"'))
    program = quay.parent / "says.py"
    program.write_text("print('loaded')\n")
    rules = [{"match": "^no node (?P<name>.+)", "kind": "below"}, {"match": ".", "level": "skip"}]
    engine(config, name="mine", command=["{python}", str(program)], loaded="^loaded", log=rules)
    silent = tried(quay, "mine")
    assert (silent.code, silent.data["only_check"], silent.data["both"]) == (0, [], [])
    program.write_text("print('no node Sound\\nloaded')\n")
    (both,) = tried(quay, "mine").data["both"]
    assert (both["finding"]["path"], both["finding"]["severity"]) == ("scripts/things/gate.gd", "warning")


@pytest.mark.parametrize(
    ("source", "more", "wrong"),
    [
        ("print('loading')", {}, "did not say"),
        ("import os; print('loaded', flush=True); os.abort()", {}, "signal 6"),
        ("import time; print('loaded', flush=True); time.sleep(60)", {"seconds": 1}, "did not end"),
        ("import time; print('loaded', flush=True); time.sleep(60)", {"runs": 1}, ""),
    ],
)
def test_an_engine_that_does_not_end_well(
    demo: Path, config: Path, source: str, more: dict[str, Any], wrong: str
) -> None:
    engine(config, name="mine", command=["{python}", "-c", source], loaded="^loaded", **more)
    told = tried(demo, "mine")
    assert wrong in told.data["wrong"]
    assert bool(told.data["wrong"]) == bool(wrong)
    assert told.code == (1 if wrong else 0)


def test_an_engine_gets_a_copy_of_the_map_and_no_way_to_spoil_it(demo: Path, config: Path) -> None:
    source = "import pathlib, sys; p = pathlib.Path(sys.argv[1]); (p / 'map.toml').unlink(); (p / 'x').touch(); print('loaded')"
    engine(config, name="mine", command=["{python}", "-c", source, "{map}"], loaded="loaded", at="games/maps/{archive}")
    assert tried(demo, "mine").data["wrong"] == ""
    assert (demo / "map.toml").exists()
    assert not (demo / "x").exists()


def test_an_engine_gets_the_archive(demo: Path, hookset: Run, config: Path) -> None:
    source = "import sys, zipfile; print('loaded', len(zipfile.ZipFile(sys.argv[1]).namelist()))"
    engine(
        config,
        name="mine",
        command=["{python}", "-c", source, "{map}"],
        loads="archive",
        at="{archive}",
        loaded="loaded [0-9]{2}",
    )
    assert hookset("trial", "--in", "mine").code == 2
    assert hookset("build").code == 0
    assert tried(demo, "mine").data["wrong"] == ""


@pytest.mark.skipif(sys.platform != "linux", reason="only Linux has networks of a program's own")
def test_an_engine_has_no_network_where_that_can_be(demo: Path, config: Path) -> None:
    source = (
        "import os; print('loaded', sorted(os.listdir('/sys/class/net')) if os.path.isdir('/sys/class/net') else '')"
    )
    engine(config, name="mine", command=["{python}", "-c", source], loaded="loaded")
    told = tried(demo, "mine").data
    assert isinstance(told["without_network"], bool)


def test_the_stand_in_is_an_engine_like_any_other(demo: Path, hookset: Run) -> None:
    assert hookset("trial", "--in", "stand-in").code == 2
    assert hookset("build").code == 0
    assert hookset("trial", "--in", "stand-in").code == 0
    (demo / "sounds/harbour/gull_3.wav").unlink()
    assert hookset("build", "--anyway").code == 0
    told = hookset("trial", "--in", "stand-in", "--json").data
    assert {one["finding"]["name"].rpartition("/")[2] for one in told["both"]} == {"gull_3.wav"}
    assert told["only_check"] == []


def test_engines_of_a_layout_are_asked_for_and_unknown_ones_told(quay: Path, config: Path) -> None:
    refused = run_hookset(quay, "trial", "--in", ENGINE)
    assert refused.code == 1
    assert "--allow" in refused.err
    unknown = run_hookset(quay, "trial", "--in", "godot")
    assert unknown.code == 2
    assert ENGINE in unknown.err
    engine(config, name="mine", command=[], at="../x")
    broken = run_hookset(quay, "trial", "--in", "mine")
    assert broken.code == 3
    assert "engines.toml:" in broken.err
    assert not stat.S_IXUSR & (config / "engines.toml").stat().st_mode


PACKS = Path(__file__).parent.parent / "data/quay-packs"


def zipped(folder: Path, place: Path) -> Path:
    """A pack as somebody puts it up."""
    file = place / f"{folder.name}.zip"
    with zipfile.ZipFile(file, "w") as archive:
        for path in sorted(folder.rglob("*")):
            if path.is_file():
                archive.write(path, path.relative_to(folder.parent))
    return file


@pytest.mark.no_cover
def test_packs_that_have_only_notes_are_set_in_and_the_engine_plays_them(quay: Path, tmp_path: Path) -> None:
    before = snapshot(quay)
    packs = [zipped(folder, tmp_path) for folder in sorted(PACKS.iterdir())]
    assert len(packs) == 4
    for pack in packs:
        assert run_hookset(quay, "draft", str(pack), "--json").data["complete"], pack.name
        done = run_hookset(quay, "install", str(pack))
        assert done.code == 0, done.err
    assert run_hookset(quay, "check", "--json").data["findings"] == []
    if shutil.which(ENGINE) is not None:
        done = tried(quay)
        assert done.code == 0, done.out
        log = run_hookset(quay, "trial", "--in", ENGINE, "--log").out
        assert {"calls Hud _on_bell_rung", "calls Notice show_text"} <= {
            line.removeprefix("hookset: ") for line in log.splitlines()
        }
    names = [one["name"] for one in run_hookset(quay, "list", "--json").data["packs"]]
    assert run_hookset(quay, "remove", *names).code == 0
    assert snapshot(quay) == before
