"""A layout at hand, shipped or half written, completed by what a map says; rules that somebody confirms; two maps."""

from __future__ import annotations

import json
import shutil
from pathlib import Path
from typing import Any

import pytest

from hookset.config.layouts.load import load_layout
from hookset.project import MapProject
from tests.conftest import Ran, run_hookset, snapshot
from tests.terminal import at_terminal
from tests.test_house import tool

WRITTEN = (Path(__file__).parents[2] / "docs/own-layout/salt-fen.toml").read_text(encoding="utf-8")
KINDS_TABLE = """[[read]]
files = "kinds.csv"
format = "csv"
defines = [{ kind = "sort", column = "kind" }]
refers = [{ kind = "file", column = "shape", under = "shapes", suffix = ".shp" }]
"""
PLACES = [
    f"{name}_1"
    for name in (
        "windpump",
        "sluice",
        "bell_buoy",
        "capstan",
        "derrick",
        "tide_gate",
        "brine_pan",
        "rail_cart",
        "reed",
        "lamp",
        "plank",
        "crate",
        "mooring",
        "net",
    )
]


@pytest.fixture(scope="session")
def fen_made(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Salt Fen and its base game, made once."""
    top = tmp_path_factory.mktemp("fen")
    tool("make_salt_fen").make(top)
    return top


@pytest.fixture
def fen(fen_made: Path, tmp_path: Path) -> Path:
    """The folder around Salt Fen."""
    return Path(shutil.copytree(fen_made, tmp_path / "fen"))


def asked(rules: list[dict[str, Any]]) -> set[tuple[str, str]]:
    """Each rule by its kind and what is asked."""
    return {(one["kind"], " ".join(map(str, one["asked"].values()))) for one in rules}


def without(*lines: str) -> str:
    """The layout of Salt Fen, written half: without some of its lines."""
    left = WRITTEN
    for line in lines:
        assert left.count(line) == 1
        left = left.replace(line, "")
    return left


def learn(folder: Path, *arguments: str) -> Ran:
    return run_hookset(folder, "layout", "learn", "salt-fen", *arguments)


def test_a_whole_layout_gets_nothing_more(fen: Path) -> None:
    (fen / "mine.toml").write_text(WRITTEN, encoding="utf-8")
    before = snapshot(fen)
    ran = learn(fen, "--onto", "mine.toml", "--json")
    assert ran.code == 0
    assert (ran.data["rules"], ran.data["file"], ran.data["findings"]) == ([], "", [])
    assert learn(fen, "--onto", "mine.toml").code == 0
    assert snapshot(fen) == before


def test_what_a_half_written_layout_lacks_is_added_behind_it(fen: Path) -> None:
    half = without(KINDS_TABLE, '  { kind = "sort", at = "place/kind" },\n', 'file = "kinds.csv"\n').replace(
        '[[seat]]\nname = "kinds"\ntitle = "at the end of the table of kinds"\n', ""
    )
    (fen / "half.toml").write_text(half, encoding="utf-8")
    ran = learn(fen, "--onto", "half.toml", "--json")
    assert asked(ran.data["rules"]) == {("kind", "place/kind"), ("file", "shape")}
    # Files are of the kind that the layout has for them already.
    assert {one["name"]: one["known"] for one in ran.data["kinds"]} == {"kind": False}
    assert [one["file"] for one in ran.data["seats"]] == ["kinds.csv"]
    text = (fen / "half-more.layout.toml").read_text(encoding="utf-8")
    assert text.startswith(half.rstrip("\n")) and "[kinds.file-2]" not in text
    whole, written = load_layout(text.encode(), "x.toml"), load_layout(half.encode(), "y.toml")
    assert len(whole.reads) == len(written.reads) + 2
    assert set(whole.seats) - set(written.seats) == {"kind"}


def test_names_of_a_kind_at_hand_are_known_as_such(fen: Path) -> None:
    (fen / "half.toml").write_text(without('  { kind = "sort", at = "place/kind" },\n'), encoding="utf-8")
    ran = learn(fen, "--onto", "half.toml", "--json")
    assert asked(ran.data["rules"]) == {("sort", "place/kind")}
    assert [(one["name"], one["known"]) for one in ran.data["kinds"]] == [("sort", True)]
    # What is of a kind at hand is defined already.
    text = (fen / "half-more.layout.toml").read_text(encoding="utf-8")
    assert text.count('kind = "sort"') == WRITTEN.count('kind = "sort"')
    assert learn(fen, "--onto", "half.toml", "--to", "b.toml", "--call", "sort=din").code == 2


def test_only_what_the_layout_does_not_find_itself_is_told(fen: Path) -> None:
    world = fen / "salt-fen/world/salt_fen.blk"
    text = world.read_text(encoding="cp1252")
    text = text.replace("hum = reed_wind", "hum = reed_wnd", 1).replace("kind = sluice", "kind = sluce", 1)
    world.write_text(text, encoding="cp1252")
    (fen / "half.toml").write_text(without('  { kind = "sort", at = "place/kind" },\n'), encoding="utf-8")
    ran = learn(fen, "--onto", "half.toml", "--json")
    assert {(one["name"], one["path"]) for one in ran.data["findings"]} == {("sluce", "world/salt_fen.blk")}


@pytest.mark.no_cover
def test_the_layout_of_a_map_is_completed_with_its_stock(fen: Path) -> None:
    assert learn(fen, "--base", "game").code == 0
    root = fen / "salt-fen"
    assert run_hookset(root, "start", "--layout", "../salt-fen.layout.toml").code == 0
    assert run_hookset(root, "layout", "learn", "--more", "--json").data["rules"] == []
    (root / "weather").mkdir()
    rows = [f'{{ place = "{name}", mist = {n} }}' for n, name in enumerate(PLACES)]
    (root / "weather/fog.toml").write_text("fog = [\n" + ",\n".join(rows) + "\n]\n", encoding="utf-8")
    ran = run_hookset(root, "layout", "learn", "--more", "--json")
    assert asked(ran.data["rules"]) == {("place", "$.fog[*].place")}
    assert Path(ran.data["file"]).name == "salt-fen-more.layout.toml"
    assert 'layout = "../b.toml"' in run_hookset(root, "layout", "learn", "--more", "--to", "../b.toml").out
    assert run_hookset(fen, "layout", "learn", "--more", "salt-fen", "--to", "c.toml").code == 0


def test_what_a_pack_brings_that_no_rule_reads_is_learned(fen: Path) -> None:
    (fen / "mine.toml").write_text(WRITTEN, encoding="utf-8")
    pack = fen / "fog/fog"
    pack.mkdir(parents=True)
    (pack / "read.me").write_text("A fog for the fen.\n", encoding="utf-8")
    rows = "".join(f'<bank over="{name}"/>' for name in PLACES)
    (pack / "banks.xml").write_text(f"<banks>{rows}</banks>", encoding="utf-8")
    ran = learn(fen, "--onto", "mine.toml", "--pack", "fog", "--json")
    assert [(one["kind"], one["files"]) for one in ran.data["rules"]] == [("place", ["**/*.xml"])]
    assert learn(fen, "--pack", "fog").code == 2


def test_a_layout_that_nothing_can_stand_behind_is_refused(fen: Path) -> None:
    table = 'read = [{ files = "**", format = "any", defines = [{ kind = "file", name = "{path}" }] }]\n'
    kinds = '[layout]\nname = "a"\ntitle = "b"\n[kinds.file]\nlabel = "file"\npath = true\n'
    (fen / "mine.toml").write_text(table + kinds, encoding="utf-8")
    ran = learn(fen, "--onto", "mine.toml")
    assert ran.code == 1 and "[[read]]" in ran.err
    assert not list(fen.glob("*more*"))
    assert learn(fen, "--onto", "nowhere.toml").code == 3


def test_a_rule_that_is_confirmed_is_an_error_where_it_is_broken(fen: Path) -> None:
    first = learn(fen, "--base", "game", "--json").data["rules"]
    number = next(one["number"] for one in first if one["band"] == "likely" and one["kind"] == "file")
    ran = learn(fen, "--base", "game", "--to", "b.toml", "--confirm", str(number), "--json")
    bands = {one["number"]: one["band"] for one in ran.data["rules"]}
    assert bands == {one["number"]: one["band"] for one in first} | {number: "confirmed"}
    one, two = ((fen / name).read_text(encoding="utf-8") for name in ("salt-fen.layout.toml", "b.toml"))
    assert one.count('severity = "warning"') == two.count('severity = "warning"') + 1
    assert learn(fen, "--to", "c.toml", "--confirm", "99").code == 2


def test_somebody_goes_through_the_rules_at_a_terminal(fen: Path) -> None:
    before = learn(fen, "--base", "game", "--json").data["rules"]
    likely = [one for one in before if one["band"] == "likely"]
    assert len(likely) > 3
    said = at_terminal(
        fen,
        ["layout", "learn", "salt-fen", "--base", "game", "--to", "b.toml", "--ask"],
        [("that are sure", "y\n"), ("1 of", "y\n"), ("2 of", "c\n"), ("is called", "Two Words\n"), ("2 of", "n\n"),
         ("3 of", "m\n"), ("4 of", "c\n"), ("4 of", "r\n")],
    )  # fmt: skip
    assert f"{len(before) - 1} rules learned" in said
    text = (fen / "b.toml").read_text(encoding="utf-8")
    assert text.count("# confirmed: ") == 1
    assert text.count('severity = "warning"') == len(likely) - 2
    assert learn(fen, "--ask", "--to", "c.toml").code == 2


def test_kinds_get_names_at_a_terminal(fen: Path) -> None:
    at_terminal(
        fen,
        ["layout", "learn", "salt-fen", "--to", "b.toml", "--ask"],
        [("that are sure", "o\n"), ("1 of", "c\n"), ("is called", "sort-of-place\n"), ("1 of", "y\n"), ("2 of", "r\n")],
    )
    assert "sort-of-place" in load_layout((fen / "b.toml").read_bytes(), "b.toml").kinds


def test_what_holds_in_one_of_two_maps_only_is_told(fen: Path) -> None:
    other = Path(shutil.copytree(fen / "salt-fen", fen / "other"))
    world = other / "world/salt_fen.blk"
    lines = world.read_text(encoding="cp1252").splitlines()
    world.write_text("\n".join(one for one in lines if "leads" not in one), encoding="cp1252")
    (other / "fog.json").write_text(json.dumps({"over": PLACES}), encoding="utf-8")
    ran = learn(fen, "--base", "game", "--beside", "other", "--json")
    (beside,) = ran.data["beside"]
    by_number = {one["number"]: one for one in ran.data["rules"]}
    here_only = [by_number[one["number"]] for one in beside["rules"] if not one["holds"]]
    assert "place/leads 0" in {rule for _, rule in asked(here_only)}
    assert len(here_only) <= 3
    assert asked(beside["there_only"]) == {("place", "$.over[*]")}
    assert not (other / "hookset.toml").exists()


def test_a_map_begins_with_a_layout_that_is_learned(fen: Path) -> None:
    assert run_hookset(fen, "start", "salt-fen").code == 1
    assert run_hookset(fen, "start", "salt-fen", "--base", "game").code == 2
    ran = run_hookset(fen, "start", "salt-fen", "--learn", "--base", "game", "--json")
    assert ran.code == 0
    assert len(ran.data["learned"]["rules"]) > 10 and ran.data["stock"] == ["../salt-fen.stock.json"]
    counts = run_hookset(fen / "salt-fen", "check", "--json").data["counts"]
    assert counts["references"] > 750 and counts["in_stock"] > 0


def test_a_layout_that_fits_is_not_learned(packed: MapProject) -> None:
    (packed.root / "hookset.toml").unlink()
    ran = run_hookset(packed.root, "start", "--learn", "--json")
    assert ran.data["learned"] is None and ran.data["layout"] == packed.layout.name


@pytest.mark.no_cover
def test_starting_at_a_terminal_asks_whether_rules_are_looked_for(fen: Path) -> None:
    refused = at_terminal(fen, ["start", "salt-fen"], [("Look for rules", "n\n")])
    assert not (fen / "salt-fen/hookset.toml").exists() and "hookset start" in refused
    at_terminal(fen, ["start", "salt-fen"], [("Look for rules", "\n")])
    assert (fen / "salt-fen/hookset.toml").exists() and (fen / "salt-fen.layout.toml").exists()
