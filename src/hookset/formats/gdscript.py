"""GDScript, the script language of the Godot engine, by a grammar."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import tree_sitter_gdscript
from tree_sitter import Language, Node

from hookset.formats._described import Described, Grammar
from hookset.formats.grammar import script_format

__all__ = ["FORMAT"]

_WAY = re.compile(r"\w+(?:/\w+)*")
"""What can stand behind a `$` without quotes."""
_DECLARED = ("variable_statement", "const_statement", "export_variable_statement", "onready_variable_statement")
_GRAMMAR = Grammar(
    title="GDScript",
    language=Language(tree_sitter_gdscript.language()),
    call=("call", "function"),
    # The way to a node is written without quotes, or with them behind the `$`.
    strings=("string", "get_node"),
    numbers=("integer", "float"),
    names=("identifier", "name", "attribute"),
    assigned=("assignment", "left", "right"),
    # What is declared is given a value; a call of something that belongs to another one has a type of its own.
    bound=(
        "(parameters (identifier) @name) (for_statement left: (identifier) @name) (attribute_call) @call "
        + " ".join(f"({one}) @assignment" for one in _DECLARED)
    ),
    functions=("function_definition", "constructor_definition", "lambda"),
    defined="(function_definition) @function",
    blocks=("body", "source"),
    tables=("dictionary", "array"),
    pair=("pair", "left", "value"),
    bare_key=("=",),
    first=0,
    item=("subscript", "", ""),
    writes_function="{name}():\n\tpass\n",
)


@dataclass(frozen=True)
class _Script(Described):
    @cached_property
    def calls(self) -> dict[str, list[Node]]:
        """`load`, `Input.is_action_pressed`, `get_tree().change_scene`: with what stands before the dot."""
        found: dict[str, list[Node]] = {}
        for node in self.captured.get("call", ()):
            callee = node.named_children[0] if node.named_children else None
            if callee is None:
                continue
            name = self.string_of(callee)
            if node.type == "attribute_call" and node.parent is not None:
                owner = self.text.utf8[node.parent.start_byte : node.start_byte].decode("utf-8", "replace")
                name = "".join(owner.split()) + name
            found.setdefault(name, []).append(node)
        return found

    def assignments_in(self) -> Iterator[tuple[Node, Node | None]]:
        for node in self.captured.get("assignment", ()):
            declared = node.type in _DECLARED
            target = node.child_by_field_name("name" if declared else "left")
            if target is not None:
                yield target, node.child_by_field_name("value" if declared else "right")

    def declares(self, target: Node) -> bool:
        return target.parent is not None and target.parent.type in _DECLARED

    def unquoted(self, literal: str) -> str:
        if not literal.startswith("$"):
            return super().unquoted(literal)
        return super().unquoted(literal[1:]) if literal[1:2] in ("'", '"') else literal[1:]

    def is_text(self, literal: str) -> bool:
        return literal.startswith("$") or super().is_text(literal)

    def quoted(self, old: str, words: str) -> Iterator[str]:
        if not old.startswith("$"):
            yield from super().quoted(old, words)
            return
        if _WAY.fullmatch(words):
            yield f"${words}"
        yield from (f"${one}" for one in super().quoted('"', words))

    def indexed(self, node: Node) -> tuple[Node, str] | None:
        """`SOUNDS["bell"]`, `SOUNDS.bell`."""
        if node.type == "attribute" and len(node.named_children) == 2 and node.named_children[1].type == "identifier":
            return node.named_children[0], self.string_of(node.named_children[1])
        given = node.child_by_field_name("arguments") if node.type == "subscript" else None
        if given is None or len(given.named_children) != 1:
            return None
        key = given.named_children[0]
        return (node.named_children[0], self._plain(key)) if key.type in (*self.STRING, *self.NUMBERS) else None


FORMAT = script_format(_GRAMMAR, _Script)
