"""Maps of one XML scene, whose files go by ids and whose nodes call into Lua."""

from __future__ import annotations

from typing import Any
from xml.etree import ElementTree

from hookset.standin.games.packed import Packed
from hookset.standin.log import Line
from hookset.standin.sandbox import Sandbox

__all__ = ["play_basin"]


def play_basin(packed: Packed) -> None:
    world = packed.json("world.json") or {}
    scene = str(world.get("scene"))
    if not packed.wanted(scene, "world.json", scene):
        return
    texts = {path: _texts(packed, path) for path in packed.files if path.startswith("texts/")}
    root = _xml(packed, scene)
    if root is None:
        return
    _Basin(packed, scene, root, texts).play(str(world.get("title")))


def _xml(packed: Packed, path: str) -> ElementTree.Element | None:
    try:
        return ElementTree.fromstring(packed.files[path])
    except ElementTree.ParseError as error:
        packed.log.error(f"cannot be read: {error}", path, error.position[0])
        return None


def _texts(packed: Packed, path: str) -> set[str]:
    root = _xml(packed, path)
    return set() if root is None else {str(text.get("key")) for text in root.iter("Text")}


class _Basin:
    def __init__(self, packed: Packed, scene: str, root: ElementTree.Element, texts: dict[str, set[str]]) -> None:
        self.packed = packed
        self.scene = scene
        self.root = root
        self.texts = texts
        self.files: dict[str, str] = {}
        self.nodes: dict[str, ElementTree.Element] = {}
        self.loaded: set[str] = set()
        self.lua = Sandbox(
            packed.log,
            {"include": self._include, "node": self._node, "write_text": self._write, "time": lambda *_: 0},
        )

    def play(self, title: str) -> None:
        self._text(title, "world.json", title)
        for entry in self.root.iter("Source"):
            number, path = str(entry.get("no")), str(entry.get("from"))
            if number in self.files:
                self.packed.error(f"two files {number}", self.scene, f'from="{path}"')
            self.files[number] = path
            if path.endswith(".gltf"):
                self.packed.model(path, self.scene, f'"{path}"')
            elif path.endswith(".wav"):
                self.packed.sound(path, self.scene, f'"{path}"')
            else:
                self.packed.wanted(path, self.scene, f'"{path}"')
        for node in self.root.iter("Thing"):
            name = str(node.get("key"))
            if name in self.nodes:
                self.packed.error(f"two nodes {name!r}", self.scene, f'"{name}"', f'"{name}"')
            self.nodes[name] = node
        for script in self.root.iter("Run"):
            number = str(script.get("source"))
            if number in self.files and self.files[number] in self.packed.files:
                self._run(self.files[number])
            elif number not in self.files:
                self.packed.error(f"no file {number}", self.scene, f'<Run source="{number}"')
        for name, node in self.nodes.items():
            self._tie(name, node)

    def _tie(self, name: str, node: ElementTree.Element) -> None:
        for part in ("form", "noise"):
            number = node.get(part)
            if number is not None and number not in self.files:
                self.packed.error(f"no file {number}", self.scene, f'{part}="{number}"')
        for value in (child for child in node if child.tag != "Thing"):
            self._value(name, value.tag, str(value.get("is")), value.get("key"))

    def _value(self, name: str, sort: str, value: str, key: str | None) -> None:
        quoted = f'is="{value}"'
        if key is None:
            self.packed.error(f"{name}: a {sort} without a key", self.scene, quoted)
        elif sort == "call":
            function = self.lua.named(value)
            if function is None:
                self.packed.error(f"{name}: no function {value!r}", self.scene, quoted)
            else:
                self.packed.log.add(Line("fired", f"{value} by {name}", name=value))
                self.lua.call(function, "player 1")
        elif sort == "link" and value not in self.nodes:
            self.packed.error(f"{name}: no node {value!r}", self.scene, quoted)
        elif sort == "link":
            self.packed.log.add(Line("worked", f"{name} works {value}", name=name, to=value))
        elif sort == "text":
            self._text(value, self.scene, quoted)
        elif (sort == "flag" and value not in ("true", "false")) or (sort == "number" and not _number(value)):
            self.packed.error(f"{name}: {value!r} is no {sort}", self.scene, quoted)

    def _text(self, key: str, path: str, shown: str) -> None:
        for language, keys in self.texts.items():
            if key not in keys:
                self.packed.error(f"no text {key!r} in {language}", path, shown)

    def _run(self, path: str) -> None:
        if path not in self.loaded:
            self.loaded.add(path)
            self.lua.run(path, self.packed.files[path])

    def _include(self, file: str, line: int, name: str) -> None:
        path = f"code/{name}.lua"
        if path in self.packed.files:
            self._run(path)
        else:
            self.packed.log.error(f"no script {path!r}", file, line)

    def _node(self, file: str, line: int, name: str) -> Any:
        if name not in self.nodes:
            self.packed.log.error(f"no node {name!r}", file, line)
        return self.lua.thing({"move": lambda *_: None})

    def _write(self, file: str, line: int, key: str) -> None:
        for language, keys in self.texts.items():
            if key not in keys:
                self.packed.log.error(f"no text {key!r} in {language}", file, line)


def _number(value: str) -> bool:
    try:
        float(value)
    except ValueError:
        return False
    return True
