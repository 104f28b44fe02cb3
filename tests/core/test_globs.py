"""Several patterns at once."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from hookset.trees import Glob, Globs

PARTS = st.sampled_from(["a", "b.lua", "*", "**", "?", "*.lua", "{side}", "{a,b}"])
PATTERNS = st.lists(PARTS, min_size=1, max_size=4).map("/".join)
PATHS = st.lists(st.sampled_from(["a", "b", "b.lua", ".git"]), min_size=1, max_size=4).map("/".join)


@given(st.lists(PATTERNS, max_size=5), PATHS)
def test_several_patterns_mean_what_each_of_them_means(patterns: list[str], path: str) -> None:
    globs = tuple(Glob(pattern) for pattern in patterns)
    assert Globs(globs).matches(path) is any(glob.matches(path) for glob in globs)
