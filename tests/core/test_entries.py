"""One entry in one file: merged, found again, written the way its neighbours are."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.edits import EntryState, merged
from hookset.edits.find import found
from hookset.edits.literals import read_literal
from hookset.edits.merge import kept_by_hand, merged_data
from hookset.project import LedgerEdit

LINES = st.lists(st.sampled_from(["a\n", "b\n", "c\n", "d\n", "e\n"]), max_size=12).map("".join)


@given(LINES, LINES)
def test_a_merge_with_one_side_unchanged_is_the_other(was: str, other: str) -> None:
    assert merged(was, was, other).text == other
    assert merged(was, other, was).text == other
    assert merged(was, other, other).text == other
    assert not merged(was, other, other).conflicts


@given(LINES, LINES, LINES)
def test_without_conflict_it_does_not_matter_who_is_preferred(was: str, mine: str, theirs: str) -> None:
    one, other = merged(was, mine, theirs), merged(was, mine, theirs, "theirs")
    assert one.conflicts == other.conflicts
    if not one.conflicts:
        assert one.text == other.text


@pytest.mark.parametrize("swapped", [False, True])
def test_what_one_has_changed_and_the_other_only_added_beside_are_both_kept(swapped: bool) -> None:
    was, changed = "head\nmarks = 4\ntail\n", "head\nmarks = 6\ntail\n"
    for added, both in (
        ("head\nmarks = 4\nsteps = 2\ntail\n", "head\nmarks = 6\nsteps = 2\ntail\n"),
        ("head\nsteps = 2\nmarks = 4\ntail\n", "head\nsteps = 2\nmarks = 6\ntail\n"),
    ):
        result = merged(was, added, changed) if swapped else merged(was, changed, added)
        assert (result.text, result.conflicts) == (both, ())
    # Where both have added something, nobody knows which comes first.
    assert merged(was, "head\nmarks = 6\nown = 1\ntail\n", "head\nmarks = 4\nsteps = 2\ntail\n").conflicts


def test_what_both_changed_is_a_conflict_with_its_line() -> None:
    result = merged("one\ntwo\nthree\n", "one\nmine\nthree\n", "one\ntheirs\nthree\nfour\n")
    (conflict,) = result.conflicts
    assert (conflict.line, conflict.was, conflict.mine, conflict.theirs) == (2, ("two\n",), ("mine\n",), ("theirs\n",))
    assert result.text == "one\nmine\nthree\nfour\n"


def test_data_is_merged_value_by_value() -> None:
    was = {"class": "lamp", "at": [1, 2], "more": {"bright": 0.8, "old": 1}}
    mine = {"class": "lamp", "at": [1, 2], "more": {"bright": 0.5, "old": 1, "own": 7}}
    theirs = {"class": "lantern", "at": [1, 3], "more": {"bright": 0.8, "model": "post"}}
    result, clash = merged_data(was, mine, theirs)
    assert result == {"class": "lantern", "at": [1, 3], "more": {"bright": 0.5, "model": "post", "own": 7}}
    assert not clash
    result, clash = merged_data({"a": 1}, {"a": 2}, {"a": 3})
    assert (result, clash) == ({"a": 2}, True)


def test_what_the_builder_wrote_is_kept_without_what_was_set() -> None:
    assert kept_by_hand("one\ntwo\nthree\n", "one\n  two\nmine\nthree\n") == "mine\n"
    assert kept_by_hand("one\ntwo\n", "one\nTWO\n") == "TWO\n"


FILE = "import a\nimport b\n\nstart {\n  go(1)\n  bell()\n  go(2)\n}\n"
BELL = LedgerEdit(new="\n  bell()", above="go(1)", below="go(2)")


@pytest.mark.parametrize(
    ("text", "standing"),
    [
        (FILE, EntryState.AS_SET),
        (FILE.replace("\n", "\r\n"), EntryState.AS_SET),
        (FILE.replace("  go(1)\n", ""), EntryState.AS_SET),
        (FILE.replace("  bell()\n", "").replace("start {\n", "start {\n  bell()\n"), EntryState.MOVED),
        (FILE.replace("  bell()\n", "").replace("import b\n", "import b\n\t\tbell()\n"), EntryState.MOVED),
        (FILE.replace("bell()", "bell(9)"), EntryState.CHANGED),
        (FILE.replace("  bell()\n", ""), EntryState.GONE),
        (FILE.replace("bell()", "-- nothing rings here"), EntryState.GONE),
    ],
)
def test_an_entry_is_found_again(text: str, standing: EntryState) -> None:
    assert found(text, BELL).standing is standing


def test_what_others_have_set_is_no_change_of_this_one() -> None:
    text = FILE.replace("bell()", "bells()")
    assert found(text, BELL, frozenset({"bells()"})).standing is EntryState.GONE


def test_what_somebody_types_is_read_by_its_type() -> None:
    assert [read_literal("on", "bool"), read_literal("7", "int"), read_literal("-1.5", "float")] == [True, 7, -1.5]
    for typed, kind in (("maybe", "bool"), ("1.5", "int"), ("1,5", "float")):
        with pytest.raises(ValueError, match=typed):
            read_literal(typed, kind)
