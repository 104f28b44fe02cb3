"""A script language by a tree-sitter grammar of another package, which says how its nodes are called.

A package adds one with an entry point in the group `hookset.formats`:

    SCRIPT = script_format(Grammar(title="Fen", language=Language(tree_sitter_fen.language()), …))
"""

from __future__ import annotations

from typing import ClassVar

from msgspec import Struct

from hookset.formats._described import Described, Grammar
from hookset.formats._script import ScriptFormat, ScriptSelector
from hookset.formats.format import Format

__all__ = ["Grammar", "script_format"]


def script_format(grammar: Grammar, base: type[Described] = Described) -> Format:
    """A format of scripts in this language, which layouts can name by its entry point. `base` says what a grammar
    cannot."""
    words = {
        "TITLE": grammar.title,
        "LANGUAGE": grammar.language,
        "FUNCTIONS": grammar.functions,
        "STRING": grammar.strings,
        "NUMBERS": grammar.numbers,
        "CALL": grammar.call,
        "DEFINED": grammar.defined,
        "BOUND": grammar.bound,
        "ASSIGNED": f"({grammar.assigned[0]}) @assignment",
        "NAMES": grammar.names,
        "BLOCKS": grammar.blocks,
        "LISTS": grammar.tables,
        "PAIR": grammar.writes_pair,
        "KEY": grammar.writes_key,
        "KEYED": (grammar.pair[1], grammar.pair[1]),
        "BARE_KEY": grammar.bare_key,
        "LIST": grammar.writes_list,
        "NOTHING": grammar.writes_nothing,
        "RETURNS": "",
        "IMPORT": grammar.imports,
        "OPENING": grammar.opening,
        "GRAMMAR": grammar,
    }
    script = type(f"_{grammar.title}", (base,), words)

    class Selector(ScriptSelector, frozen=True, forbid_unknown_fields=True):
        def __post_init__(self) -> None:
            super().__post_init__()
            if self.globals is not None:
                raise ValueError("globals goes with Lua")
            if self.query is not None:
                script.check_query(self.query)  # type: ignore[attr-defined]

    class DescribedFormat(ScriptFormat):
        title: ClassVar[str] = grammar.title
        empty: ClassVar[str] = grammar.writes_function
        selector: ClassVar[type[Struct]] = Selector

    DescribedFormat.script = script
    return DescribedFormat()
