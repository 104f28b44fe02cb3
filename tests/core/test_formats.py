"""Edits: every character outside of the span stays, and reading afterwards sees exactly what was set."""

from __future__ import annotations

import json
import tomllib
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.formats import (
    AlreadyThere,
    Body,
    Clash,
    Document,
    Edits,
    NoSeat,
    Unreadable,
    format_named,
    format_names,
    spliced,
)
from hookset.formats.document import HasRows, placement_at, records_of
from hookset.trees import Text

NEWLINES = st.sampled_from(["\n", "\r\n"])
NAMES = st.text("abcdefgäöß_", min_size=1, max_size=8)
SCALARS = st.one_of(
    st.text(st.characters(exclude_categories=["Cs", "Cc"]), max_size=12), st.integers(-1000, 1000), st.booleans()
)
RECORDS = st.dictionaries(NAMES, SCALARS, min_size=1, max_size=4)


def opened(name: str, string: str, **options: Any) -> Document:
    form = format_named(name)
    return form.open(Text(string, "utf-8"), form.options(**options))


def put(name: str, string: str, seat: dict[str, Any], body: Body) -> Any:
    return placement_at(opened(name, string), format_named(name).seat(**seat), body)


def done(name: str, string: str, seat: dict[str, Any], body: Body) -> str:
    """The text after the edit, which only adds, and which counts as there afterwards."""
    placement = put(name, string, seat, body)
    assert isinstance(placement, Edits), placement
    after = spliced(string, placement.edits)
    rebuilt, position, shift = "", 0, 0
    for edit in sorted(placement.edits, key=lambda e: e.start):
        start = edit.start + shift
        assert after[start : start + len(edit.text)] == edit.text
        assert not string[edit.start : edit.end].strip()
        rebuilt += after[position:start] + string[edit.start : edit.end]
        position = start + len(edit.text)
        shift += len(edit.text) - (edit.end - edit.start)
    assert rebuilt + after[position:] == string
    assert isinstance(put(name, after, seat, body), AlreadyThere)
    return after


def test_every_format_says_what_it_is() -> None:
    assert {"any", "audio", "json", "lines", "lua", "picture", "toml"} <= set(format_names())
    for name in format_names():
        assert format_named(name).title


# ---- lines ------------------------------------------------------------------------------------------------------


@given(
    st.lists(NAMES, unique=True, max_size=6),
    NAMES,
    NEWLINES,
    st.booleans(),
    st.sampled_from(["start", "end", "sorted"]),
)
def test_lines_gain_one_row(rows: list[str], row: str, newline: str, ended: bool, at: str) -> None:
    string = newline.join(["# a list", *rows]) + (newline if ended else "")
    if row in rows:
        return
    after = done("lines", string, {"at": at}, Body(text=row))
    there = [value.text for value in opened("lines", after).select(format_named("lines").selector())]
    assert sorted(there) == sorted([*rows, row])
    if at == "end":
        assert there[-1] == row
    if "\r\n" in string:
        assert "\n" not in after.replace("\r\n", "")


def test_comments_and_blanks_are_no_rows() -> None:
    document = opened("lines", "# x\n\n  a/b.png   # why\nwith#inside\n; y\n", comment=("#", ";"))
    assert [value.text for value in document.select(format_named("lines").selector())] == ["a/b.png", "with#inside"]


@pytest.mark.parametrize(
    ("string", "entry", "at", "after"),
    [
        ("a\tx\nb\ty\n", "a z", "end", "a\tx\nb\ty\na\tz\n"),
        ("a\tx\nb\ty\n", "a z", "grouped", "a\tx\na\tz\nb\ty\n"),
        ("long  x\na     y\n", "is z", "end", "long  x\na     y\nis    z\n"),
        ("long  x\na y\n", "is z", "end", "long  x\na y\nis z\n"),
        ("a  x\nb  y\n", "longer z", "grouped", "a  x\nb  y\nlonger z\n"),
        ("", "a x", "grouped", "a x\n"),
        ("a x y\n", '"of two" x', "end", 'a x y\n"of two" x\n'),
    ],
)
def test_fields_of_a_new_line_stand_where_those_of_the_others_do(string: str, entry: str, at: str, after: str) -> None:
    document = opened("lines", string, fields="blanks")
    placement = placement_at(document, format_named("lines").seat(at=at), Body(text=entry))
    assert isinstance(placement, Edits)
    assert spliced(string, placement.edits) == after
    again = placement_at(opened("lines", after, fields="blanks"), format_named("lines").seat(at=at), Body(text=entry))
    assert isinstance(again, AlreadyThere)


