"""Scripts in languages that only a layout knows, by regular expressions: brackets, comments and strings in any order."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.formats import AlreadyThere, Edits, NoSeat, WrongBody, format_named, spliced
from hookset.formats.base import Body
from hookset.formats.format import Snippet
from hookset.trees import Text

TEXT = format_named("text")
OPTIONS: dict[str, Any] = {
    "comments": (r"#[^\n]*", r"<#[\s\S]*?#>"),
    "strings": (r'"(?:\\.|[^"\\\n])*"', r"'[^'\n]*'"),
    "constants": r'^let (?P<name>\w+) = "(?P<value>[^"]*)"',
}
PASCAL: dict[str, Any] = {"comments": (r"--[^\n]*",), "opens": "begin", "closes": "end"}


def opened(text: str, **options: Any) -> Any:
    return TEXT.open(Text(text, "utf-8"), TEXT.options(**(options or OPTIONS)))


def found(text: str, match: str, **options: Any) -> list[str]:
    return [value.text for value in opened(text, **options).select(TEXT.selector(match=match))]


# What a line says, and what of it is a name that is played.
LINES: list[tuple[str, list[str]]] = [
    ('play "bell"', ["bell"]),
    ('  play "horn" # play "gone"', ["horn"]),
    ('# play "gone"', []),
    ("say 'play \"gone\"'", []),
    ('say "# play" ; play "gull"', ["gull"]),
    ("play WIND", ["wind"]),
    ("play NOBODY", ["*"]),
    ("<# play \"gone\" #> play 'no'", []),
    ('say "a \\" play b" play "tide"', ["tide"]),
    ("{", []),
    ("}", []),
    ("", []),
]
PLAYED = r"""\bplay (?:"(?P<value>[^"]*)"|(?P<word>[A-Z]+))"""


@given(st.lists(st.sampled_from(LINES), max_size=12), st.sampled_from(["\n", "\r\n"]))
def test_names_are_found_in_code_only(lines: list[tuple[str, list[str]]], newline: str) -> None:
    text = newline.join(['let WIND = "wind"', *(line for line, _ in lines)])
    assert found(text, PLAYED) == [name for _, names in lines for name in names]


@given(st.lists(st.sampled_from(LINES), max_size=12))
def test_places_are_those_of_the_values(lines: list[tuple[str, list[str]]]) -> None:
    text = "\n".join(line for line, _ in lines)
    document = opened(text)
    values = [value for value in document.select(TEXT.selector(match=PLAYED)) if not value.pattern]
    spans = document.spans([value.where for value in values])
    assert all(text[slice(*spans[value.where])] == value.text for value in values)


NESTED = """on start {
    say "}"  # {
    each lamp { light lamp }
}
on stop { }
on rest
{
}
"""


@pytest.mark.parametrize(
    ("seat", "old", "new"),
    [
        ({"inside": "^on start", "at": "end"}, "light lamp }\n", "light lamp }\n    go\n"),
        ({"inside": "^on start", "at": "start"}, "on start {\n", "on start {\n    go\n"),
        ({"inside": "^on stop", "at": "end"}, "on stop { }", "on stop {\n    go\n}"),
        ({"inside": "^on rest", "at": "end"}, "on rest\n{\n", "on rest\n{\n    go\n"),
        ({"inside": r"each lamp\b", "at": "start"}, "{ light lamp }", "{ light lamp\n        go\n    }"),
        ({"at": "start"}, "on start {\n", "go\non start {\n"),
        ({"after": r"^\s*say "}, '"}"  # {\n', '"}"  # {\n    go\n'),
        ({"before": r"^\s*each "}, "    each", "    go\n    each"),
        ({"after": "^import ", "otherwise": "start"}, "on start {\n", "go\non start {\n"),
        ({"after": "^import ", "otherwise": "end"}, "on rest\n{\n}\n", "on rest\n{\n}\ngo\n"),
        ({"inside": "^on start", "after": "^import ", "otherwise": "start"}, "on start {\n", "on start {\n    go\n"),
    ],
)
@pytest.mark.parametrize("newline", ["\n", "\r\n"])
def test_lines_go_into_their_brackets(seat: dict[str, str], old: str, new: str, newline: str) -> None:
    text, old, new = (one.replace("\n", newline) for one in (NESTED, old, new))
    assert text.count(old) == 1, old
    placed = opened(text).put(TEXT.seat(**seat), Body(text="go"))
    assert isinstance(placed, Edits), placed
    after = spliced(text, placed.edits)
    assert after == text.replace(old, new)
    assert isinstance(opened(after).put(TEXT.seat(**seat), Body(text="go")), AlreadyThere)


