"""A parsed script: its statements, calls and functions, and what an expression can evaluate to.

A language is a subclass that says how its own nodes are called and what they mean.
"""

from __future__ import annotations

import itertools
import math
import os
import re
from abc import ABC, abstractmethod
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar

from msgspec import Struct
from tree_sitter import Language, Node, QueryCursor

from hookset.formats._script.bindings import Bindings, Piece
from hookset.formats._script.parsing import parsed
from hookset.formats._script.queries import Captured, captures, check, query
from hookset.formats.base import ARGUMENT, PLACED
from hookset.trees import Text

__all__ = ["DEPTH", "RETURNED", "Function", "Script", "starred"]

RETURNED = "return"
"""How a layout calls what a file gives to those that load it, whatever the language calls that."""

_WAYS = 128
"""Texts that a chain of choices may come to."""
DEPTH = 8
"""How many constants of constants are followed."""
_MARKS = frozenset(("_", "N_"))
"""What a text that is to be translated is given to, as GNU gettext's manual has it: the text is the name of itself."""


def starred(text: str) -> str:
    """Neighbouring unknown parts are one."""
    return re.sub(r"\*+", "*", text) if "**" in text else text


def _common(texts: list[str]) -> str:
    """What several texts begin with, and end with."""
    head = os.path.commonprefix(texts)  # noqa: RUF071 - of texts, not of paths
    rest = [text[len(head) :][::-1] for text in texts]
    return f"{head}*{os.path.commonprefix(rest)[::-1]}"  # noqa: RUF071


class Function(Struct, frozen=True):
    """A function that has a name, however it was given."""

    name: str
    node: Node


