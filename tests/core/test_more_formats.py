"""XML, CSV, INI, block text and text by regular expressions: read, edited, read again."""

from __future__ import annotations

import csv
import io
from typing import Any
from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.formats import (
    AlreadyThere,
    Body,
    Clash,
    Edits,
    NoSeat,
    Unreadable,
    WrongBody,
    format_named,
    spliced,
)
from hookset.formats.document import placement_at
from hookset.trees import Text
from tests.core.test_formats import NAMES, NEWLINES, done, opened, put

BOMB = '<!ENTITY b0 "tide">' + "".join(f'<!ENTITY b{n} "{f"&b{n - 1};" * 10}">' for n in range(1, 10))
"""Names for ten of the one before: a thousand million times the word."""


def values(name: str, string: str, selector: dict[str, Any], **options: Any) -> list[str]:
    """What a selector finds; each value stands where it is said to stand."""
    document = opened(name, string, **options)
    found = list(document.select(format_named(name).selector(**selector)))
    spans = document.spans([value.where for value in found])
    for value in found:
        start, end = spans[value.where]
        assert start < end or not value.text
        if name != "xml":
            assert string[start:end].startswith(value.text[:3]) or value.pattern
    return [value.text for value in found]


# ---- XML --------------------------------------------------------------------------------------------------------

SCENE = """<?xml version="1.0" encoding="utf-8"?>
<!-- <Wave sheet="commented"/> -->
<Scene>
\t<Water depth='2'>
\t\t<Surface/>
\t\t<Waves><Wave no="1" sheet="ä &gt; b"/></Waves>
\t\t<Empty/>
\t\t<Open></Open>
\t</Water>
</Scene>
"""


def test_xml_values_and_places() -> None:
    assert values("xml", SCENE, {"at": "//Wave/@sheet"}) == ["ä > b"]
    document = opened("xml", SCENE)
    (value,) = document.select(format_named("xml").selector(at="//Wave/@sheet"))
    assert SCENE[slice(*document.spans([value.where])[value.where])] == "ä &gt; b"
    assert values("xml", '<a xmlns="urn:x"><b c="1"/></a>', {"at": "//p:b/@c"}, namespaces={"p": "urn:x"}) == ["1"]


@pytest.mark.parametrize(
    ("seat", "hook", "old", "new"),
    [
        ({"into": "/Scene/Water/Waves"}, '<Wave no="2"/>', 'b"/></Waves>', 'b"/><Wave no="2"/></Waves>'),
        ({"before": "/Scene/Water/Surface"}, "<Bed/>", "\t\t<Surface/>", "\t\t<Bed/>\n\t\t<Surface/>"),
        ({"after": "//Surface"}, "<Bed/>", "\t\t<Surface/>", "\t\t<Surface/>\n\t\t<Bed/>"),
        ({"into": "//Water", "at": "start"}, "<Bed/>", "\t\t<Surface/>", "\t\t<Bed/>\n\t\t<Surface/>"),
        ({"into": "//Water"}, "<a>\n  <b/>\n</a>", "<Open></Open>", "<Open></Open>\n\t\t<a>\n\t\t\t<b/>\n\t\t</a>"),
        ({"into": "//Open"}, "<a/>", "<Open></Open>", "<Open>\n\t\t\t<a/>\n\t\t</Open>"),
    ],
)
def test_xml_elements_go_where_the_seat_says(seat: dict[str, Any], hook: str, old: str, new: str) -> None:
    assert done("xml", SCENE, seat, Body(text=hook)) == SCENE.replace(old, new)


def test_xml_elements_into_one_that_closes_itself() -> None:
    from hookset.formats import Edits, spliced

    placement = put("xml", SCENE, {"into": "//Empty"}, Body(text="<a/>"))
    assert isinstance(placement, Edits)
    assert spliced(SCENE, placement.edits) == SCENE.replace("<Empty/>", "<Empty>\n\t\t\t<a/>\n\t\t</Empty>")


def test_xml_attributes_are_added_and_order_does_not_count() -> None:
    after = done("xml", SCENE, {"on": "//Wave"}, Body(record={"script": 'a"b', "no": 1}))
    assert '<Wave no="1" sheet="ä &gt; b" script="a&quot;b"/>' in after
    assert isinstance(put("xml", SCENE, {"on": "//Wave"}, Body(record={"no": "2"})), Clash)
    from hookset.formats import AlreadyThere

    same = "<Wave  sheet=\"ä &gt; b\"\n no='1'></Wave>"
    assert isinstance(put("xml", SCENE, {"into": "//Waves"}, Body(text=same)), AlreadyThere)


