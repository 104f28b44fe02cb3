"""Several paths asked of the same data find what the library for JSONPath (RFC 9535) finds, in the same order."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.formats import format_named
from hookset.formats._jsonpaths import asked
from hookset.formats.datapath import Walked, checked, find
from hookset.formats.document import fresh
from hookset.trees import Text

KEYS = st.sampled_from(["a", "b", "c", "a/b", "~"])
DATA: st.SearchStrategy[Any] = st.recursive(
    st.one_of(st.integers(0, 9), st.text("xy", max_size=2), st.none()),
    lambda inner: st.one_of(st.lists(inner, max_size=4), st.dictionaries(KEYS, inner, max_size=4)),
    max_leaves=24,
)
STEPS = st.sampled_from([".a", ".b", ".c", "['a/b']", "['~']", ".*", "[*]", "[0]", "[-1]", "[2]"])


@st.composite
def paths(draw: st.DrawFn) -> str:
    """A path of names, indexes and wildcards, with at most one name at any depth."""
    before = "".join(draw(st.lists(STEPS, max_size=2)))
    deep = draw(st.sampled_from(["", "", "..a", "..b"]))
    return f"${before}{deep}{''.join(draw(st.lists(STEPS, max_size=2)))}"


@given(DATA, st.lists(paths(), min_size=1, max_size=12))
def test_walking_finds_what_the_library_finds(data: Any, ways: list[str]) -> None:
    """Also where many paths have their first steps in common, and the way is known by then; which lead to nothing is
    known beforehand."""
    walked = Walked(data)
    found = [list(asked(way, data)) for way in ways]
    assert walked.leading(tuple(ways)) == {number for number, there in enumerate(found) if there}
    for way, there in zip(ways, found, strict=True):
        assert list(walked.find(way)) == there, way
        assert list(find(way, data)) == there
        assert list(walked.find(way)) == there


def test_many_names_of_one_level_and_names_at_any_depth_come_in_file_order() -> None:
    data = {"all": [{"a": 1, "b": {"a": 2}, "c": 3}, {"d": {"a": 4}, "e": 5, "c": 6}, {"a": 7}]}
    walked = Walked(data)
    for name, expected in {"e": [5], "d": [{"a": 4}], "c": [3, 6], "b": [{"a": 2}], "a": [1, 7], "x": []}.items():
        assert [value for _, value in walked.find(f"$.all[*].{name}")] == expected
    assert list(walked.find("$..a")) == [("/all/0/a", 1), ("/all/0/b/a", 2), ("/all/1/d/a", 4), ("/all/2/a", 7)]


def test_names_at_any_depth_twice_are_refused() -> None:
    with pytest.raises(ValueError, match="once"):
        checked("$..a.b..c")


def test_a_fresh_document_shares_nothing_that_was_worked_out() -> None:
    form = format_named("json")
    document: Any = form.open(Text('{"a": 1}', "utf-8"), form.options())
    selector = form.selector(at="$.a")
    found = list(document.select(selector))
    other: Any = fresh(document)
    assert other.walked is not document.walked
    assert list(other.select(selector)) == found
