"""Every format writes values its own way: what is written is what is read back, and every other character stays."""

from __future__ import annotations

import csv
import io
import json
import tomllib
from collections.abc import Callable
from typing import Any

import lupa
import pytest
import yaml
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree

from hookset.edits.place import value_written
from hookset.formats import AlreadyThere, Edits, WrongBody, format_named, spliced
from hookset.formats.base import Body
from hookset.trees import Text

WORDS = st.text(st.characters(exclude_categories=["Cs"]), max_size=12)
TRICKY = st.sampled_from(
    [
        "", " ", "yes", "No", "null", "~", "a: b", "a #b", "- a", "0x1F", "1e3", ".5", "2020-01-01", "'", '"', "\\", "]]",
        "a]", "]=]", "`", "${a}", "tab\there", "line\nend", "\r\n", "{a}", "[a]", "a, b", ";", "<&>", "--", "//", "%", "*",
        "&x", "!x", "|", "@", "\x7f", "\u2028", "\u202e", "=", "True", "12", "ä", "😀",
    ]
)  # fmt: skip
TEXTS = st.one_of(WORDS, TRICKY)
NUMBERS = st.one_of(st.integers(-(10**12), 10**12), st.floats(allow_nan=False, allow_infinity=False, width=32))


def in_lua(source: str) -> Any:
    runtime = lupa.LuaRuntime(encoding="utf-8", unpack_returned_tuples=False)
    return runtime.execute(f"{source}\nreturn value")


def in_csv(source: str) -> Any:
    return next(csv.DictReader(io.StringIO(source, newline="")))["b"]


# (format, file, how the value is asked for, an independent reader of it)
SLOTS: dict[str, tuple[str, str, dict[str, Any], Callable[[str], Any]]] = {
    "json": ("json", '{"a": 1, "b": "old", "c": [2]}\n', {"at": "$.b"}, lambda s: json.loads(s)["b"]),
    "toml": ("toml", 'a = 1\nb = "old" # so\n[c]\nd = 2\n', {"at": "$.b"}, lambda s: tomllib.loads(s)["b"]),
    "toml-literal": ("toml", "b = 'old' # so\n", {"at": "$.b"}, lambda s: tomllib.loads(s)["b"]),
    "toml-lines": ("toml", 'b = """old\nmore"""\nc = 1\n', {"at": "$.b"}, lambda s: tomllib.loads(s)["b"]),
    "yaml": ("yaml", "a: 1\nb: old # so\nc: [2]\n", {"at": "$.b"}, lambda s: yaml.safe_load(s)["b"]),
    "yaml-single": ("yaml", "b: 'old' # so\nc: 2\n", {"at": "$.b"}, lambda s: yaml.safe_load(s)["b"]),
    "yaml-double": ("yaml", 'b: "old"\nc: 2\n', {"at": "$.b"}, lambda s: yaml.safe_load(s)["b"]),
    "yaml-flow": ("yaml", "x: {b: old, c: 2}\n", {"at": "$.x.b"}, lambda s: yaml.safe_load(s)["x"]["b"]),
    "lua": ("lua", 'value = "old" -- so\n', {"assign": "value"}, in_lua),
    "lua-single": ("lua", "value = 'old'\n", {"assign": "value"}, in_lua),
    "lua-long": ("lua", "value = [[old]]\nother = 1\n", {"assign": "value"}, in_lua),
    "csv": ("csv", "a,b,c\n1,old,2\n", {"column": "b"}, in_csv),
    "csv-quoted": ("csv", 'a,b,c\n"1","old","2"\n', {"column": "b"}, in_csv),
    "xml": (
        "xml",
        '<m>\n  <o a="1" b="old"/>\n</m>\n',
        {"at": "//o/@b"},
        lambda s: etree.fromstring(s.encode())[0].get("b"),
    ),
    "xml-single": (
        "xml",
        "<m><o b='old'/></m>\n",
        {"at": "//o/@b"},
        lambda s: etree.fromstring(s.encode())[0].get("b"),
    ),
}


def written(slot: str, value: Any, file: str | None = None) -> Any:
    """The file with the value in it, or what came of it instead."""
    name, whole, ask, _ = SLOTS[slot]
    text = Text(file or whole, "utf-8")
    form = format_named(name)
    options = form.options()
    document = form.open(text, options)
    placement = value_written(name, options, text, document, form.selector(**ask), value, "there")
    if not isinstance(placement, Edits):
        return placement
    (edit,) = placement.edits
    after = spliced(text.string, placement.edits)
    assert after.startswith(text.string[: edit.start]) and after.endswith(text.string[edit.end :])
    return after


