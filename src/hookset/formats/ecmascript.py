"""ECMAScript modules (ECMA-262), by a grammar."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

import tree_sitter_javascript
from msgspec import Struct
from tree_sitter import Language, Node

from hookset.formats._numbers import whole_number
from hookset.formats._script import (
    Piece,
    Script,
    ScriptFormat,
    ScriptSelector,
)

__all__ = ["FORMAT"]

_ESCAPES = {"b": "\b", "f": "\f", "n": "\n", "r": "\r", "t": "\t", "v": "\v", "0": "\0"}
_ESCAPE = re.compile(r"\\(?:x([0-9a-fA-F]{2})|u\{([0-9a-fA-F]+)\}|u([0-9a-fA-F]{4})|(\r?\n)|(.))", re.DOTALL)
_NAMED_ESCAPES = {"\n": "n", "\r": "r", "\t": "t"}
_COUNT = re.compile(r"(\w+)\s*(<=?)\s*(\d{1,4});?")
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
    LOOPS: ClassVar[tuple[str, ...]] = ("for_in_statement", "for_statement")
    BLOCKS: ClassVar[tuple[str, ...]] = ("statement_block", "program", "for_statement")
    LISTS: ClassVar[tuple[str, ...]] = ("array", "object")
    PAIR: ClassVar[str] = ": "
    KEY: ClassVar[str] = "{}"
    BARE_KEY: ClassVar[tuple[str, ...]] = (":",)
    LIST: ClassVar[tuple[str, str]] = ("[", "]")
    NOTHING: ClassVar[str] = "null"
    RETURNS: ClassVar[str] = "export default"
    IMPORT: ClassVar[str] = "import_statement"
    OPENING: ClassVar[str] = r"(?:#![^\n]*\n)?(?:[ \t]*//[^\n]*(?:\n|$)|[ \t]*/\*[\s\S]*?\*/[ \t]*(?:\n|$))*"

    def assignments_in(self) -> Iterator[tuple[Node, Node | None]]:
        for node in self.captured.get("assignment", ()):
            declared = node.type == "variable_declarator"
            target = node.child_by_field_name("name" if declared else "left")
            if target is not None:
                yield target, node.child_by_field_name("value" if declared else "right")

    def members(self, value: Node) -> Iterator[tuple[str, Node]]:
        value = self.unwrapped(value)
        for pair in value.named_children if value.type == "object" else ():
            key, existing = pair.child_by_field_name("key"), pair.child_by_field_name("value")
            if key is not None and existing is not None:
                yield (self.unquoted(self.string_of(key)) if key.type == "string" else self.string_of(key)), existing

    def unwrapped(self, value: Node) -> Node:
        if value.type == "call_expression" and self.string_of(value).startswith("Object.freeze"):
            return next(iter(self.arguments(value)), value)
        return value

    def items(self, value: Node) -> Iterator[tuple[str, Node]]:
        if value.type == "array":
            held = [child for child in value.named_children if child.type != "comment"]
            yield from ((str(number), child) for number, child in enumerate(held))
        else:
            yield from self.members(value)

    def returned(self) -> Iterator[Node]:
        for statement in self.root.named_children:
            given = statement.child_by_field_name("value") if statement.type == "export_statement" else None
            if given is not None:
                yield given

    def indexed(self, node: Node) -> tuple[Node, str] | None:
        whole = node.child_by_field_name("object")
        if node.type == "member_expression":
            key = node.child_by_field_name("property")
            return (whole, self.string_of(key)) if whole is not None and key is not None else None
        key = node.child_by_field_name("index") if node.type == "subscript_expression" else None
        if whole is None or key is None or key.type not in ("number", "string"):
            return None
        return whole, self.string_of(key) if key.type == "number" else self.unquoted(self.string_of(key))

    def declares(self, target: Node) -> bool:
        return target.parent is not None and target.parent.type == "variable_declarator"

    def counts(self, target: Node) -> bool:
        declaration = target.parent.parent if target.parent is not None else None
        return declaration is not None and declaration.parent is not None and declaration.parent.type == "for_statement"

    def looped(self, name: Node, depth: int = 0) -> Iterator[Piece] | None:
        above = name.parent
        if above is not None and above.type == "for_in_statement":
            listed, operator = above.child_by_field_name("right"), above.child_by_field_name("operator")
            elements = self.scopes.elements(listed, depth) if listed is not None else None
            if elements is None or operator is None:
                return None
            if self.string_of(operator) == "of":
                return (value for _, value in elements)
            return ((key, value) for key, value in elements)
        if above is not None and above.type == "formal_parameters":
            return self._given_to(name, above, depth)
        return self._counted(name)

    def _given_to(self, name: Node, parameters: Node, depth: int) -> Iterator[Piece] | None:
        """What `list.forEach` gives to the first parameter of a function that is written in the call."""
        function = parameters.parent
        call = function.parent.parent if function is not None and function.parent is not None else None
        callee = call.child_by_field_name("function") if call is not None and call.type == "call_expression" else None
        if callee is None or parameters.named_children[0].id != name.id or (part := self.indexed(callee)) is None:
            return None
        elements = self.scopes.elements(part[0], depth) if part[1] in ("forEach", "map") else None
        return None if elements is None else (value for _, value in elements)

    def _counted(self, name: Node) -> Iterator[Piece] | None:
        """The numbers of `for (let i = 1; i <= 4; i++)`."""
        declaration = name.parent.parent if name.parent is not None else None
        loop = declaration.parent if declaration is not None else None
        if name.parent is None or loop is None or loop.type != "for_statement":
            return None
        first, condition = name.parent.child_by_field_name("value"), loop.child_by_field_name("condition")
        match = _COUNT.fullmatch(self.string_of(condition)) if condition is not None else None
        start = whole_number(self.string_of(first)) if first is not None else None
        step = loop.child_by_field_name("increment")
        by_one = step is not None and self.string_of(step) in (f"{self.string_of(name)}++", f"++{self.string_of(name)}")
        if match is None or match[1] != self.string_of(name) or start is None or not by_one:
            # Nothing is known of it, though it is set to a number first.
            return iter(((("*"), name),))
        return ((str(number), name) for number in range(start, int(match[3]) + (match[2] == "<=")))

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
            return ((text, node) for text in self.together(self._pieces_of(node), depth))
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

    def _pieces_of(self, template: Node) -> list[Node | str]:
        """`fog_${n}`: texts, and what is between the braces."""
        found: list[Node | str] = []
        for child in template.children:
            if child.type == "template_substitution":
                found += child.named_children[:1] or ["*"]
            elif child.type != "`":
                found.append(_ESCAPE.sub(_character, self.string_of(child)))
        return found


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
        if self.globals is not None:
            raise ValueError("modules share no names but those that they export: globals goes with Lua")
        if self.query is not None:
            _Module.check_query(self.query)


class _EcmascriptFormat(ScriptFormat):
    title: ClassVar[str] = "ECMAScript modules"
    script: ClassVar[type[Script]] = _Module
    empty: ClassVar[str] = "{name}() {{\n}}\n"
    selector: ClassVar[type[Struct]] = EcmascriptSelector


FORMAT = _EcmascriptFormat()
