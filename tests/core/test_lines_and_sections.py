"""Lists of lines and INI files: what is read back is what was written, wherever it stands, and is edited where it is."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.formats import Unreadable, format_named, spliced
from hookset.formats.base import Body
from hookset.formats.document import columns_with_rows, string_of
from hookset.trees import Text
from tests.conftest import run_hookset

WORD = st.text(st.sampled_from("abAB_.-09é"), min_size=1, max_size=6)
GAP = st.sampled_from([" ", "  ", "\t", " \t "])
LINES = format_named("lines")
INI = format_named("ini")


@st.composite
def rows(draw: st.DrawFn) -> list[tuple[str, list[str]]]:
    """Lines with their fields: some quoted, with comments and blanks around."""
    found = []
    for _ in range(draw(st.integers(1, 8))):
        words = draw(st.lists(WORD, min_size=1, max_size=5))
        shown = [f'"{word} {word}"' if draw(st.integers(0, 5)) == 0 else word for word in words]
        text = draw(st.sampled_from(["", "  "])) + "".join(one + draw(GAP) for one in shown)
        found.append((text + draw(st.sampled_from(["", "# said"])), [one.strip('"') for one in shown]))
    return found


@given(rows(), st.integers(1, 5), st.sampled_from(["a", "b", "A", ""]))
def test_fields_stand_where_they_are_said_to(lines: Sequence[tuple[str, list[str]]], number: int, word: str) -> None:
    source = "\r\n".join(text for text, _ in lines)
    document = LINES.open(Text(source, "utf-8"), LINES.options(fields="blanks"))
    asked = LINES.selector(field=number)
    values = list(document.select(asked))
    assert [one.text for one in values] == [fields[number - 1] for _, fields in lines if len(fields) >= number]
    assert all(string_of(document).startswith(one.text, int(one.where)) for one in values)
    stands = [[field.start for field in row.fields] for row in document.read]  # type: ignore[attr-defined]
    assert [one.where for one in values] == [row[number - 1] for row in stands if len(row) >= number]
    assert all(one < other for row in stands for one, other in pairwise(row))
    told = columns_with_rows(document, asked, [("1", lambda one: word in one), ("3", lambda one: one != "b")])
    meant = [fields for _, fields in lines if len(fields) >= number and word in fields[0] and fields[2:3] != ["b"]]
    assert list(told.texts) == [fields[number - 1] for fields in meant]
    assert [[*row.values()] for row in told.rows] == meant
    first = LINES.selector(field=number, when={"1": lines[0][1][0]}, unless={"2": "b"})
    mine = [
        fields for _, fields in lines if fields[0] == lines[0][1][0] and fields[1:2] != ["b"] and len(fields) >= number
    ]
    assert [one.text for one in document.select(first)] == [fields[number - 1] for fields in mine]


VALUES = {
    "quotes": '"one\ntwo = 2\n; three"',
    "brackets": '{ "a", 1 ; said\n  "b", (2\n) }',
    "commas": '"a", ; said\n  "b",\n"c"',
    "backslash": "one \\\n two = 2",
    "indent": "one\n  two = 2\n\tthree",
    "": "plain",
}


@given(st.lists(st.sampled_from([*VALUES]), min_size=1, max_size=5), st.sampled_from(["\n", "\r\n"]))
def test_values_over_several_lines_are_read_and_written(ways: list[str], newline: str) -> None:
    text = (
        "[first]\n" + "".join(f"key{n} = {VALUES[way]}  ; said\n" for n, way in enumerate(ways)) + "[last]\nend = 1\n"
    )
    source = text.replace("\n", newline)
    options = INI.options(continued=tuple(way for way in VALUES if way))
    document = INI.open(Text(source, "utf-8"), options)
    assert [one.text for one in document.select(INI.selector(keys=True))] == [
        *(f"key{n}" for n in range(len(ways))),
        "end",
    ]
    for number, way in enumerate(ways):
        (value,) = document.select(INI.selector(key=f"key{number}"))
        (span,) = document.spans([value.where]).values()
        assert span[1] - span[0] == len(value.text)
        edit = next(iter(document.writings(span, "other")))  # type: ignore[attr-defined]
        again = INI.open(Text(spliced(source, [edit]), "utf-8"), options)
        assert [one.text for one in again.select(INI.selector(key=f"key{number}"))] == ["other"], way
        assert len(list(again.select(INI.selector(keys=True)))) == len(ways) + 1
    put = document.put(INI.seat(section="first"), Body(record={"new": "x"}))  # type: ignore[attr-defined]
    after = INI.open(Text(spliced(source, put.edits), "utf-8"), options)
    assert [one.text for one in after.select(INI.selector(section="first", key="new"))] == ["x"]


@pytest.mark.parametrize("mark", ["(", "{", '"', "["])
def test_a_mark_that_nothing_closes_swallows_no_section(mark: str) -> None:
    source = f"[a]\nsize = 5{mark}\nnext = 1\n[b]\nsize = 6\n"
    document = INI.open(Text(source, "utf-8"), INI.options(continued=("quotes", "brackets")))
    assert [one.text for one in document.select(INI.selector(key="*"))] == [f"5{mark}", "1", "6"]


@pytest.mark.no_cover
def test_marks_that_nothing_closes_keep_nobody_busy() -> None:
    """Each is looked for to the end of the section; of a file full of them only some are."""
    lines = 5_000
    sad = "".join(f"line{n} = so :(\n" for n in range(lines))
    commented = "empty =\n" + "; said\n" * lines
    options = INI.options(continued=("quotes", "brackets", "commas", "indent"))
    document = INI.open(Text(f"[a]\n{sad}{commented}[b]\nlast = {{\n  1\n}}\n", "utf-8"), options)
    values = [one.text for one in document.select(INI.selector(key="*"))]
    assert values[:lines] == ["so :("] * lines
    assert [one.text for one in document.select(INI.selector(section="b", key="last"))] == ["{\n  1\n}"]


def test_a_section_full_of_open_marks_has_values_of_one_line() -> None:
    sad, last = "".join(f"line{n} = so :(\n" for n in range(25)), "last = {\n  1\n}\n"
    options = INI.options(continued=("brackets",))
    with pytest.raises(Unreadable, match="neither a section"):
        INI.open(Text(f"[a]\n{sad}{last}", "utf-8"), options)
    document = INI.open(Text(f"[a]\n{sad}[b]\n{last}", "utf-8"), options)
    assert [one.text for one in document.select(INI.selector(key="last"))] == ["{\n  1\n}"]


def test_a_field_has_a_number_that_can_be_one() -> None:
    document = LINES.open(Text("a b\n", "utf-8"), LINES.options(fields="blanks"))
    for number in ("9" * 5_000, "²", "-1", "0", "x"):
        told = columns_with_rows(document, LINES.selector(field=1), [(number, lambda one: one == "")])
        assert list(told.texts) == ["a"], "nothing stands there"
        with pytest.raises(ValueError, match="no field"):
            LINES.selector(when={number: "a"})


def test_one_name_of_a_list_is_renamed_and_mended_where_it_stands(tmp_path: Path) -> None:
    """`bell` is a part of `bell_big`, which stands before it in the same value."""
    (tmp_path / "hookset.toml").write_text('[map]\nname = "quay"\nlayout = "quay.toml"\n')
    (tmp_path / "quay.toml").write_text(
        '[layout]\nname = "quay"\ntitle = "a quay"\n[kinds.bell]\nlabel = "bell"\n[[read]]\nfiles = "*.ini"\n'
        'format = "ini"\noptions = { continued = ["commas"] }\n'
        'defines = [{ kind = "bell", sections = true, section = "bell*" }]\n'
        'refers = [{ kind = "bell", key = "peal", split = \',\\s*\' }]\n'
    )
    peal = "[tower]\npeal = bell_big, bell,\n  bell_small, Bell_big\n"
    (tmp_path / "quay.ini").write_text("[bell]\nt = 1\n[bell_big]\nt = 2\n[bell_small]\nt = 3\n" + peal)
    told = run_hookset(tmp_path, "check", "--json")
    (finding,) = told.data["findings"]
    assert (finding["code"], finding["line"], finding["column"]) == ("wrong-case", 9, 15)
    assert run_hookset(tmp_path, "check", "--mend").code == 0
    assert (tmp_path / "quay.ini").read_text().endswith("bell_big, bell,\n  bell_small, bell_big\n")
