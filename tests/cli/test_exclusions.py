"""What a pack cannot stand beside: whichever came first, and however it came."""

from __future__ import annotations

from pathlib import Path

import pytest

from hookset.authoring.draft.notes import read_notes
from hookset.authoring.draft.said.exclusions import exclusions_said
from hookset.trees import EmptyTree, Inline, Overlay
from tests.conftest import run_hookset, snapshot
from tests.packs import made_pack

CODE = "beside-excluded"
BRINGS = '[[files]]\nfrom = "**"\nto = "."\n'
FILE = "scripts/server/fog.lua"


def excluding(folder: Path, *excluded: str) -> Path:
    rows = "".join(f"[[excludes]]\n{one}\nwhy = 'both move the water'\n" for one in excluded)
    return made_pack(folder, "storm", rows + BRINGS, {"textures/storm_1.png": b""})


def codes(folder: Path) -> list[tuple[str, str]]:
    return [
        (f["code"], f["name"]) for f in run_hookset(folder, "check", "--json").data["findings"] if f["code"] == CODE
    ]


@pytest.mark.parametrize(
    ("excluded", "there"),
    [
        ("kind = 'file'\nname = 'scripts/**/fog*.lua'", {FILE: ""}),
        ("kind = 'sound'\nname = 'quay_bell'", {}),
        ("kind = 'file'\nname = '**/storm*.png'", {"textures/storm_2.png": ""}),
    ],
)
def test_a_pack_is_refused_beside_what_it_excludes(demo: Path, excluded: str, there: dict[str, str]) -> None:
    pack = excluding(demo.parent, excluded)
    for path, text in there.items():
        (demo / path).write_text(text, encoding="utf-8")
    before = snapshot(demo)
    told = run_hookset(demo, "install", str(pack), "--json")
    assert told.code == 1
    assert snapshot(demo) == before
    inside = run_hookset(demo, "inspect", str(pack), "--json").data["excludes"]
    assert [(one["known"], len(one["found"])) for one in inside] == [(True, 1)]
    assert run_hookset(demo, "install", str(pack), "--anyway").code == 0
    assert len(codes(demo)) == 1
    assert run_hookset(demo, "remove", "storm").code == 0
    assert codes(demo) == []


def test_what_a_pack_brings_itself_is_not_what_it_excludes(demo: Path) -> None:
    pack = excluding(demo.parent, "kind = 'file'\nname = '**/storm*.png'", "kind = 'sound'\nname = 'fog_horn'")
    assert run_hookset(demo, "install", str(pack)).code == 0
    assert codes(demo) == []
    # What comes later is.
    (demo / "textures/storm_of_mine.png").write_bytes(b"")
    assert codes(demo) == [(CODE, "storm.**/storm*.png")]


def test_what_a_pack_sets_itself_is_not_what_it_excludes(demo: Path) -> None:
    sheet = "[[excludes]]\nkind = 'sound'\nname = 'storm'\n[[hook]]\nseat = 'sound-table'\n"
    sheet += "record = { alias = 'storm', file = 'harbour/quay_bell.wav', reach = 9.0 }\n"
    pack = made_pack(demo.parent, "storm", sheet)
    assert run_hookset(demo, "install", str(pack), "--anyway").code == 0
    assert codes(demo) == []
    aliases = demo / "sounds/aliases.toml"
    again = '\n[[sound]]\nalias = "storm"\nfile = "harbour/quay_bell.wav"\nreach = 9.0\n'
    aliases.write_text(aliases.read_text(encoding="utf-8") + again, encoding="utf-8")
    assert codes(demo) == [(CODE, "storm.storm")]


def test_a_pack_that_is_excluded_is_refused_when_it_comes_second(demo: Path) -> None:
    first = excluding(demo.parent, "kind = 'pack'\nname = 'fog'\nversion = '<2'")
    assert run_hookset(demo, "install", str(first)).code == 0
    second = made_pack(demo.parent, "fog", "", version="1.4")
    refused = run_hookset(demo, "install", str(second))
    assert (refused.code, "both move the water" in refused.err) == (1, True)
    newer = made_pack(demo.parent, "fog", "", version="2.1")
    assert run_hookset(demo, "install", str(newer)).code == 0
    assert codes(demo) == []


def test_a_kind_that_the_layout_does_not_know_is_told(demo: Path) -> None:
    pack = excluding(demo.parent, "kind = 'weather'\nname = 'fog'")
    data = run_hookset(demo, "install", str(pack), "--json").data
    assert [one["known"] for one in data["packs"][0]["excludes"]] == [False]
    assert [one["severity"] for one in data["new_findings"] if one["code"] == CODE] == ["warning"]


