"""What the formats of all script languages with a grammar share."""

from __future__ import annotations

import functools
from collections.abc import Sequence
from typing import ClassVar

from msgspec import Struct

from hookset.formats._script.document import ScriptDocument, opened
from hookset.formats._script.script import Script
from hookset.formats._script.seats import ScriptSeat, existing
from hookset.formats._script.tables import pasted_items
from hookset.formats.base import ExistingEntry
from hookset.formats.format import Format, Snippet
from hookset.trees import Text

__all__ = ["ScriptFormat", "ScriptOptions"]


class ScriptOptions(Struct, frozen=True, forbid_unknown_fields=True):
    """How scripts of one kind of map are to be understood."""

    known: dict[str, str] = {}
    """Expressions whose value the file's place says, as they are written: `"here()" = "{parent}"`; for calls with one
    argument, with `$1` for it: `"folder_of($1)" = "units/{1}"`."""

    def __hash__(self) -> int:
        return hash(tuple(sorted(self.known.items())))


class ScriptFormat(Format):
    """A script language. It says how its scripts are parsed, and what it can be asked."""

    script: ClassVar[type[Script]]
    empty: ClassVar[str]
    """How a function `{name}` without anything in it is written."""
    seat: ClassVar[type[Struct]] = ScriptSeat
    options: ClassVar[type[Struct]] = ScriptOptions
    bodies: ClassVar[Sequence[str]] = ("text", "record")
    has_rows: ClassVar[bool] = True
    has_guards: ClassVar[bool] = True
    has_parts: ClassVar[bool] = True
    largest: ClassVar[int] = 32 << 20

    def blank(self, seat: ScriptSeat) -> str:
        """A file with the function, or the table, that entries go into, where they go into one."""
        if seat.into is not None:
            first, *steps = seat.into.split(".")
            inner = "{}"
            for step in reversed(steps):
                inner = f"{{ {step}{self.script.PAIR}{inner} }}"
            given = f"{first[:-1]}{inner})" if first.endswith("()") else f"{first} = {inner}"
            return f"{self.script.RETURNS} {inner}\n" if first == "return" else f"{given}\n"
        return self.empty.format(name=seat.inside) if seat.inside else ""

    def pasted(self, seat: ScriptSeat, snippet: Snippet) -> tuple[ExistingEntry, ...]:
        """The statements of a text that parses; of one that does not the items of a table, for a seat in one."""
        script = _whole(self.script, snippet.text)
        if script is None:
            return () if seat.into is None else tuple(pasted_items(self.script, snippet.text, seat.form == "row"))
        return tuple(existing(script, seat))

    def open(self, source: Text | bytes, options: ScriptOptions) -> ScriptDocument:
        """Raises Unreadable."""
        assert isinstance(source, Text)
        return opened(self.language(options)(source, tuple(options.known.items())))

    def language(self, _options: ScriptOptions) -> type[Script]:
        """The language as a layout has it read."""
        return self.script


@functools.lru_cache(maxsize=64)
def _whole(language: type[Script], text: str) -> Script | None:
    """A text that parses; one text is tried at every seat of a map."""
    script = language(Text(text, "utf-8"))
    return script if script.parses else None
