"""Lua: what a script means, and where statements are set."""

from __future__ import annotations

import tracemalloc
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.formats import Body, NoSeat, WrongBody, format_named
from hookset.formats.document import Preparable
from hookset.formats.format import Snippet
from hookset.trees import Text
from tests.core.test_formats import done, opened, put

IMPORT = {"after": "last", "call": "require"}
START = {"inside": "function start", "at": "end"}


def called(source: str, name: str = "f", arg: int = 1) -> list[tuple[str, bool]]:
    from hookset.formats import format_named

    selector = format_named("lua").selector(call=name, arg=arg)
    return [(value.text, value.pattern) for value in opened("lua", source).select(selector)]


@pytest.mark.parametrize(
    ("source", "values"),
    [
        pytest.param('f("a")', [("a", False)], id="plain"),
        pytest.param("f 'a'", [("a", False)], id="without-parentheses"),
        pytest.param("f[[a\nb]]", [("a\nb", False)], id="long-string"),
        pytest.param(r'f("a\"\x41\065\u{42}\n")', [('a"AAB\n', False)], id="escapes"),
        pytest.param('f("x*y")', [("x*y", False)], id="a-star-that-is-meant"),
        pytest.param('-- f("a")\n--[[ f("b") ]]\ng("f(\'c\')")', [], id="comments-and-strings"),
        pytest.param('f("a" .. n)', [("a*", True)], id="fixed-part"),
        pytest.param('f("a" .. n .. "b" .. m)', [("a*b*", True)], id="fixed-parts"),
        pytest.param('f("a" .. "b")', [("ab", False)], id="joined"),
        pytest.param("f(name)", [("*", True)], id="unknown"),
        pytest.param('local N = "a"\nf(N)', [("a", False)], id="constant"),
        pytest.param('local A = "a"\nlocal B = A .. "_b"\nf(B)', [("a_b", False)], id="constants-of-constants"),
        pytest.param('local N = "a"\nN = "b"\nf(N)', [("*", True)], id="set-twice"),
        pytest.param('local N = "a"\nfunction g(N) f(N) end', [("*", True)], id="parameter"),
        pytest.param('local N = "a"\nfor N in pairs(t) do f(N) end', [("*", True)], id="loop"),
        pytest.param("local A = B\nlocal B = A\nf(A)", [("*", True)], id="circle"),
        pytest.param('f(c and "a" or "b")', [("a", False), ("b", False)], id="either"),
        pytest.param('f(string.format("a_%02d", n))', [("a_*", True)], id="format"),
        pytest.param('f(("a_%s_%%"):format(n))', [("a_*_%", True)], id="format-method"),
        pytest.param("f(nil)\nf()", [], id="nothing"),
        pytest.param('f(("a"))', [("a", False)], id="in-parentheses"),
        pytest.param('x.f("a")\nx:f("b")', [], id="somebody-else's"),
        pytest.param('f(--[[ why ]] "a", 2)', [("a", False)], id="comment-before"),
        pytest.param('local ü = 1\nf("ö")', [("ö", False)], id="not-ascii"),
        pytest.param('if x then while y do f("a") end end', [("a", False)], id="nested"),
    ],
)
def test_what_a_call_is_given(source: str, values: list[tuple[str, bool]]) -> None:
    assert called(source) == values


QUERIES = {
    "(string) @value": ["a", "b", "c", "d"],
    '(field name: (identifier) @key value: (string) @value (#eq? @key "image"))': ["b"],
    "(field value: (string) @value) (arguments (string) @value) ; of two kinds": ["a", "b", "c"],
    "(arguments (string)* @value)": ["a"],
    '((string) @value (#match? @value "[ab]"))': ["a", "b"],
    '((string) @value (#not-match? @value "[ab]")) ; (#match? @value "(")': ["c", "d"],
    '(table_constructor (field value: (string) @value)* (#any-match? @value "c"))': ["c"],
    '(table_constructor (field value: (string) @value)* (#any-not-match? @value "[bc]"))': [],
    "(function_call name: (identifier) @value)": ["*"],
}


