"""A layout learned from a map, as somebody does it who has only the folder."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.config.layouts.load import load_layout
from hookset.project import MapProject
from tests.conftest import Ran, run_hookset, snapshot
from tests.pages import page_and_truth
from tests.test_house import tool

LEARNED = "brackwater.layout.toml"


@pytest.fixture
def unknown(packed: MapProject) -> Path:
    """The demo's map as if nobody knew how it is arranged. Gives the folder around it."""
    (packed.root / "hookset.toml").unlink()
    return packed.root.parent


def rules(ran: Ran) -> dict[str, str]:
    """The band of each rule by its kind and what is asked."""
    return {f"{one['kind']} {' '.join(map(str, one['asked'].values()))}": one["band"] for one in ran.data["rules"]}


def test_the_page_shows_what_is_so(tmp_path: Path) -> None:
    page, truth = page_and_truth("learned-layout.md", tmp_path)
    assert truth == page


def test_names_of_the_base_game_go_to_a_stock(tmp_path: Path) -> None:
    tool("make_salt_fen").make(tmp_path)
    ran = run_hookset(tmp_path, "layout", "learn", "salt-fen", "--base", "game", "--json")
    assert {Path(ran.data["file"]).name, Path(ran.data["stock"]).name} == {
        "salt-fen.layout.toml",
        "salt-fen.stock.json",
    }
    assert not [one for one in ran.data["findings"] if one["severity"] == "error"]
    root = tmp_path / "salt-fen"
    assert run_hookset(root, "start", "--layout", "../salt-fen.layout.toml", "--json").data["stock"]
    counts = run_hookset(root, "check", "--json").data["counts"]
    assert counts["references"] > 750 and counts["in_stock"] > 0
    assert counts["missing"] * 100 < counts["references"]


def test_the_rules_of_the_demo_are_found(unknown: Path) -> None:
    before = snapshot(unknown / "brackwater")
    ran = run_hookset(unknown, "layout", "learn", "brackwater", "--json")
    assert ran.code == 0
    told = rules(ran)
    assert told["file $.sound[*].file"] == "sure"
    assert told["script require"] in ("sure", "likely")
    assert told["file $.images[*].uri"] == "sure"
    assert told["text $.nodes[*].extras.label"] in ("sure", "likely")
    assert not any("mesh" in one or "bufferView" in one for one in told)
    assert snapshot(unknown / "brackwater") == before
    assert load_layout((unknown / LEARNED).read_bytes(), LEARNED).kinds["text"].entry.each == "language"


def test_the_map_is_checked_by_what_was_learned(unknown: Path, hookset: Callable[..., Ran]) -> None:
    table = unknown / "brackwater/sounds/aliases.toml"
    table.write_text(table.read_text(encoding="utf-8").replace("gull_3.wav", "gul_3.wav"), encoding="utf-8")
    ran = run_hookset(unknown, "layout", "learn", "brackwater", "--json")
    misfits = [one for rule in ran.data["rules"] for one in rule["misfits"]]
    assert {"path": "sounds/aliases.toml", "line": 22, "text": "harbour/gul_3.wav"} in misfits
    found = ("sounds/aliases.toml", 22, "error")
    assert found in {(one["path"], one["line"], one["severity"]) for one in ran.data["findings"]}
    assert "sounds/aliases.toml:22" in run_hookset(unknown, "layout", "learn", "brackwater", "--to", "b.toml").out
    assert hookset("start", "--layout", f"../{LEARNED}").code == 0
    checked = hookset("check", "--json")
    assert found in {(one["path"], one["line"], one["severity"]) for one in checked.data["findings"]}


def test_rules_are_dropped_and_kinds_called_otherwise(unknown: Path) -> None:
    first = run_hookset(unknown, "layout", "learn", "brackwater", "--json").data
    number = next(one["number"] for one in first["rules"] if one["asked"] == {"call": "require"})
    ran = run_hookset(
        unknown,
        "layout",
        "learn",
        "brackwater",
        "--to",
        "b.toml",
        "--drop",
        str(number),
        "--call",
        "text=words",
        "--json",
    )
    assert len(ran.data["rules"]) == len(first["rules"]) - 1
    layout = load_layout((unknown / "b.toml").read_bytes(), "b.toml")
    assert "words" in layout.kinds and "text" not in layout.kinds and "script" not in layout.kinds


@pytest.mark.parametrize(
    "options",
    [
        ("--drop", "99"),
        ("--call", "tekst=words"),
        ("--call", "text=file"),
        ("--call", "text=Two Words"),
        ("--to", "b.txt"),
    ],
)
def test_what_cannot_be_asked_is_told(unknown: Path, options: tuple[str, str]) -> None:
    ran = run_hookset(unknown, "layout", "learn", "brackwater", *options)
    assert ran.code == 2
    assert not list(unknown.glob("*.toml"))


def test_no_file_is_written_over(unknown: Path) -> None:
    (unknown / LEARNED).write_text("mine", encoding="utf-8")
    assert run_hookset(unknown, "layout", "learn", "brackwater").code == 1
    assert (unknown / LEARNED).read_text(encoding="utf-8") == "mine"


def test_folders_that_are_no_map_are_refused(tmp_path: Path) -> None:
    (tmp_path / "empty").mkdir()
    (tmp_path / "letters").mkdir()
    (tmp_path / "letters/aunt.txt").write_text("Dear aunt, thank you for the scarf and for the cake.\n" * 30)
    (tmp_path / "data").mkdir()
    (tmp_path / "data/a.bin").write_bytes(bytes(range(256)) * 50)
    for name in ("empty", "letters", "data"):
        ran = run_hookset(tmp_path, "layout", "learn", name)
        assert ran.code == 1, name
        assert not list(tmp_path.glob("*.toml"))
    assert "1 file .bin" in run_hookset(tmp_path, "layout", "learn", "data").err
    assert run_hookset(tmp_path, "layout", "learn", "nowhere").code == 2


def test_a_map_without_a_known_layout_is_told_how_to_get_one(tmp_path: Path) -> None:
    (tmp_path / "x").mkdir()
    (tmp_path / "x/a.xml").write_text("<a/>")
    assert "--learn" in run_hookset(tmp_path, "start", "x").err


def test_what_is_missing_in_many_places_is_shown_once(tmp_path: Path) -> None:
    stones = [
        "agate",
        "basalt",
        "chalk",
        "diorite",
        "flint",
        "gabbro",
        "granite",
        "jasper",
        "lava",
        "marl",
        "mica",
        "onyx",
        "quartz",
        "rhyolite",
        "slate",
        "tuff",
    ]
    wall = "".join(f'<stone look="{one}.shp"/>' for one in stones * 3)
    files = {f"looks/{one}.shp": "x" for one in stones}
    files["wall.xml"] = f"<wall>\n{wall}\n" + '<stone look="moss.shp"/>\n' * 3 + '<stone look="reed.shp"/>\n</wall>\n'
    for path, text in files.items():
        (tmp_path / "quay" / path).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / "quay" / path).write_text(text, "utf-8")
    ran = run_hookset(tmp_path, "layout", "learn", "quay")
    lines = [line for line in ran.out.splitlines() if "wall.xml:" in line and "looks/" in line]
    assert [("looks/moss.shp" in line, "2 more places" in line) for line in lines] == [(True, True), (False, False)]
