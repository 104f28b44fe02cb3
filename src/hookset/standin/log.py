"""What the game writes down."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass, field

import msgspec
from msgspec import Struct

__all__ = ["Line", "Log"]


class Line(Struct, frozen=True):
    """One line of the log."""

    what: str
    """opened, game, script, tied, sound, texture, landed, heard, fired, worked, passed, played, moved, said, placed,
    ended, error"""
    text: str
    """The same in words."""
    file: str = ""
    line: int = 0
    side: str = ""
    """server or client, in games of two sides."""
    name: str = ""
    """What it is about: a file, an alias, a key, a callback."""
    to: str = ""
    """What an object is tied to."""

    def as_json(self) -> str:
        return json.dumps(msgspec.structs.asdict(self), ensure_ascii=False)


def _silently(_: Line) -> None:
    return None


@dataclass
class Log:
    """Lines in the order in which things happened; the same error at the same place is written once."""

    tell: Callable[[Line], None] = _silently
    lines: list[Line] = field(default_factory=list)

    def add(self, entry: Line) -> None:
        if entry.what == "error" and entry in self.lines:
            return
        self.lines.append(entry)
        self.tell(entry)

    def error(self, text: str, file: str = "", line: int = 0) -> None:
        self.add(Line("error", text, file, line))

    @property
    def errors(self) -> list[Line]:
        return [line for line in self.lines if line.what == "error"]
