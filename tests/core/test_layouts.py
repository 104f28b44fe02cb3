"""Layouts: read whole, with every mistake told by its line."""

from __future__ import annotations

from pathlib import Path

import pytest

from hookset.config.layouts import layout_source, load_layout, recognise, shipped_layout, shipped_names
from hookset.config.sheets import nearest
from hookset.formats import format_named, text_of
from hookset.model import CouldNotError, HooksetError
from hookset.project import MapProject, begin, open_project
from hookset.trees import EmptyTree, Inline, Overlay
from tests.refusals import refused

HEAD = (
    '[layout]\nname = "x"\ntitle = "x"\nsides = ["server"]\n[kinds.sound]\nlabel = "sound"\n[[read]]\nfiles = "*.lua"\n'
)


@pytest.mark.parametrize(
    ("rest", "words"),
    [
        pytest.param('format = "lua"\n[lists]\nengine = ["a"]\n', "x.toml:11: nothing uses this list", id="idle-list"),
        pytest.param('format = "lua"\n[kinds.a]\nlabel = "a"\nvocabulary = { list = "engin" }\n[lists]\nengine = ["a"]\n', "x.toml:12: no list is called `engin`; did you mean `engine`?", id="list"),
        pytest.param('format = "luar"\n', "x.toml:9: no format is called `luar`; did you mean `lua`?", id="format"),
        pytest.param('format = "lua"\nsid = "server"\n', "x.toml:10: unknown key `sid`; did you mean `side`?", id="key"),
        pytest.param('format = "lua"\nside = "servr"\n', "x.toml:10: no side is called `servr`; did you mean `server`?", id="side"),
        pytest.param('format = "lua"\ndefines = [{ kind = "sond", call = "f" }]\n', "x.toml:10: no kind is called `sond`; did you mean `sound`?", id="kind"),
        pytest.param('format = "lua"\nrefers = [{ kind = "sound", cal = "f" }]\n', "x.toml:10: unknown key `cal`; did you mean `call`?", id="selector-key"),
        pytest.param('format = "lua"\nrefers = [{ kind = "sound" }]\n', "x.toml:10: one of call, assign, members, function, imports, strings, globals and query says which values are meant", id="selector"),
        pytest.param('format = "lua"\nrefers = [{ kind = "sound", call = "f", skip = "(" }]\n', "x.toml:10: `skip` is no regular expression", id="regex"),
        pytest.param('format = "lua"\nrefers = [{ kind = "sound", query = "(string @value" }]\n', "x.toml:10: query is no tree-sitter query of Lua", id="query"),
        pytest.param('format = "ecmascript"\nrefers = [{ kind = "sound", query = "(dot_index_expression) @value" }]\n', "x.toml:10: query is no tree-sitter query of ECMAScript", id="query-of-another-language"),
        pytest.param('format = "lua"\nrefers = [{ kind = "sound", query = """((string) @value (#like? @value "a"))""" }]\n', "x.toml:10: query asks #like?, which is no predicate", id="query-predicate"),
        pytest.param('format = "lua"\nrefers = [{ kind = "sound", query = """((string) @value (#match? @value "("))""" }]\n', "x.toml:10: query has a pattern that is no regular expression", id="query-pattern"),
        pytest.param('format = "lua"\nrefers = [{ kind = "sound", call = "f", arg = 0 }]\n', "x.toml:10: arg counts from one", id="argument"),
        pytest.param('format = "lua"\nrefers = [{ kind = "sound", call = "" }]\n', "x.toml:10: is empty", id="empty"),
        pytest.param('format = "lines"\nrefers = [{ kind = "sound", field = 2 }]\n', "x.toml:10: lines have no fields unless", id="fields"),
        pytest.param('format = "lines"\nrefers = [{ kind = "sound", when = { 1 = "play" } }]\n', "x.toml:10: lines have no fields unless", id="fields-when"),
        pytest.param('format = "json"\nrefers = [{ kind = "sound", at = "{0}" }]\n', "x.toml:10: a JSONPath begins with $", id="jsonpath-word"),
        pytest.param('format = "json"\nrefers = [{ kind = "sound", at = "$.a{b}" }]\n', "x.toml:10: '$.a{b}' is no JSONPath", id="jsonpath-word-inside"),
        pytest.param('format = "json"\nrefers = [{ kind = "sound", at = "$.a[' + "9" * 5000 + ']" }]\n', "x.toml:10: no list has as many elements", id="jsonpath-digits"),
        pytest.param('format = "json"\nrefers = [{ kind = "sound", at = "$.a", name = "{value|slashes:}" }]\n', "x.toml:10: slashes in {value|slashes:} needs", id="slashes"),
        pytest.param('format = "json"\nrefers = [{ kind = "sound", at = "" }]\n', "x.toml:10: a JSONPath begins with $", id="jsonpath-empty"),
        pytest.param('format = "json"\nrefers = [{ kind = "sound", at = "$[?@.a == 1e999]" }]\n', "x.toml:10: '$[?@.a == 1e999]' is no JSONPath", id="jsonpath-number"),
        pytest.param('format = "json"\nrefers = [{ kind = "sound", at = "$[?@.a =~ /(/]" }]\n', "x.toml:10: '$[?@.a =~ /(/]' compares by =~", id="jsonpath-pattern"),
        pytest.param('format = "json"\nrefers = [{ kind = "sound", at = "$[?match(@.a, \'(\')]" }]\n', "x.toml:10: \"$[?match(@.a, '(')]\" has a pattern", id="jsonpath-match"),
        pytest.param('format = "block"\nrefers = [{ kind = "sound", at = "a/b", arg = -1 }]\n', "x.toml:10: arg counts from one", id="block-argument"),
        pytest.param('format = "xml"\nrefers = [{ kind = "sound", at = "//x:a/@b" }]\n', "x.toml:10: '//x:a/@b' uses the prefix x:", id="xpath-prefix"),
        pytest.param('format = "xml"\nrefers = [{ kind = "sound", at = "//a[matches(@b)]" }]\n', "x.toml:10: '//a[matches(@b)]' calls matches()", id="xpath-function"),
        pytest.param('format = "xml"\nrefers = [{ kind = "sound", at = "//a[@b=$c]" }]\n', "x.toml:10: '//a[@b=$c]' has a variable", id="xpath-variable"),
        pytest.param('format = "xml"\nrefers = [{ kind = "sound", at = "//a/namespace::*" }]\n', "x.toml:10: '//a/namespace::*' asks for namespaces", id="xpath-namespaces"),
        pytest.param('format = "xml"\noptions = { namespaces = { "" = "made:x" } }\nrefers = [{ kind = "sound", at = "//a" }]\n', "x.toml:11: options.namespaces has '' = 'made:x'", id="xpath-no-prefix"),
        pytest.param('format = "xml"\noptions = { namespaces = { x = "" } }\nrefers = [{ kind = "sound", at = "//a" }]\n', "x.toml:11: options.namespaces has 'x' = ''", id="xpath-no-uri"),
        pytest.param('format = "xml"\nrefers = [{ kind = "sound", at = "count(//a)" }]\n', "x.toml:10: 'count(//a)' comes to a number", id="xpath-number"),
        pytest.param('format = "xml"\nrefers = [{ kind = "sound", at = "//a | 3" }]\n', "x.toml:10: '//a | 3' puts together", id="xpath-sum"),
        pytest.param('format = "xml"\n[[seat]]\nname = "s"\ntitle = "t"\nfile = "a.lua"\nput = { into = "//x:a" }\n', "x.toml:14: '//x:a' uses the prefix x:", id="seat-prefix"),
        pytest.param('format = "lua"\nrefers = [{ kind = "sound", query = "(chunk (_)* @value . (_)* @b)" }]\n', "x.toml:10: query repeats more than one part", id="query-repeats"),
        pytest.param('format = "lua"\nrefers = [{ kind = "sound", query = "(string) @name" }]\n', "x.toml:10: query captures no @value", id="query-without-value"),
        pytest.param('format = "lua"\ndefines = [{ kind = "sound", call = "f", name = "{stm}" }]\n', "x.toml:10: unknown part {stm}; did you mean `stem`?", id="template"),
        pytest.param('format = "lua"\n[[seat]]\nname = "s"\ntitle = "t"\nfile = "a.lua"\nput = { after = "last" }\n', "x.toml:14: after and call go together", id="seat"),
        pytest.param('format = "lua"\n[[seat]]\nname = "s"\ntitle = "t"\nfile = "a.txt"\n', "x.toml:13: no [[read]] rule says of which format `a.txt` is", id="seat-file"),
        pytest.param('format = "lua"\n[manifest]\nfile = "m"\nrow = "row"\nmust_list = []\n', "x.toml:12: no kind is called `row`", id="manifest"),
    ],
)  # fmt: skip
def test_mistakes_are_told_with_their_line_and_the_nearest_word(rest: str, words: str) -> None:
    with pytest.raises(CouldNotError) as told:
        load_layout((HEAD + rest).encode(), "x.toml")
    assert any(line.startswith(words) for line in told.value.details), told.value.details


