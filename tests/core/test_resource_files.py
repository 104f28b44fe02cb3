"""Text resources, as one open engine writes them: what is read, set, there already, and what clashes."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.formats import AlreadyThere, Clash, Edits, NoSeat, Unreadable, WrongBody, format_named, spliced
from hookset.formats.base import Body
from hookset.trees import Text

RESOURCE = format_named("resource")
SCENE = """[gd_scene load_steps=3 format=2]

[ext_resource path="res://quay.gd" type="Script" id=1]
[ext_resource path="res://bell.wav" type="AudioStream" id=2]

[sub_resource type="BoxShape" id=1]
extents = Vector3( 1, 2, 3 )

[node name="Quay" type="Spatial"]
script = ExtResource( 1 )

[node name="Gate" type="Area" parent="." groups=["doors", "lit"]]
opens = NodePath("../Bell")
title = "The \\"old\\" gate"
open = false
speed = 2.5

[node name="Lock" type="Node" parent="Gate"]
texts = [ "one", "two" ]
table = {
"near": "harbour.near",
"far": [ "harbour.far" ]
}

[node name="Bell" type="Area" parent="."]
sound = ExtResource( 2 )

[connection signal="area_entered" from="Gate" to="." method="_on_enter"]
"""
PROJECT = """config_version=4

[application]

config/name="Brackwater"
run/main_scene="res://quay.tscn"

[autoload]

Ledger="*res://ledger.gd"

[editor_plugins]

enabled=PoolStringArray( "res://addons/tide/plugin.cfg" )

