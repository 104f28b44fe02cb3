"""A map that no shipped layout fits, read by a layout that somebody wrote from the docs alone."""

from __future__ import annotations

import configparser
import csv
from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.checks import judge
from hookset.project import begin, open_project, read_ledger
from tests.conftest import run_hookset, snapshot
from tests.pages import page_and_truth
from tests.shipped import assert_told, replaced
from tests.test_house import ROOT, tool


@pytest.fixture
def fen(tmp_path: Path) -> Path:
    """Salt Fen, started with the layout of the docs; its pack beside it."""
    tool("make_salt_fen").make(tmp_path)
    root = tmp_path / "salt-fen"
    (tmp_path / "fen.toml").write_bytes((ROOT / "docs/own-layout/salt-fen.toml").read_bytes())
    made = run_hookset(root, "stock", "make", "../game", "--layout", "../fen.toml", "--to", "../game.stock")
    assert made.code == 0, made.err
    (root / "hookset.toml").write_text(begin(root, "../fen.toml", ()).text)
    return root


def test_the_page_shows_what_is_so(tmp_path: Path) -> None:
    page, truth = page_and_truth("own-layout.md", tmp_path)
    assert truth == page


def test_the_map_is_read_whole(fen: Path) -> None:
    project = open_project(fen)
    verdict = judge(project.tree, project.layout, project.stock)
    assert verdict.findings == ()
    assert verdict.counts.unread == ()
    assert (project.file.map.name, project.file.map.version) == ("salt-fen", "7")
    assert verdict.counts.references > 800
    assert len(verdict.case.index.groups("place")) > 300


FAULTS = [
    (
        "noise misspelt through a constant",
        "missing-name",
        "rules/weather.fen",
        3,
        replaced("rules/weather.fen", '"reed_wind"', '"red_wind"'),
    ),
    (
        "noise misspelt in a string",
        "missing-name",
        "rules/shared/clock.fen",
        4,
        replaced("rules/shared/clock.fen", "pump_bell", "pump_bel"),
    ),
    (
        "use misspelt",
        "missing-file",
        "rules/begin.fen",
        2,
        replaced("rules/begin.fen", "machines/windpump", "machines/windpum"),
    ),
    (
        "use in another letter case",
        "wrong-case",
        "rules/begin.fen",
        10,
        replaced("rules/begin.fen", "use weather", "use Weather"),
    ),
    (
        "use taken out",
        "not-loaded",
        "world/salt_fen.blk",
        7,
        replaced("rules/begin.fen", "use machines/windpump\r\n", ""),
    ),
    (
        "use commented out",
        "not-loaded",
        "world/salt_fen.blk",
        7,
        replaced("rules/begin.fen", "use machines/windpump", "rem use machines/windpump"),
    ),
    (
        "word lacking in one language",
        "missing-in-language",
        "words/german.words",
        0,
        replaced("words/german.words", 'welcome: "Willkommen im Salzmoor"\r\n', "", "utf-16-le"),
    ),
    ("title misspelt", "missing-name", "fen.ini", 5, replaced("fen.ini", "title = title", "title = titel")),
    (
        "kind lacking in the table",
        "missing-name",
        "world/salt_fen.blk",
        4,
        replaced("kinds.csv", "windpump;", "windmill;"),
    ),
    (
        "shape misspelt",
        "missing-file",
        "world/salt_fen.blk",
        6,
        replaced("world/salt_fen.blk", "machines/windpump ;", "machines/windpumb ;"),
    ),
    (
        "link misspelt in a list",
        "missing-name",
        "world/salt_fen.blk",
        8,
        replaced("world/salt_fen.blk", "lamp_1 ;", "lamb_1 ;"),
    ),
    (
        "place twice",
        "defined-twice",
        "world/salt_fen.blk",
        0,
        replaced("world/salt_fen.blk", "place reed_2 ", "place reed_1 "),
    ),
    ("skin deleted", "missing-file", "shapes/water.shp", 1, lambda root: (root / "pictures/water.png").unlink()),
    (
        "list no longer included",
        "not-in-manifest",
        "noise/noise.ini",
        0,
        replaced("ship.list", "include\tship/noise.list\r\n", ""),
    ),
    (
        "row dropped",
        "not-in-manifest",
        "shapes/machines/bell_buoy.shp",
        3,
        replaced("ship/shapes.list", "picture\tsteel.png\r\n", ""),
    ),
    (
        "row without its file",
        "row-without-file",
        "ship/noise.list",
        3,
        replaced("ship/noise.list", "noise\tbuoy_toll.wav", "noise\tboy_toll.wav"),
    ),
    (
        "endless noise without a stop",
        "bad-record",
        "noise/noise.ini",
        0,
        replaced("noise/noise.ini", "stop = weather.change\n", ""),
    ),
    (
        "rules of another name",
        "missing-name",
        "rules/weather.fen",
        9,
        replaced("rules/shared/clock.fen", "rules of time", "rules of clock"),
    ),
    (
        "rule of its own misspelt",
        "missing-name",
        "rules/weather.fen",
        10,
        replaced("rules/weather.fen", "do settle", "do setle"),
    ),
    (
        "effect of the game not listed",
        "name-not-in-manifest",
        "rules/weather.fen",
        14,
        replaced("ship.list", "effect\tmist\r\n", ""),
    ),
    (
        "effect that the game has not",
        "missing-name",
        "rules/machines/sluice.fen",
        8,
        replaced("rules/machines/sluice.fen", "show spray", "show sprey"),
    ),
    (
        "rows of a sort that is no sort",
        "not-in-manifest",
        "rules/begin.fen",
        10,
        replaced("ship.list", "rules\tweather", "rule\tweather"),
    ),
    ("block not closed", "unreadable", "shapes/water.shp", 1, replaced("shapes/water.shp", " }", "")),
    (
        "sound cut off",
        "unreadable",
        "noise/pump_bell.wav",
        0,
        lambda root: (root / "noise/pump_bell.wav").write_bytes(b"RIFF"),
    ),
]