def test_xml_seats_that_are_not_there_once() -> None:
    missing = put("xml", SCENE, {"into": "/Scene/Waves"}, Body(text="<a/>"))
    assert isinstance(missing, NoSeat)
    assert "/Scene/Water/Waves" in missing.candidates
    assert isinstance(put("xml", "<a><b/><b/></a>", {"before": "//b"}, Body(text="<c/>")), NoSeat)
    assert isinstance(put("xml", SCENE, {"into": "//Waves"}, Body(text="<a>")), WrongBody)


@pytest.mark.parametrize(
    ("string", "words"),
    [
        ('<!DOCTYPE a [<!ENTITY b SYSTEM "/etc/passwd">]>\n<a n="&b;"/>', "is not XML"),
        (f"<!DOCTYPE a [{BOMB}]>\n<a n='&b9;'/>", "is nested too deeply or too large"),
        ("<a>\n<b>\n</a>", "is not XML"),
        ("", "is not XML"),
        ("<a>" * 300, "is not XML"),
    ],
)
def test_xml_damage_and_bombs(string: str, words: str) -> None:
    with pytest.raises(Unreadable, match=words):
        opened("xml", string)


def test_xml_names_of_its_own() -> None:
    """Text that a file gives a name is read as that text; what stands elsewhere is not looked into."""
    crew = """<!DOCTYPE crew [
<!-- <man/> --><!ENTITY boat "gull"><!ENTITY men "<man name='bo'/>"><!ENTITY others SYSTEM "others.xml">
]>
<crew of="&boat;_1">
  <man name="al">on the &boat;, <!-- not --> or ashore</man>
  &men;&others;
  <man name="&boat;"/>
</crew>
"""
    assert values("xml", crew, {"at": "/crew/@of"}) == ["gull_1"]
    assert values("xml", crew, {"at": "//man"}) == ["on the gull,", ""]
    assert values("xml", crew, {"at": "//man[@name='al']"}) == ["on the gull,"]
    assert values("xml", crew, {"at": "//man/@name"}) == ["al", "gull"]
    unseen = opened("xml", crew).unseen
    assert [crew[at:][:5] for _, at in unseen if isinstance(at, int)] == ["&men;", "&othe"]
    assert not opened("xml", crew).problems and not opened("xml", crew.replace("&men;&others;", "")).unseen
    assert "&boat;_1" in done("xml", crew, {"into": "/crew"}, Body(text='<man name="cy"/>'))


@given(
    st.lists(st.dictionaries(st.sampled_from("abc"), st.text("xäöü<>&'\" ", max_size=5), max_size=3), max_size=5),
    NEWLINES,
)
def test_xml_takes_an_element_anywhere(elements: list[dict[str, str]], newline: str) -> None:
    root = ElementTree.Element("root")
    for attributes in elements:
        ElementTree.SubElement(root, "e", attributes)
    ElementTree.indent(root)
    string = ElementTree.tostring(root, encoding="unicode").replace("\n", newline).replace("<root />", "<root></root>")
    after = done("xml", string, {"into": "/root"}, Body(text='<new no="1"/>'))
    read = ElementTree.fromstring(after)
    assert [child.attrib for child in read][: len(elements)] == [e.attrib for e in ElementTree.fromstring(string)]
    assert read[-1].tag == "new"


# ---- CSV --------------------------------------------------------------------------------------------------------

CELLS = st.text("abä ,;\"'|\t", max_size=5)


@given(
    st.lists(st.lists(CELLS, min_size=3, max_size=3), min_size=1, max_size=5),
    st.lists(CELLS, min_size=3, max_size=3),
    st.sampled_from(",;\t|"),
    st.sampled_from(["\n", "\r\n"]),
)
def test_csv_rows_are_added(rows: list[list[str]], row: list[str], delimiter: str, newline: str) -> None:
    stream = io.StringIO()
    writer = csv.writer(stream, delimiter=delimiter, lineterminator=newline, quoting=csv.QUOTE_ALL)
    writer.writerows([["type", "x", "y"], *rows])
    record = dict(zip(("type", "x", "y"), row, strict=True))
    if row in rows:
        return
    form = format_named("csv")
    document = form.open(
        __import__("hookset.trees", fromlist=["Text"]).Text(stream.getvalue(), "utf-8"),
        form.options(delimiter=delimiter),
    )
    from hookset.formats import Edits, spliced

    placement = placement_at(document, form.seat(), Body(record=record))
    assert isinstance(placement, Edits)
    after = spliced(stream.getvalue(), placement.edits)
    assert list(csv.reader(io.StringIO(after), delimiter=delimiter)) == [["type", "x", "y"], *rows, row]