@pytest.mark.parametrize(
    "rest",
    [
        'options = { namespaces = { x = "made:x" } }\nrefers = [{ kind = "sound", at = "//x:a[not(@b = \'c:d(\')]/text()" }]\n',
        'refers = [{ kind = "sound", at = "//a[starts-with(@b, \'$\')]/self::a/@xml:id" }]\n',
        'refers = [{ kind = "sound", at = "//a[@b and (@c or @d)]/processing-instruction()" }]\n',
    ],
)
def test_paths_that_mean_something_are_taken(rest: str) -> None:
    assert load_layout((HEAD + 'format = "xml"\n' + rest).encode(), "x.toml").reads[0].refers


def test_toml_that_does_not_parse_is_told_with_line_and_column() -> None:
    with pytest.raises(CouldNotError) as told:
        load_layout(b'[layout]\nname = "x\n', "x.toml")
    assert told.value.where.startswith("x.toml:2:")


def test_shipped_layouts_load_and_recognise_their_maps(project: MapProject) -> None:
    assert "split-lua" in shipped_names()
    found = recognise(project.tree, [shipped_layout(name) for name in shipped_names()])
    assert found[0].layout.name == "split-lua"
    assert found[0].whole
    assert ("map.toml", "a descriptor") in found[0].seen


