"""Lua 5.1 to 5.4, by a grammar: comments, strings and nesting are what they are, not what they look like."""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar, Literal

import tree_sitter_lua
from msgspec import Struct
from tree_sitter import Language, Node

from hookset.formats._numbers import whole_number
from hookset.formats._script import (
    Piece,
    Script,
    ScriptFormat,
    ScriptOptions,
    ScriptSeat,
    ScriptSelector,
    starred,
)

__all__ = ["FORMAT"]

_ESCAPES = {"a": "\a", "b": "\b", "f": "\f", "n": "\n", "r": "\r", "t": "\t", "v": "\v"}
_ESCAPE = re.compile(r"\\(?:x([0-9a-fA-F]{2})|(\d{1,3})|u\{([0-9a-fA-F]+)\}|z\s*|(\r?\n)|(.))", re.DOTALL)
_BACKSLASH = re.compile(rb"\\(.)", re.DOTALL)
_KNOWN_ESCAPES = frozenset(bytes([one]) for one in b"abfnrtvxzu0123456789\\\"'\r\n")
_NAMED_ESCAPES = {"\n": "n", "\r": "r", "\t": "t"}
_LONG = re.compile(r"\[(=*)\[")
_WAYS = 128
"""Texts that a form is filled in to, at most."""
_PLAINLY = re.compile(r"%[sdi]")
"""What writes a text or a whole number as it is."""
_FORMATTED = re.compile(r"%[-+ #0]*\d*(?:\.\d+)?[A-Za-z]")