@pytest.mark.parametrize(
    ("string", "column", "found"),
    [
        ("type;x\ncrane;1,5\npost;2,5\n", "type", ["crane", "post"]),
        ('# note\ntype,x\r\n\r\n"a, b" ,1\r\nc,2', "type", ["a, b", "c"]),
        ("type\tx\na\t1\n", 1, ["a"]),
        ('type|x\n"q""q"|1\n', "type", ['q"q']),
    ],
)
def test_csv_dialects_are_found_out(string: str, column: str | int, found: list[str]) -> None:
    document = opened("csv", string)
    assert [value.text for value in document.select(format_named("csv").selector(column=column))] == found


def test_csv_columns_conditions_and_damage() -> None:
    table = "kind,name\nboat,a\npier,b\nboat,c\n"
    assert values("csv", table, {"column": "name", "when": {"kind": "boat"}}) == ["a", "c"]
    assert values("csv", "a,b\nc,d\n", {"column": 2}, header=False) == ["b", "d"]
    assert isinstance(put("csv", table, {}, Body(record={"nme": "x"})), WrongBody)
    assert done("csv", table, {}, Body(record={"name": "x, y"})) == table + ',"x, y"\n'
    with pytest.raises(Unreadable, match="does not close"):
        opened("csv", 'a,b\n"c,d\n')


def test_csv_as_spreadsheets_write_it() -> None:
    assert values("csv", "sep=|\r\na|b\r\n1, 2; 3|x\r\n", {"column": "a"}) == ["1, 2; 3"]


def test_csv_rows_that_say_more_than_there_are_columns() -> None:
    ((what, where),) = opened("csv", "a,b\n1,2,\nx, y, z\n").problems
    assert "3 values in a row of 2 columns" in what
    assert where == len("a,b\n1,2,\n")


# ---- INI --------------------------------------------------------------------------------------------------------

INI = '; head\ntop = 1\r\n[sounds]  ; all of them\nbell = a.wav ; loud\nhorn: "b c.wav"\n\n[empty]\n'


def test_ini_values_keys_and_sections() -> None:
    assert values("ini", INI, {"section": "sounds", "key": "*"}) == ["a.wav", "b c.wav"]
    assert values("ini", INI, {"keys": True}) == ["top", "bell", "horn"]
    assert values("ini", INI, {"sections": True}) == ["sounds", "empty"]
    with pytest.raises(Unreadable, match="neither a section nor a key"):
        opened("ini", "[a]\nwhat\n")


def test_ini_marks_in_quotes_are_no_comments() -> None:
    string = '[a]\nsaid = "stop ; or go" ; a sign\nplain = \'a # b\'\nopen = "not closed ; note\n'
    assert values("ini", string, {"key": "*"}) == ["stop ; or go", "a # b", '"not closed']


def test_ini_sections_that_are_lists() -> None:
    string = "[sounds]\r\nbell.wav ; loud\r\n  horn.wav\r\n[texts]\r\nkey = word\r\n"
    assert values("ini", string, {"section": "sounds", "keys": True}, bare=True) == ["bell.wav", "horn.wav"]
    form = format_named("ini")
    document = form.open(Text(string, "utf-8"), form.options(bare=True))
    placement = placement_at(document, form.seat(section="sounds"), Body(record={"gull.wav": "", "bell.wav": ""}))
    assert isinstance(placement, Edits)
    assert spliced(string, placement.edits) == string.replace("horn.wav\r\n", "horn.wav\r\n  gull.wav\r\n")


def test_ini_keys_that_may_be_there_again() -> None:
    string = "[s]\nfile = a.wav\nfile = b.wav\n"
    assert values("ini", string, {"key": "file"}) == ["a.wav", "b.wav"]
    assert isinstance(put("ini", string, {"section": "s", "again": True}, Body(record={"file": "a.wav"})), AlreadyThere)
    assert isinstance(put("ini", string, {"section": "s"}, Body(record={"file": "c.wav"})), Clash)
    after = done("ini", string, {"section": "s", "again": True}, Body(record={"file": "c.wav"}))
    assert after == string + "file = c.wav\n"


