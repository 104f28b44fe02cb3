"""Single faults in the demo map with both packs: what is done, which finding tells it, and whether the game notices."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

__all__ = ["FAULTS", "Fault"]


@dataclass(frozen=True)
class Fault:
    """One fault."""

    title: str
    code: str
    """Of the finding that must tell it."""
    path: str
    """Of that finding."""
    mark: str
    """Text in the line that the finding must name; empty for the file as a whole."""
    make: Callable[[Path], object]
    unseen: str = ""
    """Why the stand-in game cannot notice it."""


def edit(path: str, old: str, new: str) -> Callable[[Path], None]:
    def make(root: Path) -> None:
        file = root / path
        text = file.read_bytes().decode()
        assert old in text, f"{old!r} is not in {path}"
        file.write_bytes(text.replace(old, new, 1).encode())

    return make


def delete(path: str) -> Callable[[Path], None]:
    return lambda root: (root / path).unlink()


def row_out(path: str) -> Callable[[Path], None]:
    return edit("manifest.txt", f"{path}\n", "")


def node(key: str, change: Callable[[dict[str, Any]], None]) -> Callable[[Path], None]:
    """Change the attributes of the placed object with a key."""

    def make(root: Path) -> None:
        file = root / "scene/brackwater.gltf"
        document = json.loads(file.read_bytes())
        extras = next(n["extras"] for n in document["nodes"] if n.get("extras", {}).get("key") == key)
        change(extras)
        file.write_text(json.dumps(document, indent=2), encoding="utf-8")

    return make


def attribute(key: str, name: str, value: Any) -> Callable[[Path], None]:
    return node(key, lambda extras: extras.__setitem__(name, value))


def both(*makers: Callable[[Path], None]) -> Callable[[Path], None]:
    def make(root: Path) -> None:
        for maker in makers:
            maker(root)

    return make


SCENE, MANIFEST, ALIASES = "scene/brackwater.gltf", "manifest.txt", "sounds/aliases.toml"
SERVER, CLIENT, HARBOUR = "scripts/server/main.lua", "scripts/client/main.lua", "scripts/server/harbour.lua"
BRIDGE = "scripts/server/packs/lift_bridge.lua"
CAPTIONS, LOCK = "scripts/client/captions.lua", "models/lock_gate.gltf"

FAULTS = (
    # files
    Fault("sound file deleted", "missing-file", ALIASES, "quay_bell.wav", delete("sounds/harbour/quay_bell.wav")),
    Fault("listed file deleted", "row-without-file", MANIFEST, "gull_1.wav", delete("sounds/harbour/gull_1.wav")),
    Fault("texture deleted", "missing-file", LOCK, "planks.png", delete("textures/planks.png")),
    Fault("model's buffer deleted", "missing-file", LOCK, "lock_gate.bin", delete("models/lock_gate.bin")),
    Fault("scene's buffer deleted", "missing-file", SCENE, "brackwater.bin", delete("scene/brackwater.bin")),
    Fault("script deleted", "missing-name", SERVER, '"harbour"', delete(HARBOUR)),
    Fault("texts of a language deleted", "row-without-file", MANIFEST, "texts/de.toml", delete("texts/de.toml")),
    # a name misspelt in one place
    Fault("sound file misspelt", "missing-file", ALIASES, "gul_3", edit(ALIASES, "gull_3.wav", "gul_3.wav")),
    Fault("alias renamed in the table", "missing-name", HARBOUR, "BELL =", edit(ALIASES, '"quay_bell"', '"quai"')),
    Fault("sound misspelt in a script", "missing-name", BRIDGE, "hron", edit(BRIDGE, "bridge_horn", "bridge_hron")),
    Fault("object misspelt in a script", "missing-name", BRIDGE, "spam", edit(BRIDGE, "bridge_span", "bridge_spam")),
    Fault("client call misspelt", "missing-name", BRIDGE, ".stat", edit(BRIDGE, "bridge.state\", b", "bridge.stat\", b")),
    Fault("text misspelt in a script", "missing-name", CAPTIONS, "ringed", edit(CAPTIONS, 'show_text("harbour.rung', 'show_text("harbour.ringed')),
    Fault("import misspelt", "missing-name", SERVER, "tid\"", edit(SERVER, 'require("tide")', 'require("tid")')),
    Fault("texture misspelt in a model", "missing-file", LOCK, "plank.png", edit(LOCK, "planks.png", "plank.png")),
    Fault("model misspelt in the scene", "missing-file", SCENE, "lock_gat.gltf", attribute("lock_gate", "model", "models/lock_gat.gltf")),
    Fault("link misspelt", "missing-name", SCENE, "bridge_spann", attribute("bridge_lever", "target", "bridge_spann")),
    Fault("object class unknown", "missing-name", SCENE, "leaver", attribute("lock_wheel", "class", "leaver")),
    Fault("sound misspelt in the scene", "missing-name", SCENE, "fog_bell_humm", attribute("fog_bell_2", "sound", "fog_bell_humm")),
    Fault("label misspelt in the scene", "missing-name", SCENE, "lock.gat\"", attribute("lock_wheel", "label", "lock.gat")),
    Fault("scene misspelt in the descriptor", "missing-file", "map.toml", "scene/brackwate.gltf", edit("map.toml", "brackwater.gltf", "brackwate.gltf")),
    Fault("title misspelt in the descriptor", "missing-name", "map.toml", "map.titel", edit("map.toml", "map.title", "map.titel")),
    Fault("main script deleted", "no-beginning", SERVER, "", delete(SERVER)),
    Fault("name taken out of the descriptor", "says-no-name", "map.toml", "", edit("map.toml", 'name = "brackwater"\n', "")),
    Fault("model's buffer cut off", "cut-off", LOCK, "lock_gate.bin", lambda root: (root / "models/lock_gate.bin").write_bytes(b"short")),
    Fault("row misspelt", "row-without-file", MANIFEST, "quay_bel.wav", edit(MANIFEST, "quay_bell.wav", "quay_bel.wav")),
    # letter case
    Fault("texture in another letter case", "wrong-case", LOCK, "Planks.png", edit(LOCK, "planks.png", "Planks.png")),
    Fault("row in another letter case", "wrong-case", MANIFEST, "Harbour.lua", edit(MANIFEST, "server/harbour", "server/Harbour")),
    Fault("import in another letter case", "wrong-case", SERVER, "Harbour", edit(SERVER, '("harbour")', '("Harbour")')),
    Fault("alias in another letter case", "wrong-case", HARBOUR, "QUAY", edit(HARBOUR, '"quay_bell"', '"QUAY_BELL"')),
    # callbacks and sides
    Fault("callback renamed on an object", "missing-name", SCENE, "lift_bridge.haul", attribute("bridge_lever", "server_call", "lift_bridge.haul")),
    Fault("callback renamed in a script", "missing-name", SCENE, "lift_bridge.pull\"", edit(BRIDGE, '"lift_bridge.pull"', '"lift_bridge.haul"')),
    Fault("callback named for the other side", "wrong-side", SCENE, "client_call\": \"harbour.lock", attribute("lock_wheel", "client_call", "harbour.lock")),
    Fault("import removed on the server", "not-loaded", SCENE, "lift_bridge.pull\"", edit(SERVER, 'local lift_bridge = require("packs.lift_bridge")\n', "")),
    Fault("import removed on the client", "not-loaded", "scripts/server/packs/fog_bell.lua", "fog_bell.heard", edit(CLIENT, 'require("packs.fog_bell_captions")\n', "")),
    Fault("import commented out", "not-loaded", SCENE, "harbour.ring", edit(SERVER, "local harbour =", "-- local harbour =")),
    Fault("start call removed on the server", "entry-gone", SERVER, "", edit(SERVER, "  lift_bridge.start()\n", "")),
    Fault("start call commented out on the client", "entry-gone", CLIENT, "", edit(CLIENT, "lift_bridge.start()", "-- lift_bridge.start()")),
    Fault("server script asked for on the client", "wrong-side", CLIENT, "harbour", edit(CLIENT, "require \"captions\"", "require \"captions\"\nlocal harbour = require \"harbour\"")),
    # texts
    Fault("text removed in one language", "missing-in-language", "texts/de.toml", "", edit("texts/de.toml", '"lift_bridge.rising" = "Die Brücke hebt sich"\n', "")),
    Fault("label's text removed in one language", "missing-in-language", "texts/en.toml", "", edit("texts/en.toml", '"harbour.bell" = "Ring the bell"\n', "")),
    # manifest
    Fault("script's row dropped", "not-in-manifest", "scripts/server/main.lua", '"harbour"', row_out(HARBOUR)),
    Fault("texture's row dropped", "not-in-manifest", "models/lift_bridge/span.gltf", "steel.png", row_out("textures/lift_bridge/steel.png")),
    Fault("sound's row dropped", "not-in-manifest", ALIASES, "horn.wav", row_out("sounds/bridge/horn.wav")),
    Fault("sound table's row dropped", "not-in-manifest", ALIASES, "", row_out(ALIASES)),
    Fault("texts' row dropped", "not-in-manifest", "texts/de.toml", "", row_out("texts/de.toml")),
    Fault("scene's row dropped", "not-in-manifest", "map.toml", "scene/", row_out(SCENE)),
    # twice
    Fault("object key twice", "defined-twice", SCENE, "", attribute("lamp_2", "key", "lamp_1")),
    Fault("sound alias twice", "defined-twice", ALIASES, "", edit(ALIASES, 'alias = "gull_2"', 'alias = "gull_1"\nfile = "harbour/gull_2.wav"\nreach = 1.0\n[[sound]]\nalias = "gull_2"')),
    Fault("callback registered twice", "defined-twice", HARBOUR, "on(\"harbour.ring\", print", edit(HARBOUR, 'on("harbour.ring", ring)', 'on("harbour.ring", ring)\n  on("harbour.ring", print or ring)')),
    # files that are not what they say
    Fault("picture replaced by text", "unreadable", "textures/iron.png", "", lambda root: (root / "textures/iron.png").write_text("no picture")),
    Fault("sound cut off", "unreadable", "sounds/harbour/gull_2.wav", "", lambda root: (root / "sounds/harbour/gull_2.wav").write_bytes((root / "sounds/harbour/gull_2.wav").read_bytes()[:900])),
    Fault("scene with a comma missing", "unreadable", SCENE, "\"lock wheel\"", edit(SCENE, '"name": "lock wheel",', '"name": "lock wheel"')),
    Fault("texts with a quote missing", "unreadable", "texts/de.toml", "tide.low", edit("texts/de.toml", 'Niedrigwasser"', "Niedrigwasser")),
    Fault("script that does not parse", "unreadable", HARBOUR, "", edit(HARBOUR, "local function ring(who)", "local function ring(who")),
    Fault("endless sound without an end", "bad-record", ALIASES, "", edit(ALIASES, 'ends = "tide.low"\n', "")),
    Fault("sound with no reach", "bad-record", ALIASES, "reach = 0", edit(ALIASES, "reach = 60.0", "reach = 0")),
    # paths
    Fault("texture with backslashes", "backslash", LOCK, "textures\\\\planks", edit(LOCK, "../textures/planks.png", "..\\\\textures\\\\planks.png")),
    Fault("texture outside of the map", "outside-map", LOCK, "../../stolen", edit(LOCK, "../textures/planks.png", "../../stolen/planks.png")),
    # what the game cannot notice
    Fault("sound misspelt where the trial does not come", "missing-name", CAPTIONS, "tide_wahs", edit(CAPTIONS, "return captions", 'on("harbour.closed", function() play_sound("tide_wahs") end)\n\nreturn captions'), unseen="no object or script ever fires that callback, so the line does not run"),
    Fault("fixed part of a run-time name misspelt, in a line that does not run", "matches-nothing", CAPTIONS, "gul_", edit(CAPTIONS, "return captions", 'on("harbour.closed", function(n) play_sound("gul_" .. n) end)\n\nreturn captions'), unseen="no object or script ever fires that callback, so the line does not run"),
    Fault("text that nothing refers to, in one language only", "untranslated", "texts/en.toml", "harbour.closed", edit("texts/en.toml", '"tide.low"', '"harbour.closed" = "Closed"\n"tide.low"'), unseen="nobody asks for the text"),
    Fault("files that differ in letter case only", "case-twins", "textures/iron.png", "", lambda root: (root / "textures/Iron.png").write_bytes((root / "textures/iron.png").read_bytes()), unseen="the game reads archives, where letter case tells; only unpacking on Windows loses one of the two"),
    Fault("file that nothing uses", "unused-file", "textures/old.png", "", lambda root: (root / "textures/old.png").write_bytes((root / "textures/iron.png").read_bytes()), unseen="a file too many does no harm in the game"),
)  # fmt: skip