@dataclass(frozen=True)
class _Lua(Script):
    TITLE: ClassVar[str] = "Lua"
    LANGUAGE: ClassVar[Language] = Language(tree_sitter_lua.language())
    FUNCTIONS: ClassVar[tuple[str, ...]] = ("function_declaration", "function_definition")
    STRING: ClassVar[tuple[str, ...]] = ("string",)
    CALL: ClassVar[tuple[str, str]] = ("function_call", "name")
    DEFINED: ClassVar[str] = "(function_declaration) @function"
    BOUND: ClassVar[str] = (
        "(parameters name: (identifier) @name) (for_numeric_clause name: (identifier) @name)"
        " (for_generic_clause (variable_list name: (identifier) @name))"
    )
    ASSIGNED: ClassVar[str] = "(assignment_statement) @assignment"
    LOCAL: ClassVar[str] = "local"
    NAMES: ClassVar[tuple[str, ...]] = ("identifier", "dot_index_expression")
    LOOPS: ClassVar[tuple[str, ...]] = ("for_statement",)
    BLOCKS: ClassVar[tuple[str, ...]] = ("block", "chunk")
    LISTS: ClassVar[tuple[str, ...]] = ("table_constructor",)
    PAIR: ClassVar[str] = " = "
    KEY: ClassVar[str] = "[{}]"
    BARE_KEY: ClassVar[tuple[str, ...]] = ("=",)
    RESERVED: ClassVar[frozenset[str]] = frozenset(
        ("and", "break", "do", "else", "elseif", "end", "false", "for", "function", "goto", "if",
         "in", "local", "nil", "not", "or", "repeat", "return", "then", "true", "until", "while")
    )  # fmt: skip
    LIST: ClassVar[tuple[str, str]] = ("{ ", " }")
    NOTHING: ClassVar[str] = "nil"
    RETURNS: ClassVar[str] = "return"
    # A first line that begins with # is for the shell; Lua skips it.
    OPENING: ClassVar[str] = r"(?:#[^\n]*\n)?(?:[ \t]*--(?!\[=*\[)[^\n]*(?:\n|$))*"

    @property
    def hint(self) -> str:
        loose = _LooseLua(self.text, ())
        if loose.grammatical == self.text.utf8 or not loose.parses:
            return ""
        return (
            "; if this game takes any letter behind a backslash, as Lua 5.1 does, say"
            ' `options = { escapes = "any" }` in the rule of the layout'
        )

    def assignments_in(self) -> Iterator[tuple[Node, Node | None]]:
        for node in self.captured.get("assignment", ()):
            targets, values = node.named_children[0], node.named_children[-1]
            names = [child for child in targets.named_children if child.type != "attribute"]
            yield from itertools.zip_longest(names, values.named_children[: len(names)])

    def members(self, value: Node) -> Iterator[tuple[str, Node]]:
        for field in value.named_children if value.type == "table_constructor" else ():
            name, existing = field.child_by_field_name("name"), field.child_by_field_name("value")
            if name is not None and existing is not None and name.type == "identifier":
                yield self.string_of(name), existing

    def items(self, value: Node) -> Iterator[tuple[str, Node]]:
        number = 0
        for field in value.named_children if value.type == "table_constructor" else ():
            name, existing = field.child_by_field_name("name"), field.child_by_field_name("value")
            if existing is None:
                continue
            if name is None:
                number += 1
                yield str(number), existing
            elif name.type in ("identifier", "number"):
                yield self.string_of(name), existing
            elif name.type == "string":
                yield self.unquoted(self.string_of(name)), existing

    def returned(self) -> Iterator[Node]:
        for statement in self.root.named_children:
            if statement.type == "return_statement":
                yield from (one for given in statement.named_children for one in given.named_children[:1])

    def indexed(self, node: Node) -> tuple[Node, str] | None:
        whole, key = node.child_by_field_name("table"), node.child_by_field_name("field")
        if whole is None or key is None:
            return None
        if node.type == "dot_index_expression" or (node.type == "bracket_index_expression" and key.type == "number"):
            return whole, self.string_of(key)
        return (whole, self.unquoted(self.string_of(key))) if key.type == "string" else None

    def declares(self, target: Node) -> bool:
        above = target.parent.parent if target.parent is not None else None
        return above is not None and above.parent is not None and above.parent.type == "variable_declaration"

    def looped(self, name: Node, depth: int = 0) -> Iterator[Piece] | None:
        clause = name.parent
        if clause is not None and clause.type == "for_numeric_clause":
            ends = [clause.child_by_field_name(word) for word in ("start", "end", "step")]
            numbers = [None if one is None else whole_number(self.string_of(one)) for one in ends]
            if None in numbers[:2] or (ends[2] is not None and not numbers[2]):
                return None
            first, last, step = numbers[0] or 0, numbers[1] or 0, numbers[2] or 1
            return ((str(number), name) for number in range(first, last + (1 if step > 0 else -1), step))
        listed = clause.next_named_sibling if clause is not None and clause.type == "variable_list" else None
        call = listed.named_children[0] if listed is not None and listed.named_children else None
        if call is None or call.type != "function_call" or clause is None:
            return None
        given = self.arguments(call)
        callee = call.child_by_field_name("name")
        if len(given) != 1 or callee is None or self.string_of(callee) not in ("ipairs", "pairs"):
            return None
        elements = self.scopes.elements(given[0], depth)
        if elements is None:
            return None
        if name.id == clause.named_children[0].id:
            return ((key, value) for key, value in elements)
        return (value for _, value in elements)

    def unquoted(self, literal: str) -> str:
        if literal[:1] in ("'", '"') and "\\" not in literal:
            return literal[1:-1]
        if long := re.match(r"\[(=*)\[\r?\n?", literal):
            return literal[long.end() : len(literal) - len(long[1]) - 2]
        return _ESCAPE.sub(_character, literal[1:-1])

    def is_text(self, literal: str) -> bool:
        return literal[:1] in ("'", '"') or _LONG.match(literal) is not None

    def quoted(self, old: str, words: str) -> Iterator[str]:
        if (long := _LONG.match(old)) is not None and "\r" not in words:
            first = "\n" if words.startswith("\n") else ""
            for level in ("=" * len(long[1]), "", "=", "=="):
                closing = f"]{level}]"
                if f"{words}{closing}".find(closing) == len(words):
                    yield f"[{level}[{first}{words}{closing}"
                    break
        for quote in dict.fromkeys((old[0] if old[0] in "'\"" else '"', '"')):
            yield quote + "".join(_escaped(one, quote) for one in words) + quote

    def bare_argument(self, node: Node) -> bool:
        return node.parent is not None and node.parent.type == "arguments" and node.parent.child_count == 1

    def body(self, function: Node) -> Node | None:
        return function.child_by_field_name("body")

    def closing(self, function: Node) -> Node:
        return function.children[-1]

    def combined(self, node: Node, depth: int) -> Iterator[tuple[str, Node]] | None:
        if node.type == "nil":
            return iter(())
        if node.type == "function_call":
            return ((text, node) for text in self._formatted(node, depth))
        left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
        if node.type != "binary_expression" or left is None or right is None:
            return None
        operator = node.children[1].type
        if operator == "..":
            return self.joined(node, left, right, depth)
        if operator == "or":
            return self.either(left, right, depth=depth)
        return self.either(right, depth=depth) if operator == "and" else None

    def formatted_by(self, node: Node) -> Node | None:
        above = node.parent
        while above is not None and above.type in ("parenthesized_expression", "arguments", "method_index_expression"):
            above = above.parent
        if above is None or above.type != "function_call":
            return None
        name = above.child_by_field_name("name")
        said = self.string_of(name) if name is not None else ""
        first = next(iter(self.arguments(above)), None)
        by_name = said == "string.format" and first is not None and first.id == node.id
        return above if by_name or (said.endswith(":format") and name is not None and _holds(name, node)) else None

    def _formatted(self, node: Node, depth: int) -> Iterator[str]:
        """What `string.format("fog_%d", n)` and `("fog_%d"):format(n)` may make."""
        name, given = node.child_by_field_name("name"), self.arguments(node)
        if name is not None and self.string_of(name) == "string.format" and given:
            first, rest = given[0], given[1:]
        elif name is not None and name.type == "method_index_expression" and self.string_of(name).endswith(":format"):
            first, rest = name.named_children[0], given
        else:
            yield "*"
            return
        form, _ = next(self.meanings(first, 1), ("*", node))
        said = [list(dict.fromkeys(text for text, _ in self.meanings(one, depth + 1))) or ["*"] for one in rest]
        said = [
            one if _PLAINLY.fullmatch(mark) else ["*"]
            for mark, one in zip(_FORMATTED.findall(form), said, strict=False)
        ]
        ways = itertools.product(*said) if math.prod(map(len, said)) <= _WAYS else iter([()])
        for way in ways:
            parts = iter(way)
            made = _FORMATTED.sub(lambda _, parts=parts: next(parts, "*"), form)  # type: ignore[misc]
            yield starred(made.replace("%%", "%"))