def test_fields_between_marks_of_their_own_can_be_empty() -> None:
    document = opened("lines", 'a, "b, c" ,,d\n', fields=",")
    ((_, record),) = records_of(document, format_named("lines").selector())
    assert record == {"1": "a", "2": "b, c", "3": "", "4": "d"}
    assert isinstance(document, HasRows)
    ((value, _),) = document.rows(format_named("lines").selector(field=4))
    assert document.spans([value.where]) == {value.where: (12, 13)}


# ---- JSON -------------------------------------------------------------------------------------------------------


@given(st.lists(RECORDS, max_size=4), RECORDS, st.sampled_from([None, 1, 2, 4]), NEWLINES)
def test_json_rows_are_added(rows: list[Any], record: Any, indent: int | None, newline: str) -> None:
    if record in rows:
        return
    data = {"before": 1, "rows": rows, "list": list(range(len(rows))), "after": {"x": [1, 2]}}
    string = json.dumps(data, indent=indent, ensure_ascii=False).replace("\n", newline)
    after = done("json", string, {"into": "/rows", "listed_in": "/list"}, Body(record=record))
    wanted = data | {"rows": [*rows, record], "list": list(range(len(rows) + 1))}
    assert json.loads(after) == wanted


@given(RECORDS, RECORDS, st.sampled_from([None, 2]), st.sampled_from(["start", "end"]))
def test_json_keys_are_added(there: dict[str, Any], record: dict[str, Any], indent: int | None, at: str) -> None:
    wanted = {key: value for key, value in record.items() if key not in there}
    if not wanted:
        return
    string = json.dumps({"a": {"b": there}}, indent=indent)
    after = done("json", string, {"into": "/a/b", "form": "keys", "at": at}, Body(record=wanted))
    assert json.loads(after) == {"a": {"b": there | wanted}}


@given(
    st.recursive(
        SCALARS, lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=4), inner, max_size=3)
    )
)
def test_json_spans_are_those_of_the_values(data: Any) -> None:
    string = json.dumps({"top": data}, indent=1)
    document = opened("json", string)
    pointers = ["", "/top"]
    if isinstance(data, dict):
        pointers += ["/top/" + key.replace("~", "~0").replace("/", "~1") for key in data]
    if isinstance(data, list):
        pointers += [f"/top/{index}" for index in range(len(data))]
    values = [{"top": data}, data]
    values += list(data.values()) if isinstance(data, dict) else data if isinstance(data, list) else []
    spans = document.spans(pointers)
    for pointer, value in zip(pointers, values, strict=True):
        start, end = spans[pointer]
        assert json.loads(string[start:end]) == value


def test_json_seat_whose_words_nobody_filled_in_is_nowhere() -> None:
    assert isinstance(put("json", '{"a": [{"n": "x"}]}', {"into": "$.a[?@.n == '{which}']"}, Body(record={})), NoSeat)


def test_json_differing_value_is_a_clash_and_no_array_is_no_seat() -> None:
    assert isinstance(put("json", '{"a": 1}', {"into": "", "form": "keys"}, Body(record={"a": 2})), Clash)
    missing = put("json", '{"nodes": []}', {"into": "/nods"}, Body(record={"a": 2}))
    assert isinstance(missing, NoSeat)
    assert missing.candidates == ("/nodes",)


@pytest.mark.parametrize(
    ("string", "offset"), [('{"a": }', 6), ('{"a": 1\n"b": 2}', 7), ("[" * 100_000, 0)], ids=["value", "comma", "deep"]
)
def test_json_damage_is_told_where_it_is(string: str, offset: int) -> None:
    with pytest.raises(Unreadable) as told:
        opened("json", string)
    assert told.value.where == offset


