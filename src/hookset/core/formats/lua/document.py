"""Lua scripts as a format: what a layout can ask of them, and where hooks can go."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

from msgspec import Struct

from hookset.core.formats.base import Body, Document, Format, Nothing, Placement, Unreadable, Value
from hookset.core.formats.lua.seats import LuaSeat, put
from hookset.core.formats.lua.syntax import Script
from hookset.core.model import Where
from hookset.core.trees import Text

__all__ = ["FORMAT"]

_WIDEST = 10_000
"""Statements that a file which does not parse may have and still be looked into."""


class LuaSelector(Struct, frozen=True, forbid_unknown_fields=True):
    """One of the four ways to name values in a script."""

    call: str | None = None
    """The function that is called, as it is written: `require`, `audio.play`, `scene:find`; `*.play` for any owner."""
    arg: int = 1
    """Which argument of the call, from one."""
    assign: str | None = None
    """What this name is set to."""
    function: Literal["*"] | None = None
    """The names of the functions that the script defines."""
    query: str | None = None
    """A tree-sitter query that captures `@value`."""

    def __post_init__(self) -> None:
        if sum(way is not None for way in (self.call, self.assign, self.function, self.query)) != 1:
            raise ValueError("one of call, assign, function and query says which values are meant")


@dataclass(frozen=True)
class _Lua(Document):
    script: Script

    @property
    def problems(self) -> tuple[tuple[str, Where], ...]:
        error = self.script.first_error()
        if error is None:
            return ()
        near = self.script.string_of(error).split("\n")[0].strip()[:40]
        what = f"a missing {error.type}" if error.is_missing else f"near {near!r}" if near else "at its end"
        return ((f"does not parse as Lua, {what}", self.script.start(error)),)

    def select(self, selector: LuaSelector) -> Iterator[Value]:
        script = self.script
        if selector.call is not None:
            for node in self._calls(selector.call):
                arguments = node.child_by_field_name("arguments")
                given = [] if arguments is None else [c for c in arguments.named_children if c.type != "comment"]
                if selector.arg <= len(given):
                    yield from self._values(given[selector.arg - 1])
        elif selector.assign is not None:
            for target, value in script.assignments:
                if value is not None and script.string_of(target) == selector.assign:
                    yield from self._values(value)
        elif selector.function is not None:
            for function in script.functions:
                yield Value(function.name, script.start(function.node))
        elif selector.query is not None:
            for node in script.query(selector.query):
                yield from self._values(node)

    def _calls(self, name: str) -> list[Any]:
        if not name.startswith("*"):
            return self.script.calls.get(name, [])
        found = [node for callee, nodes in self.script.calls.items() if callee.endswith(name[1:]) for node in nodes]
        return sorted(found, key=lambda node: node.start_byte)

    def _values(self, node: Any) -> Iterator[Value]:
        for meaning, stands in dict.fromkeys(self.script.meanings(node)):
            literal = stands.type == "string" or "*" not in meaning
            yield Value(meaning, self.script.start(stands), pattern=not literal)

    def records(self, selector: Any) -> Iterator[tuple[Where, Any]]:  # noqa: ARG002
        return iter(())

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        spans: dict[Where, tuple[int, int]] = {}
        for where in wheres:
            if isinstance(where, int):
                byte = len(self.script.text.string[:where].encode("utf-8", "surrogatepass"))
                node = self.script.root.named_descendant_for_byte_range(byte, byte + 1)
                spans[where] = (where, self.script.end(node) if node is not None else where)
        return spans

    def put(self, seat: LuaSeat, body: Body) -> Placement:
        return put(self.script, seat, body)


class _LuaFormat(Format):
    title: ClassVar[str] = "Lua"
    binary: ClassVar[bool] = False
    selector: ClassVar[type[Struct]] = LuaSelector
    seat: ClassVar[type[Struct]] = LuaSeat
    options: ClassVar[type[Struct]] = Nothing
    bodies: ClassVar[Sequence[str]] = ("text",)
    largest: ClassVar[int] = 32 << 20

    def open(self, source: Text | bytes, options: Any) -> Document:  # noqa: ARG002
        assert isinstance(source, Text)
        script = Script(source)
        error = script.first_error()
        if error is not None and script.root.child_count > _WIDEST:
            # Queries over so flat a tree take time that grows with its square.
            raise Unreadable("does not parse as Lua from here on", script.start(error))
        return _Lua(script)


FORMAT = _LuaFormat()