def test_a_version_that_is_none_is_told_with_its_line(demo: Path) -> None:
    pack = excluding(demo.parent, "kind = 'pack'\nname = 'fog'\nversion = 'older'")
    told = run_hookset(demo, "inspect", str(pack))
    assert (told.code, "hooksheet.toml:7" in told.err) == (3, True)


def test_a_draft_finds_what_somebody_has_put_there_by_hand(demo: Path) -> None:
    pack = demo.parent / "storm"
    pack.mkdir()
    (pack / "README.md").write_text(
        "# Storm 1.0\n\nNever use it together with the fog race, or with scripts/server/tide_master.lua!\n",
        encoding="utf-8",
    )
    (pack / "storm.lua").write_text("return {}\n", encoding="utf-8")
    data = run_hookset(demo, "draft", str(pack), "--show", "--json").data
    assert [(one["entry"]["kind"], one["entry"]["name"]) for one in data["excludes"]] == [
        ("pack", "fog-race"),
        ("file", "scripts/server/tide_master.lua"),
    ]
    # What must not be there is not missed.
    assert not any("tide_master" in one for one in data["decide"])
    (demo / "scripts/server/fog_race.lua").write_text("return {}\n", encoding="utf-8")
    data = run_hookset(demo, "draft", str(pack), "--show", "--json").data
    entries = [one["entry"] for one in data["excludes"]]
    assert [(one["kind"], one["name"]) for one in entries][:2] == [("file", "**/fog_race.*"), ("pack", "fog-race")]
    assert [one["name"] for one in data["findings"] if one["code"] == CODE] == ["storm.**/fog_race.*"]
    assert not data["complete"]


def test_a_draft_tells_of_an_installed_pack_that_it_excludes(demo: Path) -> None:
    assert run_hookset(demo, "install", str(made_pack(demo.parent, "fog-race", ""))).code == 0
    pack = demo.parent / "storm"
    pack.mkdir()
    (pack / "README.md").write_text("# Storm 1.0\n\nNever use it together with the fog race!\n", encoding="utf-8")
    (pack / "storm.lua").write_text("return {}\n", encoding="utf-8")
    data = run_hookset(demo, "draft", str(pack), "--show", "--json").data
    assert [one["name"] for one in data["findings"] if one["code"] == CODE] == ["storm.fog-race"]
    assert not data["complete"]


@pytest.mark.parametrize(
    ("text", "what"),
    [
        ("Do NOT use this together with the Fog Race: both take the horn.", ["Fog Race"]),
        ("This pack and 'tide-gates' exclude each other.", ["tide-gates"]),
        ("Not compatible with lift-bridge before 2.0.", ["lift-bridge before 2.0"]),
        ("Mutually exclusive with Oak Rail - both want to be what boats are tied to.", ["Oak Rail"]),
        ("Verträgt sich nicht mit der Hubbrücke (lift-bridge), beide greifen zu.", ["lift-bridge"]),
        ("Bitte nicht einbauen, wenn eure Karte schon das Leuchtfeuer (lighthouse) hat.", ["lighthouse"]),
        ("Never both this and the fog race on one map.", ["fog race"]),
        ("If your map has a script called fog_race.lua, stay away from this pack.", ["fog_race.lua"]),
        ("N'utilisez pas ce pack avec « Porte muette » (quiet-gate), ni avec des `sirens`.", ["quiet-gate", "sirens"]),
        ("Incompatible: lift-bridge, fog-bell", ["lift-bridge", "fog-bell"]),
        ("It can't be on the same map as the Tide Gates, nor on one with scripts/tide.lua.", ["Tide Gates", "scripts/tide.lua"]),
        ("Won't work on maps that have an object called harbour_master.", ["harbour_master"]),
        ("There may be a quay/rail.yaml. Throw it out, the two can't live side by side.", ["quay/rail.yaml"]),
        ("## Does not go with\n\n* Harbour Watch 2.0 and up\n* the old Pier\n", ["Harbour Watch 2.0+", "Pier"]),
        ("Never together with scripts\\server\\tide.lua.", ["scripts/server/tide.lua"]),
        ("Works fine together with the fog race.", []),
        ("The lever does not work together with a sound shorter than a second.", []),
        ("Never run it together with the game's editor open.", []),
        ("Do not add this line if you have the Lift Bridge.", []),
        ("Never use option A together with option B.", []),
        ("Don't put it next to the pier.", []),
        ("Do not use spaces with the names.", []),
    ],
)  # fmt: skip
def test_what_notes_say_cannot_stand_together(text: str, what: list[str]) -> None:
    notes = read_notes(Overlay(EmptyTree(), {"readme.txt": Inline(f"Storm\n\n{text}\n".encode())}), ("readme.txt",))
    assert [one.what for one in exclusions_said(notes)] == what
