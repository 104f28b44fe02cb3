"""The game loop: load the map, start both sides, use every object, let some time pass."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from hookset.standin.content import Map, load_map, open_archive
from hookset.standin.games import GAMES, Packed
from hookset.standin.log import Line, Log
from hookset.standin.places import begin_places, work
from hookset.standin.scripts import Side

__all__ = ["play"]

SIDES = ("server", "client")


def play(archive: Path, ticks: int, log: Log) -> None:
    """Play a built map for some seconds of its own time."""
    packed = open_archive(archive, log)
    if packed is None:
        return
    for descriptor, play_it in GAMES.items():
        if descriptor in packed:
            log.add(Line("opened", f"{archive.name}: {len(packed)} files", name=archive.name))
            log.add(Line("game", f"the one for maps with {descriptor}", name=descriptor))
            base = json.loads(Path(__file__).with_name("base_game.json").read_text(encoding="utf-8"))
            play_it(Packed(packed, base, log))
            log.add(Line("ended", f"{len(log.errors)} errors"))
            return
    loaded = load_map(archive.name, packed, log)
    if loaded is not None:
        _play_sides(loaded, ticks, log)


def _play_sides(loaded: Map, ticks: int, log: Log) -> None:
    """Server and client of a map, each with its scripts."""
    sides: dict[str, Side] = {}

    def tell(side: str, name: str, file: str, line: int, *given: Any) -> None:
        if name not in sides[side].callbacks:
            log.error(f"nobody on the {side} has registered {name!r}", file, line)
        else:
            log.add(Line("fired", f"{side}: {name}", side=side, name=name))
            sides[side].fire(name, *given)

    for name in SIDES:
        sides[name] = Side(name, loaded, tell)
    for name in ("client", "server"):
        sides[name].start()
    calls = _tie(loaded, sides)
    begin_places(loaded)
    for tick in range(ticks):
        if tick in (1, ticks // 2):
            for side, callback, key in calls:
                log.add(Line("fired", f"{side}: {callback} by {key}", side=side, name=callback))
                sides[side].fire(callback, "player 1")
                if side == "server":
                    work(loaded, key)
        for name in SIDES:
            sides[name].pass_time(1.0)
    log.add(Line("ended", f"after {ticks} ticks, {len(log.errors)} errors"))


def _tie(loaded: Map, sides: dict[str, Side]) -> list[tuple[str, str, str]]:
    """(side, callback, object) for every object that names a callback somebody has registered."""
    calls = []
    for node in loaded.nodes:
        extras = node["extras"]
        for side in SIDES:
            callback = extras.get(f"{side}_call")
            if callback is None:
                continue
            key = str(extras.get("key", node.get("name", "?")))
            if callback in sides[side].callbacks:
                loaded.log.add(Line("tied", f"{key} to {callback} on the {side}", side=side, name=key, to=callback))
                calls.append((side, callback, key))
            else:
                line = loaded.line_of(loaded.scene, callback)
                loaded.log.error(f"{key} calls {callback!r} on the {side}, which nobody registered", loaded.scene, line)
    return calls
