"""The names of long blocks: one text that says what the names one by one say."""

from __future__ import annotations

from typing import Literal

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.config.layouts.rules import Kind
from hookset.config.layouts.schema import KindEntry
from hookset.symbols import many_names
from hookset.symbols.many_names import ManyNames, Names, names_of
from hookset.symbols.table import KindTable

NAMES = st.text(st.sampled_from("ab\n\0 é"), max_size=3)
MANY = st.lists(NAMES, min_size=1, max_size=12)


def long(names: list[str]) -> ManyNames:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(many_names, "_MANY", 1)
        found = names_of(names)
    assert isinstance(found, ManyNames)
    return found


def kind(case: Literal["exact", "folded"]) -> Kind:
    return Kind("lamp", KindEntry(label="lamp", case=case))


@given(MANY, NAMES)
def test_one_text_says_what_the_names_say(names: list[str], other: str) -> None:
    found = long(names)
    assert (list(found), len(found), list(reversed(found))) == (names, len(names), names[::-1])
    assert [found[row] for row in range(-1, len(names))] == [names[-1], *names] and found[1:] == names[1:]
    # Before and after they are taken apart.
    for many in (long(names), found):
        for name in (*names, other):
            assert (name in many) == (name in names)
            assert list(many.rows(name)) == [row for row, one in enumerate(names) if one == name]
    assert msgspec.msgpack.decode(msgspec.msgpack.encode([found, ("a",)]), type=list[Names]) == [found, ("a",)]


@given(MANY, MANY)
def test_the_same_digest_is_the_same_names(one: list[str], other: list[str]) -> None:
    assert (long(one).digest == long(other).digest) == (one == other)


def test_few_names_are_kept_one_by_one() -> None:
    assert names_of(["quay", "lamp"]) == ("quay", "lamp")


@given(st.lists(MANY, max_size=4), st.lists(NAMES, max_size=8), st.sampled_from(["exact", "folded"]))
def test_a_table_knows_the_same_before_and_after_it_is_made(
    blocks: list[list[str]], asked: list[str], which: Literal["exact", "folded"]
) -> None:
    entry = kind(which)
    brief = KindTable(entry, [long(names) for names in blocks])
    made = KindTable(entry, [tuple(names) for names in blocks])
    assert made.first is not None
    keys = [entry.key(name) for name in (*asked, *(name for names in blocks for name in names))]
    for key in keys:
        there = [(n, row) for n, names in enumerate(blocks) for row, name in enumerate(names) if entry.key(name) == key]
        assert list(brief.places(key)) == list(made.places(key)) == there
    assert brief.unknown(keys) == made.unknown(keys)
    assert bool(brief) == bool(made) == bool(blocks)
    assert brief.first == made.first and brief.more == made.more


@given(st.lists(MANY, max_size=4))
def test_lines_are_the_names(blocks: list[list[str]]) -> None:
    whole = KindTable(kind("exact"), [long(names) if len(names) % 2 else tuple(names) for names in blocks]).lines
    names = [name for names in blocks for name in names]
    if any("\n" in name for name in names):
        assert whole is None
    else:
        assert whole is not None and set(filter(None, whole.split("\n"))) == set(filter(None, names))
