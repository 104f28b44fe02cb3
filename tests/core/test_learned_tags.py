"""Learned from blocks between tags; and from files of which one is damaged."""

from __future__ import annotations

import json
import random
import tomllib
from pathlib import Path

import pytest

from hookset.checks import judge
from hookset.config.layouts.load import load_layout
from hookset.learning import learned
from hookset.learning.dialects import dialects_of
from hookset.learning.material import material_of
from hookset.project import Ledger, Stock
from hookset.trees import FolderTree
from tests.conftest import run_hookset
from tests.core.test_learning import rules, written

LOT = random.Random(48)
BEASTS = [f"{what}_{how}" for what in ("gull", "heron", "tern", "eel", "seal") for how in ("young", "old", "wild")]
CALLS = [f"call_{name}" for name in BEASTS[::2]]


def beast(name: str) -> str:
    return f"""# a beast of the harbour
[beast]
    id={name}
    name= _ "{name.title()}"
    grows_into={LOT.choice(BEASTS)}
    [bite]
        sound={LOT.choice(CALLS)}.ogg
    [/bite]
[/beast]
"""


def scene(number: int) -> str:
    events = "".join(
        f"""    [event]
        [filter]
            type={",".join(LOT.sample(BEASTS, 2))}
        [/filter]
        {{RING {LOT.choice(CALLS)}.ogg}}
        [say]
            speaker={LOT.choice(BEASTS)}
            words= _ "It is a long way to the ""deep"",
and the tide is out."
        [/say]
    [/event]
"""
        for _ in range(4)
    )
    return f"[scene]\n    id=scene_{number}\n    next={'scene_0' if number else 'scene_5'}\n{events}[/scene]\n"


@pytest.fixture
def tide(tmp_path: Path) -> FolderTree:
    """Beasts and scenes; one scene does not end its event, and one beast is misspelt."""
    files = {f"beasts/{name}.cfg": beast(name) for name in BEASTS}
    files |= {f"scenes/scene_{number}.cfg": scene(number) for number in range(12)}
    files["beasts/gull_old.cfg"] = files["beasts/gull_old.cfg"].replace("grows_into=", "grows_into=x")
    files["scenes/torn.cfg"] = scene(12).replace("    [/event]\n", "", 1)
    files |= {f"sounds/{name}.ogg": "OggS" for name in CALLS}
    return written(tmp_path / "map", files)


def test_names_in_tags_are_found(tide: FolderTree) -> None:
    result = learned(tide, "tide")
    found = rules(result)
    for at, kind in {
        "beast/grows_into": "beast",
        "beast/bite/sound": "file",
        "scene/event/RING": "file",
        "scene/event/say/speaker": "beast",
    }.items():
        assert found[f"at={at}"] == (kind, "sure")
    assert any(key.startswith("at=scene/event/filter/type") for key in found)
    assert 'files = "**/*.cfg"' in result.text


def test_a_block_that_is_not_ended_is_told(tide: FolderTree) -> None:
    layout = load_layout(learned(tide, "tide").text.encode(), "tide.toml")
    told = {(one.code, one.spot.path) for one in judge(tide, layout, Stock(), Ledger()).findings}
    assert ("unreadable", "scenes/torn.cfg") in told
    assert ("missing-name", "beasts/gull_old.cfg") in told


def test_a_damaged_file_among_many_is_meant_as_they_are(tmp_path: Path) -> None:
    boats = {f"boats/b{n}.json": json.dumps({"id": f"boat_{n}", "next": f"boat_{n * 7 % 20}"}) for n in range(20)}
    tree = written(tmp_path / "map", {**boats, "boats/torn.json": '{"id": "boat_20", '})
    result = learned(tree, "boats")
    assert 'files = "**/*.json"' in result.text
    told = judge(tree, load_layout(result.text.encode(), "boats.toml"), Stock(), Ledger()).findings
    assert [(one.code, one.spot.path) for one in told] == [("unreadable", "boats/torn.json")]


def test_files_of_which_many_cannot_be_read_are_named_without_them(tmp_path: Path) -> None:
    boats = {f"boats/b{n}.json": json.dumps({"id": f"boat_{n}", "next": f"boat_{n * 7 % 20}"}) for n in range(20)}
    torn = {f"notes/torn_{n}.json": "{# no JSON" for n in range(8)}
    (sort,) = material_of(written(tmp_path / "map", {**boats, **torn})).sorts
    assert sort.globs == ("boats/**/*.json",)


def test_pages_beside_blocks_are_not_damaged_ones(tide: FolderTree) -> None:
    page = 'Hello, this is what you should know before you go out to the harbour, it is 5" deep.\n' * 5
    (tide.root / "readme.cfg").write_text(page, "utf-8")
    tree = FolderTree(tide.root)
    layout = load_layout(learned(tree, "tide").text.encode(), "tide.toml")
    assert layout.text_rule("readme.cfg") is None
    assert layout.text_rule("scenes/torn.cfg") is not None


@pytest.mark.parametrize(
    ("text", "tagged"),
    [
        ("[a]\nid=1\nto=2\n[/a]\n[b]\nid=3\n[/b]\n", "[]"),
        ("<Pier>\n  Bell ring.ogg\n  Lit yes\n</Pier>\n", "<>"),
        ("[a]\nid=1\n[b]\nid=2\n", ""),
        ('<?xml version="1.0"?>\n<a>\n<b c="1">\nsays\n</b>\n</a>\n', ""),
        ('<?xml version="1.0"?>\n<names>\nHeron one\nTern two\n</names>\n', ""),
        ("[b]bold[/b] words\nand no more\nof them\n", ""),
        ("[a]\nid=1\n[/b]\nto=2\n[/c]\n", ""),
        ("", ""),
    ],
)
def test_tags_are_told_from_sections_and_pages(text: str, tagged: str) -> None:
    found = [one.options for one in dialects_of(".cfg", [text.encode()] * 3) if one.options.get("tagged")]
    assert [f"{one['opens']}{one['closes']}" for one in found] == ([tagged] if tagged else [])


NOTES = """Walrus 1.0
by Somebody

1. Copy the folder beasts into your map.
2. Open scenes/scene_3.cfg and put this into the [scene] block:

    [event]
        x,y=4,5
        only once
        [say]
            speaker=walrus
        [/say]
    [/event]
"""


def test_what_is_learned_takes_a_pack_without_a_sheet(tide: FolderTree, tmp_path: Path) -> None:
    root = tide.root
    (root / "scenes/torn.cfg").unlink()
    written(tmp_path / "pack", {"readme.txt": NOTES, "beasts/walrus.cfg": beast("walrus")})
    for command in (
        ("layout", "learn", ".", "--to", "../tide.toml"),
        ("start", "--layout", "../tide.toml"),
        ("draft", "../pack"),
        ("install", "../pack"),
    ):
        ran = run_hookset(root, *command)
        assert ran.code == 0, ran.err or ran.out
    sheet = tomllib.loads((tmp_path / "pack.hooksheet.toml").read_text("utf-8"))
    (hook,) = sheet["hook"]
    assert (hook["seat"], hook["at"]) == ("scene", {"scene": "scene_3"})
    text = (root / "scenes/scene_3.cfg").read_text("utf-8")
    set_in = "    [event]\n        x,y=4,5\n        only once\n        [say]\n            speaker=walrus\n        [/say]\n    [/event]\n"
    assert text.endswith(f"{set_in}[/scene]\n")
    assert run_hookset(root, "remove", "walrus").code == 0
    assert (root / "scenes/scene_3.cfg").read_text("utf-8") == text.replace(set_in, "")
