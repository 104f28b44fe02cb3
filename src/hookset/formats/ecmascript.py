"""ECMAScript modules (ECMA-262), by a grammar."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

import tree_sitter_javascript
from msgspec import Struct
from tree_sitter import Language, Node

from hookset.formats._script import (
    Script,
    ScriptFormat,
    ScriptSelector,
    starred,
)

__all__ = ["FORMAT"]

_ESCAPES = {"b": "\b", "f": "\f", "n": "\n", "r": "\r", "t": "\t", "v": "\v", "0": "\0"}
_ESCAPE = re.compile(r"\\(?:x([0-9a-fA-F]{2})|u\{([0-9a-fA-F]+)\}|u([0-9a-fA-F]{4})|(\r?\n)|(.))", re.DOTALL)
_NAMED_ESCAPES = {"\n": "n", "\r": "r", "\t": "t"}
_CHOICES = ("||", "??")


@dataclass(frozen=True)
class _Module(Script):
    TITLE: ClassVar[str] = "ECMAScript"
    LANGUAGE: ClassVar[Language] = Language(tree_sitter_javascript.language())
    FUNCTIONS: ClassVar[tuple[str, ...]] = (
        "function_declaration", "function_expression", "arrow_function", "method_definition",
        "generator_function_declaration", "generator_function",
    )  # fmt: skip
    STRING: ClassVar[tuple[str, ...]] = ("string",)
    CALL: ClassVar[tuple[str, str]] = ("call_expression", "function")
    DEFINED: ClassVar[str] = "[(function_declaration) (generator_function_declaration) (method_definition)] @function"
    BOUND: ClassVar[str] = (
        "(formal_parameters (identifier) @name) (for_in_statement left: (identifier) @name)"
        " (import_specifier (identifier) @name) (import_clause (identifier) @name) (catch_clause (identifier) @name)"
    )
    ASSIGNED: ClassVar[str] = "[(variable_declarator) (assignment_expression)] @assignment"
    NAMES: ClassVar[tuple[str, ...]] = ("identifier", "member_expression")
    IMPORT: ClassVar[str] = "import_statement"
    OPENING: ClassVar[str] = r"(?:#![^\n]*\n)?(?:[ \t]*//[^\n]*(?:\n|$)|[ \t]*/\*[\s\S]*?\*/[ \t]*(?:\n|$))*"

    def assignments_in(self) -> Iterator[tuple[Node, Node | None]]:
        for node in self.captured.get("assignment", ()):
            declared = node.type == "variable_declarator"
            target = node.child_by_field_name("name" if declared else "left")
            if target is not None:
                yield target, node.child_by_field_name("value" if declared else "right")

    def members(self, value: Node) -> Iterator[tuple[str, Node]]:
        if value.type == "call_expression" and self.string_of(value).startswith("Object.freeze"):
            value = next(iter(self.arguments(value)), value)
        for pair in value.named_children if value.type == "object" else ():
            key, existing = pair.child_by_field_name("key"), pair.child_by_field_name("value")
            if key is not None and existing is not None:
                yield (self.unquoted(self.string_of(key)) if key.type == "string" else self.string_of(key)), existing

    def unquoted(self, literal: str) -> str:
        return _ESCAPE.sub(_character, literal[1:-1])

    def is_text(self, literal: str) -> bool:
        return literal[:1] in ("'", '"') or (literal[:1] == "`" and "${" not in literal)

    def quoted(self, old: str, words: str) -> Iterator[str]:
        quote = old[0]
        for mark in dict.fromkeys((quote, '"')):
            yield mark + "".join(_escaped(one, mark) for one in words).replace("${", "\\${") + mark

    def body(self, function: Node) -> Node | None:
        body = function.child_by_field_name("body")
        return body if body is not None and body.type == "statement_block" else None

    def closing(self, function: Node) -> Node:
        body = self.body(function)
        return (body if body is not None else function).children[-1]

    def combined(self, node: Node, depth: int) -> Iterator[tuple[str, Node]] | None:
        if node.type in ("null", "undefined"):
            return iter(())
        if node.type == "template_string":
            return iter(((self._template(node, depth), node),))
        if node.type == "ternary_expression":
            ends = (node.child_by_field_name(name) for name in ("consequence", "alternative"))
            return self.either(*ends, depth=depth)
        left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
        if node.type != "binary_expression" or left is None or right is None:
            return None
        operator = node.children[1].type
        if operator == "+":
            return self.joined(node, left, right, depth)
        if operator in _CHOICES:
            return self.either(left, right, depth=depth)
        return self.either(right, depth=depth) if operator == "&&" else None

    def _template(self, node: Node, depth: int) -> str:
        """`fog_${n}`: what is between the braces is followed like any other expression."""
        text = ""
        for child in node.children:
            if child.type == "template_substitution":
                existing = [self.meanings(inner, depth + 1) for inner in child.named_children[:1]]
                text += next((meaning for meanings in existing for meaning, _ in meanings), "*")
            elif child.type not in ("`",):
                text += _ESCAPE.sub(_character, self.string_of(child))
        return starred(text)


def _escaped(character: str, quote: str) -> str:
    if character in ("\\", quote):
        return f"\\{character}"
    if character in _NAMED_ESCAPES:
        return f"\\{_NAMED_ESCAPES[character]}"
    hidden = ord(character) < 32 or character in "\x7f\u2028\u2029"
    return f"\\u{ord(character):04x}" if hidden else character


def _character(match: re.Match[str]) -> str:
    hexadecimal, point, unit, newline, letter = match.groups()
    if code := hexadecimal or point or unit:
        return chr(min(int(code, 16), 0x10FFFF))
    return "" if newline else _ESCAPES.get(letter, letter or "")


class EcmascriptSelector(ScriptSelector, frozen=True, forbid_unknown_fields=True):
    def __post_init__(self) -> None:
        super().__post_init__()
        if self.query is not None:
            _Module.check_query(self.query)


class _EcmascriptFormat(ScriptFormat):
    title: ClassVar[str] = "ECMAScript modules"
    script: ClassVar[type[Script]] = _Module
    empty: ClassVar[str] = "{name}() {{\n}}\n"
    selector: ClassVar[type[Struct]] = EcmascriptSelector


FORMAT = _EcmascriptFormat()