@pytest.mark.parametrize(
    ("section", "after"),
    [
        ("sounds", INI.replace('c.wav"\n', 'c.wav"\ngull: "x.wav"\n')),
        ("empty", INI + 'gull: "x.wav"\n'),
        ("new", INI + '\n[new]\ngull: "x.wav"\n'),
        ("", INI.replace("top = 1\r\n", "top = 1\r\ngull = x.wav\n")),
    ],
)
def test_ini_keys_go_to_their_section(section: str, after: str) -> None:
    assert done("ini", INI, {"section": section}, Body(record={"gull": "x.wav"})) == after


@given(st.dictionaries(NAMES, NAMES, max_size=4), st.dictionaries(NAMES, NAMES, min_size=1, max_size=3))
def test_ini_gains_what_it_lacks(there: dict[str, str], record: dict[str, str]) -> None:
    wanted = {key: value for key, value in record.items() if key not in there}
    if wanted:
        string = "[s]\n" + "".join(f"{key}={value}\n" for key, value in there.items())
        after = done("ini", string, {"section": "s"}, Body(record=wanted))
        assert values("ini", after, {"section": "s", "key": "*"}) == [*there.values(), *wanted.values()]


# ---- block text -------------------------------------------------------------------------------------------------

BLOCKS = """// rooms of the old quay
room "quay" {
    light 0.5 0.5 1
    door "east" "oak"   # two names
    {
        sound "creak"
        /* sound "gone" */ target "lamp 1"
    }
    door "west" { sound "bang" }
}
room "cellar" { }
"""


@pytest.mark.parametrize(
    ("selector", "found"),
    [
        ({"at": "room/@1"}, ["quay", "cellar"]),
        ({"at": "room/door/@2"}, ["oak"]),
        ({"at": "room/door/sound"}, ["creak", "bang"]),
        ({"at": "room[quay]/door[west]/sound"}, ["bang"]),
        ({"at": "**/target"}, ["lamp 1"]),
        ({"at": "room/light", "arg": 3}, ["1"]),
        ({"at": "*/light", "arg": 0}, ["0.5", "0.5", "1"]),
    ],
)
def test_block_values_by_their_way(selector: dict[str, Any], found: list[str]) -> None:
    assert values("block", BLOCKS, selector) == found


@pytest.mark.parametrize(
    ("seat", "hook", "old", "new"),
    [
        (
            {"into": "room[quay]"},
            'door "north" {\n  sound "x"\n}',
            '"bang" }\n',
            '"bang" }\n    door "north" {\n        sound "x"\n    }\n',
        ),
        ({"into": "room[cellar]"}, "light 1", '"cellar" { }', '"cellar" {\n    light 1\n}'),
        ({"into": "room/door[west]"}, 'target "a"', '{ sound "bang" }', '{ sound "bang"\n        target "a"\n    }'),
        ({"into": "room[quay]", "at": "start"}, "dark 1", '"quay" {\n', '"quay" {\n    dark 1\n'),
        ({}, 'room "attic" { }', '"cellar" { }\n', '"cellar" { }\nroom "attic" { }\n'),
    ],
)
def test_block_entries_go_into_their_block(seat: dict[str, Any], hook: str, old: str, new: str) -> None:
    assert done("block", BLOCKS, seat, Body(text=hook)) == BLOCKS.replace(old, new)


def test_blocks_without_names() -> None:
    """Things one after the other, each between brackets; what holds them all has no word either."""
    string = '// things\n{\n"class" "world"\n{\n( 0 0 ) planks\n}\n}\n{\n"class" "lamp"\n"key" "lamp_1"\n}\n'
    assert values("block", string, {"at": "*/class"}, nameless=True) == ["world", "lamp"]
    form = format_named("block")
    document = form.open(Text(string, "utf-8"), form.options(nameless=True))
    placement = placement_at(document, form.seat(into=""), Body(text='{\n"class" "buoy"\n}'))
    assert isinstance(placement, Edits)
    assert spliced(string, placement.edits) == string + '{\n"class" "buoy"\n}\n'
    again = form.open(Text(spliced(string, placement.edits), "utf-8"), form.options(nameless=True))
    assert isinstance(placement_at(again, form.seat(into=""), Body(text='{ "class"  "buoy" }')), AlreadyThere)
    with pytest.raises(Unreadable, match="does not close the block that it opens here"):
        form.open(Text('{\n"a" "b"\n', "utf-8"), form.options(nameless=True))


