"""Entries at the start of something, or below something, stand in the order in which the sheet has them."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.conftest import Ran, run_hookset, snapshot

LAYOUT = """
[layout]
name = "quay"
title = "a quay"
may_be_empty = true
[[read]]
files = "main.lua"
format = "lua"
[[read]]
files = "*.json"
format = "json"
[[read]]
files = "*.xml"
format = "xml"
[[read]]
files = "*.txt"
format = "lines"
[[read]]
files = "*.scr"
format = "text"
[[seat]]
name = "load"
title = "at the start of the list of loads"
file = "load.txt"
put = { at = "start" }
[[seat]]
name = "bells"
title = "at the start of the bells"
file = "bells.json"
put = { into = "/bells", at = "start" }
[[seat]]
name = "signs"
title = "at the start of the signs"
file = "bells.json"
put = { into = "/signs", at = "start" }
[[seat]]
name = "lamps"
title = "below the gate"
file = "lamps.xml"
put = { after = "/lamps/gate" }
[[seat]]
name = "begin"
title = "first of what begins"
file = "main.lua"
put = { inside = "function begin", at = "start" }
[[seat]]
name = "uses"
title = "below the head of the uses"
file = "uses.scr"
put = { after = "^rem uses" }
"""
FILES = {
    "load.txt": "old\nolder\n",
    "bells.json": '{\n  "bells": [\n    { "name": "old" }\n  ],\n  "signs": []\n}\n',
    "lamps.xml": '<lamps>\r\n  <gate id="old"/>\r\n  <lamp id="older"/>\r\n</lamps>\r\n',
    "main.lua": "function begin()\n  old()\nend\n",
    "uses.scr": "rem uses\nuse old\n",
}
ENTRIES = {
    "load": 'text = "{}"',
    "bells": 'record = {{ name = "{}" }}',
    "signs": 'record = {{ name = "sign_{}" }}',
    "lamps": "text = '<lamp id=\"{}\"/>'",
    "begin": 'text = "{}()"',
    "uses": 'text = "use {}"',
}
NAMES = ("ash", "birch", "cedar")


@pytest.fixture
def quay(tmp_path: Path) -> Path:
    root = tmp_path / "quay"
    root.mkdir()
    (tmp_path / "quay.toml").write_text(LAYOUT)
    (root / "hookset.toml").write_text('[map]\nname = "Quay"\nlayout = "../quay.toml"\n')
    for path, text in FILES.items():
        (root / path).write_bytes(text.encode())
    return root


def hooks(*names: str) -> str:
    """Entries for every seat, the seats in turn for each name."""
    made = [f'[[hook]]\nseat = "{seat}"\n{said.format(name)}\n' for name in names for seat, said in ENTRIES.items()]
    beside = [f'[[hook]]\nfile = "main.lua"\nafter = "old()"\ntext = "late_{name}()"\n' for name in names]
    return "".join([*made, *beside])


def install(root: Path, version: str, sheet: str) -> Ran:
    pack = root.parent / f"trees-{version}"
    pack.mkdir()
    (pack / "hooksheet.toml").write_text(f'[pack]\nname = "trees"\nversion = "{version}"\n{sheet}')
    return run_hookset(root, "install" if version == "1" else "upgrade", str(pack))


def in_order(text: str, *said: str) -> bool:
    places = [text.index(one) for one in said]
    return places == sorted(places)


def test_entries_stand_as_the_sheet_has_them_and_go_without_a_trace(quay: Path) -> None:
    before = snapshot(quay)
    done = install(quay, "1", hooks(*NAMES))
    assert done.code == 0, done.out + done.err
    for path in FILES:
        text = (quay / path).read_text().replace("late_", "~").replace("sign_", "~")
        assert in_order(text, *(f'"{name}' if path.endswith(("l", "n")) else name for name in NAMES)), text
    main, bells = (quay / "main.lua").read_text(), (quay / "bells.json").read_text()
    assert in_order(main, "cedar()", "  old()", *(f"late_{name}" for name in NAMES))
    assert in_order(bells, "cedar", '"old"', *(f"sign_{name}" for name in NAMES))
    assert in_order((quay / "lamps.xml").read_text(), "gate", "ash", "cedar", "older")
    there = snapshot(quay)
    assert run_hookset(quay, "install", str(quay.parent / "trees-1")).code == 0
    assert snapshot(quay) == there
    assert run_hookset(quay, "remove", "trees").code == 0
    assert snapshot(quay) == before


def test_one_of_them_goes_and_the_others_stay_as_they_are(quay: Path) -> None:
    assert install(quay, "1", hooks(*NAMES)).code == 0
    both = snapshot(quay)
    assert install(quay, "2", hooks("ash", "cedar")).code == 0
    for path, was in both.items():
        if path in FILES:
            without = [line for line in was.decode().splitlines() if "birch" not in line]
            assert (quay / path).read_bytes().decode().splitlines() == without
