"""Columns of a scene, read and judged at once: the same as one by one."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.config.layouts.load import load_layout
from hookset.config.layouts.positions import NumberWay
from hookset.formats import format_named
from hookset.formats._xml.conditions import condition
from hookset.formats._xml.elements import elements_of
from hookset.formats._xml.paths import plain_way
from hookset.formats.parts import Addresses, Part, TextColumn
from hookset.scene.numbers import number_columns
from hookset.scene.scene import Scene
from hookset.scene.standing import _crowded
from hookset.scene.values import Wish, values_for
from hookset.scene.words import FewWords, NoWords
from hookset.space.transforms import Transform
from hookset.trees import EmptyTree, Inline, Overlay, Text

PLACES = st.lists(st.tuples(*[st.sampled_from([0.0, -0.0, 1.5, -3.25, 1e9, 0.1])] * 3), max_size=30)


@given(PLACES)
def test_what_stands_on_one_spot_is_found(places: list[tuple[float, float, float]]) -> None:
    found = _crowded(np.array(places).reshape(-1, 3))
    assert found == [row for row, place in enumerate(places) if places.count(place) > 1]


def test_what_has_no_place_stands_on_no_spot() -> None:
    nan = math.nan
    assert _crowded(np.array([[nan, 0, 0], [nan, 0, 0], [1, 2, 3], [4, 5, 6], [1, 2, 3]])) == [2, 4]


SAID = st.sampled_from(
    ["1 2 3", "0 0 0", "1.5 -2 1e3", "1 2", "1  2 3", "a b c", "", "1 2 3 4", "inf 0 0", "1_0 2 3", "٣ 2 3"]
)


@given(st.lists(st.one_of(st.none(), SAID), max_size=12), st.integers(1, 400))
def test_many_texts_are_read_as_each_by_itself(texts: list[str | None], times: int) -> None:
    ways = tuple(NumberWay("at", nth) for nth in range(3))

    def read(said: list[str | None]) -> list[Any]:
        column = TextColumn(said, Addresses(range(len(said)), "@at"))
        made = number_columns(ways, {"at": column}, len(said), 0.0)
        rows = zip(made.numbers.tolist(), made.there.tolist(), strict=True)
        return [(*row, len(made.wrong.get(number, ()))) for number, row in enumerate(rows)]

    assert read(texts * times)[: len(texts)] == [row for text in texts for row in read([text])]


def test_the_same_sizes_by_the_thousand() -> None:
    texts = ["1 1 1", "2 1 0.5"] * 3000
    column = TextColumn(texts, Addresses(range(len(texts))))
    made = number_columns(tuple(NumberWay("size", nth) for nth in range(3)), {"size": column}, len(texts), 1.0)
    assert made.numbers[5].tolist() == [2, 1, 0.5] and made.numbers.shape == (6000, 3)
    assert made.there.all() and not made.wrong
    assert isinstance(column[5], Part)


THINGS = '<m><o a="x" b="y"/><o a="ax"/><o b="y"/><o/><p a="x"/></m>'


@pytest.mark.parametrize(
    ("written", "rows"),
    [
        ("@a", [1, 2]), ("not(@a)", [3, 4]), ("@a='x'", [1]), ('@a = "x"', [1]), ("@a!='x'", [2]), ("@b and @a", [1]),
        ("@b or @a", [1, 2, 3]), ("not(@b or @a)", [4]), ("(@a) and (not(@b))", [2]), ("starts-with(@a, 'a')", [2]),
        ("contains(@a,'x') and not(@b)", [2]), ("contains(@a, '')", [1, 2, 3, 4]), ("@a = /m/p/@a", [1]),
        ("@a != /m/p/@a", [2]), ("@a != /m/o/@a", [1, 2]), ("@a != /m/q/@a", []), ("@a = /m/q/@a", []), ("@a or @b and @c", [1, 2]),
    ],
)  # fmt: skip
def test_conditions_on_attributes(written: str, rows: list[int]) -> None:
    elements = elements_of(Text(THINGS, "utf-8"))
    made = condition(written)
    assert elements is not None and made is not None
    assert [row for row in elements.named["o"] if made.of(elements)(elements.attributes[row])] == rows


@pytest.mark.parametrize(
    "written",
    [
        "1", "@a > 3", "last()", "p", "@a = 'x' and", "@a 'x'", "not @a", "@a = @b", "string(@a)", "count(p) = 1", "'x' = @a",
        "not(" * 30 + "@a" + ")" * 30, "@a)", "starts-with('x', @a)", "@a = //p/@a", ".", "", "@p:a", "contains(@a)",
    ],
)  # fmt: skip
def test_other_conditions_are_left_to_xpath(written: str) -> None:
    assert condition(written) is None
    assert plain_way(f"//o[{written}]") is None


@pytest.mark.parametrize(
    ("path", "wanted"),
    [
        ("//o[@a='x']", "x"),
        ("/m/o[@b][@a='y']", "y"),
        ("//o", None),
        ("//m[@a='x']/o", None),
        ("//o[not(@a='x')]", None),
    ],
)
def test_what_a_path_must_find_in_the_text(path: str, wanted: str | None) -> None:
    way = plain_way(path)
    assert way is not None and way.wanted == wanted
    assert format_named("xml").selector(at=path) is not None


SIZED = """[layout]
name = "own"
title = "t"
[space]
up = "z"
[[read]]
files = "things.json"
format = "json"
[[placed]]
name = "things"
title = "things"
file = "things.json"
ask = { at = "$[*]" }
at = "at"
size = "size"
"""


@pytest.mark.parametrize(
    ("others", "said"),
    [('"size": [1, 2, 3]', [2.0, 2.0, 2.0]), ('"size": 3', 2.0), ('"size": "1 1 1"', "2 2 2"), ('"hue": 1', 2.0)],
)
def test_a_size_is_written_as_others_write_theirs(others: str, said: Any) -> None:
    text = f'[{{"at": [1.0, 2.0, 3.0]}}, {{"at": [1.0, 2.0, 3.0], {others}}}]'
    tree = Overlay(EmptyTree(), {"things.json": Inline(text.encode())})
    thing = Scene(tree, load_layout(SIZED.encode(), "own.toml")).things.rows[0]
    was = Transform(np.array([1.0, 2.0, 3.0]), np.eye(3), np.ones(3))
    found = values_for(thing, Wish(size=np.full(3, 2.0)), was, forward=False)
    assert found == {"size": said}


@given(st.lists(st.sampled_from(["", "gate", "lamp", "gull", "quay"])), st.integers(-9, 9), st.integers(-9, 9))
def test_words_in_little_room_are_those_of_a_list(words: list[str], first: int, last: int) -> None:
    nothing = ["" for _ in words]
    for mine, plain in ((FewWords.of(words), words), (NoWords(len(words)), nothing)):
        assert ([*mine], len(mine), [*mine[first:last]]) == (plain, len(plain), plain[first:last])
        assert all((word in mine) == (word in plain) for word in ("", "gate", "boat"))
        assert all(mine[row] == plain[row] for row in range(-len(plain), len(plain)))
        for beyond in (len(plain), -len(plain) - 1):
            with pytest.raises(IndexError):
                mine[beyond]


def test_there_is_room_for_more_words_than_a_byte_counts() -> None:
    words = [f"lamp_{number % 70_000}" for number in range(80_000)]
    assert [*FewWords.of(words)] == words and [*FewWords.of(words[:300])] == words[:300]
