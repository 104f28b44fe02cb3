"""Learned from languages that only one game has: lines of a word and its keys, keys behind words, lists, what is put in
the place of a name, and tables of names; among texts for people, which say nothing."""

from __future__ import annotations

import json
import os
import random
import re
import subprocess
import sys
from collections.abc import Mapping
from pathlib import Path

import pytest

from hookset.checks import judge
from hookset.config.layouts.load import load_layout
from hookset.learning import learned
from hookset.learning.families import families_of
from hookset.learning.material import material_of
from hookset.learning.places import places_of
from hookset.learning.vocabulary import vocabularies
from hookset.project import Ledger, Stock
from hookset.trees import FolderTree
from tests.core.test_learning import rules, written

LOT = random.Random(31)
PROGRAMS = [f"{what}{number:02}" for what in ("wade", "haul", "watch") for number in range(1, 9)]
TONGUES = ("E", "D", "F")
WORDS = ("the", "tide", "goes", "out", "and", "you", "can", "see", "how", "many", "wait", "below", "with", "a", "lamp")


def told(lines: int) -> str:
    """A page for people."""
    return "".join(f"{' '.join(LOT.choices(WORDS, k=LOT.randrange(8, 14)))}.\n" for _ in range(lines))


def bay() -> str:
    crabs = "".join(
        f'SetCrab at={LOT.randrange(90)}.5;{LOT.randrange(90)} kind=Shore program="{LOT.choice(PROGRAMS)}.txt"\n'
        for _ in range(6)
    )
    spoken = "".join(f'Title.{tongue} text="{told(1).strip()}"\n' for tongue in TONGUES)
    return (
        f'{spoken}// what lives here\n#Include file="bays/shared.txt"\n{crabs}Rule name="{LOT.choice(PROGRAMS)}.txt"\n'
    )


@pytest.fixture
def bays() -> Mapping[str, str]:
    """Bays in lines of orders, programs, and pages for people in three languages, all of one ending."""
    LOT.seed(31)
    return {
        **{f"bays/bay{number:02}/scene.txt": bay() for number in range(12)},
        "bays/shared.txt": 'Water level=2 colour="grey"\nWater level=3 colour="green"\n',
        **{f"bays/bay{number:02}/page.{one}.txt": told(9) for number in range(12) for one in TONGUES},
        **{f"pages/{one}/{name}.txt": told(14) for one in TONGUES for name in PROGRAMS},
        "programs/page.txt": told(40),
        **{
            f"programs/{name}.txt": f"extern void Crab::{name}()\n{{\n\twait(3);\n\tmove(4);\n}}\n" for name in PROGRAMS
        },
    }


def test_orders_are_read_beside_pages_for_people(bays: Mapping[str, str], tmp_path: Path) -> None:
    tree = written(
        tmp_path, {**bays, "bays/bay07/scene.txt": bays["bays/bay07/scene.txt"] + 'Rule name="wade99.txt"\n'}
    )
    read = {path for sort in material_of(tree).sorts for path in sort.documents}
    assert {f"bays/bay{number:02}/scene.txt" for number in range(12)} <= read
    assert not any("page" in path for path in read)
    found = learned(tree, "bays")
    by = {key.replace("\\", ""): one for key, one in rules(found).items()}
    assert by[r'match=(?<![w.])program=[ t]*"(?P<value>[^"rn]*)"'] == ("file", "sure")
    layout = load_layout(found.text.encode(), "bays.toml")
    findings = judge(tree, layout, Stock(), Ledger()).findings
    assert [(one.code, one.spot.path) for one in findings if "wade99" in one.name] == [
        ("missing-file", "bays/bay07/scene.txt")
    ]


HANDS = [f"HAND_{what}_{number}" for what in ("ROPE", "NET", "OAR") for number in range(8)]
CRANES = [f"CRANE_{what}_{number}" for what in ("TALL", "LOW") for number in range(20)]
EFFORTS = [f"{what}_EFFORT" for what in ("GREAT", "SMALL", "USUAL", "LASTING", "NIGHTLY")]


def hand(name: str) -> str:
    needs = " ".join(f'"{one}"' for one in LOT.sample(HANDS, 2))
    crane = f'\tunlock = Item type = Crane name = "{LOT.choice(CRANES)}"\n'
    has = f'\tif = OwnerHas name = "{LOT.choice(HANDS)}"\n' * 4
    return f'Hand\n\tname = "{name}"\n\tcost = 4 * [[{LOT.choice(EFFORTS)}]]\n\tneeds = [ {needs} ]\n{crane}{has}'


def crane(name: str) -> str:
    has = "".join(f'\tif = OwnerHas name = "{LOT.choice(HANDS)}"\n' for _ in range(3))
    return f'Crane\n\tname = "{name}"\n\tcost = 9 * [[{LOT.choice(EFFORTS)}]]\n{has}'