def test_block_forms_of_other_hands() -> None:
    text = 'thing = {\n  name = "a";\n  parts = ["x", "y"]\n}'
    with pytest.raises(Unreadable):
        opened("block", "a { b")
    assert values("block", "begin thing\nname=a;size=1,2;\nend", {"at": "name"}, assign="=", ends=";") == []
    assert values(
        "block",
        "thing a ( name = b; size = 1, 2; )",
        {"at": "thing/size", "arg": 2},
        opens="(",
        closes=")",
        assign="=",
        ends=";",
    ) == ["2"]
    assert isinstance(put("block", BLOCKS, {"into": "room"}, Body(text="x 1")), NoSeat)
    assert isinstance(put("block", BLOCKS, {"into": "room[quay]"}, Body(text="x {")), WrongBody)
    assert values(
        "block", text.replace("[", "").replace("]", ""), {"at": "thing/parts", "arg": 0}, assign="=", ends=";"
    ) == ["x", "y"]
    with pytest.raises(Unreadable, match="does not open"):
        opened("block", "a { }\n}\n")


# ---- text by regular expressions --------------------------------------------------------------------------------

SCRIPT = """// include "gone"
include "base/doors"
include "base/lamps"
const BELL = "quay_bell"

namespace quay {
    on start {
        play BELL at "post"  /* play "gone" */
        say "play \\"gone\\" now"
    }
}
"""
OPTIONS: dict[str, Any] = {
    "comments": (r"//[^\n]*", r"/\*[\s\S]*?\*/"),
    "constants": r'^const (?P<name>\w+) = "(?P<value>[^"]*)"',
}


def test_text_comments_strings_and_constants() -> None:
    play = {"match": r'\bplay (?:"(?P<value>[^"]*)"|(?P<word>\w+))'}
    assert values("text", SCRIPT, play, **OPTIONS) == ["quay_bell"]
    assert values("text", SCRIPT, {"match": r'^include "(?P<value>[^"]*)"'}, **OPTIONS) == ["base/doors", "base/lamps"]
    assert values("text", SCRIPT.replace("const", "// const"), play, **OPTIONS) == ["*"]


@pytest.mark.parametrize(
    ("seat", "hook", "old", "new"),
    [
        ({"after": r'^include "'}, 'include "x"', 'lamps"\n', 'lamps"\ninclude "x"\n'),
        ({"before": r"^const "}, 'const X = "y"', "const BELL", 'const X = "y"\nconst BELL'),
        ({"inside": r"^\s*on start\s", "at": "end"}, "go", 'now"\n', 'now"\n        go\n'),
        ({"inside": r"^\s*on start\s", "at": "start"}, "go", "on start {\n", "on start {\n        go\n"),
        ({"at": "end"}, "go {\n  x\n}", "    }\n}\n", "    }\n}\ngo {\n    x\n}\n"),
    ],
)
def test_text_lines_go_where_the_seat_says(seat: dict[str, Any], hook: str, old: str, new: str) -> None:
    form = format_named("text")
    from hookset.formats import AlreadyThere, Edits, spliced

    document = opened("text", SCRIPT, **OPTIONS)
    placement = placement_at(document, form.seat(**seat), Body(text=hook))
    assert isinstance(placement, Edits)
    after = spliced(SCRIPT, placement.edits)
    assert after == SCRIPT.replace(old, new)
    assert isinstance(placement_at(opened("text", after, **OPTIONS), form.seat(**seat), Body(text=hook)), AlreadyThere)


def test_text_seats_that_are_not_there() -> None:
    assert isinstance(put("text", SCRIPT, {"after": "^import "}, Body(text="x")), NoSeat)
    assert isinstance(put("text", SCRIPT, {"inside": "^on stop ", "at": "end"}, Body(text="x")), NoSeat)


# ---- digits that are none ------------------------------------------------------------------------------------------


@pytest.mark.parametrize("digits", ["²", "٣x", "9" * 5000])
def test_what_only_looks_like_a_number_is_a_name(digits: str) -> None:
    table = opened("csv", "a,b\n1,2\n")
    assert list(table.select(format_named("csv").selector(column=digits))) == []
    rows = opened("json", '{"rows": [1, 2]}')
    placement = placement_at(rows, format_named("json").seat(into=f"/rows/{digits}"), Body(record={"a": 1}))
    assert isinstance(placement, NoSeat)
    assert format_named("json").blank(format_named("json").seat(into=f"/rows/{digits}"))


@pytest.mark.parametrize("step", ["@²", "@" + "9" * 5000])
def test_a_step_counts_with_digits_that_can_be_counted(step: str) -> None:
    with pytest.raises(ValueError, match="is no step"):
        format_named("block").selector(at=f"door/{step}")
