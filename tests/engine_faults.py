"""Single faults in the demo's quay, a project of a real engine: what somebody renames, moves, deletes or mistypes."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

__all__ = ["FAULTS", "EngineFault"]


@dataclass(frozen=True)
class EngineFault:
    """One slip in one file."""

    title: str
    path: str
    old: str
    """Empty: the file is deleted."""
    new: str = ""
    line: int | None = None
    """Where the check must tell it, where that is not the line of the slip: where what was renamed is used."""
    silent: bool = False
    """The engine says nothing of it when it loads and plays the scenes."""

    def make(self, root: Path) -> None:
        file = root / self.path
        if not self.old:
            file.unlink()
            return
        text = file.read_text(encoding="utf-8")
        assert text.count(self.old) == 1, (self.path, self.old, text.count(self.old))
        file.write_text(text.replace(self.old, self.new), encoding="utf-8")


QUAY, PROJECT, THINGS, SCRIPTS = "scenes/quay.tscn", "project.godot", "scenes/things/", "scripts/things/"


def _outer(path: str, name: str, other: str) -> EngineFault:
    return EngineFault(f"{path.rpartition('/')[2]} names {other}", path, f'"res://{name}"', f'"res://{other}"')


FAULTS = (
    # outer resources that are not there
    _outer(QUAY, "scripts/quay.gd", "scripts/key.gd"),
    _outer(QUAY, "scenes/things/gate.tscn", "scenes/things/gates.tscn"),
    _outer(QUAY, "scenes/things/lamp.tscn", "things/lamp.tscn"),
    _outer(QUAY, "scenes/things/gull.tscn", "scenes/things/Gull.tscn"),
    _outer(QUAY, "textures/water.tres", "textures/waters.tres"),
    _outer(QUAY, "colours/fog.tres", "colors/fog.tres"),
    _outer(f"{THINGS}bell.tscn", "sounds/bell.tres", "sounds/bell.ogg"),
    _outer(f"{THINGS}gate.tscn", "textures/rust.tres", "textures/rust.png"),
    _outer(f"{THINGS}notice.tscn", "look/signs.tres", "look/sign.tres"),
    _outer(f"{THINGS}crane.tscn", "scenes/things/winch.tscn", "scenes/winch.tscn"),
    _outer(f"{THINGS}ferry.tscn", "scripts/things/ferry.gd", "scripts/ferry.gd"),
    _outer("textures/water.tres", "colours/water.tres", "colours/sea.tres"),
    _outer("look/signs.tres", "look/board.tres", "look/plank.tres"),
    _outer("scenes/menu.tscn", "scripts/menu.gd", "scripts/menus.gd"),
    # numbers of resources
    EngineFault("a scene has no outer resource of that number", f"{THINGS}bell.tscn", "stream = ExtResource( 2 )", "stream = ExtResource( 7 )"),
    EngineFault("a scene is named by a number that is not there", QUAY, '[node name="Ferry" parent="." instance=ExtResource( 7 )]', '[node name="Ferry" parent="." instance=ExtResource( 77 )]'),
    EngineFault("a script by a number that is not there", f"{THINGS}gull.tscn", "script = ExtResource( 1 )", "script = ExtResource( 4 )"),
    EngineFault("a shape that is not in the scene", f"{THINGS}toll.tscn", "SubResource( 1 )", "SubResource( 3 )"),
    EngineFault("a resource asks for one that it does not have", "textures/rust.tres", "ExtResource( 1 )", "ExtResource( 2 )"),
    # classes
    EngineFault("a node of no class", f"{THINGS}bell.tscn", 'type="Timer"', 'type="Timre"'),
    EngineFault("the root is of no class", "scenes/menu.tscn", 'type="Control"', 'type="Controll"'),
    EngineFault("a shape of no class", f"{THINGS}lever.tscn", '[sub_resource type="CircleShape2D"', '[sub_resource type="CircleShape2"'),
    EngineFault("a resource of no class", "curves/swing.tres", 'type="Curve"', 'type="Curves"'),
    # nodes
    EngineFault("a node hangs on one that is not there", QUAY, '[node name="North" type="Position2D" parent="Landings"]', '[node name="North" type="Position2D" parent="Landing"]'),
    EngineFault("a node was renamed, and others hang on it", QUAY, '[node name="Spawns" type', '[node name="Starts" type', line=83),
    EngineFault("a node hangs on one that comes in another scene", f"{THINGS}crane.tscn", '[node name="Winch" parent="Arm"', '[node name="Winch" parent="Mast"'),
    EngineFault("a tie from a node that is not there", QUAY, 'from="FogBell" to="Ferry"', 'from="Bell" to="Ferry"', silent=True),
    EngineFault("a tie to a node that is not there", QUAY, 'from="FogBell" to="Hud"', 'from="FogBell" to="HUD"', silent=True),
    EngineFault("a tied node was renamed", QUAY, '[node name="CraneLever" ', '[node name="CraneLever2" ', silent=True, line=120),
    EngineFault("a tie to a deeper node that is not there", f"{THINGS}bell.tscn", 'from="Timer" to="."', 'from="Clock/Timer" to="."', silent=True),
    # signals
    EngineFault("a signal that nothing has", QUAY, 'signal="opened"', 'signal="open"'),
    EngineFault("a signal in other letters", QUAY, 'signal="timeout" from="Noon"', 'signal="timeOut" from="Noon"'),
    EngineFault("a signal was renamed in its script", f"{SCRIPTS}ferry.gd", "signal left(landing)", "signal departed(landing)", line=11),
    EngineFault("a script ties a signal that is not there", "scripts/always/weather.gd", 'tide.connect("turned"', 'tide.connect("turns"'),
    EngineFault("a menu's button is tied by a wrong word", "scenes/menu.tscn", 'signal="pressed"', 'signal="press"'),
    # methods
    EngineFault("a method that no script has", QUAY, 'method="_on_gate_opened"', 'method="_on_gate_open"'),
    EngineFault("a method was renamed in its script", f"{SCRIPTS}hud.gd", "func _on_ferry_left(", "func _on_ferry_leaves("),
    EngineFault("a timer's method was renamed", f"{SCRIPTS}bell.gd", "func _on_timer_timeout(", "func _on_timeout("),
    EngineFault("a menu's method was renamed", "scripts/menu.gd", "func _on_start_pressed(", "func _on_start("),
    EngineFault("a script ties a method that is not there", "scripts/always/weather.gd", '"_on_tide_turned")', '"_on_tide_turn")'),
    EngineFault("a method of a wrong thing's name", QUAY, 'method="_on_noon_timeout"', 'method="_on_timer_timeout_noon"'),
    EngineFault("a method that only another thing's script has", QUAY, 'method="_on_gate_opened"', 'method="_on_tide_turned"'),
    EngineFault("a tie to a node that has no script", QUAY, 'from="FogBell" to="Ferry"', 'from="FogBell" to="Landings"'),
    EngineFault("a scene's root has lost its script", f"{THINGS}hud.tscn", "script = ExtResource( 1 )\n", ""),
    EngineFault("a method has gone into another script", f"{SCRIPTS}ferry.gd", "func _on_", "func _on_a_"),
    # ways to nodes in scripts
    EngineFault("a node was renamed, and its script asks for it", f"{THINGS}gate.tscn", '[node name="Sound"', '[node name="Noise"'),
    EngineFault("a script asks for a node by a wrong name", f"{SCRIPTS}crane.gd", "$Arm.rotation_degrees", "$Arms.rotation_degrees"),
    EngineFault("a script asks for a node in other letters", f"{SCRIPTS}lever.gd", "$Sound.stream", "$sound.stream"),
    # what scripts load
    EngineFault("a sound that a script preloads", f"{SCRIPTS}lever.gd", "res://sounds/clunk.tres", "res://sounds/clank.tres"),
    EngineFault("a sound with another ending", f"{SCRIPTS}gull.gd", "res://sounds/gull.tres", "res://sounds/gull.wav"),
    EngineFault("a scene that a script preloads", "scripts/quay.gd", "res://scenes/things/buoy.tscn", "res://scenes/buoy.tscn"),
    EngineFault("a scene in a folder that was renamed", f"{SCRIPTS}toll.gd", "res://scenes/things/notice.tscn", "res://scenes/signs/notice.tscn"),
    EngineFault("a curve", "scripts/always/tide.gd", "res://curves/tide.tres", "res://curves/tides.tres"),
    EngineFault("a curve of a crane", f"{SCRIPTS}crane.gd", "res://curves/swing.tres", "res://curve/swing.tres"),
    EngineFault("a scene that a menu goes to", "scripts/menu.gd", "res://scenes/quay.tscn", "res://quay.tscn"),
    EngineFault("a table that nothing reads yet", "scripts/help/table.gd", "res://data/boats.json", "res://data/boat.json", silent=True),
    # the project
    EngineFault("an autoload's script is elsewhere", PROJECT, "*res://scripts/always/tide.gd", "*res://scripts/tide.gd"),
    EngineFault("an autoload's script is mistyped", PROJECT, "*res://scripts/always/ledger.gd", "*res://scripts/always/ledgers.gd"),
    EngineFault("a language's texts are elsewhere", PROJECT, "res://texts/de.po", "res://de.po"),
    EngineFault("the first scene is not there", PROJECT, "res://scenes/quay.tscn", "res://scenes/harbour.tscn", silent=True),
    EngineFault("an autoload was renamed, and scripts ask for it", PROJECT, 'Tide="*res', 'Tides="*res'),
    EngineFault("another autoload was renamed", PROJECT, 'Weather="*res', 'Skies="*res'),
    EngineFault("an autoload by a wrong name", f"{SCRIPTS}buoy.gd", "/root/Tide", "/root/Tidal"),
    # input
    EngineFault("an input action that is not there", f"{SCRIPTS}ferry.gd", '"cast_off"', '"castoff"', silent=True),
    EngineFault("an action that was renamed", PROJECT, "pull_lever={", "pull={", silent=True),
    EngineFault("an action in other letters", f"{SCRIPTS}lever.gd", '"pull_lever"', '"Pull_lever"', silent=True),
    # files that are gone
    EngineFault("a sound is deleted", "sounds/horn.tres", ""),
    EngineFault("a curve is deleted", "curves/tide.tres", ""),
    EngineFault("a scene is deleted", f"{THINGS}rope.tscn", ""),
    EngineFault("a script is deleted", f"{SCRIPTS}winch.gd", ""),
    EngineFault("a gradient is deleted", "colours/rust.tres", ""),
    EngineFault("a language is deleted", "texts/en.po", ""),
    # what cannot be read
    EngineFault("a bracket is missing in a script", f"{SCRIPTS}gate.gd", "func open():", "func open(:"),
    EngineFault("a quote is missing in a script", f"{SCRIPTS}notice.gd", 'tr("DUES")', 'tr("DUES)'),
    EngineFault("a heading is not closed", f"{THINGS}flag.tscn", '[node name="Flag" type="Node2D"]', '[node name="Flag" type="Node2D"', line=8),
    EngineFault("a value is missing", "look/board.tres", "border_width_left = 2", "border_width_left ="),
    EngineFault("a bracket of a colour is missing", "look/board.tres", "0.2, 1 )", "0.2, 1"),
    # what only reading finds
    EngineFault("a scene sets a value that no script has", QUAY, "player = 3", "playr = 3", silent=True),
    EngineFault("a scene sets a value that only another script has", QUAY, "player = 3", "holds = 3", silent=True),
    EngineFault("a value was renamed in its script", f"{SCRIPTS}rope.gd", "var holds", "var holder", silent=True),
    EngineFault("nobody is in the group", f"{SCRIPTS}lamp.gd", 'add_to_group("lamps")', 'add_to_group("lanterns")', silent=True),
    EngineFault("a text that no language has", f"{SCRIPTS}hud.gd", 'tr("BELL_RINGS")', 'tr("BELL_RANG")', silent=True),
    EngineFault("one language lacks a text", "texts/de.po", 'msgid "DUES"', 'msgid "DUE"', silent=True, line=0),
    EngineFault("a lever works on what is not there", QUAY, 'works = NodePath("../Crane")', 'works = NodePath("../Derrick")', silent=True),
    EngineFault("a landing that is not there", QUAY, 'NodePath("../Landings/South")', 'NodePath("../Landings/West")', silent=True),
)  # fmt: skip
