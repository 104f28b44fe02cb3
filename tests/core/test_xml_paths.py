"""Paths into XML: what is asked in another way than XPath is what XPath names."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from hookset.formats import format_named
from hookset.trees import Text

NAMES = st.sampled_from(["Thing", "link", "text"])
KEYS = st.sampled_from([None, "", "label", "it's", "la"])
TREES: st.SearchStrategy[Any] = st.recursive(
    st.tuples(NAMES, KEYS, KEYS, st.just(())),
    lambda inner: st.tuples(NAMES, KEYS, KEYS, st.lists(inner, max_size=4)),
    max_leaves=30,
)


def element(said: Any) -> Any:
    name, key, other, inner = said
    pairs = {"key": key, "other": other}
    made = etree.Element(name, {name: text for name, text in pairs.items() if text is not None})
    made.append(etree.Comment("Thing"))
    made.extend([element(one) for one in inner])
    return made


PATHS = [
    "//Thing",
    "//Thing[@key='label']",
    "//Thing/link",
    "//Thing/Thing",
    "//Thing/text[@key='label']",
    "//link/Thing[@key='']",
    "//Thing//link",
    "//nothing",
    "/Thing",
    "/Thing/link",
    "/Thing/link/text",
    "//Thing/link/text[@key]",
    '//Thing[@key="label"]/link',
    "//Thing[not(@key)]/link[@other]",
    "//Thing[@key='label' or @other='label']",
    "//Thing[@key and not(@key='label')][@other]",
    "//link[@key != 'label']",
    "//link[starts-with(@key, 'la')]",
    "//link[not(starts-with(@key, ''))]",
    "//link[contains(@other, 'abe') or (@key = 'label' and @other)]",
    "//link[@key != /Thing/text/@other]",
    "//text[@other = /Thing/link/@key]",
    "//text[not(@other = /Thing/@key)]",
]


@pytest.mark.no_cover
@given(TREES)
@pytest.mark.parametrize("path", PATHS)
def test_what_is_found_without_xpath_is_what_xpath_finds(path: str, said: Any) -> None:
    form = format_named("xml")
    document = form.open(Text(etree.tostring(element(said), encoding="unicode"), "utf-8"), form.options())
    root = etree.fromstring(etree.tostring(element(said)))
    numbers = {one: str(number) for number, one in enumerate(root.iter(etree.Element))}
    found = [value.where for value in document.select(form.selector(at=path))]
    assert found == [numbers[one] for one in etree.XPath(path)(root)]