def holds(slot: str, value: str) -> bool:
    """Whether the format has a way to write the text at all."""
    if slot.startswith("xml"):
        return all(c in "\t\n\r" or (c >= "\x20" and c not in "\ufffe\uffff") for c in value)
    if slot.startswith("csv"):
        # An empty cell says nothing, and this reader takes blanks around a cell for none of it.
        return bool(value) and "\r" not in value
    return True


@pytest.mark.parametrize("slot", SLOTS)
@given(value=TEXTS)
@settings(deadline=None, max_examples=80)
def test_any_text_is_read_back_as_it_was_written(slot: str, value: str) -> None:
    after = written(slot, value)
    if isinstance(after, WrongBody):
        assert not holds(slot, value), value
        return
    assert value == "old" or isinstance(after, str), after
    read = SLOTS[slot][3](after if isinstance(after, str) else SLOTS[slot][1])
    assert read == value


@pytest.mark.parametrize(
    ("slot", "file"),
    [
        ("json", '{"b": 1}'), ("toml", "b = 1 # so\n"), ("yaml", "b: 1 # so\n"), ("lua", "value = 1 -- so\n"),
        ("csv", "a,b\n1,1\n"), ("xml", '<m><o b="1"/></m>'),
    ],
)  # fmt: skip
@given(value=NUMBERS)
@settings(deadline=None, max_examples=60)
def test_any_number_is_read_back_as_it_was_written(slot: str, file: str, value: float) -> None:
    after = written(slot, value, file)
    if isinstance(after, AlreadyThere):
        assert value == 1
        return
    assert isinstance(after, str), after
    assert float(SLOTS[slot][3](after)) == value


@pytest.mark.parametrize(
    ("slot", "file", "value", "after"),
    [
        ("lua", "value = [[abc]]\n", "quay", "value = [[quay]]\n"),
        ("lua", "value = [[abc]]\n", "a]", "value = [=[a]]=]\n"),
        ("lua", "value = true\n", False, "value = false\n"),
        ("lua", "value = -5\n", 7, "value = 7\n"),
        ("yaml", "b: yes\n", False, "b: no\n"),
        ("yaml", "b: old\n", "yes", 'b: "yes"\n'),
        ("yaml", "b: old\n", "a: b", 'b: "a: b"\n'),
        ("json", '{"b": true}', False, '{"b": false}'),
        ("json", '{"b": 1.5}', 2, '{"b": 2}'),
        ("json", '{"b": "1"}', 2, '{"b": "2"}'),
        ("toml", "b = true\n", False, "b = false\n"),
        ("xml", '<m><o b="1"/></m>', 'a"<&\t', '<m><o b="a&quot;&lt;&amp;&#9;"/></m>'),
        ("csv", "a,b\n1,old\n", 'x,"y"', 'a,b\n1,"x,""y"""\n'),
    ],
)
def test_values_keep_the_manner_of_the_file(slot: str, file: str, value: Any, after: str) -> None:
    assert written(slot, value, file) == after


@pytest.mark.parametrize(
    ("slot", "file", "value"),
    [
        pytest.param("lua", "value = 1\n", "quay", id="a-word-for-a-number"),
        pytest.param("lua", "value = other\n", "quay", id="a-word-for-a-name"),
        pytest.param("lua", "value = true\n", "quay", id="a-word-for-a-truth"),
        pytest.param("json", '{"b": 1}', "quay", id="a-word-for-a-json-number"),
        pytest.param("toml", "b = 2020-01-01\n", 3.5, id="a-number-for-a-date"),
        pytest.param("xml", '<m><o b="1"/></m>', "\x01", id="what-xml-has-no-place-for"),
        pytest.param("json", '{"b": 1}', float("inf"), id="no-number-of-json"),
    ],
)
def test_what_does_not_fit_is_refused(slot: str, file: str, value: Any) -> None:
    assert not isinstance(written(slot, value, file), str)


@pytest.mark.parametrize(
    ("file", "match", "value", "after"),
    [
        ("let COST = 750;\n", r"COST = (?P<value>\d+)", 900, "let COST = 900;\n"),
        ("start = 3,\n", r"start = (?P<value>\d+)", 4, "start = 4,\n"),
        ('name = "White Quay",\n', r'name = "(?P<value>[^"]*)"', "Old Quay", 'name = "Old Quay",\n'),
        ('name = "White Quay",\n', r'name = "(?P<value>(?:[^"\\]|\\.)*)"', 'say "so"', None),
    ],
)
def test_text_by_patterns_has_the_value_where_the_group_is(
    file: str, match: str, value: Any, after: str | None
) -> None:
    form = format_named("text")
    options = form.options()
    text = Text(file, "utf-8")
    placement = value_written(
        "text", options, text, form.open(text, options), form.selector(match=match), value, "there"
    )
    if after is None:
        assert isinstance(placement, WrongBody)
        return
    assert isinstance(placement, Edits)
    assert spliced(file, placement.edits) == after


