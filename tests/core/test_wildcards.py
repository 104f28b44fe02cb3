"""Names with wildcards mean what the standard library says, and what is looked up by name comes in its order."""

from __future__ import annotations

from fnmatch import fnmatchcase
from typing import Any

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from hookset.formats import format_named
from hookset.formats._wildcards import ByName, meant
from hookset.formats.document import may_match
from hookset.trees import Text

NAMES = st.lists(st.sampled_from(["", "a", "ab", "b", "*", "[a]", "b]"]), max_size=12)


@example(["b", "a", "b"], "*")
@given(NAMES, st.lists(st.sampled_from(["*", "a", "b", "?", "[", "]", "!"]), max_size=4).map("".join))
def test_what_a_pattern_means_is_found_in_order(names: list[str], pattern: str) -> None:
    expected = [number for number, name in enumerate(names) if fnmatchcase(name, pattern)]
    by_name = ByName((name, number) for number, name in enumerate(names))
    assert list(by_name.of(pattern)) == expected
    assert [number for number, name in enumerate(names) if meant(pattern)(name)] == expected
    assert not expected or pattern in by_name


LUA = 'play("moor")\nharbour.play("quay", 2)\nbell = { name = "ring" }\nbells.deep = "low"\nreturn { "wharf" }\n'
INI = "[quay]\nname = moor\nkind = stone\n[buoy]\nname = red\n"


@pytest.mark.parametrize(
    ("name", "text", "selectors"),
    [
        (
            "lua",
            LUA,
            [
                {"call": "play"},
                {"call": "*play"},
                {"call": "*.ring"},
                {"call": "stop"},
                {"assign": "bell", "field": "name"},
                {"assign": "bells.*"},
                {"assign": "gull"},
                {"assign": "return", "field": "*"},
                {"strings": True},
                {"query": "(string) @value"},
            ],
        ),
        (
            "ini",
            INI,
            [
                {"key": "name"},
                {"key": "n*", "section": "b*"},
                {"key": "depth"},
                {"keys": True, "section": "quay"},
                {"key": "name", "when": {"kind": "stone"}},
                {"sections": True},
            ],
        ),
        (
            "json",
            '{"a": [{"b": 1}], "c": {"d": 2}}',
            [{"at": f"${way}"} for way in (".a[*].b", ".c.d", ".c[*].d", ".x", "..b", ".e.f", ".g", "[2]")],
        ),
    ],
)
def test_what_may_answer_is_known_beforehand(name: str, text: str, selectors: list[dict[str, Any]]) -> None:
    form = format_named(name)
    document = form.open(Text(text, "utf-8"), form.options())
    asked = [form.selector(**one) for one in selectors]
    found = {number for number, one in enumerate(asked) if list(document.select(one))}
    assert set(may_match(document, asked)) == found
