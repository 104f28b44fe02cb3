"""What says no more than how its own file is called, and what is called after pictures, sounds and their folders."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from hookset.learning import learned
from hookset.learning.evidence import band_of
from hookset.learning.material import material_of
from tests.core.test_learned_scripts import told as broken
from tests.core.test_learning import rules, written

BOATS = ["cutter", "yawl", "smack", "ketch", "dinghy", "lugger", "wherry", "punt", "skiff", "barge"]
VOICES = ["gruff", "hoarse", "merry", "sleepy", "squeaky"]
FLAGS = [f"{one}_{sign}" for one in ("anchor", "herring", "kelp", "lantern") for sign in ("blue", "old", "white")]
MOODS = ["Dusk", "Fog", "Gale", "Noon", "Thaw"]


def test_what_a_file_calls_itself_refers_to_nothing(tmp_path: Path) -> None:
    files = {f"fleet/{one}/{one}.xml": f'<boat><about name="{one}"/></boat>' for one in BOATS}
    files |= {f"skies/{one}.xml": "<sky>" + f'<about sky="{one}"/>' * 2 + "</sky>" for one in MOODS}
    files |= {
        f"crews/{one}_{n}.xml": f'<crew><rows boat="{boat}"/></crew>' for n, boat in enumerate(BOATS) for one in VOICES
    }
    told = rules(learned(written(tmp_path / "quay", files), "quay"))
    assert {key for key in told if "about" in key} == set()
    assert told["at=//rows/@boat"][0] == "fleet"


def test_drawings_for_people_are_not_read(tmp_path: Path) -> None:
    drawing = '<svg xmlns="urn:x"><marker stockid="{0}" id="{0}"/><use href="{0}"/></svg>'
    files = {f"art/{one}.svg": drawing.format(one) for one in BOATS}
    found = material_of(written(tmp_path / "quay", files))
    assert [(one.ending, one.files) for one in found.unread] == [(".svg", len(BOATS))]
    assert found.sorts == ()


def test_folders_with_sounds_of_one_name_are_things(tmp_path: Path) -> None:
    files = {f"sounds/voices/{one}/ahoy.wav": "RIFF" for one in VOICES}
    files |= {f"crews/{one}.lua": f'hire("{one}", "{VOICES[n % 5]}")\n' for n, one in enumerate(BOATS)}
    told = rules(learned(written(tmp_path / "quay", files), "quay"))
    assert told["call=hire arg=2"] == ("voice", "sure")


def test_what_is_given_to_a_call_again_and_again_is_the_file_itself(tmp_path: Path) -> None:
    files = {f"pictures/flags/{one}.png": "x" for one in FLAGS}
    files |= {
        f"crews/{one}.lua": "".join(f'AddCrew("{one} {m}", "{FLAGS[(n + m) % 12]}")\n' for m in range(3))
        for n, one in enumerate(BOATS)
    }
    told = rules(learned(written(tmp_path / "quay", files), "quay"))
    assert told["call=AddCrew arg=2"] == ("file", "sure")


def test_names_on_lines_of_their_own_have_numbers_beside_them(tmp_path: Path) -> None:
    files = {f"moods/{one}/mood.cfg": f"name={one}\nsky=grey\nwind={n}\n" for n, one in enumerate(MOODS)}
    files |= {f"quays/{one}/quay.cfg": f"{MOODS[n % 5]}\n{8 * n + 3}" for n, one in enumerate(BOATS)}
    found = learned(written(tmp_path / "quay", files), "quay")
    (guess,) = (one for one in found.guesses if one.place.sort.format == "lines")
    assert (found.kind_of[guess], guess.band, guess.no_numbers) == ("mood", "sure", True)


def test_dozens_of_lists_in_a_folder_are_of_one_sort(tmp_path: Path) -> None:
    files = {f"names/{one}{n}.cfg": "".join(f"{one}{m}{n}\n" for m in range(4)) for one in BOATS for n in (1, 2)}
    files |= {f"lists/{one}.cfg": "".join(f"{one}_{m}\n" for m in range(4)) for one in VOICES[:3]}
    found = material_of(written(tmp_path / "quay", files))
    assert sorted(len(sort.documents) for sort in found.sorts) == [1, 1, 1, 20]


def test_a_thing_that_is_called_as_the_file_that_names_it_is_another(tmp_path: Path) -> None:
    files = {f"hulls/{one}/hull.xml": '<hull><plank wide="4"/></hull>' for one in BOATS}
    files |= {f"crews/{one}/crew.xml": f"<crew>{f'<sails hull={one!r}/>' * 2}</crew>" for one in BOATS}
    told = rules(learned(written(tmp_path / "quay", files), "quay"))
    assert told["at=//sails/@hull"][0] == "hull"


def test_what_has_all_names_is_kept_though_most_of_its_own_are_names_elsewhere(tmp_path: Path) -> None:
    boats = [f"{one}_{n}" for one in BOATS for n in range(5)]
    looks = [*boats[:45], *(f"flag_{n}" for n in range(8))]
    files = {
        "things": "".join(f"Thing {one}\nweight {n}\nlook {looks[n]}\nend\n" for n, one in enumerate(boats)),
        "looks": "".join(f"looks {one}\npicture {n}\nend\n" for n, one in enumerate(looks)),
        "quay": "".join(f"look {one}\nx {n}\nend\n" for n, one in enumerate(looks * 2)),
    }
    found = learned(written(tmp_path / "quay", files), "quay")
    looked = {guess.targets[0].place.word for guess in found.guesses if guess.place.word == "look"}
    assert looked == {"looks"}


def test_names_on_lines_by_themselves_stand_in_blocks(tmp_path: Path) -> None:
    looks = [f"{one}.{n}" for one in BOATS for n in range(6)]
    files = {
        "looks": "".join(f"look {one}\npicture {n}\nend_look\n" for n, one in enumerate(looks)),
        "films": "".join(
            f"film {one}_{n}\n" + "".join(f"{look}\n" for look in looks[9 * n : 9 * n + 7]) + "mina\n"
            for n, one in enumerate(BOATS[:6])
        ),
    }
    found = learned(written(tmp_path / "quay", files), "quay")
    (guess,) = found.guesses
    assert dict(guess.place.asked) == {"only": r"^\S+$", "skip": "^(?:mina)$"}
    assert guess.targets[0].place.word == "look" and guess.band == "sure"
    assert broken(written(tmp_path / "quay", {}), found) == set()


def test_keys_that_are_ways_to_files_are_names(tmp_path: Path) -> None:
    one = {f"art/{boat}/{n}.png": [0, n * 8] for n, boat in enumerate(BOATS[:2])}
    sheets = {f"sheet_{n}": {"rows": {key: at}, "tint": n} for n, (key, at) in enumerate(one.items())}
    files = {"sheets.json": json.dumps(sheets), **dict.fromkeys(one, "x")}
    told = rules(learned(written(tmp_path / "quay", files), "quay"))
    assert {kind for way, (kind, _) in told.items() if way.startswith("keys=")} == {"file"}


def test_what_fits_nearly_everywhere_is_likely_though_many_texts_do_not() -> None:
    assert band_of(-11.4, 8 / 11, 8, 5, 25) == "likely"
    assert band_of(-8.0, 8 / 11, 8, 5, 25) == "weak"
    assert band_of(-11.4, 8 / 11, 8, 9, 25) == "weak"
    assert band_of(-11.4, 0.6, 8, 5, 25) == "weak"


def test_a_file_in_a_folder_called_like_what_names_it_is_likely(tmp_path: Path) -> None:
    def bands(folder: str) -> list[str]:
        files = {f"art/{n}.png": "" for n in range(500)} | {f"{folder}/creak.ogg": ""}
        files["scripts/toll.lua"] = 'toll{ sound_file = "creak.ogg" }\n' * 2
        found = learned(written(tmp_path / folder, files), folder)
        return [one.band for one in (*found.guesses, *found.weak) if one.place.word == "sound_file"]

    assert bands("sounds") == ["likely"]
    assert bands("stuff") == ["weak"]


@pytest.mark.parametrize("records", [2, 3])
def test_a_few_records_that_say_the_same_are_a_table_by_names(records: int, tmp_path: Path) -> None:
    def record(n: int) -> dict[str, object]:
        return {"look": f"{BOATS[n]}.hull", "weight": n, "crew": 3, "draught": 2, "masts": 1}

    files = {
        f"fleet/{n}.json": json.dumps({f"boat_{n}_{m}": record(3 * n + m) for m in range(records)}) for n in range(3)
    }
    files |= {f"hulls/{one}.hull": "x" for one in BOATS}
    told = rules(learned(written(tmp_path / "quay", files), "quay"))
    assert told["at=$.*.look"][0] == "file"
    assert not [way for way in told if "boat_" in way]


def test_a_number_that_says_none_is_no_name(tmp_path: Path) -> None:
    noises = [f"{boat}.ogg" if n % 3 else "-1" for n, boat in enumerate(BOATS)]
    files = {f"boats/{boat}.xml": f'<boat><start noise="{noises[n]}"/></boat>' for n, boat in enumerate(BOATS)}
    files |= {f"noises/{boat}.ogg": "x" for boat in BOATS}
    (guess,) = learned(written(tmp_path / "quay", files), "quay").guesses
    assert guess.evidence.misfits == () and guess.evidence.hits == 6
    assert guess.nothing == ("-1",)