@pytest.mark.parametrize(
    ("file", "value", "after"),
    [
        ("[a]\nb = old ; so\n", "x ; y", '[a]\nb = "x ; y" ; so\n'),
        ('[a]\nb = "old"\n', 'say "so"', "[a]\nb = 'say \"so\"'\n"),
        ("[a]\nb = old\n", " x ", '[a]\nb = " x "\n'),
        ("[a]\nb = old\n", "two\nlines", None),
    ],
)
def test_ini_takes_the_quotes_that_a_value_needs(file: str, value: str, after: str | None) -> None:
    form = format_named("ini")
    options = form.options()
    text = Text(file, "utf-8")
    ask = form.selector(section="a", key="b")
    placement = value_written("ini", options, text, form.open(text, options), ask, value, "there")
    assert (spliced(file, placement.edits) if isinstance(placement, Edits) else None) == after


# What a format has no words for is refused, in each way of setting it.

FLAT: dict[str, tuple[str, str, dict[str, Any]]] = {
    "csv": ("csv", "a,k\n1,2\n", {}),
    "ini": ("ini", "[a]\nb = 1\n", {"section": "a"}),
    "po": ("po", 'msgid "a"\nmsgstr "b"\n', {}),
    "xml": ("xml", '<m><o b="1"/></m>\n', {"on": "//o"}),
}


@pytest.mark.parametrize("slot", FLAT)
@pytest.mark.parametrize("value", [[1, 2], {"x": 1}, None, float("inf"), float("nan"), [], {}])
def test_a_record_of_one_value_each_takes_no_lists_and_tables(slot: str, value: Any) -> None:
    name, whole, seat = FLAT[slot]
    form = format_named(name)
    document: Any = form.open(Text(whole, "utf-8"), form.options())
    assert isinstance(document.put(form.seat(**seat), Body(record={"k": value})), WrongBody)


@pytest.mark.parametrize("slot", FLAT)
@pytest.mark.parametrize(("value", "said"), [(True, "true"), (False, "false"), (7, "7"), (2.5, "2.5"), ("a b", "a b")])
def test_what_a_record_says_is_in_the_words_of_data(slot: str, value: Any, said: str) -> None:
    name, whole, seat = FLAT[slot]
    form = format_named(name)
    document: Any = form.open(Text(whole, "utf-8"), form.options())
    placed = document.put(form.seat(**seat), Body(record={"k": value}))
    assert isinstance(placed, Edits), placed
    after: Any = form.open(Text(spliced(whole, placed.edits), "utf-8"), form.options())
    assert isinstance(after.put(form.seat(**seat), Body(record={"k": said})), AlreadyThere)
    assert isinstance(after.put(form.seat(**seat), Body(record={"k": value})), AlreadyThere)


@pytest.mark.parametrize(
    ("value", "said"),
    [
        ([1, 2.5, "a"], '[ 1, 2.5, "a" ]'), ({"x": 1, "y": [True]}, '{ "x": 1, "y": [ true ] }'), (None, "null"),
        ('a "b"\n', '"a \\"b\\"\\n"'), ([], "[  ]"),
    ],
)  # fmt: skip
def test_lists_and_tables_are_written_as_resources_have_them(value: Any, said: str) -> None:
    form = format_named("resource")
    document: Any = form.open(Text("[a]\n\nb=1\n", "utf-8"), form.options())
    placed = document.put(form.seat(section="a"), Body(record={"k": value}))
    assert spliced("[a]\n\nb=1\n", placed.edits) == f"[a]\n\nb=1\nk={said}\n"


@given(TEXTS)
def test_an_attribute_is_read_as_it_was_set(value: str) -> None:
    form = format_named("xml")
    whole = '<m><o b="1"/></m>\n'
    document: Any = form.open(Text(whole, "utf-8"), form.options())
    placed = document.put(form.seat(on="//o"), Body(record={"k": value}))
    if holds("xml", value):
        assert etree.fromstring(spliced(whole, placed.edits).encode())[0].get("k") == value
