"""Learned from what scripts give and are given: tables that files return, values by the word that a call is given first,
files of tables under shared names, large tables by names, files that several calls name in another letter case; and
where more of it goes."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from hookset.checks import judge
from hookset.config.layouts.load import load_layout
from hookset.learning import learned
from hookset.project import Stock
from hookset.trees import FolderTree
from tests.conftest import run_hookset
from tests.core.test_learning import rules, written

LOT = random.Random(7)
PREFABS = ["winch", "crane", "lamp", "bollard", "ladder", "buoy", "hatch", "gantry", "sluice", "siren", "crate", "net"]
SOUNDS = ["creak", "clank", "hum", "toll", "splash", "thud", "whirr", "hiss", "rattle"]
ROOMS = ["quay", "cellar", "lock", "tower"]


def prefab(name: str) -> str:
    one, other = LOT.sample(SOUNDS, 2)
    return (
        f'local deep = 3\nreturn {{\n  id = "bw_{name}",\n  model = "models/{name}.obj",\n'
        f'  sounds = {{ start = "bw_{one}", stop = "bw_{other}" }},\n  parts = {{ "bw_{LOT.choice(PREFABS)}" }},\n}}\n'
    )


@pytest.fixture
def harbour(tmp_path: Path) -> FolderTree:
    """Prefabs that each return a record, sounds in a table that their file returns, rooms that play them."""
    files = {f"prefabs/{name}.lua": prefab(name) for name in PREFABS}
    files |= {f"models/{name}.obj": "v 0 0 0\n" for name in PREFABS}
    rows = "".join(f'  ["bw_{one}"] = {{ loud = 0.{number} }},\n' for number, one in enumerate(SOUNDS))
    files["sounds.lua"] = f"return {{\n{rows}}}\n"
    for room in ROOMS:
        calls = "".join(f'audio.play("bw_{LOT.choice(SOUNDS)}")\n' for _ in range(6))
        files[f"rooms/{room}.lua"] = f'local audio = require("audio")\n{calls}'
    return written(tmp_path / "map", files)


def test_what_files_return_is_learned_and_checked(harbour: FolderTree) -> None:
    result = learned(harbour, "harbour")
    found = rules(result)
    assert found["assign=return field=model"] == ("file", "sure")
    assert found["assign=return field=sounds.*"][1] == "sure"
    assert found["assign=return field=sounds.*"] == found["call=audio.play"]
    (harbour.root / "prefabs/lamp.lua").write_text('return { id = "bw_lamp", sounds = { start = "bw_gong" } }\n')
    layout = load_layout(result.text.encode(), "learned.toml")
    told = judge(FolderTree(harbour.root), layout, Stock()).findings
    assert [one.name for one in told if one.code == "missing-name"] == ["bw_gong"]


def test_a_pack_goes_into_a_returned_table_and_into_the_room_that_its_notes_name(harbour: FolderTree) -> None:
    root, pack = harbour.root, harbour.root.parent / "gulls"
    pack.mkdir()
    (pack / "README.md").write_text(
        '# Gulls\n\nAdd to `sounds.lua`:\n\n```lua\n  ["bw_gull"] = { loud = 0.4 },\n```\n\n'
        'In `rooms/quay.lua` add:\n\n```lua\naudio.play("bw_gull")\n```\n'
    )
    before = {path: path.read_bytes() for path in root.rglob("*.lua")}
    assert run_hookset(root, "layout", "learn", "--to", str(root.parent / "harbour.toml")).code == 0
    assert run_hookset(root, "start", "--layout", str(root.parent / "harbour.toml")).code == 0
    assert not run_hookset(root, "draft", str(pack), "--json").data["not_understood"]
    assert run_hookset(root, "install", str(pack)).code == 0
    assert '  ["bw_gull"] = { loud = 0.4 },\n}' in (root / "sounds.lua").read_text()
    assert (root / "rooms/quay.lua").read_text().endswith('audio.play("bw_gull")\n')
    assert run_hookset(root, "check").code == 0
    run_hookset(root, "remove", "gulls")
    assert {path: path.read_bytes() for path in root.rglob("*.lua")} == before


def test_what_many_files_return_by_names_is_about_them(tmp_path: Path) -> None:
    files: dict[str, str] = {}
    whole: list[str] = []
    for sort in ("gull", "heron", "tern", "coot"):
        birds = [f"{size}_{sort}" for size in ("small", "great", "grey", "black", "night")]
        files |= {f"made/{sort}{n}.lua": f'new_{sort} {{ name = "{one}" }}\n' for n, one in enumerate(birds)}
        files |= {f"said/{sort}{n}.lua": f'return {{ {one} = {{ "bird" }} }}\n' for n, one in enumerate(birds)}
        whole += birds
    files["flock.lua"] = "".join(f'flock("{LOT.choice(whole)}")\n' for _ in range(60))
    result = learned(written(tmp_path / "map", files), "birds")
    (flock,) = [guess for guess in result.guesses if guess.place.asked.get("call") == "flock"]
    made = {str(target.place.asked["call"]) for target in flock.targets}
    assert made == {"new_gull", "new_heron", "new_tern", "new_coot"}


def test_values_are_looked_at_by_the_word_that_a_call_is_given_first(tmp_path: Path) -> None:
    icons = [f"icon-{one}-{two}" for one in ("ebb", "flood", "slack") for two in ("on", "off", "late")]
    table = "ICONS = {\n" + "".join(f'  ["{one}"] = {{ size = 3 }},\n' for one in icons) + "}\n"
    sets = "".join(
        f'set("icon", "{LOT.choice(icons)}")\nset("title", "The {LOT.choice(ROOMS)} {n}")\nset("depth", "{n}.5")\n'
        for n in range(12)
    )
    found = learned(written(tmp_path / "map", {"icons.lua": table, "rooms.lua": sets}), "icons")
    assert [dict(guess.place.when) for guess in found.guesses if guess.place.asked.get("call") == "set"] == [
        {"1": "icon"}
    ]
    assert 'when = { 1 = "icon" }' in found.text


def test_the_tables_of_a_file_are_records_of_one_sort(tmp_path: Path) -> None:
    things = [f"npc{one}" for one in ("walker", "rower", "warden", "pilot", "dredger", "smuggler")]
    noises = "\n\n".join(
        f'{one} = {{\n\tstep = "{LOT.choice(SOUNDS)}",\n\tfall = "{LOT.choice(SOUNDS)}",\n}}' for one in things
    )
    noises = noises.replace(' = "', ' = "bw-')
    files = {f"sounds/bw-{one}.ogg": "" for one in SOUNDS} | {"noises.lua": noises + "\n"}
    found = rules(learned(written(tmp_path / "map", files), "noises"))
    assert {kind for key, (kind, _) in found.items() if "assign=*" in key} == {"file"}
    assert not [key for key in found if "assign=npc" in key]


def test_a_table_with_very_many_names_is_asked_for_all_of_them_at_once(tmp_path: Path) -> None:
    pictures = [f"sheet_{number}" for number in range(12)]
    rows = "".join(f'  ["tile-{n}"] = {{ image = "{pictures[n % 12]}", x = {n}, y = 2 }},\n' for n in range(40))
    files = {f"pics/{one}.png": "" for one in pictures} | {"tiles.lua": f"tiles = {{\n{rows}}}\n"}
    result = learned(written(tmp_path / "map", files), "tiles")
    assert rules(result)["assign=tiles field=*.image"] == ("file", "sure")
    assert result.places < 20


def test_files_that_one_call_surely_names_are_what_others_name_in_the_same_way(tmp_path: Path) -> None:
    scripts = [
        "bar",
        "inn",
        "mill",
        "den",
        "well",
        "quay",
        "lock",
        "weir",
        "barn",
        "yard",
        "pump",
        "shed",
        "dock",
        "pier",
        "fort",
        "gate",
        "hall",
        "cave",
        "tomb",
        "keep",
    ]
    say = 'void main(void)\n{\n  say("Nobody is here.", 1);\n'
    files = {}
    for number, one in enumerate(scripts):
        calls = "".join(f'  run_script(&it, "{LOT.choice(scripts)}");\n' for _ in range(4))
        rare = f'  spawn("{LOT.choice(scripts)}");\n' if number % 4 == 0 else ""
        files[f"Story/{one.upper()}.c"] = f"{say}{calls}{rare}}}\n"
    found = learned(written(tmp_path / "map", files), "story")
    bands = {guess.place.word: guess.evidence.band for guess in found.guesses}
    assert bands == {"run_script": "sure", "spawn": "likely"}


def test_calls_that_take_any_number_of_the_same_are_one_rule(tmp_path: Path) -> None:
    parts = [f"{what}_{how}" for what in ("hull", "mast", "sail", "oar") for how in ("old", "new", "tarred")]
    files = {f"parts/{one}.lua": "function update() end\n" for one in parts}
    boats = (
        f'boat("boat_{n}", ' + ", ".join(f'{{ "{one}", wide = {n} }}' for one in LOT.sample(parts, 1 + n % 4)) + ")\n"
        for n in range(24)
    )
    found = rules(learned(written(tmp_path / "map", files | {"boats.lua": "".join(boats)}), "boats"))
    assert [key.partition(" field")[0] for key in found if "call=boat" in key] == ["call=boat arg=2 rest=True"]


def test_arguments_that_each_call_has_are_asked_for_one_by_one(tmp_path: Path) -> None:
    masts = [f"mast_{wood}" for wood in ("oak", "elm", "fir", "ash", "yew", "larch", "pine", "teak", "beech")]
    files = {"masts.lua": "".join(f'mast("{one}")\n' for one in masts)}
    files["boats.lua"] = "".join(
        "boat({}, {}, {})\n".format(*(f'"{one}"' for one in LOT.sample(masts, 3))) for _ in range(40)
    )
    found = rules(learned(written(tmp_path / "map", files), "boats"))
    assert {key for key in found if "boat" in key} == {"call=boat", "call=boat arg=2", "call=boat arg=3"}
