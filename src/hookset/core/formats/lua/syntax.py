"""The parsed script: statements, calls, functions and what an expression can evaluate to."""

from __future__ import annotations

import functools
import itertools
import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import tree_sitter_lua
from tree_sitter import Language, Node, Parser, Query, QueryCursor

from hookset.core.trees import Text

__all__ = ["Function", "Script", "inside_function", "statements_in", "tokens"]

_LUA = Language(tree_sitter_lua.language())
_FUNCTIONS = ("function_declaration", "function_definition")
_ESCAPES = {"a": "\a", "b": "\b", "f": "\f", "n": "\n", "r": "\r", "t": "\t", "v": "\v"}
_ESCAPE = re.compile(r"\\(?:x([0-9a-fA-F]{2})|(\d{1,3})|u\{([0-9a-fA-F]+)\}|z\s*|(\r?\n)|(.))", re.DOTALL)
_FORMATTED = re.compile(r"%[-+ #0]*\d*(?:\.\d+)?[A-Za-z]")
_DEPTH = 8


@functools.cache
def _query(source: str) -> Query:
    return Query(_LUA, source)


@dataclass(frozen=True, slots=True)
class Function:
    """A function that has a name, however it was given."""

    name: str
    node: Node
    """The declaration or definition: its parameters, its `body` if it has statements, and the word `end`."""


@dataclass(frozen=True)
class Script:
    """One Lua file. All nodes belong to one tree, which must outlive them."""

    text: Text

    @cached_property
    def root(self) -> Node:
        return Parser(_LUA).parse(self.text.utf8).root_node

    def string_of(self, node: Node) -> str:
        return self.text.utf8[node.start_byte : node.end_byte].decode("utf-8", "replace")

    def start(self, node: Node) -> int:
        return self.text.char_at(node.start_byte)

    def end(self, node: Node) -> int:
        return self.text.char_at(node.end_byte)

    @cached_property
    def calls(self) -> dict[str, list[Node]]:
        """Every call by the name that is called, blanks left out."""
        calls: dict[str, list[Node]] = {}
        for node in self._captured("(function_call name: (_) @name) @call", "call"):
            name = node.child_by_field_name("name")
            if name is not None:
                calls.setdefault(re.sub(r"\s+", "", self.string_of(name)), []).append(node)
        return calls

    @cached_property
    def functions(self) -> tuple[Function, ...]:
        found: list[Function] = []
        for node in self._captured("(function_declaration) @f", "f"):
            if (name := node.child_by_field_name("name")) is not None:
                found.append(Function(self.string_of(name), node))
        for target, value in self.assignments:
            if value is not None and value.type == "function_definition":
                found.append(Function(self.string_of(target), value))
        return tuple(sorted(found, key=lambda f: f.node.start_byte))

    @cached_property
    def assignments(self) -> tuple[tuple[Node, Node | None], ...]:
        """Target and value of every assignment, local or not; the value is None where the right side is shorter."""
        pairs: list[tuple[Node, Node | None]] = []
        for node in self._captured("(assignment_statement) @a", "a"):
            targets, values = node.named_children[0], node.named_children[-1]
            names = [child for child in targets.named_children if child.type != "attribute"]
            pairs += itertools.zip_longest(names, values.named_children[: len(names)])
        return tuple(pairs)

    def query(self, source: str) -> Iterator[Node]:
        """The nodes captured as `@value` by a tree-sitter query. Raises tree_sitter.QueryError."""
        return self._captured(source, "value")

    def _captured(self, source: str, name: str) -> Iterator[Node]:
        captured = QueryCursor(_query(source)).captures(self.root).get(name, [])
        return iter(sorted(captured, key=lambda node: node.start_byte))

    @cached_property
    def _constants(self) -> dict[str, Node]:
        """Names that are given a value once in the whole file and are never a parameter or a loop's variable."""
        values: dict[str, Node | None] = {}
        for target, value in self.assignments:
            name = self.string_of(target)
            values[name] = None if name in values else value
        for node in self._captured(
            "(parameters name: (identifier) @n) (for_generic_clause (variable_list name: (identifier) @n))"
            " (for_numeric_clause name: (identifier) @n)",
            "n",
        ):
            values[self.string_of(node)] = None
        return {name: value for name, value in values.items() if value is not None}

    def meanings(self, node: Node, depth: int = 0) -> Iterator[tuple[str, Node]]:
        """What an expression can be, as far as the text tells, and where that stands: `*` stands for what only the
        running game knows.

        `a and "x" or "y"` has two meanings; a name that is set once in this file means what it is set to.
        """
        kind = node.type
        if kind == "string":
            yield _unquoted(self.string_of(node)), node
        elif kind == "number":
            yield self.string_of(node), node
        elif kind == "parenthesized_expression" and node.named_children:
            yield from self.meanings(node.named_children[0], depth)
        elif kind == "binary_expression" and depth < _DEPTH:
            yield from self._combined(node, depth)
        elif kind in ("identifier", "dot_index_expression") and depth < _DEPTH:
            value = self._constants.get(self.string_of(node))
            yield from self.meanings(value, depth + 1) if value is not None else (("*", node),)
        elif kind == "function_call":
            yield self._formatted(node), node
        elif kind != "nil":
            yield "*", node

    def _combined(self, node: Node, depth: int) -> Iterator[tuple[str, Node]]:
        left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
        operator = node.children[1].type if len(node.children) > 2 else ""
        if left is None or right is None:
            yield "*", node
        elif operator == "..":
            for (one, _), (other, _) in itertools.product(
                self.meanings(left, depth + 1), self.meanings(right, depth + 1)
            ):
                yield re.sub(r"\*+", "*", one + other), node
        elif operator == "or":
            yield from self.meanings(left, depth + 1)
            yield from self.meanings(right, depth + 1)
        elif operator == "and":
            yield from self.meanings(right, depth + 1)
        else:
            yield "*", node

    def _formatted(self, node: Node) -> str:
        name, arguments = node.child_by_field_name("name"), node.child_by_field_name("arguments")
        if name is None or arguments is None:
            return "*"
        if self.string_of(name) == "string.format" and arguments.named_children:
            first = arguments.named_children[0]
        elif name.type == "method_index_expression" and self.string_of(name).endswith(":format"):
            first = name.named_children[0]
        else:
            return "*"
        form, _ = next(iter(self.meanings(first, 1)), ("*", node))
        return re.sub(r"\*+", "*", _FORMATTED.sub("*", form).replace("%%", "%"))

    def first_error(self) -> Node | None:
        """The first place where the grammar could not go on."""
        if not self.root.has_error:
            return None
        waiting = [self.root]
        while waiting:
            node = waiting.pop()
            if node.type == "ERROR" or node.is_missing:
                return node
            waiting += [child for child in reversed(node.children) if child.has_error or child.is_missing]
        return self.root