@pytest.mark.no_cover
@pytest.mark.parametrize(
    ("code", "path", "line", "make"), [pytest.param(*fault[1:], id=fault[0].replace(" ", "-")) for fault in FAULTS]
)
def test_faults_are_found_where_they_are(
    code: str, path: str, line: int, make: Callable[[Path], object], fen: Path
) -> None:
    make(fen)
    assert_told(fen, code, path, line)


def test_a_pack_is_set_in_and_taken_back(fen: Path) -> None:
    before = snapshot(fen)
    assert run_hookset(fen, "install", "../heron").code == 0
    project = open_project(fen)
    assert judge(project.tree, project.layout, project.stock, read_ledger(fen)).findings == ()
    words = (fen / "words/german.words").read_bytes()
    assert words.startswith(b"\xff\xfe")
    assert 'heron_seen: "Ein Reiher fliegt auf"\r\n' in words.decode("utf-16")
    world = (fen / "world/salt_fen.blk").read_bytes()
    assert "Größe".encode("cp1252") in world
    assert b"\n" not in world.replace(b"\r\n", b"")
    assert b"place heron_1 {\r\n\tkind = heron ;\r\n" in world
    rows = list(csv.DictReader((fen / "kinds.csv").read_text().splitlines()[1:], delimiter=";"))
    assert rows[-1] == {"kind": "heron", "shape": "plain/heron", "moves": "yes"}
    noises = configparser.ConfigParser()
    noises.read(fen / "noise/noise.ini")
    assert noises["heron_cry"]["file"] == "heron_cry.wav"
    assert "nothing was written" in run_hookset(fen, "install", "../heron").out
    assert run_hookset(fen, "build").code == 0
    assert run_hookset(fen, "undo").code == 0
    after = snapshot(fen)
    assert {path: data for path, data in after.items() if not path.startswith("build/")} == before
