"""What a layout can say: small layouts over small trees, and what the check makes of them."""

from __future__ import annotations

import pytest

from hookset.core.checks import judge
from hookset.core.layouts import load_layout
from hookset.core.model import CouldNotError
from hookset.core.project import Stock
from hookset.core.project.stocks import StockList, StockNames
from hookset.core.trees import EmptyTree, Inline, Overlay

HEAD = """
[layout]
name = "small"
title = "small"
[kinds.file]
label = "file"
path = true
[[read]]
files = "**"
format = "any"
defines = [{ kind = "file", name = "{path}" }]
"""


def found(
    layout: str, files: dict[str, str], stock: Stock | None = None, players: int | None = None
) -> list[tuple[str, str, int]]:
    """(code, path or name, line) of every finding."""
    tree = Overlay(EmptyTree(), {path: Inline(text.encode()) for path, text in files.items()})
    verdict = judge(tree, load_layout((HEAD + layout).encode(), "small.toml"), stock or Stock(), None, players)
    return [(f.code, f.spot.path, f.spot.line) for f in verdict.findings if f.code != "nothing-checked"]


def test_several_roots_and_endings() -> None:
    layout = '[[read]]\nfiles = "*.use"\nformat = "lines"\nrefers = [{ kind = "file", under = ["own", "shared"], suffix = [".gltf", ".glb"] }]\n'
    files = {
        "a.use": "crane\nboat\nbuoy.glb\nnone\n",
        "own/crane.glb": "",
        "shared/boat.gltf": "",
        "shared/buoy.glb": "",
    }
    assert found(layout, files) == [("missing-file", "a.use", 4)]


def test_lists_in_one_value_and_only_what_looks_like_a_path() -> None:
    layout = (
        '[[read]]\nfiles = "*.csv"\nformat = "csv"\nrefers = ['
        '{ kind = "file", column = "sounds", split = "[;, ]+", only = "[.]wav$", skip = "^http" }]\n'
    )
    table = 'name,sounds\na,"x.wav; y.wav, note"\nb,http://z.wav\n'
    assert found(layout, {"t.csv": table, "x.wav": ""}) == [("missing-file", "t.csv", 2)]


def test_pools() -> None:
    layout = (
        '[kinds.berth]\nlabel = "berth"\npool = ["north", "south"]\n'
        '[[read]]\nfiles = "*.list"\nformat = "lines"\ndefines = [{ kind = "berth" }]\n'
    )
    assert found(layout, {"a.list": "north\neast\n", "b.list": "north\n"}) == [
        ("not-in-pool", "a.list", 2),
        ("defined-twice", "b.list", 1),
    ]


AGREE = """
[[read]]
files = "options.ini"
format = "ini"
[[read]]
files = "*.lua"
format = "lua"
[[agree]]
title = "the toll"
why = "the sign shows another sum than is taken"
values = [
  { file = "options.ini", ask = { section = "bridge", key = "toll" } },
  { file = "*.lua", ask = { assign = "TOLL" } },
]
"""


def test_values_in_several_places_must_agree() -> None:
    files = {"options.ini": "[bridge]\ntoll = 20\n", "a.lua": "local TOLL = 20\n", "b.lua": "x = 1\n"}
    assert found(AGREE, files) == []
    assert found(AGREE, files | {"b.lua": "\n\nTOLL = 30\n"}) == [("values-differ", "b.lua", 3)]


COUNT = """
[kinds.landing]
label = "landing"
[[read]]
files = "*.list"
format = "lines"
defines = [{ kind = "landing" }]
[[count]]
kind = "landing"
name = "pier_*"
least = "players"
most = 6
"""


@pytest.mark.parametrize(("there", "players", "told"), [(4, 4, 0), (3, 4, 1), (7, 4, 1), (0, 1, 1), (3, None, 0)])
def test_counts_per_player(there: int, players: int | None, told: int) -> None:
    rows = "".join(f"pier_{n}\n" for n in range(there)) + "quay\n"
    codes = [code for code, _, _ in found(COUNT, {"a.list": rows}, players=players)]
    assert codes == ["wrong-count"] * told


def test_names_that_must_not_be_the_game_s_own() -> None:
    layout = (
        '[kinds.sound]\nlabel = "sound"\nunique = true\nover = "all"\n'
        '[[read]]\nfiles = "*.list"\nformat = "lines"\ndefines = [{ kind = "sound" }]\n'
    )
    stock = Stock((StockList("base", (StockNames(kind="sound", names=("bell",)),)),))
    assert found(layout, {"a.list": "horn\nbell\n"}, stock) == [("defined-in-stock", "a.list", 2)]


def test_records_in_any_format_keep_their_rules() -> None:
    layout = (
        '[[read]]\nfiles = "*.xml"\nformat = "xml"\n'
        'record = { at = "//Sound", schema = { required = ["file"], properties = { loop = { enum = ["yes", "no"] } } } }\n'
    )
    scene = '<S>\n<Sound file="a" loop="yes"/>\n<Sound loop="no"/>\n<Sound file="b"\n loop="maybe"/>\n</S>\n'
    assert found(layout, {"a.xml": scene}) == [("bad-record", "a.xml", 3), ("bad-record", "a.xml", 5)]


def test_xml_and_yaml_read_by_a_layout() -> None:
    layout = (
        '[kinds.object]\nlabel = "object"\nunique = true\n'
        '[[read]]\nfiles = "*.xml"\nformat = "xml"\ndefines = [{ kind = "object", at = "//Object/@id" }]\n'
        'refers = [{ kind = "object", at = "//Trigger[@type=\'door\']/@target" }]\n'
        '[[read]]\nfiles = "*.yaml"\nformat = "yaml"\nrefers = [{ kind = "object", at = "$.links[*]" }]\n'
    )
    scene = '<S>\n<Object id="a"/>\n<Trigger type="door" target="b"/>\n<Trigger type="text" target="c"/>\n<Object id="a"/></S>'
    assert found(layout, {"a.xml": scene, "b.yaml": "links:\n  - a\n  - z\n"}) == [
        ("missing-name", "a.xml", 3),
        ("defined-twice", "a.xml", 5),
        ("missing-name", "b.yaml", 3),
    ]


@pytest.mark.parametrize(
    ("layout", "words"),
    [
        (
            '[[agree]]\ntitle = "x"\nvalues = [{ file = "a.q", ask = {} }]\n',
            "no [[read]] rule says of which format `a.q` is",
        ),
        ('[[count]]\nkind = "fiel"\n', "no kind is called `fiel`; did you mean `file`?"),
        ('[[count]]\nkind = "file"\nleast = "player"\n', "`least` cannot be 'player'"),
    ],
)
def test_mistakes_in_these_are_told(layout: str, words: str) -> None:
    with pytest.raises(CouldNotError) as told:
        load_layout((HEAD + layout).encode(), "x.toml")
    assert any(words in line for line in told.value.details), told.value.details
