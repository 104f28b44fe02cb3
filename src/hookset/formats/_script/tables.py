"""Setting items into a table, an object or a list that a script has written out."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from tree_sitter import Node

from hookset.formats._script.script import RETURNED, Script
from hookset.formats._writing import lead_of, written_lines
from hookset.formats.base import AlreadyThere, Body, Clash, Edit, Edits, ExistingEntry, NoSeat, Placement, WrongBody
from hookset.trees import Text

__all__ = ["existing_items", "pair", "pasted_items", "put_into", "put_items", "tables_at"]

_PLAIN = re.compile(r"[A-Za-z_]\w*")


def tables_at(script: Script, way: str) -> list[Node]:
    """The tables that a way leads to: a name, `return` for what the file gives, or `NAME()` for what a call is given;
    then keys with dots between them. Several where several calls are meant."""
    first, _, rest = way.partition(".")
    if first.endswith("()"):
        given = (script.arguments(call)[:1] for call in script.calls.get(first[:-2], []))
        found = [one for ones in given for one in ones]
    elif first == RETURNED:
        found = list(script.returned())
    else:
        names = [name for name, _ in script.bindings if way == name or way.startswith(f"{name}.")]
        if not names:
            return []
        first = max(names, key=len)
        rest = way[len(first) + 1 :]
        found = [value for name, value in script.bindings if name == first]
    for step in rest.split(".") if rest else ():
        found = [value for one in found for key, value in script.items(one) if key == step]
    return [one for one in map(script.unwrapped, found) if one.type in script.LISTS]


def put_items(script: Script, way: str, at: str, form: str, body: Body) -> Placement:
    """How `body` would be set as an item (`form` row: a record is one item) or as several of the table at `way`."""
    tables = tables_at(script, way)
    if len(tables) != 1:
        often = f" (there are {len(tables)})" if tables else ""
        return NoSeat(f"one table at {way}{often}", tuple(dict.fromkeys(name for name, _ in script.bindings)))
    table = tables[0]
    opening, closing = (script.string_of(table.children[0]), script.string_of(table.children[-1]))
    text = body.text if body.text is not None else _written_record(script, body.record or {}, form)
    wanted = _items_of(type(script), text, (opening, closing))
    if not wanted:
        return WrongBody(f"items of a table in {script.TITLE}, which it does not parse as")
    there = _items(table)
    by_tokens = {script.tokens(item): item for item in there}
    if all(tokens in by_tokens for tokens, _ in wanted):
        return AlreadyThere(script.start(by_tokens[wanted[0][0]]))
    keys = {key: item for item in there if (key := _key(script, item))}
    for tokens, key in wanted:
        if key and key in keys and tokens not in by_tokens:
            return Clash(script.start(keys[key]), f"{key} is {script.string_of(keys[key])[:60]}")
    return Edits(tuple(_edits(script, table, there, text.strip().rstrip(",;"), at)))


def put_into(script: Script, table: Node, text: str) -> Iterator[Edit]:
    """How items, as text, go to the end of a table."""
    return _edits(script, table, _items(table), text, "end")


def existing_items(script: Script, way: str) -> Iterator[ExistingEntry]:
    """The items of the table at `way`, as text."""
    for table in tables_at(script, way)[:1]:
        for item in _items(table):
            yield ExistingEntry(script.start(item), script.end(item), Body(text=script.string_of(item)))


def pasted_items(language: type[Script], text: str, rows: bool) -> Iterator[ExistingEntry]:
    """The items that a text is which shows no table around them: `["bell"] = 1,`; `rows` for a list of records."""
    head, brackets = "x = ", language.LIST if rows else ("{", "}")
    script = language(Text(f"{head}{brackets[0]}{text}\n{brackets[1]}", "utf-8"))
    items = _items(script.bindings[0][1]) if script.parses and script.bindings else []
    skipped = len(head) + len(brackets[0])
    plain = (_key(script, item) == "" for item in items)
    if items and all(one == rows for one in plain):
        for item in items:
            yield ExistingEntry(
                script.start(item) - skipped, script.end(item) - skipped, Body(text=script.string_of(item))
            )


def _items(table: Node) -> list[Node]:
    return [child for child in table.named_children if child.type != "comment"]


def _items_of(language: type[Script], text: str, brackets: tuple[str, str]) -> list[tuple[tuple[str, ...], str]]:
    """(tokens, key) of each item that a text is; none for what does not parse."""
    script = language(Text(f"x = {brackets[0]}\n{text}\n{brackets[1]}", "utf-8"))
    if not script.parses or len(script.bindings) < 1:
        return []
    return [(script.tokens(item), _key(script, item)) for item in _items(script.bindings[0][1])]


def _key(script: Script, item: Node) -> str:
    """What an item is called; empty for one that goes by its place."""
    name = item.child_by_field_name("name") or item.child_by_field_name("key")
    if name is None:
        return ""
    source = script.string_of(name)
    return script.unquoted(source) if name.type in script.STRING else source


def _written_record(script: Script, record: Mapping[str, Any], form: str) -> str:
    if form == "row":
        return _written(script, record)
    return ",\n".join(pair(script, key, value) for key, value in record.items())


def pair(script: Script, key: str, value: Any) -> str:
    """A key and its value as the language writes them in a table."""
    return f"{next(keys_written(script, key))}{script.PAIR}{_written(script, value)}"


def keys_written(script: Script, key: str) -> Iterator[str]:
    """The ways to write a key in a table, the likeliest first: words of the language are no plain names."""
    if _PLAIN.fullmatch(key) and key not in script.RESERVED:
        yield key
    yield script.KEY.format(_written(script, key))


def _written(script: Script, value: Any) -> str:
    """A value as the language writes it."""
    if isinstance(value, str):
        return next(iter(script.quoted('""', value)))
    if isinstance(value, Mapping):
        inside = ", ".join(pair(script, key, one) for key, one in value.items())
        return f"{{ {inside} }}" if inside else "{}"
    if isinstance(value, list | tuple):
        return script.LIST[0] + ", ".join(_written(script, one) for one in value) + script.LIST[1]
    return script.NOTHING if value is None else json.dumps(value)


def _edits(script: Script, table: Node, there: Sequence[Node], text: str, at: str) -> Iterator[Edit]:
    string, newline = script.text.string, script.text.newline
    outer = lead_of(string, script.start(table))
    if not there:
        first, last = script.end(table.children[0]), script.start(table.children[-1])
        lines = written_lines(script.text, text, outer + script.text.indent)
        kept = string[first:last].rstrip()
        yield Edit(first + len(kept), last, f"{newline}{lines},{newline}{outer}")
        return
    if at == "start":
        start = script.start(there[0])
        lead = lead_of(string, start)
        own_line = not string[string.rfind("\n", 0, start) + 1 : start].strip()
        lines = written_lines(script.text, text, lead if own_line else "")
        yield Edit(start, start, f"{lines.removeprefix(lead)},{newline + lead if own_line else ' '}")
        return
    yield from _behind(script, table, there[-1], text)


def _behind(script: Script, table: Node, last: Node, text: str) -> Iterator[Edit]:
    """Behind the last item, with the commas that are needed."""
    string, end = script.text.string, script.end(last)
    behind = last.next_sibling
    while behind is not None and behind.type == "comment":
        behind = behind.next_sibling
    comma = behind is not None and script.string_of(behind) in (",", ";")
    line_start = string.rfind("\n", 0, script.start(last)) + 1
    if string.find("\n", end, script.start(table.children[-1])) < 0 or string[line_start : script.start(last)].strip():
        # All of it stands on one line, or several items stand on each.
        at = script.end(behind) if comma and behind is not None else end
        yield Edit(at, at, f"{'' if comma else ','} {' '.join(text.split(chr(10)))}")
        return
    below = string.find("\n", script.end(behind) if comma and behind is not None else end)
    at = below - (string[below - 1] == "\r")
    lines = written_lines(script.text, text, lead_of(string, script.start(last)))
    if not comma and at > end:
        yield Edit(end, end, ",")
    yield Edit(at, at, f"{'' if comma or at > end else ','}{script.text.newline}{lines}{',' if comma else ''}")