[empty]
"""


def opened(text: str) -> Any:
    return RESOURCE.open(Text(text, "utf-8"), RESOURCE.options())


def found(text: str, **asked: Any) -> list[str]:
    return [value.text for value in opened(text).select(RESOURCE.selector(**asked))]


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        ({"section": "ext_resource", "at": "@path"}, ["res://quay.gd", "res://bell.wav"]),
        ({"section": "ext_resource", "at": "@path", "when": {"@type": "Audio*"}}, ["res://bell.wav"]),
        ({"section": "node", "at": "@name"}, ["Quay", "Gate", "Lock", "Bell"]),
        ({"section": "node", "at": "@name", "when": {"@parent": ""}}, ["Quay"]),
        ({"section": "node", "at": "@name", "when": {"@parent": "*"}}, ["Gate", "Lock", "Bell"]),
        ({"section": "node", "at": "@name", "when": {"@parent": ".", "@type": "Area"}}, ["Gate", "Bell"]),
        ({"section": "node", "at": "@name", "when": {"@groups": "lit"}}, []),
        ({"section": "node", "nodes": True}, [".", "Gate", "Gate/Lock", "Bell"]),
        ({"section": "node", "at": "script", "call": "ExtResource"}, ["1"]),
        ({"at": "*", "call": "ExtResource"}, ["1", "2"]),
        ({"section": "node", "at": "title"}, ['The "old" gate']),
        ({"section": "node", "at": "texts", "deep": True}, ["one", "two"]),
        ({"section": "node", "at": "table", "deep": True}, ["harbour.near", "harbour.far"]),
        ({"section": "node", "at": "opens", "call": "NodePath", "way": True}, ["Bell"]),
        ({"section": "connection", "at": "@from", "way": True}, ["Gate"]),
        ({"section": "connection", "at": "@to", "way": True}, ["."]),
        ({"section": "node", "at": "@groups", "deep": True}, ["doors", "lit"]),
        ({"section": "nothing", "at": "@name"}, []),
    ],
)
def test_values_of_a_scene(asked: dict[str, Any], said: list[str]) -> None:
    assert found(SCENE, **asked) == said


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        ({"section": "application", "at": "config/name"}, ["Brackwater"]),
        ({"section": "autoload", "keys": True}, ["Ledger"]),
        ({"section": "autoload", "at": "*"}, ["*res://ledger.gd"]),
        ({"section": "editor_plugins", "at": "enabled", "deep": True}, ["res://addons/tide/plugin.cfg"]),
        ({"section": "empty", "keys": True}, []),
        ({"section": "*", "keys": True}, ["config_version", "config/name", "run/main_scene", "Ledger", "enabled"]),
    ],
)
def test_values_of_a_project(asked: dict[str, Any], said: list[str]) -> None:
    assert found(PROJECT, **asked) == said


@pytest.mark.parametrize(
    "asked",
    [{}, {"at": "a", "keys": True}, {"keys": True, "nodes": True}, {"at": "a", "below": "b"}, {"at": "a", "odd": 1}],
)
def test_what_is_no_question(asked: dict[str, Any]) -> None:
    with pytest.raises((ValueError, TypeError)):
        RESOURCE.selector(**asked)


@pytest.mark.parametrize(
    "seat", [{}, {"section": "a", "behind": "node"}, {"into": "a"}, {"behind": "node", "into": "a"}]
)
def test_what_is_no_seat(seat: dict[str, str]) -> None:
    with pytest.raises(ValueError, match="says where"):
        RESOURCE.seat(**seat)


@pytest.mark.parametrize(
    ("text", "seat", "body", "old", "new"),
    [
        pytest.param(
            PROJECT, {"section": "autoload"}, Body(text='Tide="*res://tide.gd"'),
            'ledger.gd"\n', 'ledger.gd"\nTide="*res://tide.gd"\n', id="one more key",
        ),
        pytest.param(
            PROJECT, {"section": "autoload"}, Body(record={"Tide": "*res://tide.gd", "lit": True}),
            'ledger.gd"\n', 'ledger.gd"\nTide="*res://tide.gd"\nlit=true\n', id="a record",
        ),
        pytest.param(
            PROJECT, {"section": "autoload"}, Body(text='Ledger="*res://ledger.gd"\nTide="t"'),
            'ledger.gd"\n', 'ledger.gd"\nTide="t"\n', id="only the missing keys",
        ),
        pytest.param(
            PROJECT, {"section": "empty"}, Body(text="a=1"), "[empty]\n", "[empty]\n\na=1\n", id="into a section of none",
        ),
        pytest.param(
            PROJECT, {"section": "input"}, Body(text="a=1"), "[empty]\n", "[empty]\n\n[input]\n\na=1\n", id="a new section",
        ),
        pytest.param(
            PROJECT, {"section": "editor_plugins", "into": "enabled"}, Body(text='"res://addons/fog/plugin.cfg"'),
            'tide/plugin.cfg"', 'tide/plugin.cfg", "res://addons/fog/plugin.cfg"', id="into a list",
        ),
        pytest.param(
            PROJECT, {"section": "empty", "into": "enabled"}, Body(text="res://fog.cfg"),
            "[empty]\n", '[empty]\n\nenabled=PoolStringArray( "res://fog.cfg" )\n', id="a list that is not there",
        ),
        pytest.param(
            PROJECT.replace('( "res://addons/tide/plugin.cfg" )', "(  )"),
            {"section": "editor_plugins", "into": "enabled"}, Body(text="res://fog.cfg"),
            "PoolStringArray(  )", 'PoolStringArray( "res://fog.cfg"   )', id="into an empty list",
        ),
        pytest.param(
            SCENE, {"behind": "ext_resource"}, Body(text='[ext_resource path="res://fog.gd" type="Script" id=3]'),
            "id=2]\n", 'id=2]\n[ext_resource path="res://fog.gd" type="Script" id=3]\n', id="one more resource",
        ),
        pytest.param(
            SCENE, {"behind": "node"}, Body(text='[node name="Fog" type="Node" parent="."]\nlit = true\n'),
            "ExtResource( 2 )\n", 'ExtResource( 2 )\n\n[node name="Fog" type="Node" parent="."]\nlit = true\n', id="a node",
        ),
        pytest.param(
            SCENE, {"behind": "connection"},
            Body(text='[connection signal="rung" from="Bell" to="." method="_on_rung"]'),
            '"_on_enter"]\n', '"_on_enter"]\n[connection signal="rung" from="Bell" to="." method="_on_rung"]\n', id="a tie",
        ),
        pytest.param(
            SCENE.replace("[ext_resource", "; [ext_resource"), {"behind": "ext_resource"},
            Body(text='[ext_resource path="res://fog.gd" type="Script" id=3]'),
            "format=2]\n", 'format=2]\n\n[ext_resource path="res://fog.gd" type="Script" id=3]\n', id="the first resource",
        ),
    ],
)  # fmt: skip
@pytest.mark.parametrize("newline", ["\n", "\r\n"])
def test_entries_are_set_once(text: str, seat: dict[str, str], body: Body, old: str, new: str, newline: str) -> None:
    text, old, new = (one.replace("\n", newline) for one in (text, old, new))
    assert text.count(old) == 1
    placed = opened(text).put(RESOURCE.seat(**seat), body)
    assert isinstance(placed, Edits), placed
    after = spliced(text, placed.edits)
    assert after == text.replace(old, new)
    assert isinstance(opened(after).put(RESOURCE.seat(**seat), body), AlreadyThere)
    assert not opened(after).problems


@pytest.mark.parametrize(
    ("text", "seat", "body", "kind"),
    [
        (PROJECT, {"section": "autoload"}, Body(text='Ledger="*res://other.gd"'), Clash),
        (PROJECT, {"section": "autoload"}, Body(text="[input]\na=1"), WrongBody),
        (PROJECT, {"section": "autoload"}, Body(text="no key"), WrongBody),
        (PROJECT, {"section": "autoload"}, Body(text=""), WrongBody),
        (PROJECT, {"section": "editor_plugins", "into": "enabled"}, Body(text='a" "b'), WrongBody),
        (PROJECT, {"section": "editor_plugins", "into": "enabled"}, Body(text="res://addons/tide/plugin.cfg"), AlreadyThere),
        (SCENE, {"behind": "node"}, Body(text='[node name="Bell" type="Area" parent="."]\nsound = null'), Clash),
        (SCENE, {"behind": "node"}, Body(text='[sub_resource type="BoxShape" id=9]'), WrongBody),
        (SCENE, {"behind": "node"}, Body(text="[node"), WrongBody),
        (SCENE, {"behind": "ext_resource"}, Body(text='[ext_resource path="res://x.gd" type="Script" id=2]'), Clash),
        (SCENE, {"behind": "sub_resource"}, Body(text='[sub_resource type="BoxShape" id=1]\nextents = Vector3( 1,2,3 )'), AlreadyThere),
        (SCENE, {"behind": "sub_resource"}, Body(text='[sub_resource type="BoxShape" id=1]\nextents = Vector3( 9,2,3 )'), Clash),
    ],
)  # fmt: skip
def test_what_is_not_set(text: str, seat: dict[str, str], body: Body, kind: type) -> None:
    placed = opened(text).put(RESOURCE.seat(**seat), body)
    assert isinstance(placed, kind), placed
    assert not isinstance(placed, NoSeat)


def test_what_stands_at_a_seat() -> None:
    def standing(text: str, **seat: str) -> list[str]:
        return [text[one.start : one.end] for one in opened(text).existing(RESOURCE.seat(**seat))]

    assert standing(PROJECT, section="application") == [
        'config/name="Brackwater"\n',
        'run/main_scene="res://quay.tscn"\n',
    ]
    assert standing(PROJECT, section="editor_plugins", into="enabled") == ['"res://addons/tide/plugin.cfg"']
    assert [one.partition("\n")[0] for one in standing(SCENE, behind="sub_resource")] == [
        '[sub_resource type="BoxShape" id=1]'
    ]
    assert len(standing(SCENE, behind="node")) == 4


def test_a_value_belongs_to_its_section() -> None:
    document = opened(SCENE)
    (value,) = document.select(RESOURCE.selector(section="node", at="title"))
    unit = document.unit(value.where)
    assert unit.body.text.startswith('[node name="Gate"') and unit.body.text.endswith("speed = 2.5\n")
    (start, end) = document.spans([value.where])[value.where]
    assert SCENE[start:end] == 'The \\"old\\" gate'


def test_records_and_where_their_fields_stand() -> None:
    document = opened(SCENE)
    records = list(document.records(RESOURCE.selector(section="node", at="@name", when={"@type": "Area"})))
    assert [record["name"] for _, record in records] == ["Gate", "Bell"]
    (where, _), _ = records
    field = document.field(where, "speed")
    assert SCENE[field:].startswith("2.5\n")
    assert document.field(where, "nothing") == where


@given(st.text(st.characters(exclude_categories=["Cs", "Cc"]), max_size=12))
def test_a_text_is_read_as_it_was_written(words: str) -> None:
    document = opened(SCENE)
    (value,) = document.select(RESOURCE.selector(section="node", at="title"))
    edits = list(document.writings(document.spans([value.where])[value.where], words))
    assert len(edits) == 1
    after = spliced(SCENE, edits)
    assert found(after, section="node", at="title") == [words]
    assert found(after, section="node", at="@name") == ["Quay", "Gate", "Lock", "Bell"]


@pytest.mark.parametrize(
    "text",
    [
        '[node name="Gate"', "[node name=]\n", "a = \n", "a = Vector3( 1\n", 'a = "open\n', "[a]\nb = {\n", "= 3\n",
        "[node]]\n", "a = [ 1, 2\n[b]\n", "\x00", "[]\n",
    ],
)  # fmt: skip
def test_damage_is_told_where_it_is(text: str) -> None:
    try:
        document = opened(text)
    except Unreadable as error:
        assert 0 <= error.where <= len(text)
        return
    assert list(document.select(RESOURCE.selector(at="*"))) is not None
    assert all(0 <= where <= len(text) for _, where in document.problems)
