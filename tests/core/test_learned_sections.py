"""Learned from sections of keys and from lines of words: lists and tables within values, marks for translation, amounts,
words for none, what is set and what is asked for, files without an ending, and what scripts call their own folder."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from hookset.checks import judge
from hookset.config.layouts.load import load_layout
from hookset.learning import Learned, learned
from hookset.learning.expressions import folder_expressions
from hookset.learning.material import material_of
from hookset.project import Ledger, Stock
from hookset.symbols import analyse
from hookset.trees import FolderTree
from tests.conftest import run_hookset
from tests.core.test_learning import rules, written

LOT = random.Random(17)
CRAFTS = [f"{what} {how}" for what in ("Rope", "Sail", "Hull", "Mast") for how in ("Making", "Mending", "Painting")]
BOATS = ["Barge", "Cutter", "Dinghy", "Ketch", "Lugger", "Punt", "Skiff", "Tender", "Yawl"]
SIGNS = [f"{what}_{how}" for what in ("ebb", "fog", "gale", "ice", "neap", "rain") for how in ("seen", "over", "told")]


def craft(name: str) -> str:
    one, other = LOT.sample([*CRAFTS, "None", "None"], 2)
    return (
        f'[craft_{name.lower().replace(" ", "_")}]\nname = _("?craft:{name}")\nfirst = "{one}"\nthen = "{other}"\n'
        f'about = _("\\\nSo old (and slow\n that nobody knows it.\\\n")\n\n'
    )


def boat(name: str) -> str:
    needs = "".join(f'      "Craft", "{one}", TRUE\n' for one in LOT.sample(CRAFTS, 3))
    tows = ", ".join(f'"{one}"' for one in LOT.sample(BOATS, 3))
    return (
        f'[boat_{name.lower()}]\nname = _("{name}")\ncraft = "{LOT.choice(CRAFTS)}"\ntows = {tows}\nneeds =\n'
        f'    {{ "type", "name", "now"\n{needs}      "Tide", "High", FALSE\n    }}\nlength = {LOT.randrange(40)}\n\n'
    )


def yard() -> str:
    lists = ",\n  ".join(f'"{one}", "{LOT.choice(BOATS)}"' for one in LOT.sample(BOATS, 5))
    return f"[yard]\nboats =\n  {lists}\nwater = deep\n"


@pytest.fixture
def games(tmp_path: Path) -> Learned:
    """Three games with the same files, most of which say the same."""
    files = {}
    for game in ("calm", "rough", "long"):
        files[f"{game}/crafts.rules"] = "".join(map(craft, CRAFTS))
        files[f"{game}/boats.rules"] = "".join(map(boat, BOATS))
        files[f"{game}/yards.rules"] = yard()
    return learned(written(tmp_path / "map", files), "games")


def words(found: Learned) -> dict[str, tuple[str, str]]:
    """What the rules are, by the key or word that they read."""
    return {
        guess.place.word: (guess.targets[0].place.around if guess.targets else "file", guess.evidence.band)
        for guess in found.guesses
    }


def test_names_are_found_behind_marks_in_lists_and_in_tables(games: Learned) -> None:
    found = words(games)
    for key in ("first", "then", "craft", "Craft"):
        assert found[key] == ("craft", "sure"), key
    for key in ("tows", "boats"):
        assert found[key] == ("boat", "sure"), key
    assert "water" not in found
    assert "length" not in found


def test_the_layout_reads_values_over_several_lines(games: Learned, tmp_path: Path) -> None:
    layout = load_layout(games.text.encode(), "games.toml")
    tree = FolderTree(tmp_path / "map")
    analysis = analyse(tree, layout, Stock())
    assert not [one for file in analysis.web.files for one in file.problems]
    told = {(one.name, file.path) for file in analysis.web.files for one in file.references if one.name == "None"}
    assert not told, "a word for none is no name"
    text = tree.read("rough/yards.rules").decode()
    wrong = text.replace('",\n  "', '",\n  "Bargee", "', 1)
    (tmp_path / "map/rough/yards.rules").write_text(wrong, encoding="utf-8")
    found = judge(FolderTree(tmp_path / "map"), layout, Stock(), Ledger()).findings
    assert ("Bargee", 4) in [(one.name, one.spot.line) for one in found]


def test_what_is_set_can_be_asked_for(tmp_path: Path) -> None:
    events = "".join(
        f"[event]\nrequires_sign={LOT.choice(SIGNS)}\nset_sign={one},{LOT.choice(SIGNS)}\nreward={LOT.randrange(9)}\n"
        for one in SIGNS
    )
    found = words(learned(written(tmp_path, {"tides.txt": events}), "tides"))
    assert found["requires_sign"][1] == "sure"
    assert "set_sign" not in found


def test_amounts_stand_behind_names(tmp_path: Path) -> None:
    wares = "".join(f"[ware]\nid={number}\nlabel=ware {number}\n" for number in range(100, 140))
    chests = "".join(
        f"[chest]\nwares={LOT.randrange(100, 140)}:{LOT.randrange(2, 9)},{LOT.randrange(100, 140)}\nlabel=box {number}\n"
        for number in range(40)
    )
    found = learned(written(tmp_path, {"wares.ini": wares, "chests.ini": chests}), "wares")
    assert words(found)["wares"][1] in ("sure", "likely")
    layout = load_layout(found.text.encode(), "wares.toml")
    analysis = analyse(FolderTree(tmp_path), layout, Stock())
    named = {one.name for file in analysis.web.files for one in file.references}
    assert named
    assert all(len(name) == 3 for name in named), "how many there are is no name"


def test_sections_that_are_records_of_one_sort_are_no_tables_of_names(tmp_path: Path) -> None:
    records = "".join(f"[{one}]\nheight = {n}\ncolour = red\nweight = {n}\n" for n, one in enumerate(BOATS))
    found = learned(written(tmp_path, {"boats.ini": records, "more.ini": records}), "boats")
    assert not [guess for guess in found.guesses if guess.place.form == "key" and guess.evidence.band == "sure"]


def test_files_without_an_ending_are_told_by_their_first_word(tmp_path: Path) -> None:
    made = [f"{what}_{n}" for what in ("bollard", "crate", "lamp") for n in range(8)]
    files = {"kinds": "".join(f"Kind {one}\nweight {n}\nend\n" for n, one in enumerate(made))}
    for number in range(30):
        things = "".join(f"kind {LOT.choice(made)}\nx {LOT.randrange(50)}\nend\n" for _ in range(12))
        files[f"maps/quay/level{number}" + (".9" if number == 3 else "")] = f"map {number}\nend\n{things}"
    files["maps/quay/run.py"] = "print('hello')\n"
    found = learned(
        written(tmp_path, {**files, "maps/quay/notes": "Remember: the lamp, the crate, and all the rest.\n" * 9}),
        "quay",
    )
    (guess,) = [one for one in found.guesses if one.place.word == "kind"]
    assert guess.evidence.band == "sure"
    assert guess.targets[0].place.word == "Kind"
    layout = load_layout(found.text.encode(), "quay.toml")
    assert layout.text_rule("maps/quay/level3.9") is not None
    assert layout.text_rule("maps/quay/run.py") is None or layout.text_rule("maps/quay/run.py").format != "lines"  # type: ignore[union-attr]


def test_texts_for_people_have_no_rules(tmp_path: Path) -> None:
    texts = {
        f"tales/part{n}.tale": "\n".join(
            " ".join(
                LOT.choices(
                    ("rope", "bell", "the", "tide", "and", "quay", "rain", "so", "old", "went"), k=LOT.randrange(4, 14)
                )
            )
            for _ in range(40)
        )
        for n in range(6)
    }
    found = learned(written(tmp_path, texts), "tales")
    assert not [guess for guess in found.guesses if guess.evidence.band != "weak"]


SCRIPT = """local here = script_folder()
load(script_folder() .. "/parts/{name}.lua")
show(here .. "/pictures/{name}.png")
show(folder_of("shared") .. "/pictures/frame.png")
say("{name}" .. " is here")
"""


@pytest.mark.parametrize("ending", ["lua", "js"])
def test_what_scripts_call_their_own_folder_is_learned(tmp_path: Path, ending: str) -> None:
    join, local = (" .. ", "local ") if ending == "lua" else (" + ", "const ")
    files = {f"mods/shared/pictures/{name}.png": "x" for name in ("frame", "board", "nail")}
    for unit in ("pier", "bells", "crane", "ferry"):
        code = SCRIPT.format(name=unit).replace(" .. ", join).replace("local ", local).replace(".lua", f".{ending}")
        files[f"mods/{unit}/main.{ending}"] = code.replace(
            '"/pictures/frame', f'"/pictures/{LOT.choice(("frame", "board"))}'
        )
        files[f"mods/{unit}/more.{ending}"] = f'show(folder_of("shared"){join}"/pictures/nail.png")\n'
        files[f"mods/{unit}/parts/{unit}.{ending}"] = f'say("{unit}")\n'
        files[f"mods/{unit}/pictures/{unit}.png"] = "x"
    files["mods/pier/more." + ending] += f'show(folder_of("shared"){join}"/pictures/board.png")\n'
    files["mods/crane/more." + ending] += f'show(folder_of("shared"){join}"/pictures/frame.png")\n'
    tree = written(tmp_path, files)
    (sort,) = [one for one in material_of(tree).sorts if one.format in ("lua", "ecmascript")]
    assert sort.options["known"] == {"script_folder()": "{parent}", "folder_of($1)": "mods/{1}"}
    found = rules(learned(tree, "mods"))
    assert found["call=load"] == ("file", "sure")
    assert found["call=show"] == ("file", "sure")
    assert folder_expressions({}, frozenset()) == {}


def test_what_is_switched_off_need_not_be_there(tmp_path: Path) -> None:
    things = "".join(
        f'  <horn sound="noise/horn_{n}.wav" on="{"no" if n % 40 == 0 else "yes"}" loud="{n % 4}"/>\n'
        for n in range(150)
    )
    files = {f"noise/horn_{n}.wav": "x" for n in range(150) if n % 40}
    found = learned(written(tmp_path, {**files, "horns.xml": f"<horns>\n{things}</horns>\n"}), "horns")
    (guess,) = [one for one in found.guesses if one.place.word == "sound"]
    assert (guess.unless, guess.evidence.band, guess.evidence.misfits) == ({"on": "no"}, "sure", ())
    layout = load_layout(found.text.encode(), "horns.toml")
    missing = analyse(FolderTree(tmp_path), layout, Stock()).resolutions.missing
    assert not [one for one in missing if one.reference.name.startswith("noise/")]
    shown = run_hookset(tmp_path.parent, "layout", "learn", str(tmp_path), "--json")
    assert [one["unless"] for one in shown.data["rules"] if one["unless"]] == [{"on": "no"}]


def test_a_word_that_two_sorts_of_files_have_is_not_defined_by_the_other(tmp_path: Path) -> None:
    files = {f"parts/{one}.inc": f"{one}\n" for one in ("keel", "rib", "plank")}
    for n, one in enumerate(("keel", "rib", "plank")):
        files[f"code/{n}.srv"] = f'take parts::{one};\n\nfn start() {{\n    log("{n}");\n}}\n'
        files[f"code/{n}.cli"] = f'take parts::{one};\n\nfn show() {{\n    draw("{n}");\n}}\n'
    found = learned(written(tmp_path, files), "parts")
    taken = [guess for guess in found.guesses if guess.place.word == "take" and guess.evidence.band != "weak"]
    assert taken
    assert all(guess.files is not None for guess in taken)


def test_sections_are_called_after_the_file_that_most_of_them_are_in(tmp_path: Path) -> None:
    noises = "".join(f"[{one}]\nfile = {one}.wav\nreach = {n}\n\n" for n, one in enumerate(SIGNS))
    files = {"settings.ini": "[map]\nname = yard\n", "noises.ini": noises}
    files["calls.txt"] = "".join(f"ring {LOT.choice(SIGNS)} {n}\n" for n in range(40))
    found = learned(written(tmp_path / "map", files), "yard")
    assert [kind.name for kind in found.kinds] == ["noise"]


LANGUAGES = [f"{one}{two}" for one in "abdefghijklmnopst" for two in "aeiou"]


def test_keys_for_one_language_are_no_names(tmp_path: Path) -> None:
    """As desktop entries have them: each key again and again, with the language behind it in brackets."""
    files = {}
    for boat in BOATS:
        names = "".join(f"Name[{language}]={boat} {number}\n" for number, language in enumerate(LANGUAGES))
        files[f"boats/{boat.lower()}.desktop"] = f"[Boat]\nName={boat}\n{names}Model={boat.lower()}.hull\n"
        files[f"boats/{boat.lower()}.hull"] = "plank\n" * 3
    found = learned(written(tmp_path, files), "quay")
    assert rules(found)["key=Model"] == ("file", "sure")


def test_a_list_of_numbers_among_files_of_other_keys_is_of_its_own_sort(tmp_path: Path) -> None:
    files = {
        f"boats/{boat.lower()}.conf": f"length={n}\nwidth=2\nauthor=Somebody {n}\n" for n, boat in enumerate(BOATS)
    }
    files |= {f"boats/{boat.lower()}.hull": "plank\n" * 3 for boat in BOATS}
    numbers = "".join(f"{10 + n}=boats/{BOATS[n % len(BOATS)].lower()}.hull\n" for n in range(20))
    told = rules(learned(written(tmp_path, {**files, "lists/models.conf": numbers}), "quay"))
    assert told["section= key=*"] == ("file", "sure")
