"""Records with parts, in every format that has them: read, written over, added to."""

from __future__ import annotations

from typing import Any

import msgspec
import pytest

from hookset.formats import format_named, spliced
from hookset.formats.document import HasParts
from hookset.formats.parts import Part
from hookset.trees import Text

CASES: dict[str, tuple[str, dict[str, Any], dict[str, Any], list[str], list[Any]]] = {
    # format: (text, options, selector, ways, what they lead to)
    "json": (
        '{"things": [{"key": "gate", "at": [1, 2.5, -3], "extras": {"reach": 4}}, {"key": "bare"}]}',
        {},
        {"at": "$.things[*]"},
        ["key", "at", "extras/reach", "extras/none", "at/1", "0#"],
        ["gate", [1, 2.5, -3], 4, None, 2.5, "0"],
    ),
    "yaml": (
        "things:\n  gate:\n    at: '1 2.5 -3'  # here\n    turn: 90\n  bare: {}\n",
        {},
        {"at": "$.things.*"},
        ["0#", "at", "turn", "size"],
        ["gate", "1 2.5 -3", 90, None],
    ),
    "toml": (
        '[[things]]\nkey = "gate"\nat = [1.0, 2.5, -3.0]\n[[things]]\nkey = "bare"\n',
        {},
        {"at": "$.things[*]"},
        ["key", "at", "size"],
        ["gate", [1.0, 2.5, -3.0], None],
    ),
    "xml": (
        '<Map><Thing key="gate" at="1 2.5 -3"><size>2 2 2</size><number key="reach" is="4"/></Thing><Thing key="bare"/></Map>',
        {},
        {"at": "//Thing"},
        ["@key", "@at", "size", "number[@key='reach']/@is", "@none"],
        ["gate", "1 2.5 -3", "2 2 2", "4", None],
    ),
    "csv": (
        "key;x;y;turn\ngate;1;2,5;90\nbare\n",
        {"delimiter": ";"},
        {"column": "key"},
        ["key", "x", "y", "turn", "none"],
        ["gate", "1", "2,5", "90", None],
    ),
    "block": (
        'thing "gate" {\n  at 1 2.5 -3\n  door {\n    open 4\n  }\n}\nthing "bare" {\n}\n',
        {},
        {"at": "thing"},
        ["@1", "at", "door/open", "size"],
        ["gate", ["1", "2.5", "-3"], "4", None],
    ),
    "lua": (
        'things = {\n  { key = "gate", at = { 1, 2.5, -3 }, door = { open = 4 } },\n  { key = "bare" },\n}\n',
        {},
        {"assign": "things", "field": "*"},
        ["key", "at", "door/open", "size"],
        ["gate", ["1", "2.5", "-3"], "4", None],
    ),
    "ecmascript": (
        'const things = [\n  { key: "gate", at: [1, 2.5, -3] },\n  { key: "bare" },\n];\n',
        {},
        {"assign": "things", "field": "*"},
        ["key", "at", "size"],
        ["gate", ["1", "2.5", "-3"], None],
    ),
}
ADDED: dict[str, dict[str, Any]] = {
    "json": {"size": [1, 2, 3], "extras/reach": 7, "extras/deep/far": "x"},
    "yaml": {"size": "1 2 3", "extras/reach": 7},
    "toml": {"size": [1, 2, 3]},
    "xml": {"@size": "1 2 3", "number[@key='reach']/@is": "7", "note": "a & b"},
    "csv": {"turn": "45"},
    "block": {"size": ["1", "2", "3"]},
    "lua": {"size": [1, 2, 3]},
    "ecmascript": {"size": [1, 2, 3]},
}


def plain(part: Part | None) -> Any:
    if part is None:
        return None
    return [plain(one) for one in part.value] if isinstance(part.value, tuple) else part.value


def document(name: str, text: str) -> HasParts:
    form = format_named(name)
    made = form.open(Text(text, "utf-8"), msgspec.convert(CASES[name][1], form.options))
    assert isinstance(made, HasParts)
    return made


@pytest.mark.parametrize("name", CASES)
def test_parts_are_read_and_known_by_their_places(name: str) -> None:
    text, _, selector, ways, expected = CASES[name]
    opened = document(name, text)
    records = list(opened.parts(msgspec.convert(selector, format_named(name).selector), ways))
    assert [plain(part) for part in records[0].parts] == expected
    assert len(records) == 2
    assert format_named(name).has_parts
    # Each single value is where it is said to be.
    for part in (part for part in records[0].parts if part is not None):
        single = part.value if isinstance(part.value, tuple) else (part,)
        for one in single:
            span = opened.value_span(one.where)
            assert span is not None
            assert str(one.value) in text[slice(*span)] or one.where == records[0].where


@pytest.mark.parametrize("name", ADDED)
def test_what_a_record_lacks_can_be_added(name: str) -> None:
    text, _, asked, _, _ = CASES[name]
    opened = document(name, text)
    selector = msgspec.convert(asked, format_named(name).selector)
    bare = list(opened.parts(selector, []))[1]
    edits = opened.adding(bare.where, ADDED[name])
    assert edits is not None
    changed = spliced(text, edits.edits)
    ways = list(ADDED[name])
    now = list(document(name, changed).parts(selector, ways))
    wanted = [[str(one) for one in value] if isinstance(value, list) else str(value) for value in ADDED[name].values()]
    found = [plain(part) for part in now[1].parts]
    assert [[str(one) for one in value] if isinstance(value, list) else str(value) for value in found] == wanted
    # Nothing else changes: what was there is there.
    before = next(iter(document(name, text).parts(selector, CASES[name][3])))
    after = next(iter(document(name, changed).parts(selector, CASES[name][3])))
    assert [plain(part) for part in after.parts] == [plain(part) for part in before.parts]


@pytest.mark.parametrize("name", CASES)
def test_a_record_that_is_not_there_gets_nothing(name: str) -> None:
    assert document(name, CASES[name][0]).adding("no such record", {"size": "1"}) is None


def test_things_in_things_know_the_closest_around_them() -> None:
    text = '<Map><Thing key="a"><Group><Thing key="b"/></Group></Thing><Thing key="c"/></Map>'
    form = format_named("xml")
    opened = document("xml", text)
    asked = msgspec.convert({"at": "//Thing"}, form.selector)
    a, b, c = opened.parts(asked, ["@key"])
    assert [plain(one.parts[0]) for one in (a, b, c)] == ["a", "b", "c"]
    assert list(opened.around(asked)) == [None, a.where, None]
    blocks = document("block", 'thing "a" {\n  group {\n    thing "b" {\n    }\n  }\n}\n')
    asked = msgspec.convert({"at": "**/thing"}, format_named("block").selector)
    inner = list(blocks.parts(asked, ["@1"]))
    assert [plain(one.parts[0]) for one in inner] == ["a", "b"]
    assert list(blocks.around(asked)) == [None, inner[0].where]


@pytest.mark.parametrize("way", ["at", "@", "child/@", "a/b/@c", "child[@key]/@is", "@a/@b"])
def test_ways_that_lead_nowhere_in_xml_are_told(way: str) -> None:
    told = format_named("xml").way_mistake(way)
    assert bool(told) == (way != "at")
