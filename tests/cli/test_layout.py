"""The layout commands: what a layout sees, line by line, and what it does not."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import pytest

from hookset.config.layouts import load_layout
from tests.conftest import Ran, run_hookset

Run = Callable[..., Ran]

HARBOUR = """\
scripts/server/harbour.lua

rules       1  **                       as any
            2  scripts/{side}/**/*.lua  as any
            5  scripts/{side}/**/*.lua  as lua
sees        path   defines  file      scripts/server/harbour.lua  rule 1
            path   defines  script    harbour                     server  rule 2
            4:14   refers   sound     quay_bell                   server  rule 5
            8:20   refers   object    bell_post                   server  rule 5
            9:16   refers   callback  harbour.rung                client  rule 5
            13:6   defines  callback  harbour.ring                server  rule 5
            14:6   defines  callback  harbour.gulls               server  rule 5
            16:16  refers   sound     gull_*                      server, built at run time  rule 5
            16:47  refers   object    gull_rock                   server  rule 5
            18:6   defines  callback  harbour.lock                server  rule 5
            19:25  refers   object    lock_gate                   server  rule 5
            20:30  refers   sound     gate_shut                   server  rule 5
            20:45  refers   sound     gate_open                   server  rule 5
            20:58  refers   object    lock_gate                   server  rule 5
unseen      1   -- The quay: a bell to ring, gulls to startle, the lock gate.
            2   local harbour = {}
            5   local CRIES = 3
            7   local function ring(who)
            10  end
            12  function harbour.open()
            15  -- one of gull_1 to gull_3
            17  end)
            21  gate.open = not gate.open
            22  gate:move(0, gate.open and 3 or -3, 0)
            23  end)
            24  end
            26  return harbour

14 names seen; 13 lines in which no rule saw any
"""


@pytest.mark.usefixtures("demo")
def test_explain_is_right_line_by_line(hookset: Run) -> None:
    assert hookset("layout", "explain", "scripts/server/harbour.lua").out == HARBOUR


def test_explain_from_a_folder_below_and_for_programs(demo: Path, hookset: Run) -> None:
    ran = hookset("layout", "explain", "aliases.toml", "--json", folder=demo / "sounds")
    data = ran.data
    assert data["rules"] == [1, 6]
    assert {
        "line": 4,
        "column": 9,
        "rule": 6,
        "verb": "defines",
        "kind": "sound",
        "name": "quay_bell",
        "side": "",
        "variant": "",
        "built_at_run_time": False,
    } in data["names"]
    assert data["problems"] == []


def test_explain_what_is_damaged_and_what_nobody_reads(demo: Path, hookset: Run) -> None:
    (demo / "texts/de.toml").write_text('"a" = "x\n')
    (demo / "notes.txt").write_text("a\n\nb\n")
    assert "1:" not in hookset("layout", "explain", "notes.txt").out.split("unseen")[0]
    assert "2 lines in which no rule saw any" in hookset("layout", "explain", "notes.txt").out
    broken = hookset("layout", "explain", "texts/de.toml")
    assert "is not TOML" in broken.out
    wrong = hookset("layout", "explain", "scripts/server/habour.lua", "--json")
    assert (wrong.code, wrong.told) == (2, ["not-found"])
    assert "`scripts/server/harbour.lua`" in wrong.wrong[0]["what"]


@pytest.mark.usefixtures("demo")
def test_list_and_show(hookset: Run) -> None:
    listed = hookset("layout", "list").out
    assert re.search("paired-modules +ECMAScript modules for two sides", listed)
    assert re.search("split-lua +Lua scripts for two sides", listed)
    shown = hookset("layout", "show").out
    assert "once per language" in shown
    assert "under the last import of the server's main script" in shown
    source = hookset("layout", "show", "split-lua", "--source").out
    assert load_layout(source.encode(), "x").name == "split-lua"
    assert hookset("layout", "show", "split-lua", "--json").data["seats"]["texts"]["file"] == "texts/{variant}.toml"
    assert hookset("layout", "show", "splitlua").code == 2


def test_new_is_a_layout_to_begin_with(tmp_path: Path) -> None:
    assert run_hookset(tmp_path, "layout", "new", "mine.toml").code == 0
    text = (tmp_path / "mine.toml").read_text()
    assert load_layout(text.encode(), "mine.toml").name == "my-game"
    assert run_hookset(tmp_path, "layout", "new", "mine.toml").code == 1


def test_show_tells_what_must_fit(tmp_path: Path) -> None:
    marks = run_hookset(tmp_path, "layout", "show", "numbered-marks").out
    assert "the folder is made of the name: {map|lower|blanks:_}" in marks
    assert "start: at least one per player, at most one per player" in marks
    assert "buoy: numbered without a gap, owned by crews/*.csv" in marks
    assert "the game knows port, starboard" in marks
    folders = run_hookset(tmp_path, "layout", "show", "mirrored-folders").out
    assert "folder of a sort: as in the base game" in folders
    assert "things stand on the ground" in folders
