"""What is known of a large XML file after an insertion is what reading it again says."""

from __future__ import annotations

import re

import pytest
from hypothesis import event, given
from hypothesis import strategies as st

from hookset.formats import format_named, opening
from hookset.formats._xml.elements import Elements, elements_of
from hookset.formats._xml.inserting import with_inserted
from hookset.formats._xml.scan import scanned
from hookset.formats._xml.spans import ElementSpans
from hookset.formats.base import Edit, spliced
from hookset.formats.document import Insertable
from hookset.formats.opening import open_file, open_with_insertions
from hookset.trees import Text

NAMES = st.sampled_from(["yard", "Thing", "key", "möwe"])
BETWEEN = st.sampled_from(
    ["", " ", "\n  ", "<!-- <yard/> -->", "<![CDATA[<key/>]]>", "<?see </yard>?>", "fog &amp; rain", "é"]
)
ATTRIBUTES = st.dictionaries(NAMES, st.sampled_from(["1", "a > b", "'", "möwe", "&lt;x/&gt;"]), max_size=2).map(
    lambda found: "".join(f' {key}="{value}"' for key, value in found.items())
)


NOTHING = Elements([], [], [])


def said(elements: Elements | None) -> object:
    assert elements is not None
    return elements.tags, list(elements.attributes), list(elements.parents)


def element(inside: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    whole = st.builds(lambda tag, said, text: f"<{tag}{said}>{text}</{tag}>", NAMES, ATTRIBUTES, inside)
    return st.one_of(st.builds(lambda tag, said: f"<{tag}{said} />", NAMES, ATTRIBUTES), whole)


CONTENT = st.recursive(
    BETWEEN,
    lambda inside: st.lists(st.one_of(BETWEEN, element(inside)), max_size=4).map("".join),
    max_leaves=12,
)
PLAIN = st.lists(element(st.sampled_from(["", "\n", "fog"])), min_size=1, max_size=2).map("\n".join)


@given(CONTENT, st.lists(st.tuples(st.integers(0, 99), st.one_of(PLAIN, PLAIN, CONTENT)), min_size=1, max_size=2))
def test_what_is_said_of_an_insertion_is_so(content: str, asked: list[tuple[int, str]]) -> None:
    before = Text(f'<?xml version="1.0"?>\n<map>{content}</map>\n', "utf-8")
    marks = [found.start() for found in re.finditer(r"<|(?<=>)|(?<=-)", before.string)]
    edits = [Edit(at, at, text) for number, text in asked for at in [marks[number % len(marks)]]]
    after = Text(spliced(before.string, edits), "utf-8")
    found = with_inserted(before, scanned(before) or NOTHING, ElementSpans(before), after, edits)
    event(f"known: {found is not None}")
    if found is not None:
        assert said(found) == said(elements_of(after))


@given(CONTENT, st.integers(0, 20), st.booleans(), PLAIN)
def test_beside_any_element_it_need_not_be_read_again(content: str, number: int, behind: bool, text: str) -> None:
    before = Text(f"<map><yard/>{content}</map>\n", "utf-8")
    elements, spans = scanned(before), ElementSpans(before)
    assert elements is not None
    span = spans[1 + number % (len(spans) - 1)]
    edit = Edit(*(2 * (span.end if behind else span.start,)), text)
    after = Text(spliced(before.string, [edit]), "utf-8")
    assert said(with_inserted(before, elements, spans, after, [edit])) == said(elements_of(after))


def refused(before: str, edits: list[Edit]) -> bool:
    text = Text(before, "utf-8")
    elements = scanned(text)
    assert elements is not None
    return with_inserted(text, elements, ElementSpans(text), Text(spliced(before, edits), "utf-8"), edits) is None


def test_what_is_not_plain_is_read_again() -> None:
    plain = "<map><yard/></map>"
    assert not refused(plain, [Edit(5, 5, "<key/>")])
    assert refused(plain, [Edit(5, 12, "<key/>")])
    assert refused(plain, [Edit(0, 0, "<key/>")])
    assert refused(plain, [Edit(8, 8, "<key/>")])
    assert refused(plain, [Edit(5, 5, "<key>")])
    assert refused(plain, [Edit(5, 5, "</map><map>")])
    assert refused(plain, [Edit(5, 5, "<!-- <key/> -->")])
    assert refused(plain, [Edit(5, 5, '<key xmlns="urn:x"/>')])
    assert refused("<map><yard/><!-- fog --></map>", [Edit(17, 17, "<key/>")])
    assert not refused("<map><yard/><!-- fog --></map>", [Edit(24, 24, "<key/>")])
    deep = "<map><town><yard/></town></map>"
    assert refused(deep, [Edit(11, 11, "<key>" * 248 + "</key>" * 248)])
    assert not refused(deep, [Edit(11, 11, "<key>" * 247 + "</key>" * 247)])
    assert refused(plain, [Edit(5, 5, "<key/>")] * 2)
    many = f"<map>{'<yard/>' * 50}</map>"
    assert refused(many, [Edit(at, at, "<key/>") for at in range(5, 5 + 41 * 7, 7)])
    assert not refused(many, [Edit(at, at, "<key/>") for at in range(5, 5 + 40 * 7, 7)])


def test_a_large_file_is_opened_once(monkeypatch: pytest.MonkeyPatch) -> None:
    form, options = format_named("xml"), format_named("xml").options()
    data = b"<map>" + b'<yard key="1"/>\n' * 9_000 + b"</map>"
    opened = open_file(form, data, ("utf-8",), options)
    assert isinstance(opened[1], Insertable)
    edit = Edit(5, 5, '<yard key="new"/>')
    after = open_with_insertions(form, opened, [edit], ("utf-8",), options)
    assert after == b'<map><yard key="new"/>' + data[5:]
    monkeypatch.delattr(opening, "_opened")
    text, document = open_file(form, after, ("utf-8",), options)
    assert text.string.encode() == after
    keys = document.columns(form.selector("//yard/@key"))
    assert (keys.texts[:2], len(keys.texts)) == (["new", "1"], 9_001)


def test_a_very_large_file_is_opened_for_two_who_ask(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(opening, "_LARGE", 100)
    form, options = format_named("xml"), format_named("xml").options()
    one, other = (f"<map>{name * 50}</map>".encode() for name in ("<yard/>", "<quay/>"))

    def opened(data: bytes, again: bool = False) -> object:
        return open_file(form, data, ("utf-8",), options, again)[1]

    assert opened(one) is not opened(one)
    first = opened(one, again=True)
    assert opened(one) is first
    assert opened(one) is not first, "it was to be let go"
    second = opened(one, again=True)
    opened(other)
    assert opened(one) is not second, "the latest only"
