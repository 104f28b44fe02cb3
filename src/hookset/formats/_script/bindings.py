"""What a name in a script stands for where it is used: what a loop gives it in turn, or what it is set to nearby."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import ClassVar, Protocol

from msgspec import Struct
from tree_sitter import Node

__all__ = ["Bindings", "Naming", "Piece"]

Piece = Node | tuple[str, Node]
"""An expression that is written out; or a text that no expression is, and what it comes from."""
_MOST = 128
"""What a name is followed to, at most."""
_DEPTH = 8


class Naming(Protocol):
    """What a script tells of the names in it."""

    FUNCTIONS: ClassVar[tuple[str, ...]]
    LOOPS: ClassVar[tuple[str, ...]]
    BLOCKS: ClassVar[tuple[str, ...]]
    LISTS: ClassVar[tuple[str, ...]]

    @property
    def captured(self) -> Mapping[str, list[Node]]:
        """The names that loops and calls give a meaning, among others: `name`."""
        ...

    @property
    def assignments(self) -> tuple[tuple[Node, Node | None], ...]:
        """Target and value of each."""
        ...

    @property
    def constants(self) -> Mapping[str, Node]:
        """Names that are set once in the whole file."""
        ...

    def declares(self, target: Node) -> bool:
        """Whether the target of an assignment holds in its block only."""
        ...

    def indexed(self, node: Node) -> tuple[Node, str] | None:
        """For an expression that takes one item of another: that one, and the key."""
        ...

    def looped(self, name: Node, depth: int = 0) -> Iterator[Piece] | None:
        """What a loop gives to a name of its own, one after the other; `depth` counts what was followed already."""
        ...

    def items(self, value: Node) -> Iterator[tuple[str, Node]]:
        """Key and value of each item of a table or a list."""
        ...

    def string_of(self, node: Node) -> str:
        """The text of a node."""
        ...


class _Binding(Struct, frozen=True):
    """A name given a meaning in one part of the file."""

    start: int
    end: int
    """The bytes in which it has that meaning."""
    name: Node
    value: Node | None
    """What it is set to; None for what a loop or a call gives it."""


class Bindings(Struct, frozen=True, dict=True):
    """The names of one script, each where it holds."""

    script: Naming

    @cached_property
    def _by_name(self) -> Mapping[str, list[_Binding]]:
        found: dict[str, list[_Binding]] = {}
        for node in self.script.captured.get("name", ()):
            scope = self._around(node, (*self.script.FUNCTIONS, *self.script.LOOPS))
            body = scope.child_by_field_name("body") if scope.type in self.script.LOOPS else None
            # What a loop goes through is looked up before it: `for x in x.list` is about another `x`.
            start = body.start_byte if body is not None and node.start_byte < body.start_byte else scope.start_byte
            found.setdefault(self.script.string_of(node), []).append(_Binding(start, scope.end_byte, node, None))
        for target, value in self.script.assignments:
            if self.script.declares(target):
                scope = self._around(target, self.script.BLOCKS)
                found.setdefault(self.script.string_of(target), []).append(
                    _Binding(target.end_byte, scope.end_byte, target, value)
                )
        return found

    @cached_property
    def _set_again(self) -> Mapping[str, list[int]]:
        """By name: where it is set without being declared."""
        found: dict[str, list[int]] = {}
        for target, _ in self.script.assignments:
            if not self.script.declares(target):
                found.setdefault(self.script.string_of(target), []).append(target.start_byte)
        return found

    def pieces(self, node: Node, depth: int = 0) -> list[Piece] | None:
        """All that an expression may be, written out; None where that is not known."""
        if depth > _DEPTH:
            return None
        script = self.script
        if node.type == "parenthesized_expression" and node.named_children:
            return self.pieces(node.named_children[0], depth + 1)
        if node.type == "identifier":
            return self._named(node, depth)
        if (part := script.indexed(node)) is not None:
            return self._part(*part, depth)
        return [node]

    def _named(self, node: Node, depth: int) -> list[Piece] | None:
        name = self.script.string_of(node)
        here = [one for one in self._by_name.get(name, ()) if one.start <= node.start_byte < one.end]
        if not here:
            value = self.script.constants.get(name)
            return None if value is None else self.pieces(value, depth + 1)
        one = max(here, key=lambda one: one.start)
        if any(one.start <= at < one.end for at in self._set_again.get(name, ())):
            return None
        if one.value is not None and not self._counts(one.name, depth):
            return self.pieces(one.value, depth + 1)
        looped = self.script.looped(one.name, depth + 1)
        if looped is None:
            return None
        found: list[Piece] = []
        for piece in looped:
            found.append(piece)
            if len(found) > _MOST:
                return None
        return found or None

    def _counts(self, name: Node, depth: int) -> bool:
        """Whether a name is that of a loop, which is declared like any other in some languages."""
        return self.script.looped(name, depth + 1) is not None

    def _part(self, whole: Node, key: str, depth: int) -> list[Piece] | None:
        owners = self.pieces(whole, depth + 1)
        if owners is None:
            return None
        found: list[Piece] = []
        for owner in owners:
            if isinstance(owner, tuple):
                return None
            values = [value for name, value in self.script.items(owner) if name == key]
            for value in values:
                more = self.pieces(value, depth + 1)
                if more is None or len(found) > _MOST:
                    return None
                found += more
        return found or None

    def local(self, node: Node) -> bool:
        """Whether a name is one that the file declares where it stands: a parameter, a loop's, a local."""
        found = self._by_name.get(self.script.string_of(node), ())
        at = node.start_byte
        return any(one.start <= at < one.end or one.name.start_byte == at for one in found)

    def elements(self, node: Node, depth: int = 0) -> Iterator[tuple[str, Node]] | None:
        """Key and value of each item of what an expression is, where it is one table or list that is written out."""
        owners = self.pieces(node, depth)
        if owners is None or len(owners) != 1 or isinstance(owners[0], tuple):
            return None
        owner = owners[0]
        return self.script.items(owner) if owner.type in self.script.LISTS else None

    def _around(self, node: Node, types: tuple[str, ...]) -> Node:
        here: Node = node
        while here.parent is not None:
            here = here.parent
            if here.type in types:
                return here
        return here
