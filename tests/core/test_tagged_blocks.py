"""Blocks between tags: `[door]`, a key with its value on a line, `[/door]`."""

from __future__ import annotations

from typing import Any

import pytest

from hookset.formats import AlreadyThere, Unreadable, format_named, spliced
from hookset.formats.base import Body
from hookset.trees import Text

BLOCK = format_named("block")
KEYED: dict[str, Any] = {"tagged": True, "opens": "[", "closes": "]", "assign": "=", "comments": ("#",)}
WORDED: dict[str, Any] = {"tagged": True, "opens": "<", "closes": ">", "comments": ("#",)}

FERRY = """# what crosses the water
[ferry]
    id=heron
    title= _ "The Heron"   # with a mark for translators
    picture=boats/heron old.png
    colour="#ff0000", "blue"
    {RING fog_bell 3 (far away) {ECHO 2}} {IF_EASY x=1}   # two
    {PREFIX}_key=4
    says="two
lines, and ""quotes"" too"
    carries=sand,coal
    [stop]
        at=2,3
        [bell]
            sound=ring.ogg
        [/bell]
    [/stop]
    shade=#0000ff
    depth=
[/ferry]
[ferry] # nothing is known of it
[/ferry]
"""


def opened(text: str, options: dict[str, Any] = KEYED) -> Any:
    return BLOCK.open(Text(text, "utf-8"), BLOCK.options(**options))


def found(text: str, at: str, options: dict[str, Any] = KEYED, arg: int = 1) -> list[str]:
    return [value.text for value in opened(text, options).select(BLOCK.selector(at=at, arg=arg))]


@pytest.mark.parametrize(
    ("at", "values"),
    [
        ("ferry/id", ["heron"]),
        ("ferry/title", ["_", "The Heron"]),
        ("ferry/picture", ["boats/heron old.png"]),
        ("ferry/colour", ["#ff0000", "blue"]),
        ("ferry/RING", ["fog_bell", "3", "far away", "{ECHO 2}"]),
        ("ferry/IF_EASY", ["x=1"]),
        ("ferry/{PREFIX}_key", ["4"]),
        ("ferry/says", ['two\nlines, and ""quotes"" too']),
        ("ferry/carries", ["sand,coal"]),
        ("ferry/stop/at", ["2,3"]),
        ("ferry/sound", []),
        ("**/sound", ["ring.ogg"]),
        ("ferry/shade", ["#0000ff"]),
        ("ferry/depth", []),
    ],
)
def test_what_keys_are_set_to(at: str, values: list[str]) -> None:
    for text in (FERRY, FERRY.replace("\n", "\r\n")):
        assert [value.replace("\r\n", "\n") for value in found(text, at, arg=0)] == values


def test_every_value_stands_where_it_is_said_to() -> None:
    document = opened(FERRY)
    every = list(document.select(BLOCK.selector(at="**/*", arg=0)))
    spans = document.spans([value.where for value in every])
    assert len(every) == 17
    assert all(FERRY[slice(*spans[value.where])] == value.text for value in every)


def test_what_stands_in_braces_is_an_entry_with_them() -> None:
    ferry = BLOCK.seat(into="ferry")
    texts = [entry.body.text for entry in opened(FERRY).existing(ferry)]
    assert "{RING fog_bell 3 (far away) {ECHO 2}}" in texts
    assert "{IF_EASY x=1}" in texts


def test_a_text_goes_on_behind_a_plus() -> None:
    text = '[a]\n  says="one" +\n    _ "two"\n  ends="three" +\n  id=4\n[/a]\n'
    assert found(text, "a/says", arg=0) == ["one", "_", "two"]
    assert found(text, "a/ends", arg=0)[0] == "three"
    assert found(text, "a/id") == ["4"]


def test_names_stand_in_the_tag() -> None:
    text = '<Pier "old one" east>\n  Bell ring.ogg "far away" # and no more\n  Lit\n</Pier>\n'
    assert found(text, "Pier/@1", WORDED) == ["old one"]
    assert found(text, "Pier/@-1", WORDED) == ["east"]
    assert found(text, "Pier/Bell", WORDED, 0) == ["ring.ogg", "far away"]
    assert found(text, "Pier/@0", WORDED) == ["Bell", "Lit"]


@pytest.mark.parametrize(
    ("text", "line", "says"),
    [
        ("[ferry]\n[stop]\n[/ferry]\n", 3, "ends the block 'stop' as 'ferry'"),
        ("[ferry]\n  [stop]\n", 2, "'stop'"),
        ("id=1\n[/ferry]\n", 2, "'ferry'"),
        ('[ferry]\n  id=1\n  says="no end\n[/ferry]\n', 3, "does not end"),
        ("[a]\n" * 300 + "[/a]\n" * 300, 202, "too deeply"),
    ],
)
def test_what_is_no_block_is_told_with_its_line(text: str, line: int, says: str) -> None:
    with pytest.raises(Unreadable) as error:
        opened(text)
    assert says in error.value.what
    assert isinstance(error.value.where, int)
    assert text.count("\n", 0, error.value.where) + 1 == line


@pytest.mark.parametrize(
    ("seat", "body", "old", "new"),
    [
        ({"into": "ferry/stop"}, "name=quay", "    [/stop]", "        name=quay\n    [/stop]"),
        ({"into": "ferry/stop/bell", "at": "start"}, "loud=yes", "[bell]\n", "[bell]\n            loud=yes\n"),
        ({}, "[ferry]\n  id=loon\n[/ferry]", "[/ferry]\n[ferry] #", "[/ferry]\n[ferry] #"),
    ],
)
def test_an_entry_is_set_in_a_block(seat: dict[str, str], body: str, old: str, new: str) -> None:
    text = FERRY.replace("[ferry] # nothing is known of it\n[/ferry]\n", "")
    placed = opened(text).put(BLOCK.seat(**seat), Body(text=body))
    after = spliced(text, placed.edits)
    assert after == (text.replace(old, new) if seat else f"{text}[ferry]\n    id=loon\n[/ferry]\n")
    assert isinstance(opened(after).put(BLOCK.seat(**seat), Body(text=body)), AlreadyThere)


def test_keys_are_added_and_values_written_in_the_form_of_the_file() -> None:
    document = opened(FERRY)
    ferries = BLOCK.selector(at="ferry")
    (first, record), (second, _) = document.records(ferries)
    assert record["id"] == "heron"
    added = spliced(FERRY, document.adding(second, {"id": "loon", "at": [1, 2]}).edits)
    assert added.endswith("[ferry] # nothing is known of it\n    id=loon\n    at=1 2\n[/ferry]\n")
    assert document.unit(first).body.text.endswith("depth=\n[/ferry]")
    (sound,) = document.select(BLOCK.selector(at="**/sound"))
    span = document.spans([sound.where])[sound.where]
    edit = next(iter(document.writings(span, "far ring.ogg")))
    assert found(spliced(FERRY, (edit,)), "**/sound") == ["far ring.ogg"]


@pytest.mark.parametrize("piece", ["a ", " ", "=", '"" ', "[a", "x y ", "# ", "[/", "{a} ", "{a ", "{a (", "(", "{{"])
def test_hostile_lines_take_no_time(piece: str) -> None:
    text = piece * 20_000
    for whole in (text, f"[a]\nk={text}\n[/a]\n", f"[a]\n{text}\n[/a]\n"):
        try:
            opened(whole)
        except Unreadable:
            continue