def _unquoted(literal: str) -> str:
    if long := re.match(r"\[(=*)\[\r?\n?", literal):
        return literal[long.end() : len(literal) - len(long[1]) - 2]
    return _ESCAPE.sub(_character, literal[1:-1])


def _character(match: re.Match[str]) -> str:
    hexadecimal, decimal, point, newline, letter = match.groups()
    if hexadecimal or point:
        return chr(min(int(hexadecimal or point, 16), 0x10FFFF))
    if decimal:
        return chr(int(decimal))
    if newline:
        return "\n"
    return _ESCAPES.get(letter, letter) if letter else ""


def statements_in(block: Node | None) -> list[Node]:
    """The statements of a block or of the whole file, comments and lone semicolons left out."""
    if block is None:
        return []
    return [child for child in block.named_children if child.type not in ("comment", "empty_statement")]


def tokens(node: Node, utf8: bytes) -> tuple[str, ...]:
    """A statement as the language sees it: no blanks, no comments, one way of quoting, `f "x"` as `f("x")`."""
    found: list[str] = []

    def visit(node: Node) -> None:
        if node.type in ("comment", ";"):
            return
        text = utf8[node.start_byte : node.end_byte].decode("utf-8", "replace")
        if node.type == "string":
            bare = node.parent is not None and node.parent.type == "arguments" and node.parent.child_count == 1
            quoted = repr(_unquoted(text))
            found.extend(["(", quoted, ")"] if bare else [quoted])
        elif not node.children:
            found.append(text)
        else:
            for child in node.children:
                visit(child)

    visit(node)
    return tuple(found)


def inside_function(node: Node, top: Node) -> bool:
    """Whether `node` is in a function that is `top` or within it: what a function holds runs later, if ever."""
    here: Node | None = node
    while here is not None:
        if here.type in _FUNCTIONS:
            return True
        if here == top:
            return False
        here = here.parent
    return False
