"""A script language that another package adds, by a grammar that it describes."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

PACKAGE = r"""
import tree_sitter_python
from tree_sitter import Language
from hookset.formats.grammar import Grammar, script_format

FORMAT = script_format(Grammar(
    title="Python",
    language=Language(tree_sitter_python.language()),
    call=("call", "function"),
    strings=("string",),
    numbers=("integer", "float"),
    names=("identifier", "attribute"),
    assigned=("assignment", "left", "right"),
    bound="(parameters (identifier) @name) (for_statement left: (identifier) @name)",
    functions=("function_definition", "lambda"),
    defined="(function_definition) @function",
    blocks=("block", "module"),
    tables=("dictionary", "list", "tuple"),
    pair=("pair", "key", "value"),
    first=0,
    item=("subscript", "value", "subscript"),
    writes_function="def {name}():\n    pass\n",
))
"""
LAYOUT = """
[layout]
name = "reef"
title = "a reef"
may_be_empty = true
[kinds.sound]
label = "sound"
[kinds.deed]
label = "deed"
[[read]]
files = "*.py"
format = "reef-script"
defines = [
  { kind = "sound", assign = "SOUNDS", field = "*.name" },
  { kind = "deed", function = "*" },
]
refers = [
  { kind = "sound", call = "game.play", arg = 1 },
  { kind = "deed", call = "on", arg = 2, words = true },
]
[[seat]]
name = "start"
title = "at the end of the start"
file = "main.py"
put = { inside = "function start", at = "end" }
[[seat]]
name = "sounds"
title = "among the sounds"
file = "main.py"
put = { into = "SOUNDS" }
"""
MAIN = """# The reef.
SOUNDS = {
    "bell": {"name": "bell"},
    "gong": {"name": "go\\"ng"},
}
DEEP = "be"
LAPS = 3


def start():
    game.play("bell")  # rings
    game.play(DEEP + "ll")
    game.play(SOUNDS["gong"]["name"])
    game.play(DEEP + "am")
    game.play(mood())
    # game.play("none")
    on("turn", start)
    on("turn", stop)
"""
SHEET = """
[pack]
name = "horn"
version = "1.0"
[[hook]]
seat = "sounds"
text = '"horn": {"name": "horn"}'
[[hook]]
seat = "start"
text = 'game.play("horn")'
[[setting]]
name = "laps"
type = "int"
default = 3
write = [{ file = "main.py", assign = "LAPS" }]
"""


@pytest.fixture
def reef(tmp_path: Path) -> Path:
    pytest.importorskip("tree_sitter_python")
    for file, text in {
        "site/reef_script.py": PACKAGE,
        "site/reef_script-1.0.dist-info/METADATA": "Metadata-Version: 2.1\nName: reef-script\nVersion: 1.0\n",
        "site/reef_script-1.0.dist-info/entry_points.txt": "[hookset.formats]\nreef-script = reef_script:FORMAT\n",
        "reef.toml": LAYOUT,
        "reef/hookset.toml": '[map]\nname = "reef"\nlayout = "../reef.toml"\n',
        "reef/main.py": MAIN,
        "horn/hooksheet.toml": SHEET,
    }.items():
        (tmp_path / file).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / file).write_text(text)
    return tmp_path / "reef"


def hookset(reef: Path, *arguments: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "hookset", *arguments],
        cwd=reef,
        env=os.environ | {"PYTHONPATH": str(reef.parent / "site"), "NO_COLOR": "1"},
        capture_output=True,
        text=True,
        check=False,
    )


def test_scripts_are_read(reef: Path) -> None:
    checked = json.loads(hookset(reef, "check", "--json").stdout)
    assert {(one["code"], one["line"], one["name"]) for one in checked["findings"]} == {
        ("missing-name", 14, "beam"),
        ("missing-name", 18, "stop"),
    }
    assert checked["counts"]["not_checkable"] == 1


def test_scripts_are_edited(reef: Path) -> None:
    done = hookset(reef, "install", "../horn")
    assert done.returncode == 0, done.stdout + done.stderr
    assert (reef / "main.py").read_text() == MAIN.replace(
        '"go\\"ng"},\n', '"go\\"ng"},\n    "horn": {"name": "horn"},\n'
    ).replace('on("turn", stop)\n', 'on("turn", stop)\n    game.play("horn")\n')
    done = hookset(reef, "tune", "horn", "laps=5")
    assert done.returncode == 0, done.stdout + done.stderr
    assert "LAPS = 5\n" in (reef / "main.py").read_text()
    assert hookset(reef, "remove", "horn").returncode == 0
    assert (reef / "main.py").read_text() == MAIN


def test_without_the_package_the_format_is_told(reef: Path) -> None:
    (reef.parent / "site/reef_script-1.0.dist-info/entry_points.txt").unlink()
    told = hookset(reef, "check")
    assert (told.returncode, "no format is called `reef-script`" in told.stderr) == (3, True)
