"""Names that scripts write as keys of tables are rewritten where they stand, as their language writes them."""

from __future__ import annotations

import pytest

from hookset.config.layouts import load_layout
from hookset.planning.naming.rewriting import NameMap, rewrite_names
from hookset.trees import EmptyTree, Inline, Overlay

LAYOUT = """
[layout]
name = "sheds"
title = "sheds and what they cost"
[kinds.ware]
label = "ware"
[[read]]
files = "*.lua"
format = "lua"
defines = [{ kind = "ware", assign = "WARES", keys = true }]
refers = [{ kind = "ware", call = "build", arg = 1, field = "cost", keys = true }]
[[read]]
files = "*.mjs"
format = "ecmascript"
refers = [{ kind = "ware", call = "build", arg = 1, keys = true }]
[[read]]
files = "*.gd"
format = "gdscript"
refers = [{ kind = "ware", call = "build", arg = 1, keys = true }]
"""
WRITTEN = {
    "a.lua": 'WARES = { plank = {}, ["iron hoop"] = {} }\nbuild { cost = { plank = 2, ["plank"] = 3, [PLANK] = 1 } }\n',
    "b.mjs": 'build({ plank: 2, "plank": 3, [plank]: 1 });\n',
    "c.gd": 'func go():\n\tbuild({ plank = 2 })\n\tbuild({ "plank": 3, plank: 1 })\n',
}


@pytest.mark.parametrize(
    ("new", "lua", "mjs"),
    [
        ("beam", "beam", "beam"),
        ("oak plank", '["oak plank"]', '"oak plank"'),
        # A word of the one language, and not of the other.
        ("end", '["end"]', "end"),
    ],
)
def test_a_key_is_written_as_its_language_writes_it(new: str, lua: str, mjs: str) -> None:
    layout = load_layout(LAYOUT.encode(), "sheds.toml")
    tree = Overlay(EmptyTree(), {path: Inline(text.encode()) for path, text in WRITTEN.items()})
    names = NameMap.of(layout, {("ware", "plank", ""): new})
    found: dict[str, str] = {}
    for path in WRITTEN:
        result = rewrite_names(tree, layout, path, names)
        assert isinstance(result.content, Inline), path
        found[path] = result.content.data.decode()
    assert found["a.lua"] == WRITTEN["a.lua"].replace(" plank", f" {lua}").replace('["plank"]', f'["{new}"]')
    assert found["b.mjs"] == WRITTEN["b.mjs"].replace(" plank", f" {mjs}").replace('"plank"', f'"{new}"')
    # What stands before a colon there is a variable; before `=` only plain names can stand.
    assert f'"{new}": 3, plank: 1' in found["c.gd"]
    assert f"{{ {new if new.isidentifier() else 'plank'} = 2 }}" in found["c.gd"]
