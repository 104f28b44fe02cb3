"""A script of a language of which it is said how the nodes of its grammar are called."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from msgspec import Struct
from tree_sitter import Language, Node

from hookset.formats._script import Piece, Script

__all__ = ["Described", "Grammar"]

_ESCAPES = {"n": "\n", "r": "\r", "t": "\t"}
_QUOTED = re.compile(r"\w*(\"{3}|'{3}|[\"'`])(.*)\1", re.DOTALL)
"""A text in one or three quotes, perhaps with letters before them that say which sort of text it is."""
_ESCAPE = re.compile(r"\\(\r?\n|.)", re.DOTALL)


class Grammar(Struct, frozen=True, kw_only=True):
    """How a language's nodes are called. Types and fields are those of its tree-sitter grammar."""

    title: str
    """What messages call the language."""
    language: Language
    call: tuple[str, str]
    """The type of a call, and its field for what is called; the arguments are in the field `arguments`."""
    strings: tuple[str, ...]
    """Types of nodes that are a text in its quotes."""
    numbers: tuple[str, ...] = ("number",)
    names: tuple[str, ...]
    """Types of nodes that are names: of variables, of members."""
    assigned: tuple[str, str, str]
    """The type of an assignment, and its fields for what is set and for the value."""
    bound: str = ""
    """A query that captures every name that something else than an assignment gives a value as `@name`."""
    functions: tuple[str, ...]
    """Types of nodes whose inside runs later, if ever."""
    defined: str
    """A query that captures every function that has a name (its field `name`) as `@function`."""
    body: str = "body"
    """The field of a function that holds its statements."""
    blocks: tuple[str, ...] = ()
    """Types of nodes in which a declared name holds."""
    tables: tuple[str, ...] = ()
    """Types of nodes that are a table or a list, written out."""
    pair: tuple[str, str, str] = ("", "", "")
    """The type of an item with a key in them, and its fields for key and value."""
    first: int = 1
    """The number of a list's first item."""
    item: tuple[str, str, str] = ("", "", "")
    """The type of an expression that takes one item of another, and its fields for that one and for the key."""
    joins: tuple[str, ...] = ("+",)
    """What puts two texts together, between the fields `left` and `right`."""
    choices: tuple[str, ...] = ()
    """What chooses between two values, as `or` does."""
    imports: str = ""
    """The type of a statement that imports, with the text in its field `source`."""
    opening: str = r"(?:[ \t]*#[^\n]*(?:\n|$))*"
    """A regular expression of the comment that a file may begin with."""
    writes_pair: str = ": "
    """What stands between a key and its value in a table."""
    writes_key: str = "{}"
    """How a key is written that is no plain name, over its text in quotes."""
    bare_key: tuple[str, ...] = ("=", ":")
    """What stands behind a key that is written as a plain name; behind others a name stands for its value."""
    writes_list: tuple[str, str] = ("[", "]")
    writes_nothing: str = "null"
    writes_function: str = "{name}() {{\n}}\n"
    """A function without anything in it, over `{name}`, which begins with the word `function`."""


@dataclass(frozen=True)
class Described(Script):
    """A script of a language that a Grammar describes."""

    GRAMMAR: ClassVar[Grammar]

    def assignments_in(self) -> Iterator[tuple[Node, Node | None]]:
        for node in self.captured.get("assignment", ()):
            target, value = (node.child_by_field_name(field) for field in self.GRAMMAR.assigned[1:])
            if target is not None:
                yield target, value

    def members(self, value: Node) -> Iterator[tuple[str, Node]]:
        return ((key, held) for key, held in self.items(value) if not key.isdigit())

    def items(self, value: Node) -> Iterator[tuple[str, Node]]:
        if value.type not in self.GRAMMAR.tables:
            return
        number = self.GRAMMAR.first
        kind, key_field, value_field = self.GRAMMAR.pair
        for item in (child for child in value.named_children if child.type != "comment"):
            if item.type == kind:
                key, held = item.child_by_field_name(key_field), item.child_by_field_name(value_field)
                if key is not None and held is not None:
                    yield self._plain(key), held
            else:
                yield str(number), item
                number += 1

    def _plain(self, key: Node) -> str:
        source = self.string_of(key)
        return self.unquoted(source) if key.type in self.STRING else source

    def returned(self) -> Iterator[Node]:
        return iter(())

    def indexed(self, node: Node) -> tuple[Node, str] | None:
        kind, whole_field, key_field = self.GRAMMAR.item
        if node.type != kind:
            return None
        whole, key = node.child_by_field_name(whole_field), node.child_by_field_name(key_field)
        if whole is None or key is None or key.type not in (*self.STRING, *self.NUMBERS):
            return None
        return whole, self._plain(key)

    def declares(self, _target: Node) -> bool:
        return False

    def looped(self, _name: Node, _depth: int = 0) -> Iterator[Piece] | None:
        return None

    def unquoted(self, literal: str) -> str:
        quoted = _QUOTED.fullmatch(literal)
        words = quoted[2] if quoted is not None else literal[1:-1]
        return _ESCAPE.sub(lambda match: _ESCAPES.get(match[1], match[1].strip("\r\n")), words)

    def is_text(self, literal: str) -> bool:
        return literal[:1] in ("'", '"') and literal[-1:] == literal[:1]

    def quoted(self, old: str, words: str) -> Iterator[str]:
        quote = old[0]
        letters = {character: f"\\{letter}" for letter, character in _ESCAPES.items()}
        letters |= {quote: f"\\{quote}", "\\": "\\\\"}
        yield quote + "".join(letters.get(one, one) for one in words) + quote

    def combined(self, node: Node, depth: int) -> Iterator[tuple[str, Node]] | None:
        left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
        if left is None or right is None or len(node.children) < 2:
            return None
        operator = node.children[1].type
        if operator in self.GRAMMAR.joins:
            return self.joined(node, left, right, depth)
        return self.either(left, right, depth=depth) if operator in self.GRAMMAR.choices else None

    def body(self, function: Node) -> Node | None:
        return function.child_by_field_name(self.GRAMMAR.body)

    def closing(self, function: Node) -> Node:
        body = self.body(function) or function
        return body.children[-1] if body.children else body
