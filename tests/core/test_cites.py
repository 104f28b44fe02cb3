"""What speaks for something in a draft: lines as data, and how they are shown."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from hookset.authoring.draft.cites import Why, as_said, at_line, because_of

LINES = st.tuples(st.sampled_from(["README.md", "notes: old, and new.txt", "a:1.txt"]), st.integers(1, 999))
WHYS = st.builds(Why, st.lists(LINES, max_size=4).map(tuple), st.lists(st.text(min_size=1), max_size=3).map(tuple))


@given(st.lists(WHYS))
def test_several_reasons_name_each_line_once(whys: list[Why]) -> None:
    whole = because_of(whys)
    assert set(whole.lines) == {line for why in whys for line in why.lines}
    assert set(whole.words) == {word for why in whys for word in why.words}
    if len(set(whys)) > 1:
        assert len(whole.lines) == len(set(whole.lines)) and len(whole.words) == len(set(whole.words))
    assert bool(whole) == any(whys)


def test_lines_are_shown_before_words_and_not_all_of_many() -> None:
    assert str(at_line("README.md", 12)) == "README.md:12"
    assert (
        str(because_of((as_said("lies as in the map"), at_line("README.md", 3)))) == "README.md:3, lies as in the map"
    )
    many = because_of(at_line("README.md", number) for number in (9, 2, 2, 5, 7, 8))
    assert str(many) == "README.md:9, README.md:2, README.md:5 and 2 more"
    assert str(Why((("README.md", 4),), until=30).also("as decided")) == "README.md:4-30, as decided"
    block = Why((("README.md", 4),), until=30)
    assert because_of((block, block)) == block
    assert str(Why()) == ""
