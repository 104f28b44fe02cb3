"""A real Lua in which scripts reach only what the game hands them, and always end."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

import lupa.lua54 as lua

from hookset.standin.log import Line, Log

__all__ = ["Sandbox", "guarded_lua", "lua_source", "run_lua"]

STEPS = 5_000_000
MEMORY = 64 << 20
_AT = re.compile(r"^(?P<file>[^:\n]+\.lua):(?P<line>\d+): (?P<text>.*)", re.DOTALL)


def _no_attributes(_: object, name: object, __: bool) -> str:
    raise AttributeError(f"scripts cannot look into the game: {name!r}")


def lua_source(name: str) -> str:
    """One of the game's own Lua files."""
    return Path(__file__).with_name(f"{name}.lua").read_text(encoding="utf-8")


def guarded_lua() -> tuple[lua.LuaRuntime, Any]:
    """A runtime, and the Lua function that calls others under guard."""
    runtime = lua.LuaRuntime(
        unpack_returned_tuples=True,
        register_eval=False,
        register_builtins=False,
        attribute_filter=_no_attributes,
        max_memory=MEMORY,
    )
    return runtime, runtime.execute(lua_source("guard"), STEPS)


def run_lua(log: Log, front: str, function: Any, *arguments: Any) -> None:
    """Call into Lua. Whatever goes wrong there is a line in the log, with the script's own place."""
    try:
        function(*arguments)
    except (lua.LuaError, MemoryError, UnicodeDecodeError, AttributeError) as error:
        text = str(error).split("\nstack traceback")[0].strip() or "out of memory"
        found = _AT.match(text)
        if found:
            log.error(f"{front}{found['text']}", found["file"], int(found["line"]))
        else:
            log.error(f"{front}{text}")


class Sandbox:
    """A Lua whose global functions are the game's. Each is called with the file and the line that call it."""

    def __init__(self, log: Log, functions: Mapping[str, Callable[..., Any]]) -> None:
        self.log = log
        self._runtime, guarded = guarded_lua()

        def host(name: str, file: str, line: int, *given: Any) -> Any:
            return functions[name](file, line, *given)

        names = self._runtime.table_from(list(functions))
        self._begin = self._runtime.execute(lua_source("sandbox"), host, guarded, names)

    def run(self, path: str, source: bytes) -> None:
        self.log.add(Line("script", path, name=path))
        run_lua(self.log, "", self._begin, source, path.encode())

    def call(self, function: Any, *given: Any) -> None:
        run_lua(self.log, "", function, *given)

    def thing(self, methods: Mapping[str, Callable[..., Any]]) -> Any:
        """Something of the game's that a script can hold."""
        return self._runtime.table_from(dict(methods))

    def named(self, name: str) -> Any:
        """A function by its name, with dots; None when scripts define none."""
        value: Any = self._runtime.globals()
        for part in name.split("."):
            value = value[part] if value is not None and lua.lua_type(value) in ("table", None) else None
        return value if lua.lua_type(value) == "function" else None