# ---- TOML -------------------------------------------------------------------------------------------------------


@given(st.lists(RECORDS, max_size=4), RECORDS, NEWLINES, st.booleans())
def test_toml_tables_are_added(rows: list[Any], record: Any, newline: str, ended: bool) -> None:
    if record in rows:
        return
    lines = ["# sounds", 'title = "x"']
    for row in rows:
        lines += [
            "",
            "[[sound]]",
            *(f"{json.dumps(k, ensure_ascii=False)} = {json.dumps(v, ensure_ascii=False)}" for k, v in row.items()),
        ]
    string = newline.join(lines) + (newline if ended else "")
    after = done("toml", string, {"into": "/sound"}, Body(record=record))
    assert tomllib.loads(after) == {"title": "x", "sound": [*rows, record]}
    if newline == "\r\n":
        assert "\n" not in after.replace("\r\n", "")


@given(RECORDS, RECORDS, st.booleans())
def test_toml_keys_are_added_above_the_first_table(there: dict[str, Any], record: dict[str, Any], table: bool) -> None:
    wanted = {key: value for key, value in record.items() if key not in there}
    if not wanted:
        return
    string = "".join(
        f"{json.dumps(k, ensure_ascii=False)} = {json.dumps(v, ensure_ascii=False)}\n" for k, v in there.items()
    )
    string += '\n[last]\nx = "y"\n' if table else ""
    after = done("toml", string, {"into": "", "form": "keys"}, Body(record=wanted))
    assert tomllib.loads(after) == there | wanted | ({"last": {"x": "y"}} if table else {})


@pytest.mark.parametrize(
    ("before", "after"),
    [
        pytest.param(
            '[[sound]]\nalias="a"   # one\n\n[[sound]]\nalias="b"\n# the end\n[other]\nx=1\n',
            '[[sound]]\nalias="a"   # one\n\n[[sound]]\nalias="b"\n\n[[sound]]\nalias="c"\n# the end\n[other]\nx=1\n',
            id="after-the-last-block-in-its-spacing",
        ),
        pytest.param(
            '[[sound]]\nalias = "a"\n[sound.more]\nx = 1\n',
            '[[sound]]\nalias = "a"\n[sound.more]\nx = 1\n\n[[sound]]\nalias = "c"\n',
            id="after-its-sub-table",
        ),
        pytest.param(
            'sound = [\n    { alias = "a" },\n]\n',
            'sound = [\n    { alias = "a" },\n    { alias = "c" },\n]\n',
            id="inline-tables",
        ),
        pytest.param("", '[[sound]]\nalias = "c"\n', id="empty"),
    ],
)
def test_toml_rows_stand_where_their_neighbours_do(before: str, after: str) -> None:
    assert done("toml", before, {"into": "/sound"}, Body(record={"alias": "c"})) == after


def test_toml_dotted_and_nested_keys_are_one_name() -> None:
    document = opened("toml", '"a.b" = 1\n[a]\nc = 2\n')
    selector = format_named("toml").selector(leaves="$")
    assert [value.text for value in document.select(selector)] == ["a.b", "a.c"]
    seat = {"into": "", "form": "keys"}
    assert isinstance(put("toml", "[a]\nb = 'x'\n", seat, Body(record={"a.b": "x"})), AlreadyThere)
    assert isinstance(put("toml", "[a]\nb = 'y'\n", seat, Body(record={"a.b": "x"})), Clash)


def test_toml_spans_name_the_line() -> None:
    string = '"ü" = "ü"\n[[s]]\na = 1\n[[s]]\na = [1, { b = "x" }]\n"q.r" = 2\n[t."u v"]\nw.x = 3\n'
    spans = opened("toml", string).spans(["/ü", "/s/1/a/1/b", "/s/1/q.r", "/t/u v/w/x", "/s/0"])
    assert {where: string[slice(*span)] for where, span in spans.items()} == {
        "/ü": '"ü"',
        "/s/1/a/1/b": '"x"',
        "/s/1/q.r": "2",
        "/t/u v/w/x": "3",
        "/s/0": "[[s]]\na = 1",
    }


