"""Maps of modules for two sides. There is no engine for their language here: the modules are read line by line."""

from __future__ import annotations

import configparser
import posixpath
import re
from typing import Any

import yaml

from hookset.standin.games.packed import Packed
from hookset.standin.log import Line

__all__ = ["play_canal"]

NAMES = "common/names.mjs"
_IMPORT = re.compile(r"""^\s*import\s.*?["']([^"']+)["']""")
_ENTRY = re.compile(r"""^\s*(\w+):\s*"([^"]*)",""")
_CALLS = re.compile(r"""\b(handle|find|say)\(\s*"([^"]*)\"""")
_GIVEN = re.compile(r"\b(play|signal|listen)\(\s*((?:SOUNDS|SIGNALS)\.\w+)")
_AT = re.compile(r"""\bplay\([^,()]*,\s*"([^"]*)\"""")
_ID = re.compile(r'^msgid "(.+)"\s+msgstr "[^"]', re.MULTILINE)


def play_canal(packed: Packed) -> None:
    place = (packed.json("place.json") or {}).get("place", {})
    texts = {}
    for tongue in place.get("tongues", []):
        if packed.wanted(f"words/{tongue}.po", "place.json", f'"{tongue}"'):
            texts[tongue] = set(_ID.findall(packed.text(f"words/{tongue}.po")))
    _Canal(packed, texts).play(str(place.get("title")))


class _Canal:
    def __init__(self, packed: Packed, texts: dict[str, set[str]]) -> None:
        self.packed = packed
        self.texts = texts
        self.sounds = self._list("sounds", self.packed.sound)
        self.shapes = self._list("shapes", self.packed.model)
        self.constants: dict[str, str] = {}
        self.handlers: dict[str, set[str]] = {"server": set(), "client": set()}
        self.ids: set[str] = set()
        self.objects = self._objects()

    def play(self, title: str) -> None:
        self._text(title, "place.json", title)
        self._names()
        for side in ("server", "client"):
            self._module(side, f"{side}/begin.mjs", set())
        for entry in self.objects:
            self._tie(entry)

    def _list(self, name: str, opened: Any) -> set[str]:
        path, parser = f"assets/{name}.ini", configparser.ConfigParser(strict=True)
        if path not in self.packed.files:
            self.packed.log.error("is not there", path)
            return set()
        try:
            parser.read_string(self.packed.text(path))
        except configparser.Error as error:
            self.packed.log.error(f"cannot be read: {error}", path, getattr(error, "lineno", 0) or 0)
            return set(re.findall(r"^\[(.+)\]", self.packed.text(path), re.MULTILINE))
        for section in parser.sections():
            file = parser.get(section, "file", fallback=None)
            if file is None or (name == "sounds" and not parser.has_option(section, "reach")):
                self.packed.error(f"{section!r} is not whole", path, f"[{section}]")
            elif file is not None:
                opened(f"media/{file}", path, file)
        return set(parser.sections())

    def _objects(self) -> list[dict[str, Any]]:
        try:
            found = yaml.safe_load(self.packed.text("objects.yaml"))
        except (KeyError, yaml.MarkedYAMLError) as error:
            mark = getattr(error, "problem_mark", None)
            self.packed.log.error(f"cannot be read: {error}", "objects.yaml", mark.line + 1 if mark else 0)
            return []
        for entry in found["objects"]:
            shown = f"id: {entry['id']}"
            if entry["id"] in self.ids:
                self.packed.error(f"two objects {entry['id']!r}", "objects.yaml", shown, shown)
            self.ids.add(entry["id"])
        return list(found["objects"])

    def _names(self) -> None:
        table = ""
        for number, line in enumerate(self.packed.text(NAMES).splitlines(), 1):
            if begun := re.match(r"export const (\w+)", line):
                table = begun[1]
            if entry := _ENTRY.match(line):
                name = f"{table}.{entry[1]}"
                if name in self.constants:
                    self.packed.log.error(f"{name} is there twice", NAMES, number)
                self.constants[name] = entry[2]
                if table == "SOUNDS" and entry[2] not in self.sounds | set(self.packed.base["sound"]):
                    self.packed.log.error(f"no sound {entry[2]!r}", NAMES, number)

    def _module(self, side: str, path: str, loaded: set[str]) -> None:
        if path in loaded or path == NAMES:
            return
        loaded.add(path)
        if path not in self.packed.files:
            self.packed.log.error("is not there", path)
            return
        self.packed.log.add(Line("script", f"{side}: {path}", side=side, name=path))
        for number, line in enumerate(self.packed.text(path).splitlines(), 1):
            if line.lstrip().startswith("//"):
                continue
            if asked := _IMPORT.match(line):
                target = posixpath.normpath(posixpath.join(posixpath.dirname(path), asked[1]))
                if target in self.packed.files:
                    self._module(side, target, loaded)
                else:
                    self.packed.log.error(f"no module {target!r}", path, number)
            self._line(side, path, number, line)

    def _line(self, side: str, path: str, number: int, line: str) -> None:
        for name, given in _CALLS.findall(line):
            if name == "handle":
                if given in self.handlers[side]:
                    self.packed.log.error(f"the {side} handles {given!r} twice", path, number)
                self.handlers[side].add(given)
            elif name == "find" and given not in self.ids:
                self.packed.log.error(f"no object {given!r}", path, number)
            elif name == "say":
                self._text(given, path, given)
        for given in _AT.findall(line):
            if given not in self.ids:
                self.packed.log.error(f"no object {given!r} to play at", path, number)
        for _, constant in _GIVEN.findall(line):
            if constant not in self.constants:
                self.packed.log.error(f"{constant} is undefined", path, number)

    def _tie(self, entry: dict[str, Any]) -> None:
        path, name = "objects.yaml", entry["id"]
        if entry.get("shape") not in self.shapes:
            self.packed.error(f"no shape {entry.get('shape')!r}", path, f"shape: {entry.get('shape')}")
        if "label" in entry:
            self._text(entry["label"], path, entry["label"])
        for side, handlers in self.handlers.items():
            asked = entry.get(f"on_{side}")
            if asked is not None and asked not in handlers:
                self.packed.error(f"{name}: the {side} does not handle {asked!r}", path, f"on_{side}: {asked}")
        for other in entry.get("opens", []):
            if other not in self.ids:
                self.packed.error(f"{name}: no object {other!r}", path, str(other), "opens")
            else:
                self.packed.log.add(Line("worked", f"{name} works {other}", name=name, to=other))

    def _text(self, key: str, path: str, shown: str) -> None:
        for tongue, keys in self.texts.items():
            if key not in keys:
                self.packed.error(f"no text {key!r} in {tongue!r}", path, shown)