@dataclass(frozen=True)
class Script(ABC):
    """One file. All nodes belong to one tree, which must outlive them."""

    text: Text
    known: tuple[tuple[str, str], ...] = ()
    """Expressions, and what the file's place says of their value."""

    TITLE: ClassVar[str]
    LANGUAGE: ClassVar[Language]
    FUNCTIONS: ClassVar[tuple[str, ...]]
    """Types of nodes whose inside runs later, if ever."""
    STRING: ClassVar[tuple[str, ...]]
    """Types of nodes that are a string as it is."""
    NUMBERS: ClassVar[tuple[str, ...]] = ("number",)
    """Types of nodes that are a number."""
    CALL: ClassVar[tuple[str, str]]
    """The type of a call, and the field that holds what is called."""
    DEFINED: ClassVar[str]
    """A query that captures every function that is declared with a name as `@function`."""
    BOUND: ClassVar[str]
    """A query that captures every name that is given a value by something else than an assignment as `@name`."""
    ASSIGNED: ClassVar[str]
    """A query that captures every assignment as `@assignment`."""
    LOCAL: ClassVar[str] = ""
    """How the declaration of a function begins that no other file can call."""
    NAMES: ClassVar[tuple[str, ...]]
    """Types of nodes that are names: of variables, of members."""
    LOOPS: ClassVar[tuple[str, ...]] = ()
    """Types of nodes that give a name one value after the other."""
    BLOCKS: ClassVar[tuple[str, ...]] = ()
    """Types of nodes in which a declared name holds."""
    LISTS: ClassVar[tuple[str, ...]] = ()
    """Types of nodes that are a table or a list, written out."""
    PAIR: ClassVar[str]
    """What stands between a key and its value in a table."""
    KEY: ClassVar[str]
    """How a key is written that is no plain name, over its text in quotes."""
    KEYED: ClassVar[tuple[str, str]] = ("name", "key")
    """The fields of an item of a table that may hold its key."""
    BARE_KEY: ClassVar[tuple[str, ...]] = ("=", ":")
    """What stands behind a key that is written as a plain name; behind others a name stands for its value."""
    RESERVED: ClassVar[frozenset[str]] = frozenset()
    """Words of the language that can be no plain key, though its grammar takes them for one."""
    LIST: ClassVar[tuple[str, str]]
    """The brackets of a list."""
    NOTHING: ClassVar[str]
    """How the value that is none is written."""
    RETURNS: ClassVar[str]
    """What stands before the value that a file gives to those that load it."""
    IMPORT: ClassVar[str] = ""
    """The type of a statement that imports, for languages that have one."""
    OPENING: ClassVar[str]
    """A regular expression of the comment that a file may begin with."""

    @abstractmethod
    def assignments_in(self) -> Iterator[tuple[Node, Node | None]]:
        """Target and value of every assignment, in file order; None where the right side is shorter."""

    @abstractmethod
    def members(self, value: Node) -> Iterator[tuple[str, Node]]:
        """Name and value of each member, if `value` is a table or an object that is written out."""

    @abstractmethod
    def items(self, value: Node) -> Iterator[tuple[str, Node]]:
        """Key and value of each item of a table, an object or a list that is written out; lists count as the language
        does."""

    def keys(self, table: Node) -> Iterator[Node]:
        """The key of each item that has one, of a table that is written out."""
        for item in self.unwrapped(table).named_children:
            key = next(filter(None, map(item.child_by_field_name, self.KEYED)), None)
            if key is not None and item.child_by_field_name("value") is not None:
                computed = key.type == "computed_property_name" and key.named_children
                yield key.named_children[0] if computed else key

    def is_bare_key(self, node: Node) -> bool:
        """Whether a node is a key that is written as a plain name."""
        item = node.parent
        if item is None or item.parent is None or item.parent.type not in self.LISTS or node.type in self.STRING:
            return False
        behind = node.next_sibling
        named = node in map(item.child_by_field_name, self.KEYED)
        return named and behind is not None and behind.type in self.BARE_KEY

    def unwrapped(self, value: Node) -> Node:
        """A table in what only guards it against changes."""
        return value

    @abstractmethod
    def returned(self) -> Iterator[Node]:
        """What the file gives to those that load it."""

    @abstractmethod
    def indexed(self, node: Node) -> tuple[Node, str] | None:
        """For an expression that takes one item of another: that one, and the key; None for any other."""

    @abstractmethod
    def declares(self, target: Node) -> bool:
        """Whether the target of an assignment is declared there, so that it holds in its block only."""

    def counts(self, _target: Node) -> bool:
        """Whether what is assigned is only what a loop begins with."""
        return False

    @abstractmethod
    def looped(self, name: Node, depth: int = 0) -> Iterator[Piece] | None:
        """What a loop gives to a name of its own, one after the other; None where that is not known, or for a name that
        is no loop's. `depth` counts what was followed already."""

    @abstractmethod
    def unquoted(self, literal: str) -> str:
        """What a string is, without its quotes and escapes."""

    def formatted_by(self, _node: Node) -> Node | None:
        """The call that puts a text together of the one at `node` and of others, in languages that have one."""
        return None

    @abstractmethod
    def is_text(self, literal: str) -> bool:
        """Whether the source of an expression is one text in its quotes."""

    @abstractmethod
    def quoted(self, old: str, words: str) -> Iterator[str]:
        """The ways to write a text where the literal `old` stands, the likeliest first."""

    @abstractmethod
    def combined(self, node: Node, depth: int) -> Iterator[tuple[str, Node]] | None:
        """The meanings of an expression of the language's own kinds; None for any other."""

    @abstractmethod
    def body(self, function: Node) -> Node | None:
        """What holds a function's statements."""

    @abstractmethod
    def closing(self, function: Node) -> Node:
        """The word or bracket that ends a function's statements."""

    def bare_argument(self, _node: Node) -> bool:
        """Whether a string is a call's argument without parentheses around it."""
        return False

    # ---- the tree -----------------------------------------------------------------------------------------------

    @property
    def grammatical(self) -> bytes:
        """What the grammar is given: the text, or as many bytes in which nothing stands that only the grammar minds."""
        return self.text.utf8

    @property
    def hint(self) -> str:
        """How a script that does not parse could be read all the same; empty where it could not."""
        return ""

    @cached_property
    def root(self) -> Node:
        """Of what mistakes let be parsed, as `parsed` says."""
        return parsed(self.LANGUAGE, self.grammatical).root_node

    def string_of(self, node: Node) -> str:
        return self.text.utf8[node.start_byte : node.end_byte].decode("utf-8", "replace")

    def start(self, node: Node) -> int:
        return self.text.char_at(node.start_byte)

    def end(self, node: Node) -> int:
        return self.text.char_at(node.end_byte)

    def query(self, source: str) -> list[Node]:
        """The nodes that a tree-sitter query captures as `@value`, in file order. Raises tree_sitter.QueryError."""
        return [node for node, _ in self.queries([source])[source]]

    def queries(self, sources: Collection[str]) -> dict[str, list[Captured]]:
        """The same for each of several queries, in one pass over the tree, with what else each match captures."""
        return captures(self.LANGUAGE, sources, self.root)

    @classmethod
    def check_query(cls, source: str) -> None:
        """Raises ValueError for what is no query of this language, or captures nothing that is read."""
        check(cls.LANGUAGE, cls.TITLE, source)

    @cached_property
    def captured(self) -> dict[str, list[Node]]:
        """What every script is looked through for, in one go: `call`, `function`, `name` and `assignment`, in file
        order."""
        source = f"({self.CALL[0]}) @call {self.DEFINED} {self.BOUND} {self.ASSIGNED}"
        found = QueryCursor(query(self.LANGUAGE, source)).captures(self.root)
        return {name: sorted(nodes, key=lambda node: node.start_byte) for name, nodes in found.items()}

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

    @property
    def parses(self) -> bool:
        """Whether it is all of the language."""
        return self.first_error() is None

    # ---- calls, functions, statements ---------------------------------------------------------------------------

    @cached_property
    def calls(self) -> dict[str, list[Node]]:
        """Every call by the name that is called, blanks left out."""
        calls: dict[str, list[Node]] = {}
        field = self.CALL[1]
        for node in self.captured.get("call", ()):
            if (callee := node.child_by_field_name(field)) is not None:
                calls.setdefault("".join(self.string_of(callee).split()), []).append(node)
        return calls

    @cached_property
    def functions(self) -> tuple[Function, ...]:
        found = []
        for node in self.captured.get("function", ()):
            if (name := node.child_by_field_name("name")) is not None:
                found.append(Function(self.string_of(name), node))
        for target, value in self.assignments:
            if value is not None and value.type in self.FUNCTIONS:
                found.append(Function(self.string_of(target), value))
        return tuple(sorted(found, key=lambda function: function.node.start_byte))

    def local(self, function: Function) -> bool:
        """Whether other files cannot call it."""
        return bool(self.LOCAL) and self.string_of(function.node).startswith(self.LOCAL)

    @cached_property
    def assignments(self) -> tuple[tuple[Node, Node | None], ...]:
        return tuple(self.assignments_in())

    @cached_property
    def bindings(self) -> tuple[tuple[str, Node], ...]:
        """Every name that is set, and the members of what it is set to, in file order."""
        found: list[tuple[str, Node]] = []
        for target, value in self.assignments:
            if value is not None:
                name = self.string_of(target)
                found.append((name, value))
                found += ((f"{name}.{member}", held) for member, held in self.members(value))
        return tuple(found)

    def statements(self, block: Node | None) -> list[Node]:
        """The statements of a block or of the whole file, comments and lone semicolons left out."""
        if block is None:
            return []
        return [child for child in block.named_children if child.type not in ("comment", "empty_statement")]

    def arguments(self, call: Node) -> list[Node]:
        given = call.child_by_field_name("arguments")
        return [] if given is None else [child for child in given.named_children if child.type != "comment"]

    def tokens(self, node: Node) -> tuple[str, ...]:
        """A statement as the language sees it: no blanks, no comments, one way of quoting, `f "x"` as `f("x")`."""
        found: list[str] = []

        def visit(node: Node) -> None:
            if node.type in ("comment", ";"):
                return
            if node.type in self.STRING:
                quoted = repr(self.unquoted(self.string_of(node)))
                found.extend(["(", quoted, ")"] if self.bare_argument(node) else [quoted])
            elif not node.children:
                found.append(self.string_of(node))
            else:
                for child in node.children:
                    visit(child)

        visit(node)
        return tuple(found)

    def makes_call(self, statement: Node, name: str) -> bool:
        """Whether running a statement makes a call: one inside of a function runs later, if ever."""
        return any(
            statement.start_byte <= call.start_byte < statement.end_byte and not self._later(call, statement)
            for call in self.calls.get(name, [])
        )

    def _later(self, node: Node, top: Node) -> bool:
        here: Node | None = node
        while here is not None:
            if here.type in self.FUNCTIONS:
                return True
            if here == top:
                return False
            here = here.parent
        return False

    # ---- meanings -----------------------------------------------------------------------------------------------

    @cached_property
    def _placed(self) -> dict[str, str]:
        return {"".join(source.split()): value for source, value in self.known}

    def _said_by_place(self, node: Node, depth: int) -> Iterator[tuple[str, Node]]:
        """What the layout says that an expression is worth; what its one argument is stands behind that."""
        if (value := self._placed.get("".join(self.string_of(node).split()))) is not None:
            yield f"{PLACED}{value}{PLACED}", node
        callee = node.child_by_field_name(self.CALL[1]) if node.type == self.CALL[0] else None
        value = self._placed.get(f"{''.join(self.string_of(callee).split())}($1)") if callee is not None else None
        given = self.arguments(node) if value is not None else []
        if len(given) == 1 and depth < DEPTH:
            for text, _ in self.meanings(given[0], depth + 1):
                yield (f"{PLACED}{value}{ARGUMENT}{text}{PLACED}" if "*" not in text else "*"), node

    @cached_property
    def scopes(self) -> Bindings:
        """What names stand for where they are used."""
        return Bindings(self)

    @cached_property
    def constants(self) -> dict[str, Node]:
        """Names that are given a value once in the whole file and by nothing else, and members of what they are."""
        values: dict[str, Node | None] = {}
        for target, value in self.assignments:
            name = self.string_of(target)
            values[name] = None if name in values or self.counts(target) else value
        for node in self.captured.get("name", ()):
            values[self.string_of(node)] = None
        for name, value in list(values.items()):
            for member, held in self.members(value) if value is not None else ():
                whole = f"{name}.{member}"
                values[whole] = None if whole in values else held
        return {name: value for name, value in values.items() if value is not None}

    def meanings(self, node: Node, depth: int = 0) -> Iterator[tuple[str, Node]]:
        """What an expression can be, as far as the text tells, and where that stands: `*` stands for what only the
        running game knows. A choice has several meanings; a name that is set once in this file means what it is set to.
        """
        if self.known and (placed := list(self._said_by_place(node, depth))):
            yield from placed
        elif node.type in self.STRING:
            yield self.unquoted(self.string_of(node)), node
        elif node.type in self.NUMBERS:
            yield self.string_of(node), node
        elif node.type == "parenthesized_expression" and node.named_children:
            yield from self.meanings(node.named_children[0], depth)
        elif (node.type in self.NAMES or self.indexed(node) is not None) and depth < DEPTH:
            value = self.constants.get(self.string_of(node))
            yield from self.meanings(value, depth + 1) if value is not None else self._followed(node, depth)
        elif (marked := self.marked(node)) is not None and depth < DEPTH:
            yield from self.meanings(marked, depth + 1)
        else:
            own = self.combined(node, depth) if depth < DEPTH else None
            yield from own if own is not None else (("*", node),)

    def marked(self, node: Node) -> Node | None:
        """The text of `_("text")`: marked for whoever translates it."""
        callee = node.child_by_field_name(self.CALL[1]) if node.type == self.CALL[0] else None
        if callee is None or self.string_of(callee) not in _MARKS:
            return None
        given = self.arguments(node)
        return given[0] if len(given) == 1 and given[0].type in self.STRING else None

    def joined(self, node: Node, left: Node, right: Node, depth: int) -> Iterator[tuple[str, Node]]:
        """Expressions, one behind the other: a chain of them is one step, however long it is."""
        operator = node.children[1].type
        parts = [*self._chain(left, operator), *self._chain(right, operator)]
        for text in self.together(parts, depth):
            yield text, node

    def together(self, parts: Sequence[Node | str], depth: int) -> list[str]:
        """The texts that parts come to, one behind the other."""
        sources: list[object] = []
        said: dict[object, list[str]] = {}
        for number, part in enumerate(parts):
            # A name that stands in it twice is the same both times.
            named = not isinstance(part, str) and part.type in self.NAMES
            sources.append(self.string_of(part) if named and not isinstance(part, str) else number)
            if isinstance(part, str):
                said[number] = [part]
            elif sources[-1] not in said:
                said[sources[-1]] = [meaning for meaning, _ in self.meanings(part, depth + 1)] or ["*"]
        if all(len(one) == 1 for one in said.values()):
            return [starred("".join(said[source][0] for source in sources))]
        if math.prod(len(one) for one in said.values()) > _WAYS:
            # What it can be is too much to be followed: what all of it has in common is known.
            said = {source: one if len(one) == 1 else [_common(one)] for source, one in said.items()}
        made = (dict(zip(said, ways, strict=True)) for ways in itertools.product(*said.values()))
        return list(dict.fromkeys(starred("".join(ways[source] for source in sources)) for ways in made))

    def _followed(self, node: Node, depth: int) -> Iterator[tuple[str, Node]]:
        """What a name, or an item of something that has one, means where it stands."""
        pieces = self.scopes.pieces(node)
        if pieces is None:
            yield "*", node
            return
        for piece in pieces:
            if isinstance(piece, tuple):
                yield piece
            elif piece.id != node.id:
                yield from self.meanings(piece, depth + 1)
            else:
                yield "*", node

    def _chain(self, node: Node, operator: str) -> list[Node]:
        """What a chain of one operator is made of, from the left."""
        found: list[Node] = []
        waiting = [node]
        while waiting:
            here = waiting.pop()
            left, right = here.child_by_field_name("left"), here.child_by_field_name("right")
            if left is not None and right is not None and here.children[1].type == operator:
                waiting += (right, left)
            else:
                found.append(here)
        return found

    def either(self, *nodes: Node | None, depth: int) -> Iterator[tuple[str, Node]]:
        """One of several expressions."""
        for node in nodes:
            if node is not None:
                yield from self.meanings(node, depth + 1)
