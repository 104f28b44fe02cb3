"""Learned of maps of level editors, of constants in a header, and of languages that nobody knows."""

from __future__ import annotations

from pathlib import Path

import pytest

from hookset.learning import Learned, learned
from tests.core.test_learning import written

STONES = ["granite", "slate", "marl", "chalk", "basalt", "flint"]
CREATURES = ["CRAB", "HERON", "OTTER", "EEL", "PIKE", "NEWT", "TOAD", "WADER"]
MOODS = ["MOOD_CALM", "MOOD_WILD"]


def by_word(result: Learned) -> dict[str, tuple[str, str]]:
    """(kind, band) by the word of a place."""
    return {guess.place.word: (kind, guess.evidence.band) for guess, kind in result.kind_of.items()}


def entity(**keys: object) -> str:
    return "{\n" + "".join(f'"{key}" "{value}"\n' for key, value in keys.items()) + "}\n"


def brush(stones: list[str]) -> str:
    sides = "".join(
        f"( {n} -16 8 ) ( {n} 304 8 ) ( {n} -16 0.5 ) quarry/{stone} 0 0 0 0.5 0.5 0 0 0\n"
        for n, stone in enumerate(stones)
    )
    return "// brush 0\n{\n" + sides + "}\n"


def levels() -> dict[str, str]:
    """Four maps in which creatures stand and levers move what has a name there; creatures in blocks, by constants."""
    files = {f"looks/quarry/{stone}.jpg": "x" for stone in STONES} | {f"looks/{stone}.jpg": "y" for stone in STONES}
    for number, name in enumerate(("weir", "kiln", "dock", "lock")):
        world = "{\n" + '"classname" "world"\n' + brush([STONES[(number + n) % 6] for n in range(5)]) + "}\n"
        things = "".join(
            entity(classname="creature", beast=f"BEAST_{CREATURES[(n + number) % 8]}", origin=f"{n} 4 7", gate=f"g{n}")
            + entity(classname="gate", gatename=f"g{n}", origin=f"{n} 9 7")
            for n in range(6)
        )
        files[f"places/{name}.map"] = world + things
    constants = [f"BEAST_{one}" for one in CREATURES] + MOODS + [f"DEPTH_{n}" for n in range(40)]
    lines = "".join(f"#define {one}\t\t{number}\n" for number, one in enumerate(constants))
    files["rules/words.h"] = f"/* words of the game */\n\n#ifndef WORDS_H\n#define WORDS_H\n{lines}#endif\n"
    for number in range(24):
        mood = f"\tmood = {MOODS[number % 2]};\n" if number < 4 else ""
        files[f"rules/beast_{'abc'[number % 3]}_{'stuvwxyz'[number // 3]}"] = (
            f"Beast {{\n\tsort = BEAST_{CREATURES[number % 8]};\n{mood}\tdepth = DEPTH_{number};\n"
            f"\tspeed = {number}.5;\n}};\n\n"
        )
    return files


def test_a_map_of_an_editor_names_what_its_sides_look_like_and_what_is_named_in_it(tmp_path: Path) -> None:
    found = by_word(learned(written(tmp_path / "x", levels()), "x"))
    assert found["texture"] == ("file", "sure")
    assert found["gate"][1] == "sure"
    assert found["beast"][1] == "sure"


def test_what_is_named_in_another_map_is_not_there(tmp_path: Path) -> None:
    files = levels()
    files["places/weir.map"] += entity(classname="creature", beast="BEAST_EEL", gate="g7")
    files["places/dock.map"] += entity(classname="gate", gatename="g7")
    result = learned(written(tmp_path / "x", files), "x")
    missing = {one.text for guess in result.guesses if guess.place.word == "gate" for one in guess.evidence.misfits}
    assert missing == {"g7"}


def test_constants_of_a_header_are_meant_where_a_few_of_them_stand(tmp_path: Path) -> None:
    result = learned(written(tmp_path / "x", levels()), "x")
    found = by_word(result)
    constant = found["depth"][0]
    assert found["mood"] == (constant, "likely")
    assert "speed" not in found
    # The header is read as what it is, and guards it.
    assert {one for kind in result.kinds if kind.name == constant for one in kind.vocabularies[0].names} >= {*MOODS}


def _stones(odd: str) -> dict[str, str]:
    """Levels in a language of their own, which name pictures, or other blocks of the level."""
    names = [f"{stone}{number}" for stone in STONES for number in range(4)]
    files = {f"pics/{name}.xpm.gz": "x" for name in names}
    for number in range(144):
        first, second, third = (names[(5 * number + n) % 12] for n in range(3))
        name = f"{CREATURES[number % 8].lower()}_{STONES[number // 8 % 6]}_{'abc'[number // 48]}"
        files[f"{name}.lev"] = (
            f"# a level of stones\n{name}={{\n  tries={number}\n  looks={first}.xpm,{second}.xpm,\n"
            f"    {third}.xpm\n  back={first}.xpm\n  odd={'rest' if number % 3 else f'{second}.xpm'}\n"
            f"  rest={{\n    <<\n    rest={{1??0 -> A*; -> {odd if number % 5 < 2 else 'B'};}};\n    >>\n  }}\n}}\n"
        )
    return files


@pytest.mark.parametrize("odd", ["B", '{1 -> "B};'], ids=["alike", "in two forms"])
def test_of_a_language_that_nobody_knows_the_keys_are_read(tmp_path: Path, odd: str) -> None:
    found = by_word(learned(written(tmp_path / "x", _stones(odd)), "x"))
    assert found["looks"] == ("file", "sure")
    assert found["back"] == ("file", "sure")


def test_a_key_names_now_a_picture_and_now_another_block(tmp_path: Path) -> None:
    result = learned(written(tmp_path / "x", _stones('{1 -> "B};')), "x")
    (rule,) = (guess for guess in result.guesses if guess.place.word == "odd")
    assert rule.files is not None and rule.endings == (".xpm",)
    assert rule.evidence.texts == 48 and not rule.evidence.misfits


def test_what_words_of_a_program_are_set_to_are_no_names(tmp_path: Path) -> None:
    files = {f"bank/{stone}.txt": "x" for stone in STONES}
    for number in range(12):
        lines = "".join(f"  seen = {stone}\n  raise_it(seen, {number})\n" for stone in STONES)
        files[f"code/{CREATURES[number % 8].lower()}_{number // 8}.scr"] = f"def work(it):\n{lines}  done = {number}\n"
    assert "seen" not in by_word(learned(written(tmp_path / "x", files), "x"))