@pytest.fixture
def yard(tmp_path: Path) -> FolderTree:
    """Hands and cranes in a language of their own, and what they cost, to be put in by name."""
    LOT.seed(31)
    return written(
        tmp_path,
        {
            **{f"hands/crew{at}.hand": "\n".join(map(hand, HANDS[at::4])) for at in range(4)},
            **{f"cranes/quay{at}.crane": "\n".join(map(crane, CRANES[at::3])) for at in range(3)},
            "common/efforts.macro": "".join(
                f"{name}\n'''{LOT.randrange(9)}.5 * (Rule name = \"{name}\")'''\n\n" for name in EFFORTS
            ),
        },
    )


def test_the_word_before_a_key_says_what_it_names(yard: FolderTree) -> None:
    found = learned(yard, "yard")
    kinds = {key.replace("\\", ""): kind for key, (kind, band) in rules(found).items() if band != "weak"}
    (hands,) = {kind for key, kind in kinds.items() if "OwnerHas[ t]+name" in key}
    (cranes,) = {kind for key, kind in kinds.items() if "Crane[ t]+name" in key}
    assert hands != cranes
    assert {kind for key, kind in kinds.items() if "needs" in key} == {hands}
    (efforts,) = {kind for key, kind in kinds.items() if key.startswith("match=[[")}
    assert efforts not in (hands, cranes)
    layout = load_layout(found.text.encode(), "yard.toml")
    assert not [one for one in judge(yard, layout, Stock(), Ledger()).findings if one.code.startswith("missing")]


@pytest.mark.usefixtures("yard")
def test_a_list_in_brackets_is_looked_at_text_by_text(tmp_path: Path) -> None:
    path = tmp_path / "hands/crew2.hand"
    path.write_text(path.read_text().replace("needs = [ ", 'needs = [ "HAND_ROPE_99"\n\t\t', 1))
    tree = FolderTree(tmp_path)
    layout = load_layout(learned(tree, "yard").text.encode(), "yard.toml")
    findings = [one for one in judge(tree, layout, Stock(), Ledger()).findings if one.code.startswith("missing")]
    assert [(one.name, one.spot.path) for one in findings] == [("HAND_ROPE_99", "hands/crew2.hand")]


def messages(yes: str, off: str) -> str:
    """Texts for people by their keys; some are the same in every place."""
    heads = ("stop", "start", "save", "leave", "load")
    asked = "".join(f"{head}.yes={yes}\n{head}.off={off}\n" for head in heads)
    return asked + "".join(f"thing.part{number}.name={' '.join(LOT.choices(WORDS, k=2))}\n" for number in range(80))


def test_a_table_of_names_has_no_rule_for_each_of_them(tmp_path: Path) -> None:
    marks = [f"mark{number:02}" for number in range(40)]
    shown = "".join(f"picture.{one}=pictures/{one}.ppm\n" for one in marks)
    colours = "".join(f"colour.{one}=hue:{LOT.randrange(999)}\n" for one in marks)
    tree = written(
        tmp_path,
        {
            **{f"texts/text_{one}.properties": messages(f"Oui{one}", f"Aus{one}") for one in "abcdefgh"},
            "shown.properties": f"# what is seen\n{shown}{colours}picture.old=pictures/gone.ppm\n",
            **{f"pictures/{one}.ppm": "P3" for one in marks},
        },
    )
    found = rules(learned(tree, "table"))
    assert [(key, one) for key, one in found.items() if one[1] != "weak"] == [
        ("section= key=picture.*", ("file", "sure"))
    ]


def test_what_is_set_by_its_dotted_name_is_one_place_with_what_tables_say(tmp_path: Path) -> None:
    quays = [f"quay_{number:02}" for number in range(60)]
    tree = written(
        tmp_path,
        {
            "quays.lua": "".join(f'quay.add("{one}", {{ depth = {len(one)} }})\n' for one in quays),
            **{f"tides/by{at}.lua": f'tide.quay = "{one}"\n' for at, one in enumerate(quays[:55])},
            "tides/odd.lua": 'tide = { quay = "quay_99", height = 3 }\n',
        },
    )
    (guess,) = (one for one in learned(tree, "tides").guesses if one.place.asked.get("assign") == "tide.quay")
    assert [one.text for one in guess.evidence.misfits] == ["quay_99"]


def test_lists_of_the_same_names_in_several_orders_define_none(tmp_path: Path) -> None:
    parts = ["hull", "mast", "rudder", "sail", "oar", "anchor"]
    orders = "".join(
        f"  by{at} = {{ {', '.join(f'''{chr(34)}{one}{chr(34)}''' for one in LOT.sample(parts, 6))} }},\n"
        for at in range(9)
    )
    tree = written(tmp_path, {"orders.lua": f"part_order = {{\n{orders}}}\n"})
    places = [place for sort in material_of(tree).sorts for place in places_of(sort)]
    listed = [place for place in places if str(place.asked.get("field")).startswith("by") and len(place.counts) > 1]
    assert len(listed) == 9
    assert not {one.place for one in vocabularies(places)} & {*listed}


