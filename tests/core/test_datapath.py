"""Several paths asked of the same data find what the library for JSONPath (RFC 9535) finds, in the same order."""

from __future__ import annotations

from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from hookset.formats._jsonpaths import asked
from hookset.formats.datapath import Walked, find

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
    """Also where many paths have their first steps in common, and the way is known by then."""
    walked = Walked(data)
    for way in ways:
        there = list(asked(way, data))
        assert list(walked.find(way)) == there, way
        assert list(find(way, data)) == there
        assert list(walked.find(way)) == there
