"""Which record an offset of a file is in: the same as where every record is looked up."""

from __future__ import annotations

import json
from bisect import bisect_right
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.formats import format_named
from hookset.scene.offsets import begun_by
from hookset.trees import Text

XML = format_named("xml")
JSON = format_named("json")


def xml(keys: list[str]) -> tuple[Any, Any]:
    text = "<sea>" + "".join(f'\n <boat key="{key}"/>' for key in keys) + "</sea>"
    return XML.open(Text(text, "utf-8"), XML.options()), XML.selector(at="//boat")


def data(keys: list[str]) -> tuple[Any, Any]:
    text = json.dumps({"boats": [{"key": key} for key in keys]}, indent=1)
    return JSON.open(Text(text, "utf-8"), JSON.options()), JSON.selector(at="$.boats[*]")


@pytest.mark.parametrize("made", [xml, data])
@given(st.lists(st.text("ab", min_size=1, max_size=9), max_size=60), st.lists(st.integers(-1, 1500), max_size=9))
def test_an_offset_is_in_the_record_that_begins_last(made: Any, keys: list[str], offsets: list[int]) -> None:
    document, selector = made(keys)
    wheres = document.parts(selector, ()).wheres
    assert len(wheres) == len(keys)
    spans = document.spans(wheres)
    begins = [spans[where][0] for where in wheres]
    asked = [*offsets, *begins, *(one - 1 for one in begins)]
    assert begun_by(document, wheres, asked) == [bisect_right(begins, one) for one in asked]