def test_lists_that_say_each_name_once_are_told_from_those_that_use_them(tmp_path: Path) -> None:
    traits = [f"trait{number:02}" for number in range(30)]
    listed = "".join(f'  <trait name="{one}"/>\n' for one in traits)
    used = "".join(
        f'  <boat id="boat{number}">\n'
        + "".join(f'    <trait name="{one}" value="{number}"/>\n' for one in LOT.sample(traits, 5))
        + "  </boat>\n"
        for number in range(40)
    )
    tree = written(tmp_path, {"boats.xml": f"<data>\n <traits>\n{listed} </traits>\n{used}</data>\n"})
    found = rules(learned(tree, "boats"))
    assert found["at=//boat/trait/@name"] == ("trait", "sure")


def test_what_is_only_likely_makes_no_one_kind_of_two(tmp_path: Path) -> None:
    hands, cranes = ([f"YARD_{what}_{number:02}" for number in range(30)] for what in ("HAND", "CRANE"))
    about = [
        *hands[:20],
        *cranes[:20],
        *(f"YARD_GONE_{number}" for number in range(7)),
        *(f"{one} tide" for one in WORDS),
    ]
    script = [
        *(f'add_hand("{one}")' for one in hands),
        *(f'add_crane("{one}")' for one in cranes),
        *(f'pull("{LOT.choice(hands)}")' for _ in range(60)),
        *(f'lift("{LOT.choice(cranes)}")' for _ in range(60)),
        *(f'note("{one}")' for one in about),
    ]
    found = learned(written(tmp_path, {"yard.lua": "\n".join(script)}), "yard")
    kinds = rules(found)
    assert kinds["call=pull"][0] != kinds["call=lift"][0]
    assert not any(key.startswith("call=note") for key in kinds)


def test_the_same_is_learned_each_time(bays: Mapping[str, str], tmp_path: Path) -> None:
    """What several folders have is taken from one of them: from the same one, whatever order sets have in memory."""
    notes = {f"notes/{one}/note{number}.txt": told(3) for one in "ABCDEFGH" for number in range(6)}
    signs = "".join(f'Sign at={number};2 note="note{number % 6}.txt"\n' for number in range(30))
    written(tmp_path / "bays", {**bays, **notes, "bays/bay99/scene.txt": signs})
    said = []
    for seed in ("1", "2"):
        run = [sys.executable, "-m", "hookset", "layout", "learn", "bays", "--to", f"{seed}.toml"]
        subprocess.run(run, cwd=tmp_path, check=False, capture_output=True, env={**os.environ, "PYTHONHASHSEED": seed})
        said.append((tmp_path / f"{seed}.toml").read_text())
    assert said[0] == said[1]


def test_a_list_of_all_names_is_told_where_few_use_them(tmp_path: Path) -> None:
    """All fifteen storms once, and each used once or twice elsewhere: a choice of fifteen would hold some twice."""
    storms = [f"storm.{what}{number}" for what in ("gale", "squall", "calm") for number in range(5)]
    listed = "".join(f'  <storm id="{one}" force="{len(one)}"/>\n' for one in storms)
    used = "".join(
        f'  <bay id="bay{number:02}"><storm id="{one}" chance="50"/></bay>\n'
        for number, one in enumerate([*storms, *storms[:10]])
    )
    tree = written(tmp_path, {"bays.xml": f"<data>\n <storms>\n{listed} </storms>\n <bays>\n{used} </bays>\n</data>\n"})
    found = rules(learned(tree, "bays"))
    assert found["at=//bay/storm/@id"][0] == "storm"


def test_texts_for_people_are_read_where_they_stand_in_a_table(tmp_path: Path) -> None:
    keys = [f"text.{what}.{number}" for what in ("sign", "bell", "quay") for number in range(12)]
    tree = written(
        tmp_path,
        {
            **{f"texts/{one}.tab": "".join(f"{key}\t{told(1)}" for key in keys) for one in ("de", "en", "fr")},
            "signs.list": "".join(f"sign s{number} {LOT.choice(keys)}\n" for number in range(60))
            + "sign s99 text.sign.99\n",
        },
    )
    found = learned(tree, "signs")
    layout = load_layout(found.text.encode(), "signs.toml")
    missing = [one.name for one in judge(tree, layout, Stock(), Ledger()).findings if one.code.startswith("missing")]
    assert missing == ["text.sign.99"]


