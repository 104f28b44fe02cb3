"""One side's scripts, run in a real Lua that can reach only the game."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from hookset.standin.content import Map
from hookset.standin.log import Line, Log
from hookset.standin.sandbox import guarded_lua, lua_source, run_lua

__all__ = ["Side"]


class Side:
    """The server, or a player's machine."""

    def __init__(self, name: str, loaded: Map, tell: Callable[..., None]) -> None:
        self.name = name
        self.map = loaded
        self.log: Log = loaded.log
        self.callbacks: dict[str, Any] = {}
        self.timers: list[tuple[float, Any]] = []
        self.now = 0.0
        self._tell = tell
        runtime, guarded = guarded_lua()
        self._begin = runtime.execute(lua_source("prelude"), self._host, guarded)

    def start(self) -> None:
        path = f"scripts/{self.name}/main.lua"
        if path not in self.map.files:
            self.log.error(f"the {self.name} has no main script: {path} is not there", path)
            return
        self.log.add(Line("script", f"{self.name}: {path}", side=self.name, name=path))
        self.run(self._begin, self.map.files[path], path.encode())

    def run(self, function: Any, *arguments: Any) -> None:
        """Call into Lua. Whatever goes wrong there is a line in the log, with the script's own place."""
        run_lua(self.log, f"{self.name}: ", function, *arguments)

    def fire(self, callback: str, *arguments: Any) -> None:
        self.run(self.callbacks[callback], *arguments)

    def pass_time(self, seconds: float) -> None:
        self.now += seconds
        due = [fn for at, fn in self.timers if at <= self.now]
        self.timers = [(at, fn) for at, fn in self.timers if at > self.now]
        for function in due:
            self.run(function)

    def _host(self, what: str, file: str, line: int, *given: Any) -> Any:
        return getattr(self, f"_do_{what}")(file, line, *given)

    def _do_on(self, file: str, line: int, name: str, function: Any) -> None:
        if name in self.callbacks:
            self.log.error(f"{self.name}: the callback {name!r} is registered twice", file, line)
        self.callbacks[name] = function

    def _do_after(self, _file: str, _line: int, seconds: float, function: Any) -> None:
        self.timers.append((self.now + seconds, function))

    def _do_play_sound(self, file: str, line: int, alias: str, key: str | None = None) -> None:
        known = self.map.sound(alias, file, line)
        if key is not None and key not in self.map.objects:
            self.log.error(f"no object has the key {key!r}", file, line)
        elif known:
            heard = f"{alias} at {key}" if key else alias
            self.log.add(Line("played", f"{self.name} plays {heard}", file, line, self.name, heard))

    def _do_show_text(self, file: str, line: int, key: str) -> None:
        self.map.text(key, file, line)
        words = next((texts[key] for texts in self.map.languages.values() if key in texts), None)
        if words is not None:
            self.log.add(Line("said", f"{self.name} shows {words!r}", file, line, self.name))

    def _do_tell(self, file: str, line: int, side: str, name: str, *given: Any) -> None:
        plain = [value if isinstance(value, str | int | float | bool) else None for value in given]
        self._tell(side, name, file, line, *plain)

    def _do_log(self, file: str, line: int, text: str) -> None:
        self.log.add(Line("said", f"{self.name}: {text}", file, line, self.name))

    def _do_object(self, _file: str, _line: int, key: str) -> bool:
        return key in self.map.objects

    def _do_moved(self, file: str, line: int, key: str, x: float, y: float, z: float) -> None:
        self.log.add(Line("moved", f"{key} by ({x:g}, {y:g}, {z:g})", file, line, self.name, key))

    def _do_source(self, _file: str, _line: int, name: str) -> Any:
        for folder in (self.name, "shared"):
            path = f"scripts/{folder}/{name.replace('.', '/')}.lua"
            if path in self.map.files:
                self.log.add(Line("script", f"{self.name}: {path}", side=self.name, name=path))
                return self.map.files[path], path.encode()
        if name in self.map.base.scripts[self.name]:
            return b"return {}", b"the base game"
        return None, None