@pytest.mark.parametrize("queries", [tuple(QUERIES), tuple(reversed(QUERIES)), ("(number) @value",), ()])
def test_queries_find_the_same_together_and_each_by_itself(queries: tuple[str, ...]) -> None:
    from hookset.formats import format_named

    document = opened("lua", 'f("a", { image = "b", name = "c" })\nreturn "d"\n')
    kind = format_named("lua").selector
    assert isinstance(document, Preparable)
    together = document.prepared([kind(call="f"), *(kind(query=query) for query in queries)])
    for query, found in QUERIES.items():
        assert [value.text for value in document.select(kind(query=query))] == found
        assert [value.text for value in together.select(kind(query=query))] == found


def test_a_pattern_of_a_query_is_stopped(monkeypatch: pytest.MonkeyPatch) -> None:
    from hookset.formats import format_named
    from hookset.trees.patterns import Pattern, SlowPatternError

    def slow(self: Pattern, _: str) -> None:
        raise SlowPatternError(self.source)

    monkeypatch.setattr(Pattern, "search", slow)
    document = opened("lua", 'f("a")')
    with pytest.raises(SlowPatternError):
        list(document.select(format_named("lua").selector(query='((string) @value (#match? @value "(?:a|aa)+[bc]"))')))


def test_calls_of_any_owner() -> None:
    assert called('a.play("x")\nb:play("y")\nplay("z")', "*play") == [("x", False), ("y", False), ("z", False)]
    assert called('a.b.play("x")\nc.play("y")', "a.b.play") == [("x", False)]


def test_places_are_those_of_the_literal() -> None:
    source = 'local ü = "ä"\nlocal N = "horn"\nf(N)\nf("x" .. ü)'
    from hookset.formats import format_named

    document = opened("lua", source)
    wheres = [value.where for value in document.select(format_named("lua").selector(call="f"))]
    assert wheres == [source.index('"horn"'), source.index('"x"')]
    start = source.index('"horn"')
    assert document.spans(wheres[:1]) == {start: (start, start + 6)}


def test_damage_is_told_where_it_is() -> None:
    problems = opened("lua", "local a = 1\nfunction f(\nlocal b = 2\n").problems
    assert len(problems) == 1
    assert "does not parse as Lua" in problems[0][0]
    assert opened("lua", "goto done ::done:: local x <const> = 0x1p4 // 2").problems == ()


HOOK = 'local b = require("b")'


@pytest.mark.parametrize(
    ("before", "after"),
    [
        pytest.param('local a = require("a")\n\nrun()\n', f'local a = require("a")\n{HOOK}\n\nrun()\n', id="below"),
        pytest.param('local a = require "a" -- why\nrun()', f'local a = require "a" -- why\n{HOOK}\nrun()', id="comment-kept"),
        pytest.param('local a = require("a")', f'local a = require("a")\n{HOOK}', id="no-ending"),
        pytest.param('local a = require("a"); run()\n', f'local a = require("a")\n{HOOK}; run()\n', id="same-line"),
        pytest.param('-- head\n-- more\n\nrun()\n', f'-- head\n-- more\n{HOOK}\n\nrun()\n', id="under-the-comment"),
        pytest.param("", f"{HOOK}\n", id="empty"),
        pytest.param("#!lua\nrun()\n", f"#!lua\n{HOOK}\nrun()\n", id="shell-line"),
        pytest.param(
            'local a = require("a")\n-- local c = require("c")\nfunction f() require("d") end\n',
            f'local a = require("a")\n{HOOK}\n-- local c = require("c")\nfunction f() require("d") end\n',
            id="neither-commented-nor-nested",
        ),
        pytest.param('local a = require("a")\r\nrun()\r\n', f'local a = require("a")\r\n{HOOK}\r\nrun()\r\n', id="crlf"),
    ],
)  # fmt: skip
def test_imports_go_under_the_last_one(before: str, after: str) -> None:
    assert done("lua", before, IMPORT, Body(text=HOOK)) == after


