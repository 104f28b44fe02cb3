"""Notes that give something of the map another value."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.cli.test_draft_forms import drafted
from tests.conftest import run_hookset

ALIASES = "sounds/aliases.toml"
BELL = '[[sound]]\nalias = "quay_bell"\nfile = "harbour/quay_bell.wav"\nreach = {}\n'
FORMS = {
    "a sentence": f"In {ALIASES}, set the reach of quay_bell to 90.",
    "from and to": f"{ALIASES}:\n- raise quay_bell's reach from 60 to 90",
    "an arrow": "quay_bell: reach 60 -> 90",
    "said of it": f"Open {ALIASES} and look for quay_bell. Set its reach to 90.",
    "it should be": f"The reach of `quay_bell` in {ALIASES} should be 90 m.",
    "a table": f"Change these in {ALIASES}:\n\n| alias | reach before | reach now |\n|---|---|---|\n"
    "| quay_bell | 60 | 90 |\n",
    "a new version": f"Find quay_bell in {ALIASES}. It should look like this afterwards:\n\n    "
    + BELL.format("90.0").replace("\n", "\n    ").rstrip(),
}


@pytest.mark.parametrize("form", FORMS)
def test_a_value_becomes_another_and_comes_back(demo: Path, form: str) -> None:
    data = drafted(demo, f"Louder bell 1.0 by Withy. MIT.\n\n{FORMS[form]}\n")
    assert data["complete"], data["not_understood"]
    file = demo / ALIASES
    before = file.read_text(encoding="utf-8")
    pack = str(demo.parent / "weir")
    assert run_hookset(demo, "install", pack, "--as-drafted").code == 0
    assert file.read_text(encoding="utf-8") == before.replace(BELL.format("60.0"), BELL.format("90.0"))
    assert run_hookset(demo, "remove", "weir").code == 0
    assert file.read_text(encoding="utf-8") == before


def test_several_things_and_texts_of_several_languages(demo: Path) -> None:
    notes = (
        "Set the volume of gull_1, gull_2 and gull_3 to 0.5.\n"
        'Change tide.high in texts/en.toml to "High water! Mind your boots."\n'
        "In texts/de.toml, tide.high becomes „Hochwasser! Achtung, Stiefel.“\n"
    )
    assert drafted(demo, notes)["not_understood"] == 0
    assert run_hookset(demo, "install", str(demo.parent / "weir"), "--as-drafted").code == 0
    assert (demo / ALIASES).read_text(encoding="utf-8").count("volume = 0.5\n") == 3
    assert '"tide.high" = "High water! Mind your boots."' in (demo / "texts/en.toml").read_text(encoding="utf-8")
    assert '"tide.high" = "Hochwasser! Achtung, Stiefel."' in (demo / "texts/de.toml").read_text(encoding="utf-8")


def test_the_new_words_of_each_language_go_into_its_file(demo: Path) -> None:
    notes = (
        'Replace the line for tide.high in texts/en.toml with\n\n    "tide.high" = "High tide"\n\n'
        'and in the German file with\n\n    "tide.high" = "Flut"\n'
    )
    data = drafted(demo, notes)
    told = [(one["entry"]["file"], one["entry"]["replaces"], one["entry"]["text"]) for one in data["hook"]]
    assert told == [
        ("texts/en.toml", '"tide.high" = "High water"', '"tide.high" = "High tide"'),
        ("texts/de.toml", '"tide.high" = "Hochwasser"', '"tide.high" = "Flut"'),
    ]


@pytest.mark.parametrize(
    "told",
    [
        "Set the reach of fog_bell to 90.",
        "In zones.toml, change the depth of the canal to 4.",
        "Set the reach of quay_bell to a lot.",
        "Find quay_bell. Set the reach of fog_bell to 90.",
        "The reach of quay_bell has to be a number from 60 to 90.",
        'In sounds/aliases.toml give fog_bell also ends = "tide.high".',
        "sounds/aliases.toml: dem Eintrag fog_bell noch volume = 0.5 und reach = 90 geben.",
    ],
)
def test_what_the_map_does_not_have_is_not_understood(demo: Path, told: str) -> None:
    data = drafted(demo, f"{told}\n")
    assert data["hook"] == []
    assert data["not_understood"] == 1


def test_keys_for_what_is_not_there_are_not_in_what_they_introduce(demo: Path) -> None:
    new = '    [[sound]]\n    alias = "weir"\n    file = "harbour/quay_bell.wav"\n    reach = 9.0\n'
    notes = f"{ALIASES}: give fog_bell also volume = 0.5.\nA new alias, too:\n\n{new}"
    data = drafted(demo, notes)
    told = [line["text"] for line in data["lines"] if line["fate"] == "not understood"]
    assert (len(data["hook"]), told) == (1, [f"{ALIASES}: give fog_bell also volume = 0.5."])


def test_what_is_left_to_the_builder_or_was_otherwise_is_marked(demo: Path) -> None:
    data = drafted(
        demo,
        "If the gulls are too loud, set the volume of gull_2 to 0.2.\n\nChange the reach of quay_bell from 75 to 90.\n",
    )
    assert [one["sure"] for one in data["hook"]] == [False, False]


def test_two_values_for_one_thing_are_not_understood(demo: Path) -> None:
    data = drafted(demo, "quay_bell: reach 60 -> 90\n\nquay_bell: reach 60 -> 120\n")
    assert (data["hook"], data["not_understood"]) == ([], 2)


def test_what_undoes_it_is_not_set(demo: Path) -> None:
    notes = "Set the reach of quay_bell to 90.\n\nUninstall\n---------\n\nSet the reach of quay_bell to 60.\n"
    data = drafted(demo, notes)
    assert [one["entry"]["text"].splitlines()[-1] for one in data["hook"]] == ["reach = 90.0"]


def test_a_constant_of_a_script_by_its_name(demo: Path) -> None:
    script = demo / "scripts/server/harbour.lua"
    script.write_text(f"local OPEN_SECONDS = 3\n{script.read_text(encoding='utf-8')}", encoding="utf-8")
    data = drafted(demo, "In scripts/server/harbour.lua change OPEN_SECONDS to 5.\n")
    told = [(one["entry"]["file"], one["entry"]["replaces"], one["entry"]["text"]) for one in data["hook"]]
    assert told == [("scripts/server/harbour.lua", "local OPEN_SECONDS = 3", "local OPEN_SECONDS = 5")]
