"""A place of texts, as it is asked: file by file, by where they stand, by which files say each."""

from __future__ import annotations

import posixpath

from hypothesis import given
from hypothesis import strategies as st

from hookset.learning.material import Sort
from hookset.learning.place import Place, standing_at
from hookset.learning.said import Said, joined

FILES = ["quay/a.txt", "quay/b.txt", "lock/a.txt", "c.txt"]
SAID = st.lists(st.tuples(st.sampled_from(["bell", "buoy", "lamp"]), st.sampled_from(FILES), st.integers(0, 9)))


def place(said: list[tuple[str, str, int]]) -> Place:
    found = Said()
    for one in said:
        found.add(*one)
    return Place(Sort("lines", {}, {}), {}, "value", "", "", found)


@given(SAID, SAID, st.booleans())
def test_what_is_said_is_kept_as_it_came(
    some: list[tuple[str, str, int]], more: list[tuple[str, str, int]], words: bool
) -> None:
    # Where texts stand may be no number: a way in a file of data.
    told = [(text, path, f"/{where}" if words and (text, path, where) in more else where) for text, path, where in some]
    numbers, others = Said(), Said()
    for row in more:
        numbers.add(*row)
    for text, path, where in told:
        others.add(text, path, where)
    whole = joined([numbers, others])
    assert [*zip(whole.texts, whole.paths, whole.wheres, strict=True)] == [*more, *told]
    assert whole.paths[::2] == [path for _, path, _ in (*more, *told)][::2]
    assert [row for path, start, end in whole.runs for row in [path] * (end - start)] == [*whole.paths]


@given(SAID, st.sets(st.tuples(st.sampled_from(FILES), st.integers(0, 9))))
def test_texts_are_found_by_where_they_stand(said: list[tuple[str, str, int]], wanted: set[tuple[str, int]]) -> None:
    assert standing_at(place(said), wanted) == {(path, where) for _, path, where in said} & wanted


@given(SAID)
def test_each_file_says_its_own_texts(said: list[tuple[str, str, int]]) -> None:
    one = place(said)
    found = {path: [row for start, end in rows for row in range(start, end)] for path, rows in one.by_path.items()}
    assert found == {
        path: [row for row, it in enumerate(said) if it[1] == path] for path in dict.fromkeys(it[1] for it in said)
    }


@given(SAID)
def test_a_text_is_said_by_the_first_file_of_each_folder(said: list[tuple[str, str, int]]) -> None:
    owners = place(said).owners
    assert list(owners) == list(dict.fromkeys(text for text, _, _ in said))
    for text, paths in owners.items():
        first = {posixpath.dirname(path): path for one, path, _ in reversed(said) if one == text}
        assert sorted(paths) == sorted(first.values())
