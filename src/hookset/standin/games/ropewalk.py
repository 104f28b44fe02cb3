"""Maps whose folders mirror the game's, with a descriptor for each thing."""

from __future__ import annotations

import csv
import posixpath
from typing import Any

import yaml

from hookset.standin.games.packed import Packed
from hookset.standin.log import Line
from hookset.standin.sandbox import Sandbox

__all__ = ["play_ropewalk"]

WAYS = ("swings", "turns", "lifts", "stays")


def play_ropewalk(packed: Packed) -> None:
    about = _yaml(packed, "about.yaml")
    _Ropewalk(packed, about).play()


def _yaml(packed: Packed, path: str) -> dict[str, Any]:
    try:
        return dict(yaml.safe_load(packed.text(path)))
    except (KeyError, TypeError, ValueError, yaml.YAMLError) as error:
        packed.log.error(f"cannot be read: {error}", path)
        return {}


class _Ropewalk:
    def __init__(self, packed: Packed, about: dict[str, Any]) -> None:
        self.packed = packed
        self.about = about
        self.things: dict[str, str] = dict.fromkeys(packed.base["thing"], "")
        self.noises: set[str] = set(packed.base["noise"])
        self.deeds: dict[str, Any] = {}
        self.lua = Sandbox(packed.log, {"deed": self._deed, "hear": self._hear, "put": self._put, "sign": self._sign})

    def play(self) -> None:
        noises = str(self.about.get("noises"))
        if self.packed.wanted(noises, "about.yaml", noises):
            self._list(noises)
        things = {path: _yaml(self.packed, path) for path in sorted(self.packed.files) if _of_thing(path)}
        for path, thing in things.items():
            name = str(thing.get("thing"))
            if name in self.things:
                self.packed.error(f"two things {name!r}", path, name)
            self.things[name] = path
        for script in self.about.get("code", []):
            path = f"code/{script}.lua"
            if self.packed.wanted(path, "about.yaml", str(script)):
                self.lua.run(path, self.packed.files[path])
        for path, thing in things.items():
            self._thing(path, thing)
        for place in self.about.get("stands", []):
            self._stand(str(place.get("thing")), str(place.get("at")))
        for deed in self.deeds.values():
            self.lua.call(deed, "player 1")

    def _list(self, path: str) -> None:
        for name, noise in _yaml(self.packed, path).items():
            self.noises.add(name)
            file = str(noise.get("file"))
            self.packed.sound(f"noises/{file}", path, file)
            if noise.get("times") == 0 and "until" not in noise:
                self.packed.error(f"{name!r} never ends", path, "file:", name)

    def _thing(self, path: str, thing: dict[str, Any]) -> None:
        folder, sort, shape = posixpath.dirname(path), thing.get("sort"), str(thing.get("shape"))
        if folder not in self.packed.base["folders"].get(sort, []):
            self.packed.error(f"nothing of the sort {sort!r} is looked for in {folder!r}", path, f"sort: {sort}")
        self.packed.model(f"{folder}/{shape.removesuffix('.gltf')}.gltf", path, shape)
        if "moves" in thing and thing["moves"] not in WAYS:
            self.packed.error(f"no way to move: {thing['moves']!r}", path, "moves:")
        if not thing.get("weight", 1) > 0:
            self.packed.error("it weighs nothing", path, "weight:")
        known = {"noise": self.noises, "thing": self.things, "deed": self.deeds}
        for link, name in (thing.get("links") or {}).items():
            sort = link.partition("_")[0]
            if sort not in known:
                self.packed.error(f"no link {link!r}", path, str(link))
            elif name not in known[sort]:
                self.packed.error(f"no {sort} {name!r}", path, f"{link}: {name}")

    def _stand(self, name: str, at: str) -> None:
        if name not in self.things:
            self.packed.error(f"no thing {name!r}", "about.yaml", name)
        try:
            x, height, y = (float(part) for part in at.split())
        except ValueError:
            self.packed.error(f"{name!r} stands nowhere: {at!r}", "about.yaml", at)
            return
        self.packed.log.add(Line("placed", f"{name} at {x:g}, {height:g}, {y:g}", "about.yaml", name=name))
        ground = self._ground(x, y)
        if not -1.0 <= height - ground <= 2.5:
            self.packed.error(f"{name!r} is {height - ground:+.1f} from the ground", "about.yaml", at)

    def _ground(self, x: float, y: float) -> float:
        """This game weighs all the heights it knows by how near they are."""
        rows = list(csv.DictReader(self.packed.text("ground.csv").splitlines()))
        points = [(float(row["x"]), float(row["y"]), float(row["height"])) for row in rows]
        weights = [1 / (((px - x) ** 2 + (py - y) ** 2) ** 1.5 + 1e-9) for px, py, _ in points]
        total: float = sum(weight * height for weight, (_, _, height) in zip(weights, points, strict=True))
        return float(total / sum(weights))

    def _deed(self, _file: str, _line: int, name: str, function: Any) -> None:
        self.deeds[name] = function

    def _hear(self, file: str, line: int, name: str) -> None:
        if name not in self.noises:
            self.packed.log.error(f"no noise {name!r}", file, line)

    def _put(self, file: str, line: int, name: str) -> None:
        if name not in self.things:
            self.packed.log.error(f"no thing {name!r}", file, line)

    def _sign(self, file: str, line: int, path: str) -> None:
        if path.replace("\\", "/") not in self.packed.files:
            self.packed.log.error(f"no picture {path!r}", file, line)


def _of_thing(path: str) -> bool:
    return path.count("/") == 2 and path.endswith(".yaml")
