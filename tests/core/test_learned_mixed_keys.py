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
