"""Names that are made of more than one value: of what stands beside it, and of what the file says once."""

from __future__ import annotations

import re

import pytest

from hookset.checks import judge
from hookset.config.layouts import load_layout
from hookset.model import CouldNotError, Definition
from hookset.project import Ledger, Stock
from hookset.symbols import read_file
from hookset.trees import EmptyTree, Inline, Overlay
from tests.core.test_layout_language import HEAD, found

DEED = '[kinds.deed]\nlabel = "deed"\nunique = true\n'


def names(rule: str, path: str, text: str) -> list[tuple[str, bool]]:
    """Every deed that a file refers to, and whether it is known in part only."""
    layout = load_layout((HEAD + DEED + rule).encode(), "small.toml")
    tree = Overlay(EmptyTree(), {path: Inline(text.encode())})
    return [(one.name, one.pattern) for one in read_file(tree, path, layout, {}).references]


@pytest.mark.parametrize(
    ("form", "asked", "name", "text", "made"),
    [
        pytest.param(
            "json", 'at = "$[*].does.call"', "{row.script}.{value}",
            '[{"script": "x", "does": {"script": "bell", "call": "ring"}}, {"does": {"call": "stop"}}]',
            ["bell.ring", ".stop"], id="json",
        ),
        pytest.param(
            "yaml", 'keys = "$.deeds"', "{row.of|lower}.{value}", "deeds:\n  ring: { of: Bell }\n  stop: { of: Tide }\n",
            ["bell.ring", "tide.stop"], id="yaml-keys",
        ),
        pytest.param(
            "toml", 'at = "$.use[*].call"', "{row.script}.{value}", '[[use]]\nscript = "bell"\ncall = "ring"\n',
            ["bell.ring"], id="toml",
        ),
        pytest.param(
            "xml", 'at = "//Use/@call"', "{row.script}.{value}",
            '<A script="a"><Use script="bell" call="ring"/><Use call="stop"/></A>',
            ["bell.ring", "a.stop"], id="xml-attributes",
        ),
        pytest.param(
            "xml", 'at = "//call"', "{row.script}.{value}",
            "<A><use><script> bell </script><call>ring</call></use></A>",
            ["bell.ring"], id="xml-texts",
        ),
        pytest.param(
            "csv", 'column = "call"', "{row.script}.{value}", "script;call\nbell;ring\n;stop\n",
            ["bell.ring", ".stop"], id="csv",
        ),
        pytest.param(
            "ini", 'key = "call"', "{row.section}.{row.script}.{value}", "[quay]\nscript = bell\ncall = ring\n",
            ["quay.bell.ring"], id="ini",
        ),
        pytest.param(
            "block", 'at = "place/use"', "{row.@1}.{row.script}.{value}", 'place "quay" {\n script "bell"\n use "ring"\n}',
            ["quay.bell.ring"], id="block",
        ),
        pytest.param(
            "block", 'at = "place/@1"', "{row.script}.{value}", 'place "quay" {\n script "bell"\n}',
            ["bell.quay"], id="block-names",
        ),
        pytest.param(
            "po", "", "{row.context}|{value}",
            'msgctxt "bell"\nmsgid "ring"\nmsgstr "r"\n\nmsgctxt "door"\nmsgid "ring"\nmsgstr "k"\n',
            ["bell|ring", "door|ring"], id="po",
        ),
        pytest.param(
            "text", r"match = '(?P<script>\w+)::(?P<value>\w+)'", "{row.script}.{value}", "bell::ring()\ntide::stop()",
            ["bell.ring", "tide.stop"], id="text",
        ),
    ],
)  # fmt: skip
def test_names_of_what_stands_beside_them(form: str, asked: str, name: str, text: str, made: list[str]) -> None:
    asked = f", {asked}" if asked else ""
    rule = f'[[read]]\nfiles = "f"\nformat = "{form}"\nrefers = [{{ kind = "deed", name = "{name}"{asked} }}]\n'
    assert names(rule, "f", text) == [(one, False) for one in made]


def test_fields_of_lines_make_names() -> None:
    rule = (
        '[[read]]\nfiles = "f"\nformat = "lines"\noptions = { fields = "blanks" }\n'
        'refers = [{ kind = "deed", field = 2, when = { 1 = "run" }, name = "{row.3}.{value}" }]\n'
    )
    assert names(rule, "f", "run ring bell\nwalk on quay # run x y\n  run\t stop   tide  \n") == [
        ("bell.ring", False),
        ("tide.stop", False),
    ]


