"""What a layout can say: small layouts over small trees, and what the check makes of them."""

from __future__ import annotations

import pytest

from hookset.checks import judge
from hookset.config.layouts import load_layout
from hookset.model import CouldNotError
from hookset.project import Stock, Terms
from hookset.project.stocks import StockList, StockNames
from hookset.symbols import survey
from hookset.trees import EmptyTree, Inline, Overlay

HEAD = """
[layout]
name = "small"
title = "small"
may_be_empty = true
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
    verdict = judge(tree, load_layout((HEAD + layout).encode(), "small.toml"), stock or Stock(), None, Terms(players))
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


def test_what_a_link_is_to_can_stand_in_the_key_above_it() -> None:
    layout = (
        '[kinds.sound]\nlabel = "sound"\n[kinds.text]\nlabel = "text"\n'
        '[[read]]\nfiles = "*.yaml"\nformat = "yaml"\nrefers = [\n'
        '{ kind = "sound", at = "$.links.*", address = "/links/snd_[^/]*$" },\n'
        '{ kind = "text", at = "$.links.*", address = "/links/txt_(?P<topic>[^/]*)$", name = "{topic}.{value}" }]\n'
    )
    stock = Stock(
        (StockList("base", (StockNames(kind="sound", names=("horn",)), StockNames(kind="text", names=("sign.a",)))),)
    )
    files = {"a.yaml": "links:\n  snd_near: horn\n  txt_sign: a\n  txt_door: a\n  other: zzz\n"}
    assert found(layout, files, stock) == [("missing-name", "a.yaml", 4)]


def test_a_neighbouring_value_says_the_kind_in_options_files() -> None:
    layout = (
        '[kinds.sound]\nlabel = "sound"\n'
        '[[read]]\nfiles = "*.ini"\nformat = "ini"\nrefers = [{ kind = "sound", key = "what", when = { does = "play" } }]\n'
    )
    stock = Stock((StockList("base", (StockNames(kind="sound", names=("horn",)),)),))
    text = "[a]\ndoes = play\nwhat = horn\n[b]\ndoes = say\nwhat = hello\n[c]\nwhat = bell\ndoes = play\n"
    assert found(layout, {"x.ini": text}, stock) == [("missing-name", "x.ini", 8)]


def test_the_game_s_own_words() -> None:
    layout = (
        '[kinds.way]\nlabel = "way"\nvocabulary = ["swings", "turns"]\n'
        '[[read]]\nfiles = "*.list"\nformat = "lines"\nrefers = [{ kind = "way" }]\n'
    )
    assert found(layout, {"a.list": "swings\nturn\n"}) == [("missing-name", "a.list", 2)]


@pytest.mark.parametrize(
    ("separators", "told"), [("/", [("backslash", 2)]), ("\\\\", [("backslash", 1)]), ("either", [])]
)
def test_separators(separators: str, told: list[tuple[str, int]]) -> None:
    layout = (
        f'[kinds.model]\nlabel = "model"\npath = true\nseparators = "{separators}"\n'
        '[[read]]\nfiles = "**"\nformat = "any"\ndefines = [{ kind = "model", name = "{path}" }]\n'
        '[[read]]\nfiles = "a.list"\nformat = "lines"\nrefers = [{ kind = "model" }]\n'
    )
    files = {"a.list": "own/x.gltf\nown\\y.gltf\n", "own/x.gltf": "", "own/y.gltf": ""}
    findings = [(code, line) for code, _, line in found(layout, files) if code == "backslash"]
    assert findings == told


NUMBERED = """
[kinds.sheet]
label = "sheet"
unique = true
numbers = { first = 10, last = 12, width = 3, free = "FREE" }
[[read]]
files = "*.csv"
format = "csv"
defines = [{ kind = "sheet", column = "id" }]
"""


@pytest.mark.parametrize(
    ("free", "taken", "following"),
    [
        ("after-last", ["10"], "011"), ("after-last", ["10", "12"], None), ("first-gap", ["10", "12"], "011"),
        ("first-gap", [], "010"), ("first-gap", ["10", "11", "12"], None), ("after-last", ["3"], "010"),
    ],
)  # fmt: skip
def test_the_next_free_id(free: str, taken: list[str], following: str | None) -> None:
    layout = load_layout((HEAD + NUMBERED.replace("FREE", free)).encode(), "small.toml")
    table = Overlay(EmptyTree(), {"a.csv": Inline("\n".join(["id", *taken]).encode())})
    ((_, ids),) = survey(table, layout, Stock()).ids
    assert ids.next == following


def test_ids_that_the_game_has_no_room_for() -> None:
    layout = NUMBERED.replace("FREE", "after-last")
    assert found(layout, {"a.csv": "id\n10\n13\nx\n9\n"}) == [
        ("id-out-of-range", "a.csv", 3),
        ("id-out-of-range", "a.csv", 4),
        ("id-out-of-range", "a.csv", 5),
    ]


def test_names_that_the_game_asks_for_load_their_files() -> None:
    layout = (
        '[kinds.deed]\nlabel = "deed"\nreached = true\n'
        '[[read]]\nfiles = "*.lua"\nformat = "lua"\ndefines = [{ kind = "deed", function = "*" }]\n'
        '[[read]]\nfiles = "*.list"\nformat = "lines"\nrefers = [{ kind = "deed" }]\n'
        '[reached]\nfiles = ["*.list"]\nnames = { deed = ["on_start"] }\n'
    )
    files = {
        "a.list": "ring\nsing\n",
        "a.lua": "function on_start() end\nfunction ring() end\n",
        "b.lua": "function sing() end\n",
    }
    assert found(layout, files) == [("not-loaded", "a.list", 2)]


def test_texts_made_of_other_values() -> None:
    layout = (
        '[descriptor]\nfile = "map.json"\nname = "$.name"\nversion = "$.version"\n'
        '[[read]]\nfiles = "*.json"\nformat = "json"\n'
        '[[agree]]\ntitle = "the tag"\nequal = "{map|lower|blanks:-}_{version|pad:3}{end|upper}"\n'
        'take = { end = { file = "map.json", ask = { at = "$.end" } } }\n'
        'values = [{ file = "map.json", ask = { at = "$.tag" } }]\n'
    )
    good = '{"name": "Old  Quay",\n"version": "7", "end": "x",\n"tag": "old-quay_007X"}'
    assert found(layout, {"map.json": good}) == []
    assert found(layout, {"map.json": good.replace("007X", "7X")}) == [("values-differ", "map.json", 3)]


def test_pictures_that_scripts_name_in_any_way() -> None:
    layout = (
        '[[read]]\nfiles = "*.lua"\nformat = "lua"\nrefers = [{ kind = "file", strings = true, only = "[.]png$" }]\n'
    )
    script = 'local t = { "a.png", other = { "b.png" } }\n-- "c.png"\nf([[d.png]], "not.txt", "e" .. ".png")\n'
    told = found(layout, {"x.lua": script, "a.png": "", "e.png": ""})
    assert told == [("missing-file", "x.lua", 1), ("missing-file", "x.lua", 3)]


def test_a_whole_series_belongs_to_one() -> None:
    layout = (
        '[kinds.post]\nlabel = "post"\n'
        '[[read]]\nfiles = "posts.list"\nformat = "lines"\ndefines = [{ kind = "post" }]\n'
        '[[read]]\nfiles = "crew/*.list"\nformat = "lines"\nrefers = [{ kind = "post" }]\n'
        '[[series]]\nkind = "post"\nname = "(?P<series>[a-z]+)(?P<number>[0-9]+)"\nfirst = 0\nowners = ["crew/*.list"]\nowned = "series"\n'
    )
    files = {"posts.list": "a0\na1\nb0\nb2\nc0\n", "crew/x.list": "a0\na1\nb0\n", "crew/y.list": "b2\n"}
    assert found(layout, files) == [
        ("not-one-owner", "posts.list", 3),
        ("gap-in-series", "posts.list", 4),
        ("not-one-owner", "posts.list", 5),
    ]


@pytest.mark.parametrize(
    ("layout", "words"),
    [
        ('[[series]]\nkind = "file"\nname = "x"\n', "it needs the groups (?P<series>…) and (?P<number>…)"),
        ('[[agree]]\ntitle = "x"\nvalues = []\nequal = "{map}"\n', "there is no [descriptor]"),
        ('[[agree]]\ntitle = "x"\nvalues = []\nequal = "{map|lowr}"\n', "'lowr' in {map|lowr} is nothing that can be done"),
        ('[[mirror]]\nkind = "fil"\n', "no kind is called `fil`; did you mean `file`?"),
        ('[[read]]\nfiles = "*.y"\nformat = "yaml"\nrefers = [{ kind = "file", at = "$.a", address = "(" }]\n', "`address` is no regular expression"),
    ],
)  # fmt: skip
def test_mistakes_in_the_further_rules_are_told(layout: str, words: str) -> None:
    with pytest.raises(CouldNotError) as told:
        load_layout((HEAD + layout).encode(), "x.toml")
    assert any(words in line for line in told.value.details), told.value.details


def test_the_survey_tells_rules_and_seats_that_find_nothing() -> None:
    layout = load_layout(
        (
            HEAD + '[[read]]\nfiles = "*.xml"\nformat = "xml"\nrefers = [{ kind = "file", at = "//Sound/@fil" }]\n'
            '[[read]]\nfiles = "*.csv"\nformat = "csv"\n'
            '[[seat]]\nname = "waves"\ntitle = "waves"\nfile = "*.xml"\nput = { into = "/Scene/Wafes" }\n'
            '[[seat]]\nname = "rows"\ntitle = "rows"\nfile = "*.csv"\n'
            '[[seat]]\nname = "sounds"\ntitle = "sounds"\nfile = "*.xml"\nput = { into = "/Scene" }\n'
        ).encode(),
        "small.toml",
    )
    scene = "<Scene>\n  <Waves/>\n  <Sound file='x'/>\n</Scene>\n"
    told = survey(Overlay(EmptyTree(), {"a.xml": Inline(scene.encode())}), layout, Stock())
    assert told.rules[1].idle == ('refers to file (at = "//Sound/@fil")',)
    assert told.rules[2].files == 0
    waves, rows, sounds = told.seats
    assert waves.places == ()
    assert "/Scene/Wafes" in waves.lacking[0]
    assert rows.lacking == ("no file is called *.csv",)
    assert sounds.places == ("a.xml:3",)


GROUND = """
[[read]]
files = ["ground.csv", "posts.csv"]
format = "csv"
[[ground]]
title = "posts"
table = { file = "ground.csv", ask = { column = "x" }, x = "x", y = "y", height = "h" }
things = [{ file = "posts.csv", ask = { column = "x" }, x = "x", y = "y", height = "h" }]
lowest = -0.1
highest = 0.1
"""


def test_heights_between_the_points_of_a_grid_and_beside_those_of_none() -> None:
    grid = "x,y,h\n0,0,0\n8,0,8\n0,8,8\n8,8,16\n"
    posts = "x,y,h\n4,4,8\n2,6,8\n2,6,2\n9,9,16\n"
    assert found(GROUND, {"ground.csv": grid, "posts.csv": posts}) == [("off-the-ground", "posts.csv", 4)]
    scattered = "x,y,h\n0,0,0\n8,1,8\n3,8,5\n"
    near = "x,y,h\n1,1,0\n7,1,8\n7,1,0\n"
    assert found(GROUND, {"ground.csv": scattered, "posts.csv": near}) == [("off-the-ground", "posts.csv", 4)]


def test_numbers_that_no_game_counts_to_are_told_at_once() -> None:
    layout = (
        '[kinds.post]\nlabel = "post"\nnumbers = { first = 1, last = 9 }\n'
        '[kinds.buoy]\nlabel = "buoy"\n[[series]]\nkind = "buoy"\nname = "(?P<series>[a-z]+)(?P<number>.+)"\n'
        '[[read]]\nfiles = "posts.list"\nformat = "lines"\ndefines = [{ kind = "post" }]\n'
        '[[read]]\nfiles = "buoys.list"\nformat = "lines"\ndefines = [{ kind = "buoy" }]\n'
    )
    files = {"posts.list": f"{'9' * 5000}\n\u00b2\n", "buoys.list": f"a1\na999999999\nb\u00b2\nc{'9' * 5000}\n"}
    assert found(layout, files) == [
        ("gap-in-series", "buoys.list", 2),
        ("id-out-of-range", "posts.list", 1),
        ("id-out-of-range", "posts.list", 2),
    ]


def test_names_in_another_letter_case_are_found_among_few_and_among_many() -> None:
    """A few are looked for in one long text, more by folding every name: what is told is the same."""
    layout = (
        '[kinds.bell]\nlabel = "bell"\n[[read]]\nfiles = "bells.txt"\nformat = "lines"\ndefines = [{ kind = "bell" }]\n'
        '[[read]]\nfiles = "use.txt"\nformat = "lines"\nrefers = [{ kind = "bell" }]\n'
    )
    for names in (["Horn", "quay", "a"], ["Horn", "Größe", "quay"]):
        for count in (3, 40):
            asked = ["hORN", "QUAY", "none", *(f"none {number}" for number in range(count))]
            told = found(layout, {"bells.txt": "\n".join(names), "use.txt": "\n".join(asked)})
            assert told[:2] == [("wrong-case", "use.txt", 1), ("wrong-case", "use.txt", 2)]
            assert {code for code, _, _ in told[2:]} == {"missing-name"}
            assert len(told) == len(asked)


def test_bytes_that_a_file_has_at_least() -> None:
    layout = (
        '[[read]]\nfiles = "*.json"\nformat = "json"\n'
        'refers = [{ kind = "file", at = "$[*].of", bytes = "long", split = ";" }]\n'
    )
    files = {
        "a.json": '[\n{"of": "x.bin;y.bin", "long": 4},\n{"of": "x.bin", "long": 5},\n{"of": "z.bin", "long": "9"},\n{"of": "x.bin"}]',
        "x.bin": "1234",
        "y.bin": "123",
    }
    assert found(layout, files) == [("cut-off", "a.json", 2), ("cut-off", "a.json", 3), ("missing-file", "a.json", 4)]


def test_a_kind_of_which_there_is_nothing_points_to_the_stock() -> None:
    layout = (
        '[kinds.bell]\nlabel = "bell"\n[[read]]\nfiles = "bells.txt"\nformat = "lines"\ndefines = [{ kind = "bell" }]\n'
        '[[read]]\nfiles = "use.txt"\nformat = "lines"\nrefers = [{ kind = "bell" }]\n'
    )
    files = {"use.txt": Inline(b"horn\n")}
    (told,) = judge(Overlay(EmptyTree(), files), load_layout((HEAD + layout).encode(), "small.toml"), Stock()).findings
    assert (told.code, told.name, told.follows) == ("no-defining-file", "bells.txt", 1)
    assert "[content]" in told.remedy
    tree = Overlay(EmptyTree(), files | {"bells.txt": Inline(b"")})
    (told,) = judge(tree, load_layout((HEAD + layout).encode(), "small.toml"), Stock()).findings
    assert told.remedy.startswith("nothing in the map or its stock is any bell")
    assert "[content]" in told.remedy
