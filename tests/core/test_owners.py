"""Names that belong to something: methods of the script that a node has, of what that extends, and of nothing else."""

from __future__ import annotations

from pathlib import Path

import msgspec
import pytest

from hookset.checks import judge
from hookset.config.layouts import load_layout, shipped_layout
from hookset.formats import format_named, spliced
from hookset.formats.document import Writable
from hookset.model import CouldNotError
from hookset.project import Ledger, Stock, Terms
from hookset.symbols import Outcome, analyse
from hookset.trees import FolderTree, Inline, Overlay, Text

SCENE = """[gd_scene load_steps=3 format=2]

[ext_resource path="res://{uses}" type="{type}" id=1]

[node name="Quay" type="Node2D"]

[node name="Gate" {gate}]
{line}

[node name="Lever" type="Button" parent="."]

[connection signal="pressed" from="Lever" to="Gate" method="{method}"]
"""
SCRIPTED = {
    "uses": "gate.gd",
    "type": "Script",
    "gate": 'type="Node2D" parent="."',
    "line": "script = ExtResource( 1 )",
}
OTHER = {"other.gd": "extends Node2D\n\nfunc swing():\n\tpass\n"}


def quay(folder: Path, files: dict[str, str]) -> Path:
    files = {"project.godot": 'config_version=4\n\n[application]\n\nconfig/name="Quay"\n', **files}
    for path, text in files.items():
        (folder / path).parent.mkdir(parents=True, exist_ok=True)
        (folder / path).write_text(text, encoding="utf-8")
    return folder


def told(folder: Path) -> list[tuple[str, str, int, str]]:
    layout = shipped_layout("godot-3")
    verdict = judge(FolderTree(folder), layout, Stock(), Ledger(), Terms())
    return [(one.code, one.spot.path, one.spot.line, one.name) for one in verdict.summary.findings]


GATES = {
    "in its own script": ({"gate.gd": "extends Node2D\n\nfunc swing():\n\tpass\n"}, "swing", SCRIPTED, True),
    "in the script that it extends": (
        {"gate.gd": 'extends "res://door.gd"\n', "door.gd": "extends Node2D\n\nfunc swing():\n\tpass\n"},
        "swing",
        SCRIPTED,
        True,
    ),
    "in a class that it extends": (
        {"gate.gd": "extends Door\n", "door.gd": "extends Node2D\nclass_name Door\n\nfunc swing():\n\tpass\n"},
        "swing",
        SCRIPTED,
        True,
    ),
    "in another script only": ({"gate.gd": "extends Node2D\n\nfunc creak():\n\tpass\n"}, "swing", SCRIPTED, False),
    "in another script, and it extends one without": (
        {"gate.gd": 'extends "res://door.gd"\n', "door.gd": "extends Node2D\n\nfunc creak():\n\tpass\n"},
        "swing",
        SCRIPTED,
        False,
    ),
    "two that extend each other": (
        {"gate.gd": 'extends "res://door.gd"\n', "door.gd": 'extends "res://gate.gd"\n\nfunc creak():\n\tpass\n'},
        "swing",
        SCRIPTED,
        False,
    ),
    "a class that is not of the project": ({"gate.gd": "extends PluginDoor\n"}, "swing", SCRIPTED, True),
    "the engine has it": ({"gate.gd": "extends Node2D\n"}, "hide", SCRIPTED, True),
    "a node without a script": (
        {},
        "swing",
        {"uses": "other.gd", "type": "Script", "gate": 'type="Node2D" parent="."', "line": ""},
        False,
    ),
    "in the script of another scene's root": (
        {
            "gate.gd": "extends Node2D\n\nfunc swing():\n\tpass\n",
            "gate.tscn": '[gd_scene load_steps=2 format=2]\n\n[ext_resource path="res://gate.gd" type="Script" id=1]\n\n'
            '[node name="Gate" type="Node2D"]\nscript = ExtResource( 1 )\n',
        },
        "swing",
        {"uses": "gate.tscn", "type": "PackedScene", "gate": 'parent="." instance=ExtResource( 1 )', "line": ""},
        True,
    ),
    "another scene's root has no script": (
        {"gate.tscn": '[gd_scene format=2]\n\n[node name="Gate" type="Node2D"]\n'},
        "swing",
        {"uses": "gate.tscn", "type": "PackedScene", "gate": 'parent="." instance=ExtResource( 1 )', "line": ""},
        False,
    ),
}


@pytest.mark.parametrize("title", GATES)
def test_a_tied_method_is_looked_for_where_it_must_be(title: str, tmp_path: Path) -> None:
    scripts, method, words, there = GATES[title]
    scene = SCENE.format(method=method, **words)
    found = told(quay(tmp_path, {"quay.tscn": scene, **OTHER, **scripts}))
    line = scene[: scene.index("[connection")].count("\n") + 1
    missing = [(path, at) for code, path, at, _ in found if code == "missing-name"]
    assert missing == ([] if there else [("quay.tscn", line)])


def test_a_method_that_nothing_has_is_told_once(tmp_path: Path) -> None:
    scene = SCENE.format(method="swings", **SCRIPTED)
    found = told(quay(tmp_path, {"quay.tscn": scene, "gate.gd": "extends Node2D\n", **OTHER}))
    assert [(code, name) for code, _, _, name in found] == [("missing-name", "swings")]


