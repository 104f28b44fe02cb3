"""Places in scripts with a grammar: what calls are given, what names are set to, functions, imports."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from tree_sitter import Node

from hookset.formats.base import PLACED
from hookset.learning.expressions import placed_text
from hookset.learning.material import Sort
from hookset.learning.place import Form, Place, Said, joined

__all__ = ["script_places"]

_DEEP = 4
_MOST_ARGUMENTS = 8
_SHORT_LIST = 6
"""Items of a list that may each have a meaning of its own."""

_Way = tuple[tuple[str, Any], ...]


def script_places(sort: Sort) -> Iterator[Place]:
    """Texts as they are written; what is put together at run time is seen once the rules are tried."""
    found: dict[_Way, Said] = {}
    for path, document in sort.documents.items():
        script = getattr(document, "script", None)
        if script is None:
            continue
        for way, text, where in _texts(script):
            if text and "\n" not in text:
                found.setdefault(way, Said()).add(placed_text(text, path), path, where)
    for way, said in _with_any_owner(found).items():
        asked = dict(way)
        form: Form = "function" if "function" in asked else "call" if "call" in asked else "value"
        word, around = _words(asked)
        yield Place(sort, asked, form, word, around, said)


def _words(asked: dict[str, Any]) -> tuple[str, str]:
    way = str(asked.get("field", ""))
    called = str(asked.get("call", asked.get("assign", "")))
    steps = [step for step in way.split(".") if step and step != "*"]
    last = called.replace(":", ".").rpartition(".")[2]
    if "function" in asked:
        return "function", ""
    if "imports" in asked:
        return "import", ""
    return (steps[-1], last) if steps else (last, called.replace(":", ".").rpartition(".")[0])


def _texts(script: Any) -> Iterator[tuple[_Way, str, int]]:
    for name, calls in script.calls.items():
        if not name or len(name) > 80 or "(" in name or '"' in name or "'" in name or "*" in name:
            continue
        for call in calls:
            for number, argument in enumerate(script.arguments(call)[:_MOST_ARGUMENTS], 1):
                base: _Way = (("call", name),) if number == 1 else (("call", name), ("arg", number))
                yield from _within(script, argument, base, "", 0)
    for target, value in script.assignments:
        if value is None:
            continue
        name = script.string_of(target)
        if len(name) <= 80 and "\n" not in name and "*" not in name and "[" not in name:
            yield from _within(script, value, (("assign", name),), "", 0)
    for function in script.functions:
        if not script.local(function):
            yield (("function", "*"),), function.name, script.start(function.node)


def _within(script: Any, node: Node, base: _Way, field: str, depth: int) -> Iterator[tuple[_Way, str, int]]:
    """The texts that an expression is, or that stand in a table that is written out."""
    if node.type in script.STRING:
        literal = script.string_of(node)
        if script.is_text(literal):
            yield (*base, ("field", field)) if field else base, script.unquoted(literal), script.start(node)
        return
    if script.known and (placed := [one for one in script.meanings(node) if PLACED in one[0] and "*" not in one[0]]):
        # What a script's own place says is seen: the rest is text.
        for text, part in placed:
            yield (*base, ("field", field)) if field else base, text, script.start(part)
        return
    if depth >= _DEEP or node.type not in (*script.LISTS, "object", "array", "dictionary"):
        return
    items = list(script.items(node))
    for key, value in items:
        for step in _steps(key, len(items)):
            yield from _within(script, value, base, f"{field}.{step}" if field else step, depth + 1)


def _steps(key: str, count: int) -> Iterator[str]:
    """The ways to an item: by its key, and with the others. In a long list no item has a meaning of its own."""
    if key.isdecimal():
        yield "*"
    if key and "." not in key and not (key.isdecimal() and count > _SHORT_LIST):
        yield key
    if key and not key.isdecimal():
        yield "*"


def _with_any_owner(found: dict[_Way, Said]) -> dict[_Way, Said]:
    """Calls of the same method of several owners are one place as well: `*.play`."""
    whole = dict(found)
    by_method: dict[_Way, list[_Way]] = {}
    for way in found:
        asked = dict(way)
        called = str(asked.get("call", ""))
        for mark in (":", "."):
            owner, dot, method = called.rpartition(mark)
            if dot and owner:
                by_method.setdefault((("call", f"*{mark}{method}"), *way[1:]), []).append(way)
                break
    for method_way, ways in by_method.items():
        if len(ways) > 1:
            whole[method_way] = joined([found[way] for way in ways])
    return whole
