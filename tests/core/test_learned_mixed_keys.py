"""Learned from records whose keys mean different things, and from what is said once in each language."""

from __future__ import annotations

import random
from pathlib import Path

from hookset.learning import learned
from tests.core.test_learning import rules, written

LOT = random.Random(51)
BAYS = [f"{what}{how}" for what in ("Reed", "Salt", "Fog") for how in ("Bay", "Ness", "Quay")]
SKIES = [f"{what}{how}" for what in ("Calm", "Grim", "Pale") for how in ("Dawn", "Noon", "Dusk")]


def test_keys_of_one_record_that_mean_different_things_are_rules_of_their_own(tmp_path: Path) -> None:
    trips = "".join(f'Trip({{ bay = "{LOT.choice(BAYS)}", sky = "{LOT.choice(SKIES)}" }})\n' for _ in range(40))
    tree = written(
        tmp_path / "map",
        {
            **{f"bays/{one}/bay.cfg": "depth = 3\n" for one in BAYS},
            **{f"skies/{one}/sky.cfg": "wind = 2\n" for one in SKIES},
            "trips.lua": trips,
        },
    )
    found = rules(learned(tree, "trips"))
    bays, skies = found["call=Trip field=bay"], found["call=Trip field=sky"]
    assert bays[1] == skies[1] == "sure"
    assert bays[0] != skies[0]
    assert "call=Trip field=*" not in found


def test_what_every_language_says_in_its_words_names_nothing(tmp_path: Path) -> None:
    tongues = ("cs", "de", "fr", "it", "pt", "ru", "sv")
    units = {one: f"unit{one}" for one in tongues}
    boats = "".join(f'Boat("{name}")\nRow("{name}")\n' for name in units.values())
    tree = written(
        tmp_path / "map",
        {**{f"words/{one}.lua": f'said = {{ ["Unit 8"] = "{units[one]}" }}\n' for one in tongues}, "boats.lua": boats},
    )
    assert not [one for one in learned(tree, "words").guesses if "Unit 8" in str(one.place.asked)]


def test_a_key_that_is_called_a_file_names_one(tmp_path: Path) -> None:
    marks = [f"mark_{number:02}" for number in range(12)]
    tree = written(
        tmp_path / "map",
        {
            "marks.lua": "".join(f'Mark("{one}")\n' for one in marks),
            "looks.lua": "".join(f'Look({{ filename = "{one}", depth = 2 }})\n' for one in marks[:8]),
            **{f"art/{one}.ppm": "P3" for one in marks},
        },
    )
    assert rules(learned(tree, "marks"))["call=Look field=filename"] == ("file", "sure")


def test_files_with_a_mark_before_their_ending_are_meant_without_it(tmp_path: Path) -> None:
    bells = [f"bell {number:02}" for number in range(16)]
    tree = written(
        tmp_path / "map",
        {
            "bells.txt": "".join(f'buoy B{n}\n\tdepth {n}\n\tsound "{one}"\n' for n, one in enumerate(bells)),
            **{f"sounds/{one}{'~' if n % 2 else ''}.wav": "R" for n, one in enumerate(bells[1:])},
        },
    )
    (guess,) = (one for one in learned(tree, "bells").guesses if one.place.asked.get("at") == "buoy/sound")
    assert guess.evidence.band == "sure"
    assert [one.text for one in guess.evidence.misfits] == [bells[0]]
    assert guess.files is not None and {*guess.files.suffix} == {".wav", "~.wav"}


def test_one_name_is_enough_where_its_key_is_what_it_names(tmp_path: Path) -> None:
    bays = "".join(f'quay "{one}"\n\tdepth 3\n' for one in BAYS)
    tree = written(tmp_path / "map", {"bays.txt": f'{bays}start\n\tquay "{BAYS[2]}"\n\tday "{BAYS[3]}"\n'})
    found = {guess.place.asked["at"]: guess.evidence.band for guess in learned(tree, "bays").guesses}
    assert (found.get("start/quay"), found.get("start/day", "weak")) == ("likely", "weak")


def test_of_files_alike_in_each_folder_the_one_that_begins_it_stands_for_it(tmp_path: Path) -> None:
    files = {f"levels/{one}/{name}.lua": f"local depth = {len(name)}\n" for one in BAYS for name in ("code", "init")}
    tree = written(
        tmp_path / "map", {**files, "all.lua": "".join(f'Enter("{LOT.choice(BAYS)}", 3)\n' for _ in range(40))}
    )
    found = learned(tree, "levels")
    assert rules(found)["call=Enter"][1] == "sure"
    assert "levels/{thing}/init.lua" in found.text
    assert "levels/{thing}/code.lua" not in found.text


def test_two_words_of_a_list_make_no_names_of_a_kind(tmp_path: Path) -> None:
    ways = ["Left", "Right", "High", "Back", "Up", "Down"]
    tables = 'jumps = { Left = 1, Right = 2, High = 3, Back = 4 }\nlifts = { "Up", "Down" }\n'
    turns = "".join(f'Turn("{LOT.choice(ways)}", 3)\n' for _ in range(80))
    found = rules(learned(written(tmp_path / "map", {"ways.lua": tables, "turns.lua": turns}), "ways"))
    assert found.get("call=Turn", ("", "weak"))[1] == "weak"