@pytest.mark.parametrize(("form", "quote"), [("lua", "'"), ("ecmascript", '"')])
def test_arguments_of_one_call_make_names(form: str, quote: str) -> None:
    rule = f'[[read]]\nfiles = "f"\nformat = "{form}"\nrefers = [{{ kind = "deed", call = "tell", arg = 2, name = "{{row.1}}.{{value}}" }}]\n'
    text = "tell('bell', 'ring')\ntell(who, 'stop')\ntell('tide')\n".replace("'", quote)
    assert names(rule, "f", text) == [("bell.ring", False), ("*.stop", True)]


SCRIPTS = r"""
[[read]]
files = "*.fen"
format = "text"
options = { comments = ['--[^\n]*'], strings = [] }
defines = [{ kind = "deed", match = '^deed (?P<value>\w+)', name = "{space}.{value}" }]
refers = [
  { kind = "deed", match = '^ do (?P<value>\w+)$', name = "{space}.{value}" },
  { kind = "deed", match = '^ do (?P<of>\w+)[.](?P<value>\w+)$', name = "{row.of}.{value}" },
]
[read.take]
space = { match = '^space (?P<value>\w+)', otherwise = "{stem}" }
"""


def test_what_a_file_says_once_is_part_of_its_names() -> None:
    files = {
        "a.fen": "-- space nothing\nspace bell\ndeed ring\n do ring\n do tide.stop\n do tide.ring\n",
        "tide.fen": "deed stop\n do ring\n",
    }
    told = found(DEED + SCRIPTS, files)
    assert told == [("missing-name", "a.fen", 6), ("missing-name", "tide.fen", 2)]


def test_definitions_have_such_names_too() -> None:
    layout = load_layout((HEAD + DEED + SCRIPTS).encode(), "small.toml")
    tree = Overlay(EmptyTree(), {"x.fen": Inline(b"space bell\ndeed ring\n")})
    (defined,) = (d for d in read_file(tree, "x.fen", layout, {}).definitions if d.kind == "deed")
    assert defined == Definition(kind="deed", name="bell.ring", side="", path="x.fen", where=16)


@pytest.mark.parametrize(
    ("rule", "words"),
    [
        ('format = "text"\nrefers = [{ kind = "deed", match = "(?P<value>x)", name = "{row.of}.{value}" }]', "unknown part {row.of}"),
        ('format = "picture"\nrefers = [{ kind = "deed", name = "{row.of}" }]', "unknown part {row.of}"),
        ('format = "csv"\ntake = { path = { column = "a" } }', "{path} is a part of names already"),
        ('format = "csv"\ntake = { space = { colum = "a" } }', "colum"),
        ('format = "csv"\ntake = { space = { column = "a", otherwise = "{vlue}" } }', "unknown part {vlue}"),
        ('format = "lines"\nrefers = [{ kind = "deed", field = 1, when = { one = "x" } }]', "'one' is no field"),
    ],
)  # fmt: skip
def test_mistakes_in_these_are_told(rule: str, words: str) -> None:
    with pytest.raises(CouldNotError) as told:
        load_layout((HEAD + DEED + f'[[read]]\nfiles = "f"\n{rule}\n').encode(), "x.toml")
    assert any(words in line for line in told.value.details), told.value.details


PAGES = """
[kinds.page]
label = "page"
path = true
[[read]]
files = "**"
format = "any"
defines = [{ kind = "page", name = "{path}" }]
[[read]]
files = "pages/{tongue}/*.txt"
format = "lines"
refers = [{ kind = "page", suffix = ".txt", PLACE }]
"""


def test_what_is_said_instead_of_a_part_in_a_folder_finds_the_folder() -> None:
    with pytest.raises(CouldNotError) as told:
        load_layout((HEAD + PAGES.replace("PLACE", 'under = "pages/{tongue}"')).encode(), "x.toml")
    (line,) = told.value.details
    (instead,) = re.findall(r"`(name = \"[^`]*\")`", line)
    layout = load_layout((HEAD + PAGES.replace("PLACE", instead)).encode(), "x.toml")
    files = {"pages/de/a.txt": Inline(b"b\n"), "pages/de/b.txt": Inline(b""), "pages/fr/a.txt": Inline(b"b\n")}
    reached = [one.name for one in judge(Overlay(EmptyTree(), files), layout, Stock(), Ledger()).findings]
    assert reached == ["pages/fr/b.txt"]