@pytest.mark.parametrize(
    ("before", "after"),
    [
        pytest.param("function start()\n\ta()\nend\n", "function start()\n\ta()\n\tb()\nend\n", id="tabs"),
        pytest.param("function start()\n    a()\n    return 1\nend", "function start()\n    a()\n    b()\n    return 1\nend", id="before-return"),
        pytest.param("function start() end\n", "function start()\n  b()\nend\n", id="empty-on-one-line"),
        pytest.param("function start()\n  -- nothing yet\nend\n", "function start()\n  -- nothing yet\n  b()\nend\n", id="comment-only"),
        pytest.param("start = function()\n  a()\nend\n", "start = function()\n  a()\n  b()\nend\n", id="assigned"),
        pytest.param("local function start()\n  if x then\n    a()\n  end\nend\n", "local function start()\n  if x then\n    a()\n  end\n  b()\nend\n", id="after-a-block"),
    ],
)  # fmt: skip
def test_calls_go_to_the_end_of_the_function(before: str, after: str) -> None:
    assert done("lua", before, START, Body(text="b()")) == after


def test_hooks_of_several_lines_take_the_file_s_indentation() -> None:
    after = done(
        "lua", "function start()\n\ta()\nend\n", START, Body(text="if x then\n  b()\n  if y then\n    c()\n  end\nend")
    )
    assert after == "function start()\n\ta()\n\tif x then\n\t\tb()\n\t\tif y then\n\t\t\tc()\n\t\tend\n\tend\nend\n"


@pytest.mark.parametrize(
    ("there", "seat"),
    [
        ("local b=require 'b'", IMPORT),
        ("local   b = require([[b]]) -- mine", IMPORT),
        ("function start()\n  b ( ) ; a()\nend", START),
    ],
)
def test_another_spelling_counts_as_there(there: str, seat: dict[str, Any]) -> None:
    hook = HOOK if seat is IMPORT else "b()"
    from hookset.formats import AlreadyThere

    assert isinstance(put("lua", there, seat, Body(text=hook)), AlreadyThere)


@pytest.mark.parametrize(
    "there", ["-- " + HOOK, f"--[[\n{HOOK}\n]]", f"function f()\n  {HOOK}\nend", 'local c = require("b")']
)
def test_what_only_looks_like_it_does_not(there: str) -> None:
    assert HOOK in done("lua", there, IMPORT, Body(text=HOOK)).splitlines()


@pytest.mark.parametrize("source", ["function begin() end", "function start() end\nfunction start() end", ""])
def test_a_function_that_is_not_there_once_is_no_seat(source: str) -> None:
    refused = put("lua", source, START, Body(text="b()"))
    assert isinstance(refused, NoSeat)
    assert "one function named start" in refused.looked_for


def test_text_that_is_no_lua_is_not_set() -> None:
    assert isinstance(put("lua", "function start() end", START, Body(text="b( end")), WrongBody)


STATEMENTS = st.lists(
    st.sampled_from(["a()", "-- note", "local x = 1", 'y = "end"', "if q then\n    z()\n  end"]), max_size=5
)


@given(STATEMENTS, st.sampled_from(["\n", "\r\n"]), st.sampled_from(["start", "end"]))
def test_any_function_takes_a_call(statements: list[str], newline: str, at: str) -> None:
    body = "".join(f"  {statement}\n" for statement in statements)
    string = f"local q = 1\nfunction start()\n{body}end\nreturn start\n".replace("\n", newline)
    after = done("lua", string, START | {"at": at}, Body(text="b()"))
    assert called(after.replace("b()", 'f("here")')) == [("here", False)]
    assert opened("lua", after).problems == ()


BUSY = "a:" * 15_000 + "(\n"


def test_what_would_keep_the_grammar_busy_is_a_mistake() -> None:
    ((what, where),) = opened("lua", BUSY).problems
    assert "does not parse" in what
    assert where == 0


LINE = "local a = {1,2,3}\nfunction f(x) return x+1 end\n"


