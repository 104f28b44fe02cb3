"""Learned from files of sections of which each is about another sort of thing: what the files are, what the texts beside
them are about, what stands at its place between bars, and what is only a title."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from hookset.learning import Learned, learned
from tests.core.test_learning import rules, written

LOT = random.Random(31)
SKILLS = [f"{what} {how}" for what in ("Rope", "Sail", "Hull", "Mast", "Net") for how in ("Making", "Mending", "Care")]
BERTHS = ["Fish Quay", "Coal Stair", "Long Pier", "Dry Dock", "Mud Hard", "Lee Wall"]
CREWS = ["wardens", "pilots", "dredgers", "smugglers", "rowers"]


def skill(name: str) -> str:
    crew, weight = LOT.choice(CREWS), LOT.randrange(9)
    first, second = LOT.sample(SKILLS, 2)
    return f"[{name}]\ncost = {weight} | 0 | 1\nneeds = {first} | {second}\neffect = please | {crew} | {weight}\n\n"


def berth(name: str) -> str:
    seen = " | ".join(f"{crew}:{LOT.randrange(90)}" for crew in LOT.sample(CREWS, 3))
    return f"[{name}]\nlength = {LOT.randrange(80)}\nneed = {LOT.choice(SKILLS)}\nseen_by = {seen}\n\n"


def told(name: str) -> str:
    return f"[{name}]\nname = {name}\nabout = What everybody on the water says of it.\n\n"


@pytest.fixture
def harbour(tmp_path: Path) -> Learned:
    """What can be learned, berths and crews, each in a file, and the texts of each in another."""
    files = {
        "skills.dat": "".join(map(skill, SKILLS)),
        "berths.dat": "".join(map(berth, BERTHS)),
        "crews.dat": "".join(f"[{crew}]\npatience = {LOT.randrange(9)}\n\n" for crew in CREWS),
        "skills_text.dat": "".join(map(told, SKILLS)),
        "berths_text.dat": "".join(map(told, BERTHS)),
        "crews_text.dat": "".join(map(told, CREWS)),
    }
    return learned(written(tmp_path / "map", files), "harbour")


def found_in(learned_: Learned) -> dict[tuple[str, str], tuple[str, str]]:
    """(kind, band) by file and what is asked of it: a key, or the names of its sections."""
    kinds = {one: kind.name for kind in learned_.kinds for one in kind.vocabularies}
    return {
        (guess.place.sort.globs[0], str(guess.place.asked.get("key", "sections"))): (
            kinds[guess.targets[0]],
            guess.evidence.band,
        )
        for guess in learned_.guesses
    }


def test_each_file_of_sections_is_about_things_of_one_sort_called_after_it(harbour: Learned) -> None:
    found = found_in(harbour)
    assert found["skills.dat", "needs"] == ("skill", "sure")
    assert found["berths.dat", "need"][0] == "skill"


def test_texts_in_a_file_beside_another_are_about_what_that_one_defines(harbour: Learned) -> None:
    found = found_in(harbour)
    assert found["skills_text.dat", "sections"] == ("skill", "sure")
    assert found["berths_text.dat", "sections"] == ("berth", "sure")
    assert found["crews_text.dat", "sections"] == ("crew", "sure")


def test_what_calls_a_section_as_it_is_called_anyhow_refers_to_nothing(harbour: Learned) -> None:
    assert not [one for one in found_in(harbour) if one[1] == "name"]


def test_what_stands_at_its_place_between_bars_is_a_name_and_the_rest_is_not(harbour: Learned) -> None:
    found = {key: one for key, one in rules(harbour).items() if "key=effect" in key}
    assert [kind for kind, _ in found.values()] == ["crew"]
    assert all("only=^please" in key for key in found)


def test_what_a_single_record_says_is_no_rule_of_its_own(tmp_path: Path) -> None:
    rows = "".join(
        f"[{name}]\nlength = {LOT.randrange(80)}\nneed = {LOT.choice(SKILLS)}\nlinks = far\n\n" for name in BERTHS
    )
    for name in ("Old Basin", "New Basin"):
        rows += f"[{name}]\nlength = 3\nneed = none\nlinks = {' | '.join(LOT.sample(SKILLS, 9))}\n\n"
    files = {"skills.dat": "".join(map(skill, SKILLS)), "berths.dat": rows}
    assert not [key for key in rules(learned(written(tmp_path / "map", files), "yard")) if "section=" in key]


def test_names_with_how_much_of_each_may_have_bars_between_them(harbour: Learned) -> None:
    assert found_in(harbour)["berths.dat", "seen_by"][0] == "crew"


def test_files_that_are_called_alike_in_several_folders_stay_of_one_sort(tmp_path: Path) -> None:
    files = {}
    for game in ("calm", "rough"):
        files[f"{game}/skills.dat"] = "".join(map(skill, SKILLS)).replace("[", f"[{game} ")
        files[f"{game}/berths.dat"] = "".join(map(berth, BERTHS)).replace("[", f"[{game} ")
    result = learned(written(tmp_path / "map", files), "games")
    assert [sort.globs for sort in result.material.sorts] == [("**/*.dat",)]


def test_lines_of_words_are_read_as_such_though_the_file_is_called_ini(tmp_path: Path) -> None:
    boats = [f"{wood}_{kind}" for wood in ("oak", "elm", "fir", "ash") for kind in ("punt", "skiff", "yawl")]
    lines = "".join(f"boat {one} {LOT.randrange(9)} {LOT.choice('abc')}\n" for one in boats)
    lines += "".join(f"moor {LOT.choice(boats)} {LOT.randrange(99)}\n" for _ in range(40))
    found = rules(learned(written(tmp_path / "map", {"yard.ini": lines}), "yard"))
    assert found["field=2 when={'1': 'moor'}"] == ("boat", "sure")


def test_fields_count_before_what_lines_may_leave_out(tmp_path: Path) -> None:
    boats = [
        f"{wood}_{kind}"
        for wood in ("oak", "elm", "fir", "ash", "yew")
        for kind in ("punt", "skiff", "yawl", "barge", "dory")
    ]
    lines = "".join(f"boat {number} hull {one}{' 1 2 3 4' * (number % 2)}\n" for number, one in enumerate(boats))
    lines += "".join(f"moor {LOT.choice(boats)} {LOT.randrange(99)}\n" for _ in range(40))
    yard = learned(written(tmp_path / "map", {"yard.list": lines}), "yard")
    (moor,) = [guess for guess in yard.guesses if guess.place.word == "moor"]
    assert [target.place.asked for target in moor.targets] == [{"field": 4, "when": {"1": "boat"}}]
