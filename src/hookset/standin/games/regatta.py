"""Courses for races: numbered buoys, a table per crew, options; paths begin with the folder the game makes."""

from __future__ import annotations

import configparser
import csv
from typing import Any
from xml.etree import ElementTree

from hookset.standin.games.packed import Packed
from hookset.standin.log import Line
from hookset.standin.sandbox import Sandbox

__all__ = ["play_regatta"]

INI, SLOTS = "course.ini", range(1, 25)


def play_regatta(packed: Packed) -> None:
    options = configparser.ConfigParser()
    try:
        options.read_string(packed.text(INI))
        scenes = [path for path in packed.files if path.startswith("scene/")]
        roots = {path: ElementTree.fromstring(packed.files[path]) for path in scenes}
    except (configparser.Error, ElementTree.ParseError) as error:
        packed.log.error(f"cannot be read: {error}", INI)
        return
    _Regatta(packed, options, roots).play()


class _Regatta:
    def __init__(
        self, packed: Packed, options: configparser.ConfigParser, roots: dict[str, ElementTree.Element]
    ) -> None:
        self.packed = packed
        self.options = options
        self.roots = roots
        head = options["course"]
        self.folder = "_".join(head.get("name", "").lower().split())
        self.badge = f"{self.folder}-{int(head.get('version', '0')):03}"
        self.buoys: dict[str, str] = {}
        self.at: dict[str, str] = {}
        self.events: dict[str, Any] = {}
        self.crews = {path[6:-4]: path for path in packed.files if path.startswith("crews/")}
        self.lua = Sandbox(
            packed.log,
            {"load": self._load, "play": self._asked, "buoy": self._buoy, "on": self._on, "log": lambda *_: None},
        )

    def play(self) -> None:
        head = self.options["course"]
        for key, right in (("folder", self.folder), ("badge", self.badge)):
            if head.get(key) != right:
                self.packed.error(f"the {key} is {head.get(key)!r}, not {right!r}", INI, f"{key} =")
        if not head.get("laps", "").isdecimal():
            self.packed.error("no number of laps", INI, "laps")
        for path, root in self.roots.items():
            self._scene(path, root)
        for script in self.options["scripts"].values():
            self._run(script, INI, self.packed.line(INI, script))
        held: dict[str, set[str]] = {}
        for path in self.crews.values():
            self._crew(path, held)
        for name, path in self.buoys.items():
            if len(held.get(name, ())) != 1:
                self.packed.error(f"{name} belongs to {len(held.get(name, ()))} crews", path, f'"{name}"')
        moments = self.options["moments"]
        for key in moments if moments.get("race") == "on" else ():
            if key != "race" and moments[key] not in self.events:
                self.packed.error(f"nobody answers {moments[key]!r}", INI, f"{key} =")
        for function in self.events.values():
            self.lua.call(function)

    def _scene(self, path: str, root: ElementTree.Element) -> None:
        if root.get("badge") != self.badge:
            self.packed.error(f"the badge is not {self.badge!r}", path, "badge=")
        slots: set[str] = set()
        for buoy in root.iter("Buoy"):
            name, slot = str(buoy.get("name")), str(buoy.get("slot"))
            named, quoted = f'"{name}"', f'slot="{slot}"'
            if name in self.buoys:
                self.packed.error(f"two buoys {name!r}", path, f'"{name}"', f'"{name}"')
            if slot in slots or not slot.isdecimal() or int(slot) not in SLOTS:
                self.packed.error(f"{name}: the slot {slot!r} is taken, or none", path, quoted, named)
            if len(str(buoy.get("at")).split()) != 2:
                self.packed.error(f"{name} is nowhere", path, f'"{name}"')
            slots.add(slot)
            self.buoys[name] = path
            self.at[name] = str(buoy.get("at"))
        for name in self.buoys:
            crew, _, number = name.rpartition("_")
            if int(number) > 1 and f"{crew}_{int(number) - 1}" not in self.buoys:
                self.packed.error(f"before {name} one is left out", path, f'"{name}"')
        for start in root.iter("Start"):
            if start.get("crew") not in self.crews:
                self.packed.error(f"no crew {start.get('crew')!r}", path, f'crew="{start.get("crew")}"')
        if len(list(root.iter("Start"))) < len(self.crews):
            self.packed.error("a crew has nowhere to start", path, "<Start ")
        for shaped in (element for element in root.iter() if "shape" in element.attrib):
            shape = shaped.attrib["shape"]
            target = shape.removeprefix(f"courses/{self.folder}/")
            self.packed.model(target if target != shape else shape, path, shape)

    def _crew(self, path: str, held: dict[str, set[str]]) -> None:
        rows = [line for line in self.packed.text(path).splitlines() if not line.startswith("#")]
        for row in csv.DictReader(rows):
            does, what = row["does"], row["what"]
            text = f"{row['leg']},{does},{what}"
            if does == "pass":
                held.setdefault(what, set()).add(path)
                if what not in self.buoys:
                    self.packed.error(f"no buoy {what!r}", path, text)
                else:
                    crew = path[6:-4]
                    self.packed.log.add(Line("passed", f"{crew} passes {what} at {self.at[what]}", name=what, to=crew))
                if row["hand"].lower() not in ("port", "starboard"):
                    self.packed.error(f"{what} is passed on no side", path, text)
            elif does == "sound":
                self._asked(path, self.packed.line(path, text), what)
            elif does == "event" and what not in self.events:
                self.packed.error(f"nobody answers {what!r}", path, text)
            elif does != "event":
                self.packed.error(f"no such thing to do: {does!r}", path, text)

    def _asked(self, file: str, line: int, path: str) -> str | None:
        """The file that a path in the game stands for."""
        front = f"courses/{self.folder}/"
        target = path.removeprefix(front)
        if path.startswith(front) and target in self.packed.files:
            if target.endswith(".wav"):
                self.packed.sound(target, file, path)
            return target
        self.packed.log.error(f"no file {path!r}", file, line)
        return None

    def _run(self, path: str, file: str, line: int) -> None:
        if (target := self._asked(file, line, path)) is not None:
            self.lua.run(target, self.packed.files[target])

    def _load(self, file: str, line: int, path: str) -> None:
        self._run(path, file, line)

    def _buoy(self, file: str, line: int, name: str) -> Any:
        if name not in self.buoys:
            self.packed.log.error(f"no buoy {name!r}", file, line)
        return self.lua.thing({"light": lambda *_: None})

    def _on(self, _file: str, _line: int, name: str, function: Any) -> None:
        self.events[name] = function
