"""Paths into XML: what is asked in another way than XPath is what XPath names."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from hookset.formats._xml.paths import compiled

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


@given(TREES)
@pytest.mark.parametrize(
    "path", ["//Thing/link", "//Thing/Thing", "//Thing/text[@key='label']", "//link/Thing[@key='']"]
)
def test_what_is_found_without_xpath_is_what_xpath_finds(path: str, said: Any) -> None:
    root = element(said)
    assert compiled(path, ())(root) == etree.XPath(path)(root)
