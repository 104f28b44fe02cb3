"""The map under another name: its folder, and what can only be looked at."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.conftest import run_hookset, snapshot

LAYOUT = """
[layout]
name = "in-a-folder"
title = "A map whose files lie in a folder called after it"
[descriptor]
file = "about.ini"
name = { section = "map", key = "name" }
version = { section = "map", key = "version" }
[rename]
folder = "maps/{map|lower|blanks:_}"
[kinds.file]
label = "file"
path = true
[[read]]
files = "**"
format = "any"
defines = [{ kind = "file", name = "{path}" }]
[[read]]
files = "about.ini"
format = "ini"
[[read]]
files = "maps/*/*.list"
format = "lines"
refers = [{ kind = "file" }]
[[read]]
files = "maps/*/*.lua"
format = "lua"
refers = [{ kind = "file", call = "load", arg = 1 }]
[reached]
files = ["about.ini", "maps/*/*.list"]
"""


@pytest.fixture
def quay(tmp_path: Path) -> Path:
    (tmp_path / "in-a-folder.toml").write_text(LAYOUT)
    root = tmp_path / "quay"
    files = {
        "about.ini": "[map]\nname = Low Quay\nversion = 3\n",
        "maps/low_quay/all.list": "maps/low_quay/main.lua\nmaps/low_quay/bell.txt\n",
        "maps/low_quay/main.lua": 'load("maps/low_quay/bell.txt")\nlocal n = 1\nload("maps/low_quay/bell" .. n .. ".txt")\n',
        "maps/low_quay/bell.txt": "ding\n",
        "maps/low_quay/bell1.txt": "dong\n",
        "hookset.toml": '[map]\nname = "Low Quay"\nlayout = "../in-a-folder.toml"\n',
    }
    for path, text in files.items():
        (root / path).parent.mkdir(parents=True, exist_ok=True)
        (root / path).write_text(text)
    return root


def test_the_folder_goes_with_the_name_and_what_is_built_at_run_time_is_told(quay: Path) -> None:
    assert run_hookset(quay, "check").code == 0
    before = snapshot(quay)
    preview = run_hookset(quay, "rename", "High Quay", "--preview")
    assert snapshot(quay) == before
    assert "maps/low_quay/main.lua:3:" in preview.out or "maps/high_quay/main.lua:3:" in preview.out
    renamed = run_hookset(quay, "rename", "High Quay", "--version", "4", "--anyway")
    assert renamed.code == 0, renamed.err
    assert not (quay / "maps/low_quay").exists() or not list((quay / "maps/low_quay").iterdir())
    assert (quay / "maps/high_quay/all.list").read_text() == "maps/high_quay/main.lua\nmaps/high_quay/bell.txt\n"
    assert 'load("maps/high_quay/bell.txt")' in (quay / "maps/high_quay/main.lua").read_text()
    assert 'name = "High Quay"\nversion = "4"' in (quay / "hookset.toml").read_text()
    assert "name = High Quay\nversion = 4" in (quay / "about.ini").read_text()
    assert run_hookset(quay, "undo").code == 0
    assert snapshot(quay) == before


def test_a_map_that_does_not_say_its_name_is_told(quay: Path) -> None:
    (quay / "about.ini").write_text("[map]\nversion = 3\n")
    refused = run_hookset(quay, "rename", "High Quay", "--json")
    assert (refused.code, refused.told) == (2, ["not-in-layout"])
    assert run_hookset(quay, "rename").code == 2
