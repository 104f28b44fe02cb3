"""Entries that become items of tables in scripts."""

from __future__ import annotations

from typing import Any

import pytest

from hookset.edits.find import found_exactly, found_plainly
from hookset.edits.place import with_edits
from hookset.formats import Body, Edits, NoSeat, format_named, spliced
from hookset.formats.base import AlreadyThere, Clash, WrongBody
from hookset.project import LedgerEdit, LedgerHook
from hookset.trees import Text

BELL = Body(record={"dong": "c.wav"})
CASES = [
    ("lua", 'S = { ding = "a" }\n', {"into": "S"}, BELL, 'S = { ding = "a", dong = "c.wav" }\n'),
    ("lua", "S = {}\n", {"into": "S"}, BELL, 'S = {\n  dong = "c.wav",\n}\n'),
    (
        "lua",
        'local S = {\n\tb = {\n\t\tding = "a", -- one\n\t\tlast = "b" -- two\n\t},\n}\n',
        {"into": "S.b"},
        Body(record={"deep bell": 'a "c"', "n": 3}),
        'local S = {\n\tb = {\n\t\tding = "a", -- one\n\t\tlast = "b", -- two\n\t\t["deep bell"] = "a \\"c\\"",\n'
        "\t\tn = 3\n\t},\n}\n",
    ),
    (
        "lua",
        'return {\r\n  files = {\r\n    "a.lua",\r\n  },\r\n}\r\n',
        {"into": "return.files", "at": "start"},
        Body(text='"c.lua"'),
        'return {\r\n  files = {\r\n    "c.lua",\r\n    "a.lua",\r\n  },\r\n}\r\n',
    ),
    ("lua", 'declare{ needs = { "a" } }\n', {"into": "declare().needs"}, Body(text='"c"'), 'declare{ needs = { "a", "c" } }\n'),
    (
        "lua",
        "S = {\n  { id = 1 };\n}\n",
        {"into": "S", "form": "row"},
        Body(record={"id": 2, "of": [1, "x"], "on": True, "deep": {"no": None}}),
        'S = {\n  { id = 1 };\n  { id = 2, of = { 1, "x" }, on = true, deep = { no = nil } },\n}\n',
    ),
    (
        "ecmascript",
        'export const S = Object.freeze({\n  ding: "a",\n});\n',
        {"into": "S"},
        Body(record={"dong": "b", "a-b": None}),
        'export const S = Object.freeze({\n  ding: "a",\n  dong: "b",\n  "a-b": null,\n});\n',
    ),
    ("ecmascript", 'const F = ["a"];\n', {"into": "F"}, Body(text='"c"'), 'const F = ["a", "c"];\n'),
    (
        "ecmascript",
        "export default {\n  units: [\n    { id: 1 }\n  ]\n};\n",
        {"into": "return.units", "form": "row"},
        Body(record={"id": 2}),
        "export default {\n  units: [\n    { id: 1 },\n    { id: 2 }\n  ]\n};\n",
    ),
]  # fmt: skip


def placed(language: str, source: str, seat: dict[str, Any], body: Body) -> Any:
    form = format_named(language)
    return form.open(Text(source, "utf-8"), form.options()).put(form.seat(**seat), body)  # type: ignore[attr-defined]


@pytest.mark.parametrize(("language", "source", "seat", "body", "after"), CASES)
def test_an_item_stands_where_the_seat_says(
    language: str, source: str, seat: dict[str, Any], body: Body, after: str
) -> None:
    placement = placed(language, source, seat, body)
    assert isinstance(placement, Edits)
    assert spliced(source, placement.edits) == after
    assert isinstance(placed(language, after, seat, body), AlreadyThere)


def test_each_stretch_of_an_entry_is_found_by_its_neighbours() -> None:
    text = Text(CASES[2][1], "utf-8")
    placement = placed("lua", text.string, CASES[2][2], CASES[2][3])
    hook = with_edits(LedgerHook(order=1, path="s.lua", key="s"), text, placement.edits)
    after = spliced(text.string, placement.edits)
    assert len(hook.edits) == 2
    assert all(found_exactly(after, edit) is not None for edit in hook.edits)


def test_a_comma_that_came_later_hides_nothing() -> None:
    edit = LedgerEdit(new="\n  dong = 1", old="", above="ding = 1,", below="}")
    assert found_plainly("S = {\n  ding = 1, -- changed\n  dong = 1,\n  low = 2\n}\n", edit) is not None


@pytest.mark.parametrize(
    ("source", "way", "body", "outcome"),
    [
        pytest.param("S = { dong = 'x' }\n", "S", BELL, Clash, id="another value of the key"),
        pytest.param("S = { dong = 'c.wav', }\n", "S", BELL, AlreadyThere, id="in other quotes"),
        pytest.param("S = { a = 1 }\n", "S.b", BELL, NoSeat, id="no such table"),
        pytest.param("S = 1\n", "S", BELL, NoSeat, id="no table"),
        pytest.param("f{}\nf{}\n", "f()", BELL, NoSeat, id="two calls"),
        pytest.param("S = {}\n", "S", Body(text="a ="), WrongBody, id="no item"),
        pytest.param("S = {}\n", "S", Body(text="} x = {"), WrongBody, id="out of the table"),
    ],
)
def test_what_is_no_new_item_is_told(source: str, way: str, body: Body, outcome: type) -> None:
    assert isinstance(placed("lua", source, {"into": way}, body), outcome)


@pytest.mark.parametrize("language", ["lua", "ecmascript"])
@pytest.mark.parametrize("way", ["S", "S.bells.deep", "return.files", "declare().needs"])
def test_a_blank_file_has_the_table(language: str, way: str) -> None:
    form = format_named(language)
    seat = {"into": way}
    assert isinstance(placed(language, form.blank(form.seat(**seat)), seat, BELL), Edits)
