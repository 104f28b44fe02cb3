"""What a layout says against itself is told where it says so: in the line that ends in `#!`."""

from __future__ import annotations

import re

import pytest

from hookset.config.layouts.load import load_layout
from tests.core.test_slips import lines_told
from tests.refusals import refused

HEAD = """
[layout]
name = "own"
title = "t"
sides = ["server", "client"]
[kinds.bell]
label = "bell"
[kinds.slot]
label = "slot"
numbers = { first = 1 }
"""
READS = """
[[read]]
files = "map.json"
format = "json"
[[read]]
files = "b.lua"
format = "lua"
[[read]]
files = "scene.xml"
format = "xml"
[[read]]
files = "list.txt"
format = "lines"
[[seat]]
name = "b"
title = "t"
file = "b.lua"
put = { at = "end", inside = "function start" }
"""
PLACED = """
[[placed]]
name = "things"
title = "things"
file = "map.json"
ask = { at = "$.things[*]" }
at = "at"
"""
VOLUME = """
[[volume]]
title = "water"
means = "water"
file = "map.json"
ask = { at = "$.water[*]" }
"""
STEP = """
[[step]]
name = "pack"
command = ["tool"]
writes = ["out/*.bin"]
"""
ENGINE = """
[[engine]]
name = "stand"
command = ["tool", "{map}"]
"""


def told_at(body: str) -> None:
    text = HEAD + body + READS
    marked = {number for number, line in enumerate(text.splitlines(), 1) if line.endswith("#!")}
    assert len(marked) == 1, text
    with refused("wrong-rows", body) as told:
        load_layout(text.encode(), "own.toml")
    assert lines_told(told.value) == marked, told.value.details


def with_line(table: str, line: str, instead: str = "") -> str:
    """A table with one more line, or with one in place of another."""
    if not instead:
        return f"{table}{line}\n"
    assert re.search(rf"(?m)^{instead}.*$", table), instead
    return re.sub(rf"(?m)^{instead}.*$", lambda _: line, table)


@pytest.mark.parametrize(
    "body",
    [
        pytest.param(with_line(PLACED, 'kind = "bell" #!'), id="a kind without a key"),
        pytest.param(with_line(PLACED, 'key = "key"\nkind = "bel" #!'), id="no such kind"),
        pytest.param(with_line(PLACED, 'numbered = { no = "bell" } #!'), id="a kind that has no numbers"),
        pytest.param(with_line(PLACED, 'seat = "c" #!'), id="no such seat"),
        pytest.param(
            with_line(PLACED, '[[placed]] #!\nnested = true\nholds = "children"', r"\[\[placed\]\]"), id="two ways out"
        ),
        pytest.param(with_line(PLACED, 'inside = "in" #!'), id="inside of what has no key"),
        pytest.param(with_line(PLACED, 'prefab_file = "parts/{value}.json" #!'), id="a prefab's file without prefab"),
        pytest.param(with_line(PLACED, "in_prefabs = true #!"), id="prefabs that nobody names"),
        pytest.param(with_line(PLACED, 'prefab = "of" #!'), id="prefabs in which nothing stands"),
        pytest.param(
            with_line(PLACED, 'seat = "b"\nprefab = "of"\ntext = "x" #!')
            + with_line(PLACED, 'name = "inner"\nin_prefabs = true', "name"),
            id="a text without its prefab",
        ),
        pytest.param(
            with_line(PLACED, '[[placed]] #!\ntext = "{prefab}"', r"\[\[placed\]\]"), id="a text without a seat"
        ),
        pytest.param(PLACED + with_line(PLACED, 'name = "things" #!', "name"), id="two of a name"),
        pytest.param(
            with_line(PLACED, 'file = "list.txt" #!', "file").replace('{ at = "$.things[*]" }', "{}"),
            id="a format that knows no places",
        ),
        pytest.param(with_line(PLACED, 'ask = { at = "$.things[" } #!', "ask"), id="what cannot be asked"),
        pytest.param(
            with_line(PLACED, 'file = "scene.xml"\nask = { at = "//Thing" }', "file")
            .replace('ask = { at = "$.things[*]" }\n', "")
            .replace("[[placed]]", "[[placed]] #!")
            .replace('at = "at"', 'at = "odd way"'),
            id="a way that leads nowhere",
        ),
        pytest.param('[space]\nup = "z"\nnorth = "+z" #!\n' + PLACED, id="north is up"),
    ],
)
def test_of_what_stands(body: str) -> None:
    told_at(body)


@pytest.mark.parametrize(
    "turn",
    [
        '{ from = "turn", as = "degrees", about = "xx" } #!',
        '{ from = "turn", as = "degrees", about = "xY" } #!',
        '{ from = "turn", as = "quaternion", about = "x" } #!',
        '{ from = "turn", as = "matrix", clockwise = true } #!',
        '{ from = "turn", as = "quaternion", order = "rows" } #!',
        '{ from = "turn", as = "matrix", order = "wxyz" } #!',
        '{ from = "turn", as = "degrees", order = "rows" } #!',
        '{ from = ["a", "b"], as = "degrees", about = "xyz" } #!',
        '{ from = ["a", "b", "c"], as = "quaternion" } #!',
    ],
)
def test_of_turns(turn: str) -> None:
    told_at(with_line(PLACED, f"turn = {turn}"))


def shaped(words: str) -> str:
    return VOLUME.replace("[[volume]]", "[[volume]] #!") + words