WAYS = {
    "$Bell": [],
    "$'Bell'": [],
    '$"Bell/Clapper"': [],
    "$Bell/Rope": [("missing-name", "Bell/Rope")],
    "$bell": [("wrong-case", "bell")],
    'get_node("Bells")': [("missing-name", "Bells")],
    'get_node("Post/Lamp")': [],  # Post stands in another scene, which says what is below it.
    'get_node("../Lever")': [],
    'get_node("/root/Tower")': [],
    'get_node("Bell" + str(1))': [],
    'get_node("Bell:position")': [],
    "$Bell.get_node('Rope')": [],
}
TOWER = """[gd_scene load_steps=3 format=2]

[ext_resource path="res://tower.gd" type="Script" id=1]
[ext_resource path="res://post.tscn" type="PackedScene" id=2]

[node name="Tower" type="Node2D"]
script = ExtResource( 1 )

[node name="Bell" type="Node2D" parent="."]

[node name="Clapper" type="Node2D" parent="Bell"]

[node name="Post" parent="." instance=ExtResource( 2 )]
"""


@pytest.mark.parametrize("way", WAYS)
def test_a_way_in_a_script_leads_to_a_node(way: str, tmp_path: Path) -> None:
    files = {
        "tower.tscn": TOWER,
        "post.tscn": '[gd_scene format=2]\n\n[node name="Post" type="Node2D"]\n',
        "tower.gd": f"extends Node2D\n\nfunc ring():\n\tvar one = {way}\n",
    }
    found = told(quay(tmp_path, files))
    assert [(code, name.partition("::")[2]) for code, path, line, name in found if (path, line) == ("tower.gd", 4)] == (
        WAYS[way]
    )


def test_what_a_script_on_no_node_asks_for_is_not_checkable(tmp_path: Path) -> None:
    root = quay(tmp_path, {"loose.gd": "extends Node2D\n\nfunc ring():\n\tvar one = $Bell\n"})
    analysis = analyse(FolderTree(root), shipped_layout("godot-3"), Stock())
    (one,) = [one for one in analysis.resolutions if one.reference.kind == "below"]
    assert one.outcome is Outcome.OPEN


@pytest.mark.parametrize(
    ("written", "new", "becomes"),
    [("$Bell", "Rope", "$Rope"), ("$Bell", "Long Rope", '$"Long Rope"'), ('$"Bell"', "Post/Rope", "$Post/Rope")],
)
def test_a_way_is_written_as_it_must_be(written: str, new: str, becomes: str) -> None:
    form = format_named("gdscript")
    text = Text(f"func ring():\n\t{written}.hide()\n", "utf-8")
    script = form.open(text, form.options())
    assert isinstance(script, Writable)
    (value,) = script.select(msgspec.convert({"query": "(get_node) @value"}, form.selector))
    assert value.text == "Bell"
    span = script.spans([value.where])[value.where]
    edit = next(iter(script.writings(span, new)))
    assert spliced(text.string, [edit]) == f"func ring():\n\t{becomes}.hide()\n"


def test_a_value_is_set_that_only_another_script_has(tmp_path: Path) -> None:
    words = {**SCRIPTED, "line": "script = ExtResource( 1 )\nholds = 3\nposition = Vector2( 1, 2 )"}
    files = {
        "quay.tscn": SCENE.format(method="swing", **words),
        "gate.gd": "extends Node2D\nexport(int) var turns = 1\n\nfunc swing():\n\tpass\n",
        "rope.gd": "extends Node2D\nexport(int) var holds = 1\n",
    }
    root = quay(tmp_path, files)
    assert [(code, line, name) for code, _, line, name in told(root)] == [("missing-name", 9, "res://gate.gd::holds")]
    both = files["gate.gd"].replace("\n\nfunc", "\nexport(int) var holds = 1\n\nfunc")
    fixed = Overlay(FolderTree(root), {"gate.gd": Inline(both.encode())})
    assert not analyse(fixed, shipped_layout("godot-3"), Stock()).resolutions.missing


def test_a_node_without_a_name_is_read(tmp_path: Path) -> None:
    scene = (
        '[gd_scene format=2]\n\n[node name="Tower" type="Node2D"]\nscript = "x"\n\n[node type="Node2D" parent="Bell"]\n'
    )
    assert [code for code, _, _, _ in told(quay(tmp_path, {"tower.tscn": scene}))] == ["missing-name"]


WRONG = {
    'label = "method"\nowned = true\npath = true': "path",
    'label = "method"\ninherits = "base"': "inherits",
    'label = "method"\nowned = true\nwithin = "metod"': "within",
}


@pytest.mark.parametrize("entry", WRONG)
def test_a_layout_that_says_it_wrongly_is_told_where(entry: str) -> None:
    text = (
        f'[layout]\nname = "own"\ntitle = "own"\n\n[kinds.base]\nlabel = "base"\n\n[kinds.method]\n{entry}\n\n'
        '[[read]]\nfiles = "*.txt"\nformat = "lines"\ndefines = [{ kind = "method", name = "{path}::{value}" }]\n'
    )
    with pytest.raises(CouldNotError) as told:
        load_layout(text.encode(), "own.toml")
    line = text[: text.index(f"\n{WRONG[entry]} =") + 1].count("\n") + 1
    assert [one.split(": ")[0] for one in told.value.details] == [f"own.toml:{line}"]
