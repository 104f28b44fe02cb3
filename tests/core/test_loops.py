"""What a name in a script stands for where it is used: loops, tables, names set nearby; and where that is not known."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.formats import format_named
from hookset.trees import Text


def said(form: str, script: str) -> list[str]:
    """What the first argument of each call of `r` can be."""
    language = format_named(form)
    document = language.open(Text(script, "utf-8"), language.options())
    assert document.problems == ()
    return [value.text for value in document.select(language.selector(call="r", arg=1))]


@pytest.mark.parametrize(
    ("script", "expected"),
    [
        ('local c = "a"\nc = "b"\nr(c)', ["*"]),
        ('local c = "a"\nr(c)\nlocal c = "b"\nr(c)', ["a", "b"]),
        ('for _, c in ipairs({"a"}) do for _, c in ipairs({"b"}) do r(c) end r(c) end', ["b", "a"]),
        ('for _, c in ipairs({"a", "b"}) do c = c .. "x" r(c) end', ["*"]),
        ("for _, c in ipairs(given) do r(c) end", ["*"]),
        ('for _, c in ipairs({"a", other}) do r(c) end', ["a", "*"]),
        ('for _, a in ipairs({"x", "y"}) do for i = 2, 1, -1 do r(a .. i) end end', ["x2", "x1", "y2", "y1"]),
        ("for i = 1, n do r(i) end", ["*"]),
        ("for i = 1, 4, 0 do r(i) end", ["*"]),
        ("for i = 1, 1000000 do r(i) end", ["*"]),
        ('local t = { a = { "x" }, b = "y" }\nr(t.a[1]) r(t["b"]) r(t.c)', ["x", "y", "*"]),
        ('for _, c in ipairs({"a", "b"}) do r(c .. "_" .. c) end', ["a_a", "b_b"]),
        ('for _, c in ipairs({"a", "b"}) do r(string.format("%s_%02d", c, 1)) end', ["a_*", "b_*"]),
        ('local function f(c) r(c) end\nfor _, c in ipairs({"a"}) do f(c) end', ["*"]),
        ('for k in pairs({ a = 1, b = 2 }) do r(k) end', ["a", "b"]),
        ('local t = {} for _, c in ipairs({"a"}) do t[c] = c end r(t.a)', ["*"]),
        ('local a = { b } local b = { a } r(a[1])', ["*"]),
        ('local x = x r(x)', ["*"]),
    ],
)  # fmt: skip
def test_lua(script: str, expected: list[str]) -> None:
    assert said("lua", script) == expected


@pytest.mark.parametrize(
    ("script", "expected"),
    [
        ('for (const c of ["a", "b"]) { r(c); }', ["a", "b"]),
        ('for (const c of given) { r(c); }', ["*"]),
        ('for (const key in { a: 1, "b": 2 }) { r(key); }', ["a", "b"]),
        ('for (let i = 0; i < 2; i++) { r("s" + i); }', ["s0", "s1"]),
        ('for (let i = 0; i < n; i++) { r("s" + i); }', ["s*"]),
        ('for (let i = 0; i < 9; i += 3) { r("s" + i); }', ["s*"]),
        ('["a", "b"].forEach((c, number) => { r(c); });', ["a", "b"]),
        ('["a", "b"].forEach((c, number) => { r(number); });', ["*"]),
        ('["a", "b"].map(function (c) { return r(`x${c}`); });', ["xa", "xb"]),
        ('function f(c) { r(c); }\nfor (const c of ["a"]) { f(c); }', ["*"]),
        ('const t = { a: ["x"] };\nr(t.a[0]); r(t["a"][0]); r(t.b);', ["x", "x", "*"]),
        ('let c = "a"; c = "b"; r(c);', ["*"]),
    ],
)  # fmt: skip
def test_ecmascript(script: str, expected: list[str]) -> None:
    assert said("ecmascript", script) == expected


WORDS = st.lists(st.text("abcäö_1", min_size=1, max_size=5), min_size=1, max_size=6)


@given(WORDS, WORDS)
def test_what_lists_give_is_what_running_them_would(one: list[str], other: list[str]) -> None:
    lists = ["{" + ", ".join(f'"{word}"' for word in words) + "}" for words in (one, other)]
    script = f"local L = {lists[0]}\nfor _, a in ipairs(L) do for _, b in ipairs({lists[1]}) do r(a .. b) end end"
    assert said("lua", script) == list(dict.fromkeys(a + b for a in one for b in other))
