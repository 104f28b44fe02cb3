"""Learned from blocks without brackets: what lines that stand further in say of the line above them."""

from __future__ import annotations

import json
import random
from pathlib import Path

import pytest

from hookset.checks import judge
from hookset.config.layouts.load import load_layout
from hookset.learning import learned
from hookset.learning.material import material_of
from hookset.project import Ledger, Stock
from hookset.trees import FolderTree
from tests.core.test_learning import rules, written

LOT = random.Random(23)
GOODS = [
    f"{how} {what}" for how in ("Dried", "Salted", "Smoked", "Fresh") for what in ("Cod", "Eel", "Herring", "Whelk")
]
BOATS = ["Barge", "Cutter", "Dinghy", "Ketch", "Lugger", "Punt", "Skiff", "Tender", "Yawl"]
VARIANTS = [*BOATS, *(f"{boat} ({how})" for boat in BOATS for how in ("old", "fast"))]
PORTS = [
    f"{what} {where}" for what in ("North", "Old", "Lower", "Far") for where in ("Quay", "Ferry", "Stairs", "Hard")
]


def boat(name: str) -> str:
    base, _, how = name.partition(" (")
    called = f'"{base}" "{name}"' if how else f'"{base}"'
    cargo = "".join(f'\t\t"{one}" {LOT.randrange(1, 9)}\n' for one in LOT.sample(GOODS, 3))
    return f'boat {called}\n\tcost {LOT.randrange(100, 900)}\n\tcargo\n{cargo}\tsays `a "good" boat`\n\n'


def port(name: str) -> str:
    boats = "".join(f'\t\t"{one}"\n' for one in LOT.sample(VARIANTS, 3))
    ways = "".join(f'\tway "{one}" {LOT.randrange(9)}\n' for one in LOT.sample(PORTS, 2))
    return f'port "{name}"\n{ways}\tyard\n{boats}\tdepth {LOT.randrange(90)}\n\n'


@pytest.fixture
def harbour(tmp_path: Path) -> FolderTree:
    """Goods, boats with their variants, and ports that list boats and name each other; one good is misspelt."""
    files = {
        "goods.txt": "".join(f'good "{one}"\n\tweight {LOT.randrange(9)}\n\tsort fish\n' for one in GOODS),
        "boats.txt": "# what floats\n" + "".join(map(boat, VARIANTS)),
        "ports.txt": "".join(map(port, PORTS)),
    }
    files["boats.txt"] = files["boats.txt"].replace('\t"Dried Cod"', '\t"Dryed Cod"', 1)
    return written(tmp_path / "map", files)


def test_names_of_blocks_that_go_on_elsewhere_are_names(tmp_path: Path) -> None:
    """Most are there once, a few are added to by one file after the other."""
    calls = [f"{how} {what}" for how in ("Low", "High", "Far", "Near", "Wild", "Calm") for what in (*BOATS, "Buoy")]
    added = [LOT.choice(calls[:8]) for _ in range(40)]
    shouts = "".join(f'shout "{one}"\n\tword\n\t\t"ahoy {n}"\n' for n, one in enumerate([*calls, *added]))
    hails = "".join(f'port "{one}"\n\thail "{LOT.choice(calls)}"\n\tdepth {LOT.randrange(90)}\n' for one in PORTS)
    found = rules(learned(written(tmp_path / "map", {"shouts.txt": shouts, "ports.txt": hails}), "map"))
    assert found["at=port/hail"] == ("shout", "sure")


def test_names_are_found_by_how_far_in_they_stand(harbour: FolderTree) -> None:
    found = rules(learned(harbour, "harbour"))
    assert found["at=boat/cargo/@0"] == ("good", "sure")
    assert found["at=port/yard/@0"] == ("boat", "sure")
    assert found["at=port/way"] == ("port", "sure")
    assert found.keys() <= {"at=boat/cargo/@0", "at=port/yard/@0", "at=port/way", "at=boat/@1"}


def test_the_layout_that_is_learned_finds_what_is_wrong(harbour: FolderTree) -> None:
    layout = load_layout(learned(harbour, "harbour").text.encode(), "harbour.toml")
    told = judge(harbour, layout, Stock(), Ledger()).findings
    assert [(one.code, one.name) for one in told if one.code == "missing-name"] == [("missing-name", "Dryed Cod")]


def test_a_word_of_the_games_own_is_no_name(tmp_path: Path) -> None:
    ports = "".join(f'port "{one}"\n\tdepth {LOT.randrange(90)}\n' for one in PORTS)
    boats = "".join(
        f'boat "{one}"\n\tgoes "{LOT.choice(PORTS)}"\n\tgoes home\n\tlength {n}\n' for n, one in enumerate(VARIANTS)
    )
    found = learned(written(tmp_path, {"ports.txt": ports, "boats.txt": boats}), "boats")
    assert rules(found)["at=boat/goes"] == ("port", "sure")
    told = judge(FolderTree(tmp_path), load_layout(found.text.encode(), "x.toml"), Stock(), Ledger()).findings
    assert not [one for one in told if one.name == "home"]