def test_words_can_be_brackets() -> None:
    text = "procedure start\nbegin -- end\n  light()\nend\n"
    seat = TEXT.seat(inside="^procedure start", at="end")
    placed = opened(text, **PASCAL).put(seat, Body(text="go()"))
    assert spliced(text, placed.edits) == "procedure start\nbegin -- end\n  light()\n  go()\nend\n"


@pytest.mark.parametrize(
    ("seat", "body"),
    [
        ({"inside": "^on sleep", "at": "end"}, Body(text="go")),
        ({"inside": "^on ", "at": "end"}, Body(text="go")),
        ({"after": "^import "}, Body(text="go")),
        ({"inside": "^on stop", "before": "^say "}, Body(text="go")),
    ],
)
def test_seats_that_are_not_there_once(seat: dict[str, str], body: Body) -> None:
    assert isinstance(opened(NESTED).put(TEXT.seat(**seat), body), NoSeat)


@pytest.mark.parametrize("body", [Body(), Body(text=""), Body(text="  \n"), Body(record={"a": 1})])
def test_what_is_no_line(body: Body) -> None:
    assert isinstance(opened(NESTED).put(TEXT.seat(at="end"), body), WrongBody)


@pytest.mark.parametrize(
    "entry", ["each lamp { light lamp }", "each   lamp {\tlight lamp }", 'say "}"\neach lamp { light lamp }']
)
def test_blanks_and_comments_do_not_make_another_entry(entry: str) -> None:
    placed = opened(NESTED).put(TEXT.seat(inside="^on start", at="end"), Body(text=entry))
    assert isinstance(placed, AlreadyThere), placed
    elsewhere = opened(NESTED).put(TEXT.seat(inside="^on stop", at="end"), Body(text=entry))
    assert isinstance(elsewhere, Edits)


def test_flags_of_a_comment_are_its_own() -> None:
    said = 'Rem play "a"\nplay "b"\nREM\nplay "c" rem'
    options = {"comments": (r"(?mi)^rem\b[^\n]*", r"(?s)/\*.*?\*/"), "strings": ()}
    assert found(said, r'play "(?P<value>[^"]*)"', **options) == ["b", "c"]
    assert found('PLAY "d"', r'play "(?P<value>[^"]*)"', **options) == []


def test_a_line_that_is_commented_out_is_not_there() -> None:
    text = NESTED.replace("on stop { }", "on stop {\n    # go\n}")
    placed = opened(text).put(TEXT.seat(inside="^on stop", at="end"), Body(text="go"))
    assert isinstance(placed, Edits) and spliced(text, placed.edits).count("    go\n") == 1


@pytest.mark.parametrize(
    ("options", "words"),
    [
        ({"comments": ("(",)}, "is no regular expression"),
        ({"strings": ("[",)}, "is no regular expression"),
        ({"comments": ("(?P<a>#).*", "(?P<a>;).*")}, "is no regular expression"),
        ({"constants": "let (?P<name>x)"}, "has no group called value"),
        ({"constants": "let x"}, "has no group called name"),
    ],
)
def test_options_that_cannot_be(options: dict[str, Any], words: str) -> None:
    with pytest.raises(ValueError, match=words):
        TEXT.options(**options)


@pytest.mark.parametrize("seat", [{}, {"at": "end", "after": "x"}, {"after": "("}, {"inside": "(", "at": "end"}])
def test_seats_that_cannot_be(seat: dict[str, Any]) -> None:
    with pytest.raises(ValueError, match=r"says where|no regular expression"):
        TEXT.seat(**seat)


PASTED = """Put this into your script:
on bell {
    play "bell"
}
on horn { play "horn" }
"""


def test_whole_blocks_are_pasted() -> None:
    blocks = TEXT.pasted(TEXT.seat(at="end"), Snippet(PASTED.partition("\n")[2], TEXT.options(**OPTIONS)))
    assert [one.body.text for one in blocks] == ['on bell {\n    play "bell"\n}', 'on horn { play "horn" }']
    inside = TEXT.pasted(
        TEXT.seat(inside="^on bell", at="end"), Snippet(PASTED.partition("\n")[2], TEXT.options(**OPTIONS))
    )
    assert [one.body.text for one in inside] == ['play "bell"']


@given(st.text(st.sampled_from('{}"#\n a'), max_size=40))
def test_whatever_the_text_an_entry_comes_in_whole(text: str) -> None:
    document = opened(text)
    placed = document.put(TEXT.seat(at="end"), Body(text="go now"))
    if isinstance(placed, Edits):
        after = spliced(text, placed.edits)
        assert "go now" in after
        assert after.replace("go now\n", "", 1).rstrip("\n") == text.rstrip("\n")
