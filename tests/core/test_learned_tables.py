"""What is learned of tables by names: in scripts, whose keys are wares; in files of records, in several folders; names among
texts that people read."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from hookset.learning import Learned, learned
from hookset.trees import FolderTree
from tests.conftest import run_hookset
from tests.core.test_learned_scripts import told
from tests.core.test_learning import rules, written

WARES = ["log", "plank", "slate", "rope", "tar", "nail", "oakum", "cask", "salt_cod", "lamp_oil", "iron_bar", "pitch"]
SHEDS = ["saw_pit", "cooperage", "rope_walk", "smithy", "chandlery", "smoke_house", "boat_yard", "tar_kiln"]


def ware(name: str) -> str:
    return f'dirname = here.folder(__file__)\n\nquay.things():new_ware_type {{\n  name = "{name}",\n  title = _("The {name}"),\n  icon = dirname .. "menu.obj",\n}}\n'


def shed(number: int, name: str) -> str:
    needs = [WARES[(number * 3 + step) % len(WARES)] for step in range(3)]
    cost = ", ".join(f"{one} = {step + 1}" for step, one in enumerate(needs))
    orders = ", ".join(f'"{order}"' for order in ("sleep=20s", f"use={needs[0]}", f"make={needs[1]}", "turn=2"))
    return (
        f'quay.things():new_shed_type {{\n  name = "{name}",\n  title = _("A {name}"),\n  size = "small",\n  cost = {{ {cost} }},\n'
        f"  orders = {{ {orders} }},\n}}\n"
    )


def town() -> dict[str, str]:
    files = {f"wares/{one}/init.lua": ware(one) for one in WARES}
    files |= {f"wares/{one}/menu.obj": one for one in WARES}
    files |= {f"sheds/{one}/init.lua": shed(number, one) for number, one in enumerate(SHEDS)}
    asked = "".join(f'  town:build("{one}", {number})\n' for number, one in enumerate(SHEDS))
    return {**files, "start.lua": f"function start(town)\n{asked}end\n"}


@pytest.fixture
def quay(tmp_path: Path) -> FolderTree:
    return written(tmp_path / "quay", town())


def test_keys_and_orders_in_scripts_are_names(quay: FolderTree) -> None:
    found = learned(quay, "quay")
    by_place = rules(found)
    assert by_place["call=*:new_shed_type field=cost keys=True"] == ("ware", "sure")
    assert by_place["call=town:build"] == ("shed", "sure")
    orders = {key: value for key, value in by_place.items() if "orders" in key}
    assert {key.partition("only=")[2][:5]: kind for key, (kind, _) in orders.items()} == {
        "^use=": "ware",
        "^make": "ware",
    }
    # What all records say is no name of anything.
    assert not [key for key in by_place if "keys=True" in key and "cost" not in key]
    assert told(quay, found) == set()


def test_the_folder_of_a_script_is_found_though_hundreds_of_files_are_called_alike(tmp_path: Path) -> None:
    files = {**town(), **{f"aaa/{number}/menu.obj": "" for number in range(200)}}
    tree = written(tmp_path / "quay", files)
    found = learned(tree, "quay")
    assert "here.folder(__file__)" in found.text
    assert rules(found)["call=*:new_ware_type field=icon"] == ("file", "sure")
    (tree.root / "wares/tar/menu.obj").unlink()
    assert told(FolderTree(tree.root), found) == {("missing-file", "wares/tar/init.lua", "wares/tar/menu.obj")}


@pytest.mark.parametrize(("old", "new"), [("log = 1", "lgo = 1"), ('"make=cask"', '"make=csak"')])
def test_a_key_or_an_order_about_nothing_is_told(quay: FolderTree, old: str, new: str) -> None:
    found = learned(quay, "quay")
    path = next(path for path in quay.paths() if path.endswith(".lua") and old in quay.read(path).decode())
    (quay.root / path).write_text(quay.read(path).decode().replace(old, new))
    assert told(FolderTree(quay.root), found) == {
        ("missing-name", path, new.partition(" ")[0].strip('"').removeprefix("make="))
    }


def games() -> dict[str, str]:
    """Two games in one map, with a file of records of each sort, and levels with labels of their own."""
    files: dict[str, str] = {}
    for game in ("base", "more"):
        ware = {
            one: {"id": one, "weight": n, "form": f"{one}.PIE" if n % 2 else f"{one}.pie"}
            for n, one in enumerate(WARES)
        }
        sheds = {one: {"id": one, "wares": [WARES[n], WARES[n + 1]], "wide": n} for n, one in enumerate(SHEDS)}
        files[f"{game}/stats/wares.json"] = json.dumps(ware, indent=1)
        files[f"{game}/stats/sheds.json"] = json.dumps(sheds, indent=1)
        files |= {f"{game}/forms/{one}.pie": "form" for one in WARES}
    for level in range(6):
        marks = {f"mark_{n}": {"label": f"{SHEDS[n]}_{level // 2 if n else 'gate'}", "at": [n, 4]} for n in range(5)}
        there = {f"thing_{n}": {"name": SHEDS[(n + level) % len(SHEDS)], "at": [n, level]} for n in range(6)}
        files[f"base/levels/{level}/labels.json"] = json.dumps(marks, indent=1)
        files[f"base/levels/{level}/things.json"] = json.dumps(there, indent=1)
        files[f"base/levels/{level}/run.js"] = "".join(f'go("{one["label"]}");\n' for one in marks.values())
    return files


def test_records_of_two_games_are_one_sort_each(tmp_path: Path) -> None:
    tree = written(tmp_path / "games", games())
    found = learned(tree, "games")
    kinds = {guess.place.sort.globs[0].rpartition("/")[2]: set[str]() for guess in found.guesses}
    for guess, kind in found.kind_of.items():
        kinds[guess.place.sort.globs[0].rpartition("/")[2]].add(kind)
    assert {"things.json", "sheds.json", "wares.json", "*.js"} <= kinds.keys()
    by_place = rules(found)
    assert by_place["at=$.*.wares[*]"][0] == "ware"
    assert by_place["at=$.*.name"] == ("shed", "sure")
    assert by_place["call=go"][1] == "sure"
    # Half of the models are written in another letter case than their files: that is how this game reads them.
    assert by_place["at=$.*.form"] == ("file", "sure")
    assert told(tree, found) == set()


@pytest.mark.parametrize(("many", "otherwise"), [(12, 1), (40, 3)])
def test_a_few_files_in_another_letter_case_are_mistakes(tmp_path: Path, many: int, otherwise: int) -> None:
    names = [f"{WARES[n % len(WARES)]}_{n}" for n in range(many)]
    files = {f"forms/{one}.obj": "" for one in names}
    rows = {one: {"form": f"{one.title() if n < otherwise else one}.obj", "wide": 1} for n, one in enumerate(names)}
    tree = written(tmp_path / "few", {**files, "wares.json": json.dumps(rows)})
    expected = {("wrong-case", "wares.json", f"forms/{one.title()}.obj") for one in names[:otherwise]}
    assert told(tree, learned(tree, "few")) == expected


def menu(tmp_path: Path) -> Learned:
    sheds = {
        f"sheds/{one}.yaml": f"id: SHED.{one}\ntitle: _ The {one}\nlooks:\n  as_{one}:\n  as_{one}_2:\n"
        for one in SHEDS
    }
    rows = "".join(f"- - _ Of {one}\n  - SHED.{one}\n" for one in SHEDS)
    looks = {f"as_{one}{more}": {"pictures": n} for n, one in enumerate(SHEDS) for more in ("", "_2")}
    files = {**sheds, "menu/all.yaml": f"tabs:\n{rows}", "looks.json": json.dumps(looks)}
    return learned(written(tmp_path / "menu", files), "menu")


def test_names_among_texts_are_found_by_what_they_begin_with(tmp_path: Path) -> None:
    found = [guess for guess in menu(tmp_path).guesses if guess.place.asked.get("only") == r"^SHED\.\S+$"]
    assert [(guess.evidence.hits, guess.evidence.texts) for guess in found] == [(len(SHEDS), len(SHEDS))]


def test_keys_that_are_given_nothing_are_defined_elsewhere(tmp_path: Path) -> None:
    assert rules(menu(tmp_path))["keys=$.looks"] == ("look", "sure")


def boats(tmp_path: Path) -> Learned:
    """Boats and crews in a folder each, whose files are called alike; paths count from the folder of the file."""
    files: dict[str, str] = {}
    for number, one in enumerate(SHEDS):
        other = SHEDS[(number + 3) % len(SHEDS)]
        files[f"boats/{one}/config.xml"] = (
            f'<parts><title>The {one}</title><hull wide="{number}"/><look file="look.obj"/></parts>'
        )
        files[f"crews/{one}/crew.xml"] = (
            f'<parts><sign file="sign.obj"/><hand boat="{one}"/><hand boat="{other}"/></parts>'
        )
        files |= {f"boats/{one}/look.obj": "", f"crews/{one}/sign.obj": "", f"themes/{one}/{one}_weed.obj": ""}
        files[f"themes/{one}/theme.cfg"] = f"sky = {number}, 2, 3\nnoise = {one}.snd\nthing = {one}_weed, {number}, 4\n"
        files[f"maps/{one}/map.cfg"] = f"{other}\n64\n"
        files[f"noises/{one}.snd"] = ""
    files["menu.xml"] = '<parts><page file="boats/smithy/look.obj"/><page file="crews/smithy/sign.obj"/></parts>'
    return learned(written(tmp_path / "boats", files), "boats")


def test_files_that_are_called_alike_in_many_folders_are_of_one_sort(tmp_path: Path) -> None:
    found = boats(tmp_path)
    by_place = {
        (
            guess.place.sort.globs[0].rpartition("/")[2],
            str(guess.place.asked.get("at", guess.place.asked.get("key", ""))),
        ): guess
        for guess in found.guesses
    }
    files = {key: guess.files for key, guess in by_place.items() if guess.files is not None}
    assert {key[1] for key, files in files.items() if files.beside} >= {"//look/@file", "//sign/@file", "thing"}
    assert not [key for key, files in files.items() if key[1] == "//page/@file" and files.beside]
    # Files of keys and values are read as such though they have no sections, and others of the ending are lists.
    assert files["*.cfg", "noise"].under == ("noises",)
    assert told(found.material.tree, found) == set()


def test_what_folders_are_called_is_a_name_where_nothing_else_says_so(tmp_path: Path) -> None:
    found = boats(tmp_path)
    (hand,) = (guess for guess in found.guesses if guess.place.asked.get("at") == "//hand/@boat")
    assert [dict(target.place.asked) for target in hand.targets] == [{"name": "{thing}"}]
    assert hand.targets[0].place.sort.globs == ("**/boats/{thing}/config.xml",)
    (tmp_path / "boats/crews/smithy/crew.xml").write_text('<parts><sign file="sign.obj"/><hand boat="smithi"/></parts>')
    tree = FolderTree(tmp_path / "boats")
    assert told(tree, found) == {("missing-name", "crews/smithy/crew.xml", "smithi")}


def test_a_file_that_one_folder_lacks_is_told(tmp_path: Path) -> None:
    found = boats(tmp_path)
    (tmp_path / "boats/crews/smithy/sign.obj").unlink()
    tree = FolderTree(tmp_path / "boats")
    expected = {("missing-file", "crews/smithy/crew.xml"), ("missing-file", "menu.xml")}
    assert {(code, path) for code, path, _ in told(tree, found)} == expected
    # It is a misfit of the rule where it stands, and of no other folder.
    again = learned(tree, "boats")
    (sign,) = (guess for guess in again.guesses if guess.place.asked.get("at") == "//sign/@file")
    assert [one.path for one in sign.evidence.misfits] == ["crews/smithy/crew.xml"]


def test_what_sure_rules_call_broken_is_shown_first(tmp_path: Path) -> None:
    boats(tmp_path)
    root = tmp_path / "boats"
    pages = "".join(f'<page file="boats/{one}/look.obj"/>' for one in (*SHEDS[:4], "punt"))
    (root / "a_menu.xml").write_text(f"<parts>{pages}</parts>")
    (root / "crews/smithy/crew.xml").write_text('<parts><sign file="sign.obj"/><hand boat="smithi"/></parts>')
    shown = run_hookset(tmp_path, "layout", "learn", "boats").out
    lines = [line.split() for line in shown.partition("misfits")[2].splitlines()]
    told = [(line[0], line[1].partition(":")[0]) for line in lines if line and line[0] in ("sure", "likely")]
    assert told == [("sure", "crews/smithy/crew.xml"), ("likely", "a_menu.xml")]