def test_two_pictures_may_end_in_another_way(tmp_path: Path) -> None:
    files = {f"pictures/view_{n}.{'jpg' if n > 97 else 'png'}": "" for n in range(100)}
    boats = "".join(
        f'boat "{one}"\n\tshown "view_{n % 100}"\n\tlength {n}\n\tcost 5\n\tcrew 2\n'
        for n, one in enumerate(VARIANTS * 9)
    )
    found = learned(written(tmp_path, {**files, "boats.txt": boats}), "boats")
    (guess,) = (one for one in found.guesses if one.place.asked["at"] == "boat/shown")
    assert guess.files is not None and set(guess.files.suffix) == {".png", ".jpg"}
    assert guess.evidence.hits == guess.evidence.texts


def test_keys_with_one_text_each_are_no_script_where_they_stand_in_blocks(tmp_path: Path) -> None:
    ports = "".join(f'port "{one}"\n\tshown "{one.lower()} view"\n' for one in PORTS)
    boats = "".join(f'boat "{one}"\n\tgoes "{LOT.choice(PORTS)}"\n\thue "red"\n' for one in VARIANTS)
    found = learned(written(tmp_path, {"ports.txt": ports, "boats.txt": boats}), "boats")
    assert rules(found)["at=boat/goes"] == ("port", "sure")


def test_lists_in_brackets_are_read(tmp_path: Path) -> None:
    tiles = " ".join(str(LOT.randrange(40)) for _ in range(200))
    files = {
        f"levels/{number}.quay": f'; a level\n(quay (version 2)\n  (title (_ "The old one"))\n  (tiles {tiles})\n'
        + "".join(
            f'  (bell (name "bell-{number}-{one}")\n    (picture "bells/{LOT.choice("abcd")}.png"))\n'
            for one in range(5)
        )
        + "".join(f'  (rope (pulls "bell-{number}-{LOT.randrange(5)}"))\n' for _ in range(6))
        + ")\n"
        for number in range(8)
    }
    pictures = {f"bells/{one}.png": "" for one in "abcd"}
    found = rules(learned(written(tmp_path, {**files, **pictures}), "quay"))
    assert found["at=quay/rope/pulls"] == ("bell", "sure")
    assert found["at=quay/bell/picture"] == ("file", "sure")


@pytest.mark.parametrize(
    "text",
    [
        "".join(f"{one}:\n    height: {n}\n    wide\n" for n, one in enumerate(BOATS)),
        "".join(f"{one}\n" + "    " * LOT.randrange(4) + f"height {n}\n" for n, one in enumerate(GOODS * 3)),
        "".join(f"{one} is (\n    {n},\n" for n, one in enumerate(BOATS * 3)),
        "".join(f"{n} {one}\n    height {n}\n" for n, one in enumerate(BOATS * 3)),
        "".join(f"{one.lower()} {n}\n    height {n}\n" for n, one in enumerate(BOATS)),
        "".join(f"{one} 4 1\n" for one in BOATS * 4) + "    and more\n",
    ],
)
def test_other_lines_make_no_blocks(text: str, tmp_path: Path) -> None:
    sorts = material_of(written(tmp_path, {"one.txt": text})).sorts
    assert not any(sort.options.get("indented") for sort in sorts)


STORES = [f"{what}_{how}" for what in ("rope", "tar", "net", "oar", "sail", "buoy") for how in ("old", "new", "spare")]


@pytest.fixture
def stores(tmp_path: Path) -> FolderTree:
    """Stores in blocks, which lists in round brackets name, and others by themselves; beside each model a picture."""
    items = "".join(
        f'store {name}\n{{\n\tname\t"_{name.replace("_", " ").title()}"\n\tmodel\t"m_{name}"\n\tcosts\t{LOT.randrange(9)}\n}}\n'
        for name in STORES
    )
    sheds = "".join(
        f"shed shed_{number}\n{{\n"
        + "".join(f"\tstore\t( {name} {LOT.randrange(9)} )\n" for name in LOT.sample(STORES, 4))
        + f'\tname "_{name.replace("_", " ").title()}"\n}}\n'
        for number, name in enumerate(STORES[:9])
    )
    listed = "known first\n{\n" + "".join(f"\t{name}\n" for name in STORES[:14]) + "\tropes_new\n}\n"
    files = {"defs/items.def": items, "defs/sheds.def": sheds, "defs/known.def": listed}
    files |= {f"models/m_{name}.{ending}": "solid" for name in STORES for ending in ("jpg", "msh")}
    files |= {f"models/extra/m_{name}.msh": "solid" for name in STORES[:3]}
    return written(tmp_path / "map", files)


