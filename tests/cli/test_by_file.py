"""Hooks that go by the file itself: values that change, text beside or in place of other text."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from tests.conftest import Ran, run_hookset

LAYOUT = """
[layout]
name = "pier"
title = "a pier"
may_be_empty = true
[kinds.thing]
label = "thing"
[[read]]
files = "scene.xml"
format = "xml"
defines = [{ kind = "thing", at = "//thing/@id" }]
[[read]]
files = "things/*.toml"
format = "toml"
[[read]]
files = "*.lua"
format = "lua"
[[seat]]
name = "of-thing"
title = "at the end of a thing's own file"
file = "things/{thing}.toml"
put = { into = "", form = "keys" }
[[seat]]
name = "sounds"
title = "among the sounds"
file = "sounds.lua"
put = { into = "return.bells" }
[[change]]
name = "power"
title = "the power of a thing"
file = "scene.xml"
ask = { at = "//thing[@id='{thing}']/@power" }
"""
SCENE = '<scene>\r\n  <thing id="winch" power="3"/>\r\n  <thing id="lamp" power="1"/>\r\n</scene>\r\n'
MAIN = """local gate = require("gate")
function start()
    gate.open(3)   -- how far
    -- gate.open(4)
    gate.watch()
end
"""
SOUNDS = 'return {\n  bells = {\n    ding = "ding.wav" -- the first\n  },\n}\n'
HEAD = '[pack]\nname = "turn"\nversion = "1.0"\n'
VALUE = '[[hook]]\nchange = "power"\nat = { thing = "winch" }\nvalue = 5\n'
ASKED = '[[hook]]\nfile = "scene.xml"\nask = { at = "//thing[@id=\'lamp\']/@power" }\nvalue = 2\n'
INSTEAD = '[[hook]]\nfile = "main.lua"\nreplaces = "gate.open(3)"\ntext = "gate.open(7)"\n'
BELOW = """[[hook]]
name = "bell"
file = "main.lua"
after = "gate . watch()"
text = "if bell then\\n\\tbell.ring()\\nend"
[[hook]]
file = "main.lua"
before = { hook = "bell" }
text = "local bell = gate.bell"
"""


@pytest.fixture
def pier(tmp_path: Path) -> Path:
    root = tmp_path / "pier"
    (root / "things").mkdir(parents=True)
    (tmp_path / "pier.toml").write_text(LAYOUT)
    (root / "hookset.toml").write_text('[map]\nname = "Pier"\nlayout = "../pier.toml"\n')
    (root / "scene.xml").write_bytes(SCENE.encode())
    (root / "main.lua").write_text(MAIN)
    (root / "sounds.lua").write_text(SOUNDS)
    (root / "things/winch.toml").write_text('rope = "long"\n')
    (root / "things/lamp.toml").write_text("bright = true\n")
    return root


def install(pier: Path, *hooks: str, version: str = "1.0", name: str = "turn") -> Ran:
    pack = pier.parent / f"{name}-{version}"
    pack.mkdir(exist_ok=True)
    (pack / "hooksheet.toml").write_text(HEAD.replace("1.0", version).replace("turn", name) + "".join(hooks))
    return run_hookset(pier, "install" if version == "1.0" else "upgrade", str(pack))


def test_what_is_changed_comes_back(pier: Path) -> None:
    before = {path: path.read_bytes() for path in pier.rglob("*.*") if path.is_file()}
    done = install(pier, VALUE, ASKED, INSTEAD, BELOW)
    assert done.code == 0, done.out + done.err
    assert (pier / "scene.xml").read_bytes() == SCENE.replace('"3"', '"5"').replace('"1"', '"2"').encode()
    assert (pier / "main.lua").read_text() == MAIN.replace("gate.open(3)", "gate.open(7)").replace(
        "    gate.watch()\n",
        "    gate.watch()\n    local bell = gate.bell\n    if bell then\n        bell.ring()\n    end\n",
    )
    again = run_hookset(pier, "install", str(pier.parent / "turn-1.0"))
    assert again.code == 0
    assert run_hookset(pier, "remove", "turn").code == 0
    assert {path: path.read_bytes() for path in before} == before


def test_an_upgrade_changes_what_it_set(pier: Path) -> None:
    assert install(pier, VALUE, INSTEAD).code == 0
    later = install(pier, VALUE.replace("5", "8"), INSTEAD.replace("(7)", "(9)"), version="1.1")
    assert later.code == 0, later.out + later.err
    assert 'power="8"' in (pier / "scene.xml").read_text()
    assert "gate.open(9)" in (pier / "main.lua").read_text()
    assert run_hookset(pier, "remove", "turn").code == 0
    assert (pier / "scene.xml").read_bytes() == SCENE.encode()
    assert (pier / "main.lua").read_text() == MAIN


WITHOUT = "[[hook]]\nfile = \"{}\"\nreplaces = '''{}'''\ntext = \"\"\n"


@pytest.mark.parametrize(
    ("path", "gone", "left"),
    [
        pytest.param("main.lua", "gate.open(3)   -- how far", MAIN.replace("    gate.open(3)   -- how far\n", ""), id="line"),
        pytest.param("main.lua", "gate.open(3)", MAIN.replace("gate.open(3)   ", ""), id="within a line"),
        pytest.param("two.lua", "-- last", "first()\nsecond()\n\n\nthird()\n", id="at the end of a line"),
        pytest.param("scene.xml", '<thing id="winch" power="3"/>', SCENE.replace('  <thing id="winch" power="3"/>\r\n', ""), id="CR"),
        pytest.param("two.lua", "first()\nsecond()", "third()  -- last\n", id="at the start"),
        pytest.param("two.lua", "third() -- last", "first()\nsecond()\n\n\n", id="at the end"),
        pytest.param("two.lua", "second()", "first()\nthird()  -- last\n", id="with the empty lines below it"),
        pytest.param("open.lua", "third()", "first()", id="the last line without an end"),
        pytest.param("two.lua", "fourth()", "first()\nsecond()\n\n\nthird()  -- last\n", id="not there"),
    ],
)  # fmt: skip
def test_what_goes_comes_back(pier: Path, path: str, gone: str, left: str) -> None:
    (pier / "two.lua").write_text("first()\nsecond()\n\n\nthird()  -- last\n")
    (pier / "open.lua").write_text("first()\n  third()")
    before = {path: path.read_bytes() for path in pier.rglob("*.*") if path.is_file()}
    done = install(pier, WITHOUT.format(path, gone))
    assert done.code == 0, done.out + done.err
    assert (pier / path).read_bytes() == left.encode()
    assert run_hookset(pier, "install", str(pier.parent / "turn-1.0")).code == 0
    assert (pier / path).read_bytes() == left.encode()
    found = {finding["code"] for finding in run_hookset(pier, "check", "--json").data["findings"]}
    assert found == {"nothing-checked"}
    assert run_hookset(pier, "remove", "turn").code == 0
    assert {path: path.read_bytes() for path in before} == before


def test_what_goes_comes_back_where_it_was_among_its_like(pier: Path) -> None:
    rows = "".join(f"ring {{\n  name = {name}\n  deep = 1\n}}\n\n" for name in "abcdef")
    (pier / "two.lua").write_text(f'say "{rows}"\n'.replace('"', "[[", 1).replace('"', "]]"))
    before = (pier / "two.lua").read_bytes()
    assert install(pier, WITHOUT.format("two.lua", "ring {\n  name = d\n  deep = 1\n}")).code == 0
    assert b"name = d" not in (pier / "two.lua").read_bytes()
    assert run_hookset(pier, "remove", "turn").code == 0
    assert (pier / "two.lua").read_bytes() == before


def test_what_the_builder_changed_since_stays(pier: Path) -> None:
    assert install(pier, VALUE).code == 0
    (pier / "scene.xml").write_bytes(SCENE.replace('power="3"', 'power="6"').encode())
    assert run_hookset(pier, "remove", "turn", "--keep-changed").code == 0
    assert 'power="6"' in (pier / "scene.xml").read_text()


def test_one_hook_for_everything_of_a_kind(pier: Path) -> None:
    before = {path: path.read_bytes() for path in pier.rglob("*.*") if path.is_file()}
    every = 'every = { kind = "thing", at = "thing", name = "%s" }\n'
    power = '[[hook]]\nchange = "power"\nvalue = 9\n' + every % "*"
    seat = '[[hook]]\nseat = "of-thing"\nrecord = { rust = 1 }\n' + every % "*n?h"
    done = install(pier, power, seat)
    assert done.code == 0, done.out + done.err
    assert (pier / "scene.xml").read_bytes() == SCENE.replace('"3"', '"9"').replace('"1"', '"9"').encode()
    assert (pier / "things/winch.toml").read_text() == 'rope = "long"\nrust = 1\n'
    assert (pier / "things/lamp.toml").read_bytes() == before[pier / "things/lamp.toml"]
    assert run_hookset(pier, "remove", "turn").code == 0
    assert {path: path.read_bytes() for path in before} == before
    for wrong, word in ((every % "boat_*", "boat_*"), (every.replace("thing", "thyng", 1) % "*", "thyng")):
        refused = install(pier, '[[hook]]\nchange = "power"\nvalue = 9\n' + wrong)
        assert refused.code == 1
        assert word in refused.out + refused.err
    assert install(pier, INSTEAD + every % "*").code == 3


@pytest.mark.parametrize("order", [("turn", "deep"), ("deep", "turn")])
def test_items_of_a_table_come_out_in_any_order(pier: Path, order: tuple[str, str]) -> None:
    hooks = {
        "turn": '[[hook]]\nseat = "sounds"\nrecord = { dong = "dong.wav" }\n',
        "deep": '[[hook]]\nseat = "sounds"\ntext = "low = { \'low.wav\', 3 }"\n',
    }
    for name, hook in hooks.items():
        done = install(pier, hook, name=name)
        assert done.code == 0, done.out + done.err
    both = (pier / "sounds.lua").read_text()
    assert both == SOUNDS.replace(
        '"ding.wav" -- the first\n',
        '"ding.wav", -- the first\n    dong = "dong.wav",\n    low = { \'low.wav\', 3 }\n',
    )
    for name in order:
        done = run_hookset(pier, "remove", name)
        assert done.code == 0, done.out + done.err
        assert hooks[name].split('"')[3][:4] not in (pier / "sounds.lua").read_text()
    assert (pier / "sounds.lua").read_text() == SOUNDS


def test_a_word_of_a_seats_path_is_given_by_the_hook(pier: Path) -> None:
    hook = '[[hook]]\nseat = "of-thing"\nat = { thing = "lamp" }\nrecord = { glass = "red" }\n'
    done = install(pier, hook)
    assert done.code == 0, done.out + done.err
    assert 'glass = "red"' in (pier / "things/lamp.toml").read_text()
    assert "red" not in (pier / "things/winch.toml").read_text()


@pytest.mark.parametrize(
    ("hook", "said"),
    [
        pytest.param(INSTEAD.replace("(3)", "(5)"), "gate.open(5)", id="not there"),
        pytest.param(INSTEAD.replace('"gate.open(3)"', '"gate"'), "there 5 times", id="several"),
        pytest.param(INSTEAD.replace('"gate.open(7)"', '"gate.open("'), "does not parse", id="breaks the file"),
        pytest.param(INSTEAD.replace("gate.open(3)", "gate " * 2000), "a few lines", id="too long"),
        pytest.param(VALUE.replace("winch", "crane"), "crane", id="no such thing"),
        pytest.param(VALUE.replace('at = { thing = "winch" }\n', ""), "{thing}", id="word not given"),
        pytest.param(VALUE.replace('"power"', '"powder"'), "power", id="no such change"),
        pytest.param(INSTEAD.replace("main.lua", "gone.lua"), "gone.lua", id="no such file"),
        pytest.param('[[hook]]\nfile = "main.lua"\ntext = "x()"\n', "one of ask, replaces", id="no spot"),
        pytest.param('[[hook]]\nseat = "of-thing"\nreplaces = "x"\ntext = "x()"\n', "goes with `file`", id="seat, too"),
        pytest.param(INSTEAD + "value = 3\n", "text and value", id="two bodies"),
        pytest.param(BELOW.replace('hook = "bell"', 'hook = "ball"'), "did you mean", id="no such hook"),
    ],
)
def test_what_cannot_be_done_is_told(pier: Path, hook: str, said: str) -> None:
    before = {path: path.read_bytes() for path in pier.rglob("*.*") if path.is_file()}
    done = install(pier, hook)
    assert done.code != 0
    assert said in done.out + done.err
    assert {path: path.read_bytes() for path in before} == before


def test_what_is_gone_is_told(pier: Path) -> None:
    assert install(pier, INSTEAD).code == 0
    (pier / "main.lua").write_text(MAIN)
    found = json.loads(run_hookset(pier, "check", "--json").out)["findings"]
    assert "entry-gone" in {one["code"] for one in found}


def with_files(pier: Path, sheet: str, *options: str) -> Ran:
    pack = pier.parent / "skins"
    for path, text in {"red/skin.lua": "return 1\n", "black/skin.lua": "return 2\n"}.items():
        (pack / path).parent.mkdir(parents=True, exist_ok=True)
        (pack / path).write_text(text)
    (pack / "hooksheet.toml").write_text(HEAD.replace("turn", "skins") + sheet)
    return run_hookset(pier, "install", str(pack), *options)


CHOICE = """[[files]]
from = "%s/skin.lua"
when = { setting = "skin", equals = "%s" }
"""
SETTING = '[[setting]]\nname = "skin"\ntype = "text"\ndefault = "red"\nchoices = ["red", "black"]\n'


def test_of_files_for_one_place_the_setting_chooses(pier: Path) -> None:
    sheet = SETTING + "".join(CHOICE % (word, word) for word in ("red", "black"))
    assert with_files(pier, sheet).code == 0
    assert (pier / "skin.lua").read_text() == "return 1\n"
    told = run_hookset(pier, "tune", "skins", "skin=black", "--json")
    assert (told.code, "--set skin=black" in told.data["error"]["remedy"]) == (1, True)
    assert run_hookset(pier, "install", str(pier.parent / "skins"), "--set", "skin=black").code == 0
    assert (pier / "skin.lua").read_text() == "return 2\n"
    assert run_hookset(pier, "remove", "skins").code == 0
    assert not (pier / "skin.lua").exists()


def test_two_files_for_one_place_that_do_not_exclude_each_other(pier: Path) -> None:
    refused = with_files(pier, SETTING + CHOICE % ("red", "red") + CHOICE % ("black", "red"))
    assert refused.code == 3
    assert "red/skin.lua" in refused.err and "black/skin.lua" in refused.err


def test_a_file_only_for_maps_without_it(pier: Path) -> None:
    sheet = '[[files]]\nfrom = "red/skin.lua"\nkeep_mine = true\n'
    (pier / "skin.lua").write_text("return 0\n")
    assert with_files(pier, sheet).code == 0
    assert (pier / "skin.lua").read_text() == "return 0\n"
    assert run_hookset(pier, "remove", "skins").code == 0
    assert (pier / "skin.lua").read_text() == "return 0\n"
    (pier / "skin.lua").unlink()
    assert with_files(pier, sheet).code == 0
    assert (pier / "skin.lua").read_text() == "return 1\n"


def test_what_the_map_has_decides(pier: Path) -> None:
    rows = (("red", "file"), ("black", "without_file"))
    sheet = "".join(f'[[files]]\nfrom = "{name}/skin.lua"\nwhen = {{ {key} = "**/crane.*" }}\n' for name, key in rows)
    assert with_files(pier, sheet).code == 0
    assert (pier / "skin.lua").read_text() == "return 2\n"
    assert run_hookset(pier, "remove", "skins").code == 0
    (pier / "crane.lua").write_text("return {}\n")
    assert with_files(pier, sheet).code == 0
    assert (pier / "skin.lua").read_text() == "return 1\n"


def test_the_entries_of_a_file_of_the_pack(pier: Path) -> None:
    pack = pier.parent / "rows"
    pack.mkdir()
    (pack / "bells.lua").write_text(
        'return {\n  bells = {\n    dong = "dong.wav",\n    clang = "clang.wav",\n  },\n}\n'
    )
    sheet = pack / "hooksheet.toml"
    sheet.write_text(HEAD.replace("turn", "rows") + '[[hook]]\nseat = "sounds"\nfragment = "bells.lua"\n')
    done = run_hookset(pier, "install", str(pack))
    assert done.code == 0, done.out + done.err
    text = (pier / "sounds.lua").read_text()
    assert 0 < text.index("ding =") < text.index("dong =") < text.index("clang =")
    assert run_hookset(pier, "remove", "rows").code == 0
    assert (pier / "sounds.lua").read_text() == SOUNDS
    (pack / "empty.lua").write_text("\n")
    for wrong, code in (("bell.lua", "not-found"), ("empty.lua", "wrong-entry")):
        sheet.write_text(HEAD.replace("turn", "rows") + f'[[hook]]\nseat = "sounds"\nfragment = "{wrong}"\n')
        refused = run_hookset(pier, "install", str(pack), "--json")
        assert (refused.code, refused.told) == (1, [code])
    sheet.write_text(HEAD.replace("turn", "rows") + '[[hook]]\nseat = "sounds"\nfragment = "x"\ntext = "y = 1"\n')
    assert run_hookset(pier, "install", str(pack)).code == 3
