"""Patterns that others wrote: honest ones are never stopped, however much there is to look through; others always."""

from __future__ import annotations

from dataclasses import replace

import pytest

from hookset.model import CouldNotError
from hookset.trees import patterns
from hookset.trees.patterns import Pattern, SlowPatternError, pattern_of


def short_of_time(source: str, limit: float = 0.05) -> Pattern:
    """A pattern that has so many seconds in all, and fewer than others."""
    return replace(pattern_of(source), _clock=patterns._Clock(limit))


@pytest.mark.no_cover
def test_an_honest_pattern_is_never_stopped_in_a_large_map() -> None:
    """The same pattern of a layout is compared with each path of a map, and takes many times its limit in all."""
    # A limit that one call keeps on a busy machine, and fewer calls than these would go beyond.
    pattern = short_of_time(r"scripts/(?P<side>[^/]+)/(?P<inner>(?:[^/]+/)*[^/]*\.lua)", 0.4)
    for number in range(200_000):
        assert pattern.fullmatch(f"scripts/server/harbour/basin/part_{number}.lua")
    words = short_of_time(r"(?P<value>\w+)\s*=\s*(?:one|two)", 0.4)
    assert len(list(words.finditer("name = one\n" * 50_000))) == 50_000


def test_a_pattern_that_is_slow_in_each_of_many_texts_is_stopped() -> None:
    """Each is over before the limit; all of them together are not."""
    pattern = short_of_time("(?:a|aa)+[bc]")
    with pytest.raises(SlowPatternError):
        for _ in range(10_000):
            pattern.fullmatch("a" * 24)
    with pytest.raises(SlowPatternError):
        pattern.search("a" * 24)


@pytest.mark.parametrize("source", ["(", "a{200}{300}", "(" * 5_000 + ")" * 5_000, "a" * 10_001, "(?P<a>x)(?P<a>y)"])
def test_what_is_no_pattern_is_told_in_our_words(source: str) -> None:
    with pytest.raises(ValueError, match=r"^it ") as told:
        pattern_of(source)
    assert not isinstance(told.value, CouldNotError)