@pytest.mark.parametrize(
    "body",
    [
        shaped('shape = "box"\n'),
        shaped('shape = "box"\nat = "at"\n'),
        shaped('shape = "box"\nsize = "size"\n'),
        shaped('shape = "box"\nat = "at"\nsize = "size"\nhalf = "half"\n'),
        shaped('shape = "box"\nlow = "low"\n'),
        shaped('shape = "sphere"\nat = "at"\n'),
        shaped('shape = "cylinder"\nradius = 4.0\n'),
        shaped('shape = "outline"\n'),
        with_line(VOLUME, 'shape = "outline"\npoints = "points"\nin_prefabs = true #!'),
        with_line(VOLUME, 'file = "list.txt" #!', "file").replace('{ at = "$.water[*]" }', "{}")
        + 'shape = "outline"\npoints = "points"\n',
        with_line(VOLUME, 'shape = "boxes" #!'),
    ],
)
def test_of_volumes(body: str) -> None:
    told_at(body)


@pytest.mark.parametrize(
    "words",
    [
        '[[stand]] #!\ntitle = "t"\n',
        '[[stand]]\ntitle = "t"\nclear = 1.0\nof = "thing" #!\n',
        '[[stand]] #!\ntitle = "t"\ninside = "watre"\n',
        '[[stand]] #!\ntitle = "t"\noutside = ["land"]\n',
        '[[stand]] #!\ntitle = "t"\nreach_off = ["road"]\n',
        '[[stand]]\ntitle = "t"\nclear = "much" #!\n',
    ],
)
def test_of_how_things_stand(words: str) -> None:
    told_at(PLACED + VOLUME + 'shape = "outline"\npoints = "points"\n' + words)


@pytest.mark.parametrize(
    "body",
    [
        STEP + with_line(STEP, 'name = "pack" #!', "name"),
        with_line(STEP, 'after = ["cook"] #!'),
        with_line(STEP, 'after = ["pack"] #!'),
        with_line(STEP, 'name = "" #!', "name"),
        with_line(STEP, "command = [] #!", "command"),
        with_line(STEP, 'command = ["tool", "{file"] #!', "command"),
        with_line(STEP, 'command = ["tool", "{fiel}"] #!', "command"),
        with_line(STEP, "writes = [] #!", "writes"),
        with_line(STEP, 'kinds = ["bel"] #!'),
        STEP.replace("[[step]]", "[[step]] #!") + "seconds = 0\n",
        STEP.replace("[[step]]", "[[step]] #!") + "megabytes = -1\n",
        ENGINE + ENGINE.replace('name = "stand"', 'name = "stand" #!'),
        ENGINE.replace('command = ["tool", "{map}"]', "command = [] #!"),
        ENGINE.replace('command = ["tool", "{map}"]', 'command = ["tool", "{mpa}"] #!'),
        ENGINE.replace('command = ["tool", "{map}"]', 'command = ["tool", "{map"] #!'),
        ENGINE.replace("[[engine]]", "[[engine]] #!") + "runs = -1\n",
        ENGINE.replace("[[engine]]", "[[engine]] #!") + "seconds = 0\n",
    ],
)
def test_of_steps_and_engines(body: str) -> None:
    told_at(body)


@pytest.mark.parametrize(
    "body",
    [
        '[kinds.chime]\nlabel = "chime"\nis = "chime" #!\n',
        '[[read]]\nfiles = "a.json"\nformat = "json"\nside = "serve" #!\n',
        '[[read]]\nfiles = "a.txt"\nformat = "lines"\nrefers = [{ kind = "bell", at = "$.x" }] #!\n',
        '[[read]]\nfiles = "a.json"\nformat = "json"\nrefers = [{ kind = "bell", at = "$.x", only = "(?P<a" }] #!\n',
        '[[bound]] #!\ntitle = "t"\nvalues = []\n',
        '[[bounds]] #!\ntitle = "t"\nvalues = [{ file = "map.json", ask = { at = "$.n" } }]\n',
        '[[order]] #!\ntitle = "t"\nvalues = [{ file = "map.json", ask = { at = "$.n[*]" } }]\n',
        '[[order]]\ntitle = "t"\nvalues = [{ file = "map.json", ask = { at = "$.n[*]" } }]\nneeded_first = true #!\n',
        '[[lookup]] #!\nname = "id"\ntitle = "t"\nfile = "map.json"\nask = { at = "$.n" }\nkey = "x"\n',
        '[[lookup]] #!\nname = "id"\ntitle = "t"\nfile = "map.json"\nask = { at = "$.n" }\nseat = "b"\n',
        '[[lookup]]\nname = "id"\ntitle = "t"\nfile = "map.json"\nask = { at = "$.n" }\nseat = "c" #!\ntext = "x"\n',
        '[[seat]]\nname = "b" #!\ntitle = "t"\nfile = "b.lua"\nput = { at = "end", inside = "function start" }\n',
        '[manifest]\nfile = "list.txt"\nrow = { at = "*" } #!\n',
    ],
)
def test_of_the_rest(body: str) -> None:
    if 'name = "b" #!' in body:
        # The second of two is told: here that is the one that stands below.
        body = body.replace(" #!", "")
        text = HEAD + body + READS.replace('name = "b"', 'name = "b" #!')
        with refused("wrong-rows", body) as told:
            load_layout(text.encode(), "own.toml")
        marked = next(number for number, line in enumerate(text.splitlines(), 1) if line.endswith("#!"))
        assert lines_told(told.value) == {marked}
        return
    told_at(body)