def test_toml_damage_is_told_where_it_is() -> None:
    with pytest.raises(Unreadable) as told:
        opened("toml", 'a = 1\r\nb = \r\nc = "x\r\n')
    assert told.value.where == len("a = 1\r\nb = ")


# ---- JSON as people write it --------------------------------------------------------------------------------------

RELAXED = {"comments": True, "trailing_commas": True}
NOTES = st.sampled_from(["", '// a, "note" }', "/* two, */", "/* of [\n several { lines */"])


@st.composite
def written_by_hand(draw: st.DrawFn) -> tuple[str, list[Any]]:
    """A list in JSON with comments between its elements, and maybe a comma after the last."""
    rows = draw(st.lists(st.one_of(st.integers(0, 99), st.sampled_from(["a//b", "/*", ",]", 'x\\"'])), max_size=4))
    newline = draw(NEWLINES)
    lines = ["{", f'  "rows": [ {draw(NOTES)}']
    for number, row in enumerate(rows, 1):
        comma = "," if number < len(rows) or draw(st.booleans()) else ""
        lines += [f"    {draw(st.sampled_from(['', '/* x */ ']))}{json.dumps(row)}{comma} {draw(NOTES)}"]
    lines += [f"  ] {draw(NOTES)}", "}", ""]
    return newline.join(line.replace("\n", newline) for line in lines), rows


@given(written_by_hand(), RECORDS, st.sampled_from(["start", "end"]))
def test_json_with_comments_gains_one_row(given_text: tuple[str, list[Any]], record: Any, at: str) -> None:
    string, rows = given_text
    seat = format_named("json").seat(into="/rows", at=at)
    placement = placement_at(opened("json", string, **RELAXED), seat, Body(record=record))
    assert isinstance(placement, Edits)
    assert all(not string[edit.start : edit.end].strip() for edit in placement.edits)
    after = opened("json", spliced(string, placement.edits), **RELAXED)
    (there,) = (value for _, value in records_of(after, format_named("json").selector(at="$.rows")))
    assert there == ([record, *rows] if at == "start" else [*rows, record])
    assert isinstance(placement_at(after, seat, Body(record=record)), AlreadyThere)


def test_json_rows_go_below_the_note_on_the_last_one() -> None:
    string = '{ "rows": [\n  1 // one, the first\n  // end\n] }\n'
    placement = placement_at(
        opened("json", string, **RELAXED), format_named("json").seat(into="/rows"), Body(record={"a": 2})
    )
    assert isinstance(placement, Edits)
    assert spliced(string, placement.edits) == '{ "rows": [\n  1, // one, the first\n  {"a": 2}\n  // end\n] }\n'


@given(written_by_hand())
def test_json_spans_are_right_beside_comments(given_text: tuple[str, list[Any]]) -> None:
    string, rows = given_text
    wheres = [f"/rows/{index}" for index in range(len(rows))]
    spans = opened("json", string, **RELAXED).spans(wheres)
    assert [json.loads(string[slice(*spans[where])]) for where in wheres] == rows


@pytest.mark.parametrize(
    ("string", "options", "words"),
    [
        ('{ "a": 1 } // note', {}, "has a comment, which JSON does not know"),
        ('{ /* note */ "a": 1 }', {"trailing_commas": True}, "has a comment, which JSON does not know"),
        ('{ "a": [1, 2,] }', {"comments": True}, "has a comma behind the last of several"),
        ('{ "a": 1, }', {}, "has a comma behind the last of several"),
        ('{ "a": 1, /* never closed }', RELAXED, "opens a comment that it does not close"),
        ('{ "a": [,] }', RELAXED, "is not JSON"),
    ],
)
def test_json_says_what_the_layout_could_allow(string: str, options: dict[str, bool], words: str) -> None:
    with pytest.raises(Unreadable, match=words):
        opened("json", string, **options)


def test_json_names_given_twice_are_two_definitions() -> None:
    names = [
        value.text
        for value in opened("json", '{"a": {"b": 1, "c": 2, "b": 3}}').select(format_named("json").selector(leaves="$"))
    ]
    assert names == ["a.b", "a.c", "a.b"]