def test_nothing_is_recognised_in_nothing() -> None:
    assert recognise(Overlay(EmptyTree(), {"a.txt": Inline(b"")}), [shipped_layout("split-lua")]) == ()


def test_an_unknown_layout_is_told_with_the_nearest() -> None:
    with refused("unknown-layout"):
        shipped_layout("split-lau")


def test_a_folder_that_is_no_map_is_not_started(tmp_path: Path) -> None:
    (tmp_path / "notes.txt").write_text("x")
    with refused("layout-not-recognised"):
        begin(tmp_path, None, ())


def test_a_map_that_lacks_parts_is_recognised_with_what_is_lacking(demo: Path) -> None:
    (demo / "hookset.toml").unlink()
    (demo / "manifest.txt").unlink()
    beginning = begin(demo, None, ())
    assert beginning.likeness.layout.name == "split-lua"
    assert beginning.likeness.lacking == (("manifest.txt", "a manifest, one path a line"),)


def test_a_layout_of_one_s_own_is_named_by_its_path(demo: Path) -> None:
    own = HEAD + 'format = "lua"\nrefers = [{ kind = "sound", call = "play_sound" }]\n'
    (demo / "own.toml").write_text(own)
    project_file = demo / "hookset.toml"
    project_file.write_text(project_file.read_text().replace('"split-lua"', '"own.toml"'))
    assert open_project(demo).layout.name == "x"


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("[map]\nname = 'x'\nlayuot = 'split-lua'\n", "hookset.toml:3: unknown key `layuot`; did you mean `layout`?"),
        (
            "[map]\nname = 'x'\nlayout = 'split-lua'\n[content]\nstock = 'x'\n",
            "hookset.toml:5: `stock` should be of type array, not text",
        ),
    ],
)
def test_mistakes_in_the_project_file_are_told(text: str, words: str, demo: Path) -> None:
    (demo / "hookset.toml").write_text(text)
    with pytest.raises(CouldNotError) as told:
        open_project(demo)
    assert words in told.value.details


def test_a_stock_list_that_is_not_there_is_told(demo: Path) -> None:
    (demo.parent / "base.stock.json").unlink()
    with refused("not-found"):
        open_project(demo)
    (demo.parent / "base.stock.json").write_text('{"stock": 1}')
    with refused("unexpected-content"):
        open_project(demo)


@pytest.mark.parametrize("name", shipped_names())
def test_shipped_layouts_have_no_mistakes_that_only_others_are_looked_through_for(name: str) -> None:
    assert load_layout(layout_source(name).encode(), name).fingerprint == shipped_layout(name).fingerprint


@pytest.mark.parametrize("name", ["//*//*", "base64", "rot13", "undefined", "", "idna\\u0000"])
def test_an_encoding_that_is_none_is_a_mistake_in_its_line(name: str) -> None:
    text = layout_source("split-lua") + f'\n[[read]]\nfiles = "*.odd"\nformat = "text"\nencodings = ["{name}"]\n'
    with pytest.raises(HooksetError) as told:
        load_layout(text.encode(), "own.toml")
    line = text.count("\n")
    assert any(f"own.toml:{line}:" in detail for detail in told.value.details), told.value.details


def test_a_file_that_names_an_encoding_that_is_none_is_unreadable() -> None:
    form = format_named("xml")
    for name in (b"klingon", b"rot13", b"base64"):
        with pytest.raises(CouldNotError) as told:
            text_of(form, b'<?xml version="1.0" encoding="' + name + b'"?>\n<World/>\n', ("utf-8",))
        assert name.decode() in told.value.what


def test_of_many_words_the_nearest_are_told() -> None:
    words = [f"lamp_{number}" for number in range(400)]
    assert nearest("lamp_7x", words) == "; did you mean `lamp_7`?"
    told = nearest("q", words)
    assert sum(word in told.split(": ")[1].split(", ") for word in words) == 5
    assert nearest("q", ["lamp", "bell"]) == "; there are: lamp, bell"
