"""Places in scripts with a grammar: what calls are given, what names are set to, functions, imports."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from typing import Any

from tree_sitter import Node

from hookset.formats.base import PLACED
from hookset.learning.expressions import placed_text
from hookset.learning.material import Sort
from hookset.learning.place import Form, Place, Said, joined
from hookset.learning.places.items import Tables, Way

__all__ = ["script_places"]

_DEEP = 4
_MOST_ARGUMENTS = 8
_SHORT_LIST = 6
"""Items of a list that may each have a meaning of its own."""
_METHOD = re.compile(r"[.:][A-Za-z_]\w*$")


def script_places(sort: Sort) -> Iterator[Place]:
    """Texts as they are written; what is put together at run time is seen once the rules are tried."""
    found: dict[Way, Said] = {}
    tables = Tables()
    for path, document in sort.documents.items():
        script = getattr(document, "script", None)
        if script is None:
            continue
        for way, text, where in _texts(script, tables):
            if text and "\n" not in text:
                found.setdefault(way, Said()).add(placed_text(text, path), path, where)
    found = _with_fields(found)
    tables.look_at(found)
    places: dict[Way, Place] = {}
    for way, said in sorted(_with_any_owner(found, tables).items(), key=lambda one: tables.records_in(one[0])):
        if (place := _place(sort, way, said, tables, places)) is not None:
            places[way] = place
            yield place


def _place(sort: Sort, way: Way, said: Said, tables: Tables, places: Mapping[Way, Place]) -> Place | None:
    """The place of a way; None for one that means the same as others do."""
    asked = dict(way)
    word, around = _words(asked)
    if tables.by_one_key(way) or ("keys" in asked and not tables.may_be_by_names(way[:-1])):
        return None
    if "keys" in asked:
        return Place(sort, asked, "key", "", word, said)
    form: Form = "function" if "function" in asked else "call" if "call" in asked and "field" not in asked else "value"
    if not tables.records_in(way):
        return Place(sort, asked, form, word, around, said)
    parts = tuple(places[one] for one in tables.each(way) if one in places)
    return Place(sort, asked, form, word, around, said, parts=parts) if len(parts) > 1 else None


def _words(asked: dict[str, Any]) -> tuple[str, str]:
    way = str(asked.get("field", ""))
    called = str(asked.get("call", asked.get("assign", "")))
    steps = [step for step in way.split(".") if step and step != "*"]
    last = called.replace(":", ".").rpartition(".")[2]
    if "function" in asked:
        return "function", ""
    if "imports" in asked:
        return "import", ""
    around = [last, *(step for step in steps if not step.isdecimal())]
    if steps:
        return steps[-1], next((step for step in reversed(around) if step != steps[-1]), last)
    return last, called.replace(":", ".").rpartition(".")[0]


def _texts(script: Any, tables: Tables) -> Iterator[tuple[Way, str, int]]:
    for written, calls in script.calls.items():
        name = _called(written)
        if not name:
            continue
        for call in calls:
            for number, argument in enumerate(script.arguments(call)[:_MOST_ARGUMENTS], 1):
                base: Way = (("call", name),) if number == 1 else (("call", name), ("arg", number))
                yield from _within(script, tables, argument, base, "", 0)
    for target, value in script.assignments:
        if value is None:
            continue
        name = script.string_of(target)
        if len(name) <= 80 and "\n" not in name and "*" not in name and "[" not in name:
            yield from _within(script, tables, value, (("assign", name),), "", 0)
    for function in script.functions:
        if not script.local(function):
            yield (("function", "*"),), function.name, script.start(function.node)


def _called(written: str) -> str:
    """What a call is known by: its name, or that of the method where something is called that a call gives; empty for
    what is known by neither."""
    if "(" in written:
        method = _METHOD.search(written)
        return f"*{method[0]}" if method is not None else ""
    plain = len(written) <= 80 and not any(mark in written for mark in "\"'*")
    return written if plain else ""


def _within(
    script: Any, tables: Tables, node: Node, base: Way, field: str, depth: int
) -> Iterator[tuple[Way, str, int]]:
    """The texts that an expression is, or that stand in a table that is written out."""
    node = script.marked(node) or node
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
    here: Way = (*base, ("field", field)) if field else base
    keyed = [(script.marked(value) or value).type for key, value in items if not key.isdecimal()]
    tables.add(here, keyed, listed=len(keyed) < len(items))
    for node_of_key in script.keys(node):
        if text := _key(script, node_of_key):
            yield (*here, ("keys", True)), text, script.start(node_of_key)
    for key, value in items:
        for step in _steps(key, len(items)):
            yield from _within(script, tables, value, base, f"{field}.{step}" if field else step, depth + 1)


def _key(script: Any, key: Node) -> str:
    """A key as it is written; empty for one that only running the script would tell."""
    source = script.string_of(key)
    if script.is_bare_key(key):
        return str(source)
    return str(script.unquoted(source)) if key.type in script.STRING and script.is_text(source) else ""


def _steps(key: str, count: int) -> Iterator[str]:
    """The ways to an item: by its key, and with the others. In a long list no item has a meaning of its own."""
    if key.isdecimal():
        yield "*"
    if key and "." not in key and not (key.isdecimal() and count > _SHORT_LIST):
        yield key
    if key and not key.isdecimal():
        yield "*"


def _with_fields(found: Mapping[Way, Said]) -> dict[Way, Said]:
    """What is set by its dotted name, and what tables say by that: `fog.bell = "low"`, `fog = { bell = "low" }`."""
    whole = dict(found)
    for way, said in found.items():
        table, dot, field = str(dict(way).get("assign", "")).rpartition(".")
        fields = found.get((("assign", table), ("field", field))) if dot and len(way) == 1 else None
        if fields is not None:
            whole[way] = joined([said, fields])
    return whole


def _with_any_owner(found: dict[Way, Said], tables: Tables) -> dict[Way, Said]:
    """Calls of the same method of several owners are one place as well: `*.play`."""
    whole = dict(found)
    by_method: dict[Way, list[Way]] = {}
    for way in found:
        asked = dict(way)
        called = str(asked.get("call", ""))
        for mark in (":", "."):
            owner, dot, method = called.rpartition(mark)
            if dot and owner and owner != "*":
                by_method.setdefault((("call", f"*{mark}{method}"), *way[1:]), []).append(way)
                break
    for method_way, ways in by_method.items():
        ways = [*ways, *((method_way,) if method_way in found else ())]
        if len(ways) > 1:
            whole[method_way] = joined([found[way] for way in ways])
            tables.join(method_way, ways)
    return whole
