"""Parts of a script that run only where something is there: inside `if present("x") then`, behind `and`, below an early
`return`."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from msgspec import Struct
from tree_sitter import Node

from hookset.formats._script.script import Script

__all__ = ["GuardedPart", "guarded_parts"]

_DEPTH = 50
_NOT = ("not", "!")
_AND = ("and", "&&")
_OR = ("or", "||")
_UNEQUAL = ("~=", "!=", "!==")
_EQUAL = ("==", "===")
_NOTHING = ("nil", "null", "undefined", "false")
_BRANCHES = ("if_statement", "elseif_statement", "ternary_expression")
_ENDS = ("return_statement", "break_statement", "throw_statement", "continue_statement")
Names = frozenset[str]
_NONE: Names = frozenset()


class GuardedPart(Struct, frozen=True):
    """Characters of a script that run only where something is there."""

    name: str
    start: int
    end: int


def guarded_parts(script: Script, asked: Callable[[Node], str | None]) -> Iterator[GuardedPart]:
    """`asked` gives what an expression asks for: `x` for `present("x")`; None for other expressions."""
    conditions = _Conditions(script, asked)
    waiting = [script.root]
    while waiting:
        node = waiting.pop()
        waiting += node.named_children
        if node.type in _BRANCHES:
            yield from _branches(script, conditions, node)
        elif (sides := conditions.sides(node)) is not None:
            left, operator, right = sides
            names = (
                conditions.holding(left) if operator in _AND else conditions.lacking(left) if operator in _OR else _NONE
            )
            yield from _parts(script, names, right)


def _branches(script: Script, conditions: _Conditions, node: Node) -> Iterator[GuardedPart]:
    condition, consequence = node.child_by_field_name("condition"), node.child_by_field_name("consequence")
    if condition is None:
        return
    holding, lacking = conditions.holding(condition), conditions.lacking(condition)
    if consequence is not None:
        yield from _parts(script, holding, consequence)
    for number in range(node.child_count):
        if node.field_name_for_child(number) == "alternative" and (other := node.child(number)) is not None:
            yield from _parts(script, lacking, other)
    if lacking and consequence is not None and _leaves(consequence) and node.parent is not None:
        # What stands below an `if` that leaves runs only where it did not.
        for name in lacking:
            yield GuardedPart(name, script.end(node), script.end(node.parent))


def _parts(script: Script, names: Names, node: Node) -> Iterator[GuardedPart]:
    return (GuardedPart(name, script.start(node), script.end(node)) for name in sorted(names))


def _leaves(block: Node) -> bool:
    """Whether a branch never goes on to what stands below it."""
    last = block.named_children[-1] if block.named_children else block
    return block.type in _ENDS or last.type in _ENDS


class _Conditions(Struct, frozen=True):
    """What must be there for an expression to be true, or to be false."""

    script: Script
    asked: Callable[[Node], str | None]

    def holding(self, node: Node, depth: int = 0) -> Names:
        """What is there wherever it is true."""
        return self._names(node, True, depth)

    def lacking(self, node: Node, depth: int = 0) -> Names:
        """What is there wherever it is false."""
        return self._names(node, False, depth)

    def sides(self, node: Node) -> tuple[Node, str, Node] | None:
        """(left, operator, right) of an expression of two."""
        left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
        if node.type != "binary_expression" or left is None or right is None:
            return None
        return left, node.children[1].type, right

    def _names(self, node: Node, true: bool, depth: int) -> Names:
        if depth > _DEPTH:
            return _NONE
        if node.type == "parenthesized_expression" and node.named_children:
            return self._names(node.named_children[0], true, depth + 1)
        if node.type == "unary_expression" and node.children[0].type in _NOT:
            return self._names(node.named_children[-1], not true, depth + 1)
        if (sides := self.sides(node)) is not None:
            return self._of_two(*sides, true, depth)
        if not true:
            return _NONE
        if (name := self.asked(node)) is not None:
            return frozenset({name})
        if node.type == "identifier":
            pieces = self.script.scopes.pieces(node) or []
            if len(pieces) == 1 and isinstance(pieces[0], Node) and pieces[0].id != node.id:
                return self._names(pieces[0], True, depth + 1)
        return _NONE

    def _of_two(self, left: Node, operator: str, right: Node, true: bool, depth: int) -> Names:
        if operator in (*_UNEQUAL, *_EQUAL):
            empty = next((one for one in (left, right) if self.script.string_of(one) in _NOTHING), None)
            whole = next((one for one in (left, right) if self.script.string_of(one) == "true"), None)
            other = right if left in (empty, whole) else left
            if empty is not None:
                return self._names(other, true is (operator in _UNEQUAL), depth + 1)
            return self._names(other, true is (operator in _EQUAL), depth + 1) if whole is not None else _NONE
        one, two = self._names(left, true, depth + 1), self._names(right, true, depth + 1)
        both = (operator in _AND) if true else (operator in _OR)
        if both:
            return one | two
        return one & two if operator in (*_AND, *_OR) else _NONE
