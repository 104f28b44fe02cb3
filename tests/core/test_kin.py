"""Kinds of kinds share their names: a new name for one is a new name for the other, and numbers are taken for both."""

from __future__ import annotations

from hookset.config.layouts import load_layout
from hookset.planning.filling import MapValues
from hookset.planning.naming.rewriting import NameMap, rewrite_names
from hookset.project import Stock
from hookset.trees import EmptyTree, Inline, Overlay

LAYOUT = """
[layout]
name = "kin"
title = "talks are things"
[kinds.thing]
label = "thing"
[kinds.talk]
label = "talk"
is = "thing"
[kinds.other]
label = "other"
[[read]]
files = "things.json"
format = "json"
defines = [{ kind = "thing", at = "$.things[*]" }, { kind = "talk", at = "$.talks[*]" }]
refers = [{ kind = "thing", at = "$.shown[*]" }, { kind = "talk", at = "$.said[*]" }, { kind = "other", at = "$.others[*]" }]
"""
THINGS = '{ "things": ["1"], "talks": ["2"], "shown": ["1", "2"], "said": ["2"], "others": ["2"] }'


def test_a_new_name_is_one_for_all_of_them() -> None:
    layout = load_layout(LAYOUT.encode(), "kin.toml")
    tree = Overlay(EmptyTree(), {"things.json": Inline(THINGS.encode())})
    for kind in ("talk", "thing"):
        result = rewrite_names(tree, layout, "things.json", NameMap.of(layout, {(kind, "2", ""): "7"}))
        assert result.content is not None
        told = '{ "things": ["1"], "talks": ["7"], "shown": ["1", "7"], "said": ["7"], "others": ["2"] }'
        assert result.content.read().decode() == told


def test_names_are_taken_for_all_of_them() -> None:
    layout = load_layout(LAYOUT.encode(), "kin.toml")
    tree = Overlay(EmptyTree(), {"things.json": Inline(THINGS.encode())})
    values = MapValues(layout, tree, Stock())
    assert values.names("talk") == values.names("thing") == {"1", "2"}
    assert values.names("other") == frozenset()