def test_lists_in_round_brackets_name_things(stores: FolderTree) -> None:
    found = rules(learned(stores, "stores"))
    assert found["at=shed/store"] == ("store", "sure")


def test_what_stands_in_a_block_by_itself_may_be_names(stores: FolderTree) -> None:
    result = learned(stores, "stores")
    assert rules(result)["at=known/@0"] == ("store", "sure")
    told = judge(stores, load_layout(result.text.encode(), "stores.toml"), Stock(), Ledger()).findings
    assert [one.name for one in told if one.code == "missing-name"] == ["ropes_new"]


def test_what_a_block_with_a_name_calls_itself_as_well_is_for_people(stores: FolderTree) -> None:
    assert "at=shed/name" not in rules(learned(stores, "stores"))


def test_of_files_beside_one_another_those_are_meant_of_which_there_are_most(stores: FolderTree) -> None:
    result = learned(stores, "stores")
    assert rules(result)["at=store/model"] == ("file", "sure")
    assert 'suffix = ".msh"' in result.text


def test_a_key_at_any_depth_is_judged_by_all_that_stands_there(tmp_path: Path) -> None:
    boats = "".join(f"boat {name}\n{{\n  wide 2\n}}\n" for name in STORES)
    shown = "".join(
        f"{word} w{number} {{\n  {{\n    shows other_{number}\n  }}\n  shows {LOT.choice(STORES)}\n}}\n"
        for number, word in enumerate(("panel", "box", "window") * 12)
    )
    found = rules(learned(written(tmp_path / "map", {"boats.def": boats, "shown.gui": shown}), "x"))
    assert found.get("at=**/shows", ("", "weak"))[1] == "weak"
    assert {found[f"at={word}/shows"] for word in ("panel", "box", "window")} <= {("boat", "sure"), ("boat", "likely")}


def test_every_name_of_a_block_is_one_rule_where_all_mean_the_same(tmp_path: Path) -> None:
    marks = [f"marks/mark{number:02}.ppm" for number in range(30)]
    looks = "".join(
        f"(look (frames {' '.join(json.dumps(one) for one in LOT.sample(marks, LOT.choice((1, 2, 4, 9))))}"
        f"{LOT.choice(('', ' (slow 2)'))}))\n"
        for _ in range(60)
    ).replace('"marks/', '"marks/no-', 1)
    tree = written(tmp_path, {"looks.scene": f"(looks\n{looks})\n", **dict.fromkeys(marks, "P3")})
    found = {key: one for key, one in rules(learned(tree, "looks")).items() if one[1] != "weak"}
    assert found == {"at=looks/look/frames/@*": ("file", "sure")}
    (guess,) = (one for one in learned(tree, "looks").guesses if one.place.asked["at"].endswith("@*"))
    assert guess.evidence.texts == looks.count(".ppm")
    layout = load_layout(learned(tree, "looks").text.encode(), "looks.toml")
    told = [one for one in judge(tree, layout, Stock(), Ledger()).findings if one.code.startswith("missing")]
    assert [one.name for one in told if "no-" in one.name]
    assert len(told) == 1


def test_how_far_in_lines_stand_means_nothing_where_some_files_have_it_otherwise(tmp_path: Path) -> None:
    """Commands, one a line; most people put some of them further in."""

    def model(number: int, lead: str) -> str:
        skins = "".join(f"skin_load skin_{number}_{n} skins/{number}_{n}.tex\n" for n in range(4))
        parts = "".join(
            f"begin_part\n{lead}skin_use skin_{number}_{n}\n{lead}corner {n} 1 0\n{lead}corner 0 {n} 1\n"
            f"{'  ' if not lead and n % 2 else lead}corner 1 1 {n}\nend_part\n"
            for n in range(4)
        )
        return f"name boat {number}\n{skins}{parts}"

    files = {f"models/m{number}.hull": model(number, "" if number < 3 else " ") for number in range(12)}
    files |= {f"skins/{number}_{n}.tex": "" for number in range(12) for n in range(4)}
    tree = written(tmp_path, files)
    assert {sort.format for sort in material_of(tree).sorts if "models/m4.hull" in sort.documents} == {"lines"}
    assert (
        sum(
            "models/m0.hull" in sort.documents or "models/m4.hull" in sort.documents for sort in material_of(tree).sorts
        )
        == 1
    )
    told = rules(learned(tree, "quay"))
    assert told["field=3 when={'1': 'skin_load'}"] == ("file", "sure")
