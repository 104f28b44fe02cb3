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
TREES: st.SearchStrategy[Any] = st.recursive(
    st.tuples(NAMES, st.sampled_from(["", "label", "it's"]), st.just(())),
    lambda inner: st.tuples(NAMES, st.sampled_from(["", "label"]), st.lists(inner, max_size=4)),
    max_leaves=30,
)


def element(said: Any) -> Any:
    name, key, inner = said
    made = etree.Element(name, {"key": key} if key else {})
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
]


@given(TREES)
@pytest.mark.parametrize("path", PATHS)
def test_what_is_found_without_xpath_is_what_xpath_finds(path: str, said: Any) -> None:
    form = format_named("xml")
    document = form.open(Text(etree.tostring(element(said), encoding="unicode"), "utf-8"), form.options())
    root = etree.fromstring(etree.tostring(element(said)))
    numbers = {one: str(number) for number, one in enumerate(root.iter(etree.Element))}
    found = [value.where for value in document.select(form.selector(at=path))]
    assert found == [numbers[one] for one in etree.XPath(path)(root)]
