"""A place of texts, as it is asked: file by file, by where they stand, by which files say each."""

from __future__ import annotations

import posixpath

from hypothesis import given
from hypothesis import strategies as st
from msgspec import convert

from hookset.formats import format_named
from hookset.learning.material import Sort
from hookset.learning.place import Place, standing_at
from hookset.learning.places import places_of
from hookset.learning.said import Said, joined
from hookset.trees import Text

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


def sort_of(form: str, texts: dict[str, str], options: dict[str, str]) -> Sort:
    known = format_named(form)
    opened = {path: known.open(Text(text, "utf-8"), convert(options, known.options)) for path, text in texts.items()}
    return Sort(form, options, opened)


def test_fields_are_where_they_stand_between_lines_of_numbers() -> None:
    # So many numbers are measures, and left out: the lines that are looked at are not the first of their file.
    lines = "1.5 2.5\n" * 5_500 + "bird heron\n" + "1.5 2.5\n" * 5_500 + 'bird  "grey gull"\nbird tern\n'
    texts = {"a.txt": lines, "b.txt": "bird heron\n" + lines}
    found = [one for one in places_of(sort_of("lines", texts, {"fields": "blanks"})) if one.asked.get("field") == 2]
    assert found
    for one in found:
        assert "2.5" not in one.counts
        assert {*one.counts} == {"heron", "grey gull", "tern"}
        for text, path, where in zip(one.said.texts, one.said.paths, one.said.wheres, strict=True):
            assert texts[path].startswith(text, where)


def test_a_way_that_leads_to_more_in_another_file_has_all_of_it() -> None:
    # `[*]` means the elements of a list, and the values of an object as well.
    texts = {"a.json": '{"birds": [{"call": "kraa"}]}', "b.json": '{"birds": {"gull": {"call": "mew"}}}'}
    found = {str(one.asked.get("at")): one.said for one in places_of(sort_of("json", texts, {}))}
    assert found["$.birds[*].call"].texts == ["kraa", "mew"]
    assert [*found["$.birds[*].call"].paths] == ["a.json", "b.json"]