def test_values_without_quotes_are_read_as_the_layout_reads_them(tmp_path: Path) -> None:
    LOT.seed(31)
    kinds = [f"crab_{number:02}" for number in range(20)]
    tree = written(
        tmp_path,
        {
            "kinds.orders": "".join(f'DefineCrab name={one} legs=8 says="{one} waits"\n' for one in kinds),
            **{
                f"bays/bay{at}.orders": "".join(
                    f"SetCrab at={at}.5;{LOT.randrange(9)} kind={LOT.choice(kinds)} awake=1\n" for _ in range(12)
                )
                for at in range(6)
            },
            "bays/bay9.orders": "SetCrab at=1;2 kind=crab_99 awake=1\n",
        },
    )
    layout = load_layout(learned(tree, "bays").text.encode(), "bays.toml")
    missing = [one for one in judge(tree, layout, Stock(), Ledger()).findings if one.code.startswith("missing")]
    assert [(one.name, one.spot.path) for one in missing] == [("crab_99", "bays/bay9.orders")]


def test_files_are_told_by_what_several_folders_call_alike() -> None:
    bays = [f"bays/bay{number}/{name}" for number in range(4) for name in ("scene.txt", "page.de.txt", "page.fr.txt")]
    meshes = [f"shapes/{one}/lod{level}.txt" for one in ("oar", "keel", "mast") for level in range(2)]
    pages = [f"help/{tongue}/{page:02}.txt" for tongue in ("de", "en", "fr") for page in range(20)]
    found = families_of([*bays, *meshes, *pages, "alone.txt"], mixed=True)
    assert found == {
        "scene.txt": bays[::3],
        "page.txt": [*bays[1::3], *bays[2::3]],
        "lod0.txt": [*meshes[::2], *meshes[1::2]],
        "help/": pages,
        "": ["alone.txt"],
    }


def brackets(tmp_path: Path) -> FolderTree:
    """Rows of keys in brackets, each with its value behind it: sounds, and courses in folders that play them."""
    bells = [f"bell_{one}" for one in ("fog", "noon", "gale", "ebb", "dusk", "dawn")]
    sounds = "".join(f"*[name] {one} [file] {one}.wav [vol] 0.{n}\n" for n, one in enumerate(bells))
    remarks = "# The first of these is heard when the fog comes down, and nobody sees the way.\n" * 9
    files = {"sounds/sounds.lst": f"{remarks}{sounds}"} | {f"sounds/{one}.wav": "" for one in bells}
    listed = ""
    for n in range(18):
        files[f"courses/run_{n}/course.dim"] = (
            f"*[width]{n}0[length] 100\n[sound]{bells[n % 6]} [desc] It is the {n}th of all the runs, and a long one\n"
            f"[1] {bells[(n + 1) % 6]} [2] {bells[(n + 2) % 6]}\n"
        )
        listed += f"*[title] Run {n} [dir] run_{n}\n"
    files["courses/run_4/course.dim"] = files["courses/run_4/course.dim"].replace("[sound]bell_dusk", "[sound]bell_dsk")
    return written(tmp_path, {**files, "courses/courses.lst": listed})


def test_keys_in_brackets_have_their_values_behind_them(tmp_path: Path) -> None:
    tree = brackets(tmp_path)
    result = learned(tree, "quay")
    found = {
        re.sub(r"\\|\(\?P.*", "", str(one.place.asked["match"])): (one.evidence.band, one.evidence.hits)
        for one in result.guesses
    }
    assert found == {
        "[file][ t]*": ("sure", 6),
        "[sound][ t]*": ("sure", 17),
        "[d+][ t]*": ("sure", 36),
        "[dir][ t]*": ("sure", 18),
    }
    told = judge(tree, load_layout(result.text.encode(), "quay.toml"), Stock(), Ledger()).findings
    assert [(one.code, one.name) for one in told if one.code == "missing-name"] == [("missing-name", "bell_dsk")]


def test_what_is_called_a_folder_is_one_though_each_is_named_once(tmp_path: Path) -> None:
    files = {f"boats/b{n}/hull.json": f'{{"length": {n}}}' for n in range(8)}
    for key, found in (("dir", True), ("hullDir", True), ("id", False), ("profile", False)):
        rows = json.dumps([{"title": f"Boat {n}", key: f"b{n}"} for n in range(8)])
        place = tmp_path / key
        told = learned(written(place, {**files, "list.json": rows}), "quay").guesses
        assert any(key == one.place.word for one in told) is found, key


def test_rows_of_blanks_keep_nobody_busy(tmp_path: Path) -> None:
    """Each value was looked for from every blank of a line on."""
    rows = "".join(f"*[name] bell_{n} [file]{' ' * 3_000}]\n" for n in range(300))
    learned(written(tmp_path, {"a.lst": rows}), "quay")