@pytest.mark.parametrize("before", [0, 3_000])
def test_a_bracket_that_is_missing_in_a_long_script_is_told_where_it_is(before: int) -> None:
    source = before * LINE + LINE.replace("}", "") + (5_000 - before) * LINE
    ((_, where),) = opened("lua", source).problems
    assert isinstance(where, int)
    assert source.count("\n", 0, where) == 2 * before


@pytest.mark.parametrize("mistake", ["", "local b = {1,\n"], ids=["none", "a-bracket"])
def test_a_long_script_that_is_parsed_over_and_over_takes_no_more_room(mistake: str) -> None:
    tracemalloc.start()
    try:
        for one in range(8):
            source = f"-- {one}\n{mistake}{500 * LINE}"
            form = format_named("lua")
            assert bool(form.open(Text(source, "utf-8"), form.options()).problems) == bool(mistake)
            if one == 1:
                before, _ = tracemalloc.get_traced_memory()
        after, _ = tracemalloc.get_traced_memory()
    finally:
        tracemalloc.stop()
    assert after - before < len(source)


def test_a_long_script_without_a_mistake_is_read_to_its_end() -> None:
    strange = "--[==[" + "[[ ]] ' \" \n" * 900 + "]==]\n" + 'g "x" { 1 } [[y]]\n' * 6_000
    assert called(strange + 'f("at the end")') == [("at the end", False)]


@pytest.mark.no_cover
@pytest.mark.parametrize("seat", [START, {"into": "gates"}], ids=["statements", "items"])
def test_what_keeps_the_grammar_busy_is_no_entry(seat: dict[str, Any]) -> None:
    form = format_named("lua")
    assert not form.pasted(form.seat(**seat), Snippet(BUSY, form.options(), opened("lua", "")))
    file = "gates = { 1 }\nfunction start() end\n"
    assert isinstance(put("lua", file, seat, Body(text=BUSY)), WrongBody)


@pytest.mark.parametrize(
    ("language", "seat", "text", "items"),
    [
        (
            "lua",
            {"into": "return"},
            '  ["gull"] = { loud = 1 },\n  heron = 2,',
            ['["gull"] = { loud = 1 }', "heron = 2"],
        ),
        ("lua", {"into": "BIRDS", "form": "row"}, '{ name = "gull" },\n', ['{ name = "gull" }']),
        ("ecmascript", {"into": "return"}, '"gull": { loud: 1 },\n', ['"gull": { loud: 1 }']),
        ("ecmascript", {"into": "BIRDS", "form": "row"}, '{ name: "gull" },\n', ['{ name: "gull" }']),
        ("lua", {"into": "BIRDS", "form": "row"}, '["gull"] = 1,', []),
        ("lua", {"into": "BIRDS"}, '{ name = "gull" },', []),
        ("lua", {"into": "BIRDS"}, 'play("gull")', []),
        ("lua", START, '["gull"] = 1,', []),
    ],
)
def test_items_are_pasted_without_the_table_around_them(
    language: str, seat: dict[str, Any], text: str, items: list[str]
) -> None:
    form = format_named(language)
    found = form.pasted(form.seat(**seat), Snippet(text, form.options(), opened(language, "")))
    assert [one.body.text for one in found] == items
    assert [text[one.start : one.end] for one in found] == items


def test_a_loop_goes_through_what_was_called_so_before_it() -> None:
    """A loop's own name means something only in its body."""
    script = """
local tags = { "fog", "gale" }
for _, tags in ipairs(tags) do play(tags) end
for _, unknown in ipairs(unknown.list) do play(unknown) end
for _, step in ipairs(First) do Second = step end
First = Second
for _, step in ipairs(First) do play(step) end
"""
    found = opened("lua", script).select(format_named("lua").selector(call="play"))
    assert [value.text for value in found] == ["fog", "gale", "*", "*"]


def test_a_function_given_to_a_list_goes_through_what_was_called_so_before_it() -> None:
    script = 'const x = ["fog"]; for (const y of y.list) { play(y); }\nx.forEach((x) => { play(x); x.forEach((x) => play(x)); });'
    found = opened("ecmascript", script).select(format_named("ecmascript").selector(call="play"))
    assert sorted(value.text for value in found) == ["*", "*", "fog"]
