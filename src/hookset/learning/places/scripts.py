"""Places in scripts with a grammar: what calls are given, what names are set to, functions, imports."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from msgspec.structs import replace
from tree_sitter import Node

from hookset.formats._script.script import RETURNED
from hookset.formats.base import PLACED
from hookset.learning.expressions import placed_text
from hookset.learning.material import Sort
from hookset.learning.place import Form, Place
from hookset.learning.places.calls import by_first_argument, of_all_arguments
from hookset.learning.places.items import Tables, Way
from hookset.learning.said import Said, joined
from hookset.model import Where

__all__ = ["script_places"]

_DEEP = 4
_MOST_ARGUMENTS = 8
_SHORT_LIST = 6
"""Items of a list that may each have a meaning of its own."""
_LEAST_DATA, _DATA, _MOST_DATA = 4, 0.9, 12
"""Tables that a script of no more than tables has at least, of its statements, and scripts of which each says other
things."""
_SHARING = ("lua",)
"""Languages whose scripts share names without saying so."""
_METHOD = re.compile(r"[.:][A-Za-z_]\w*$")


def script_places(sort: Sort) -> Iterator[Place]:
    """Texts as they are written; what is put together at run time is seen once the rules are tried."""
    scripts = {path: script for path, document in sort.documents.items() if (script := _script_of(document))}
    data = {path: found for path, script in scripts.items() if (found := _data_in(script, sort.format))}
    if len(data) > _MOST_DATA:
        # So many are of one sort.
        data = {}
    for path, found in data.items():
        yield from _of_data(sort, path, scripts[path], found)
    tables = Tables()
    whole: dict[Way, Said] = {}
    calls: dict[tuple[str, Where], int] = {}
    for path, script in scripts.items():
        for way, text, where, call in _texts(script, tables):
            if text and "\n" not in text and not (path in data and way[0][0] == "assign"):
                whole.setdefault(way, Said()).add(placed_text(text, path), path, where)
                calls[path, where] = call
    places: dict[Way, Place] = {}
    yield from _placed(sort, _with_fields(whole), tables, places)
    yield from of_all_arguments(places, calls)
    yield from by_first_argument(places, calls)


def _script_of(document: Any) -> Any:
    """The script that a document is; None for one that could not be read."""
    return getattr(document, "script", None)


def _placed(sort: Sort, found: dict[Way, Said], tables: Tables, places: dict[Way, Place]) -> Iterator[Place]:
    """The places of what was found, which `places` has afterwards by their ways."""
    tables.look_at(found)
    for way, said in sorted(_with_any_owner(found, tables).items(), key=lambda one: tables.records_in(one[0])):
        if (place := _place(sort, way, said, tables, places)) is not None:
            places[way] = place
            yield place


def _data_in(script: Any, language: str) -> Sequence[tuple[Node | None, Node]]:
    """The tables of a script that says no more than what is in them, each with the name by which all scripts share it,
    or the table by names that a script gives; nothing for other scripts."""
    named = list(_tables_of(script)) if language in _SHARING else []
    if len(named) >= _LEAST_DATA and len(named) >= _DATA * len(script.statements(script.root)):
        return named
    for given in script.returned():
        items = list(script.items(given)) if given.type in script.LISTS else []
        inner = [(script.marked(value) or value).type for key, value in items if not key.isdecimal()]
        if len(items) >= _LEAST_DATA and sum(one in script.LISTS for one in inner) == len(items):
            return [(None, given)]
    return ()


def _tables_of(script: Any) -> Iterator[tuple[Node, Node]]:
    """The names that are set to tables in a script, and those, where all scripts share them."""
    for target, value in script.assignments:
        shared = value is not None and target.type == "identifier" and not script.declares(target)
        if shared and (script.marked(value) or value).type in script.LISTS:
            yield target, value


def _of_data(sort: Sort, path: str, script: Any, data: Sequence[tuple[Node | None, Node]]) -> Iterator[Place]:
    """The names of a file of tables, and what those hold: they are records of one sort."""
    own = replace(sort, documents={path: sort.documents[path]}, globs=(path,), but=(), languages={})
    names, found, tables = Said(), dict[Way, Said](), Tables()
    for target, value in data:
        if target is not None:
            names.add(script.string_of(target), path, script.start(target))
        base: Way = (("assign", "*" if target is not None else RETURNED),)
        for way, text, where in _within(script, tables, value, base, "", 0):
            if text and "\n" not in text:
                found.setdefault(way, Said()).add(placed_text(text, path), path, where)
    stem = posixpath.splitext(posixpath.basename(path))[0]
    if names.texts:
        yield Place(own, {"globals": "set"}, "key", "", stem, names)
    for place in _placed(own, found, tables, {}):
        plain = place.form == "key" and place.around == RETURNED
        yield replace(place, around=stem) if plain else place


def _place(sort: Sort, way: Way, said: Said, tables: Tables, places: Mapping[Way, Place]) -> Place | None:
    """The place of a way; None for one that means the same as others do."""
    asked = dict(way)
    word, around = _words(asked)
    if tables.by_one_key(way) or ("keys" in asked and not tables.may_be_by_names(way[:-1])):
        return None
    if "keys" in asked:
        # What many files give by names is about what has those.
        about = way[0][1] == RETURNED and len({*said.paths.different}) > _MOST_DATA
        return Place(sort, asked, "key", "", word, said, used=about)
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


def _texts(script: Any, tables: Tables) -> Iterator[tuple[Way, str, int, int]]:
    """The texts of a script by the ways to them, with where each stands, and where the call begins that is given it."""
    for base, node, call in _roots(script):
        for one in _within(script, tables, node, base, "", 0):
            yield *one, call
    for function in script.functions:
        if not script.local(function):
            yield (("function", "*"),), function.name, script.start(function.node), -1


def _roots(script: Any) -> Iterator[tuple[Way, Node, int]]:
    """What calls are given, what the file gives, and what names are set to; with where the call begins."""
    for written, calls in script.calls.items():
        name = _called(written)
        for call in calls if name else ():
            for number, argument in enumerate(script.arguments(call)[:_MOST_ARGUMENTS], 1):
                base: Way = (("call", name),) if number == 1 else (("call", name), ("arg", number))
                yield base, argument, script.start(call)
    # A text that a file gives as it is may be anything.
    tables = (given for given in script.returned() if (script.marked(given) or given).type in script.LISTS)
    yield from (((("assign", RETURNED),), given, -1) for given in tables)
    for target, value in script.assignments:
        name = script.string_of(target)
        if value is not None and len(name) <= 80 and not any(mark in name for mark in "\n*["):
            yield (("assign", name),), value, -1


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
