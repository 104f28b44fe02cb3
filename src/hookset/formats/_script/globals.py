"""Names of a Lua script that are no local ones: those that it sets, and those that it counts on."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct, field
from tree_sitter import Node

from hookset.formats._script.script import Script

__all__ = ["OWN", "global_names"]

_WORDS = """
_ENV _G _VERSION arg assert bit32 collectgarbage coroutine debug dofile error getfenv getmetatable io ipairs
load loadfile loadstring math module next os package pairs pcall print rawequal rawget rawlen rawset require
select setfenv setmetatable string table tonumber tostring type unpack utf8 warn xpcall
"""
OWN = frozenset(_WORDS.split())
"""What Lua 5.1 to 5.4 have themselves (reference manuals, chapter 6)."""
_ASKING = frozenset({"type", "rawget"})


class _Scope(Struct, frozen=True):
    """The names that are declared in a part of a script, and the part around it."""

    above: _Scope | None = None
    names: set[str] = field(default_factory=set)

    def has(self, name: str) -> bool:
        scope: _Scope | None = self
        while scope is not None:
            if name in scope.names:
                return True
            scope = scope.above
        return False


class _Declared(Struct, frozen=True):
    """Names that hold from here on."""

    names: tuple[Node, ...]


def global_names(script: Script) -> Iterator[tuple[Node, bool]]:
    """Each name that is not local where it stands, in file order, with whether it is set there. A name that is only
    asked for (`if bell then`, `type(bell)`) is not one of these: the script does not count on it."""
    waiting: list[tuple[Node | _Declared, _Scope]] = [(script.root, _Scope())]
    while waiting:
        step, scope = waiting.pop()
        if isinstance(step, _Declared):
            scope.names.update(script.string_of(name) for name in step.names)
        elif step.type == "identifier":
            if not scope.has(script.string_of(step)) and not _only_asked(script, step):
                yield step, _is_target(step)
        else:
            waiting += reversed(list(_parts(script, step, scope)))


def _parts(script: Script, node: Node, scope: _Scope) -> Iterator[tuple[Node | _Declared, _Scope]]:
    """What of a node is looked into, in the order in which the language sees it."""
    if node.type in ("comment", "string", "goto_statement", "label_statement", "attribute"):
        return
    if node.type in ("dot_index_expression", "method_index_expression"):
        yield from ((one, scope) for one in node.named_children[:1])
    elif node.type == "field":
        yield from _of_field(node, scope)
    elif node.type == "variable_declaration":
        yield from _of_declaration(node, scope)
    elif node.type == "assignment_statement":
        yield from ((one, scope) for one in reversed(node.named_children))
    elif node.type in ("function_declaration", "function_definition"):
        yield from _of_function(script, node, scope)
    elif node.type == "for_statement":
        yield from _of_loop(node, _Scope(scope))
    elif node.type == "repeat_statement":
        # What the loop declares holds in its condition, too.
        inner = _Scope(scope)
        parts = [part for one in node.named_children for part in (one.named_children if one.type == "block" else [one])]
        yield from ((part, inner) for part in parts)
    elif node.type == "block":
        yield from ((one, inner) for inner in (_Scope(scope),) for one in node.named_children)
    else:
        yield from ((one, scope) for one in node.named_children)


def _of_field(node: Node, scope: _Scope) -> Iterator[tuple[Node, _Scope]]:
    name, value = node.child_by_field_name("name"), node.child_by_field_name("value")
    if name is not None and node.children[0].type == "[":
        yield name, scope
    if value is not None:
        yield value, scope


def _of_declaration(node: Node, scope: _Scope) -> Iterator[tuple[Node | _Declared, _Scope]]:
    """The values first: `local bell = bell` asks for the one outside."""
    names: list[Node] = []
    for one in node.named_children:
        lists = one.named_children if one.type == "assignment_statement" else [one]
        for part in lists:
            if part.type == "variable_list":
                names += (name for name in part.named_children if name.type == "identifier")
            elif part.type == "identifier":
                names.append(part)
            else:
                yield part, scope
    yield _Declared(tuple(names)), scope


def _of_function(script: Script, node: Node, scope: _Scope) -> Iterator[tuple[Node | _Declared, _Scope]]:
    name, parameters = node.child_by_field_name("name"), node.child_by_field_name("parameters")
    inner = _Scope(scope)
    if name is not None and script.string_of(node).startswith("local"):
        yield _Declared((name,)), scope
    elif name is not None:
        yield name, scope
        if name.type == "method_index_expression":
            inner.names.add("self")
    if parameters is not None:
        yield _Declared(tuple(one for one in parameters.named_children if one.type == "identifier")), inner
    if (body := node.child_by_field_name("body")) is not None:
        yield body, inner


def _of_loop(node: Node, scope: _Scope) -> Iterator[tuple[Node | _Declared, _Scope]]:
    clause, body = node.child_by_field_name("clause"), node.child_by_field_name("body")
    names: list[Node] = []
    for one in clause.named_children if clause is not None else ():
        if one.type == "variable_list":
            names += one.named_children
        elif clause is not None and clause.type == "for_numeric_clause" and one == clause.child_by_field_name("name"):
            names.append(one)
        else:
            yield one, scope
    yield _Declared(tuple(names)), scope
    if body is not None:
        yield body, scope


def _is_target(node: Node) -> bool:
    above = node.parent
    if above is None:
        return False
    if above.type == "function_declaration":
        return True
    statement = above.parent
    return above.type == "variable_list" and statement is not None and statement.type == "assignment_statement"


def _only_asked(script: Script, node: Node) -> bool:
    """Whether a name stands where it is only looked whether it is there."""
    above = node.parent
    while above is not None and above.type == "parenthesized_expression":
        node, above = above, above.parent
    if above is None:
        return False
    if above.type in ("if_statement", "elseif_statement"):
        return node == above.child_by_field_name("condition")
    if above.type == "unary_expression":
        return above.children[0].type == "not"
    if above.type == "binary_expression" and len(above.children) > 2:
        operator, other = above.children[1].type, above.children[2 if above.children[0] == node else 0]
        first = above.children[0] == node
        return (operator in ("and", "or") and first) or (operator in ("==", "~=") and other.type == "nil")
    call = above.parent if above.type == "arguments" else None
    callee = call.child_by_field_name("name") if call is not None else None
    return callee is not None and script.string_of(callee) in _ASKING