def _holds(outer: Node, inner: Node) -> bool:
    return outer.start_byte <= inner.start_byte and inner.end_byte <= outer.end_byte


def _escaped(character: str, quote: str) -> str:
    if character in ("\\", quote):
        return f"\\{character}"
    if character in _NAMED_ESCAPES:
        return f"\\{_NAMED_ESCAPES[character]}"
    # Three digits, whatever follows.
    return f"\\{ord(character):03d}" if ord(character) < 32 or ord(character) == 127 else character


def _character(match: re.Match[str]) -> str:
    hexadecimal, decimal, point, newline, letter = match.groups()
    if hexadecimal or point:
        return chr(min(int(hexadecimal or point, 16), 0x10FFFF))
    if decimal:
        return chr(int(decimal))
    if newline:
        return "\n"
    return _ESCAPES.get(letter, letter) if letter else ""


class _LooseLua(_Lua):
    """A backslash stands before any letter, as in Lua 5.1, which takes it for that letter."""

    @property
    def grammatical(self) -> bytes:
        return _BACKSLASH.sub(_kept_or_hidden, self.text.utf8)

    @property
    def hint(self) -> str:
        return ""


def _kept_or_hidden(found: re.Match[bytes]) -> bytes:
    return found[0] if found[1] in _KNOWN_ESCAPES else b"." + found[1]


class LuaOptions(ScriptOptions, frozen=True, forbid_unknown_fields=True):
    """How scripts in Lua are to be understood."""

    escapes: Literal["known", "any"] = "known"
    """Before which letters a backslash may stand: Lua 5.1 takes any, later versions refuse a script with others than
    they know."""

    def __hash__(self) -> int:
        return hash((tuple(sorted(self.known.items())), self.escapes))


class LuaSelector(ScriptSelector, frozen=True, forbid_unknown_fields=True):
    def __post_init__(self) -> None:
        super().__post_init__()
        if self.imports:
            raise ValueError('Lua has no import statements: call = "require" says which files a script asks for')
        if self.query is not None:
            _Lua.check_query(self.query)


class LuaSeat(ScriptSeat, frozen=True, forbid_unknown_fields=True):
    def __post_init__(self) -> None:
        super().__post_init__()
        if self.after is not None and self.call is None:
            raise ValueError("after and call go together: after the last call of what?")


class _LuaFormat(ScriptFormat):
    title: ClassVar[str] = "Lua"
    script: ClassVar[type[Script]] = _Lua
    empty: ClassVar[str] = "{name}()\nend\n"
    selector: ClassVar[type[Struct]] = LuaSelector
    seat: ClassVar[type[Struct]] = LuaSeat
    options: ClassVar[type[Struct]] = LuaOptions

    def language(self, options: ScriptOptions) -> type[Script]:
        return _LooseLua if isinstance(options, LuaOptions) and options.escapes == "any" else _Lua


FORMAT = _LuaFormat()
