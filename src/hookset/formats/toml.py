"""TOML 1.0: values by the standard library, spans by a grammar, edits as inserted text."""

from __future__ import annotations

import json
import re
import tomllib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any, ClassVar

from msgspec import Struct

from hookset.formats._data import DataDocument, DataSeat, DataSelector
from hookset.formats._toml_reading import parsed, read_toml
from hookset.formats._values import as_words, reads_as_number
from hookset.formats.base import Body, Edit, Edits, ExistingEntry, Placement, Unreadable, WrongBody
from hookset.formats.format import Format, Snippet
from hookset.formats.pointers import escaped, steps_of
from hookset.model import Where
from hookset.model.visible import toml_escaped, visible
from hookset.trees import Text

if TYPE_CHECKING:
    from tree_sitter import Node

__all__ = ["FORMAT", "key_spans", "written"]

_PAIR = re.compile(r"""([ \t]*)(?:[\w.-]+|"[^"\n]*"|'[^'\n]*')([ \t]*=[ \t]*)""")


@dataclass(frozen=True)
class _Toml(DataDocument):
    text: Text
    data: dict[str, Any]
    problems: tuple[tuple[str, Where], ...] = ()
    MAKES: ClassVar[bool] = True

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        return {where: self._map.spans[where] for where in wheres if where in self._map.spans}

    def literals(self, old: str, value: Any) -> Iterator[str]:
        if old[:1] in ("'", '"'):
            inside = tomllib.loads(f"_ = {old}")["_"]
            words = as_words(value, inside)
            if words is None:
                return
            if old.startswith("'") and "'" not in words and words.isprintable():
                yield f"'{words}'"
            yield f'"{toml_escaped(json.dumps(words, ensure_ascii=False)[1:-1])}"'
        elif isinstance(value, str):
            if reads_as_number(value) and old not in ("true", "false"):
                yield value
        elif isinstance(value, bool) == (old in ("true", "false")):
            yield written(value)

    @cached_property
    def _map(self) -> _SpanMap:
        return _span_map(self.text)

    # Rows: one more `[[table]]`, or one more inline table where the array is written so.

    def put_row(self, seat: DataSeat, target: list[Any] | None, record: dict[str, Any] | str) -> Placement:
        newline = self.text.newline
        header = ".".join(_key(step) for step in steps_of(seat.into))
        blocks = self._map.blocks.get(seat.into, [])
        if target and not blocks:
            return self._put_inline(seat, len(target), record)
        if isinstance(record, str):
            return WrongBody("a record of keys and values")
        equals, lead = self._manner(self._map.pairs.get(f"{seat.into}/{len(blocks) - 1}", []))
        lines = [f"[[{header}]]", *(f"{lead}{_key(k)}{equals}{written(v)}" for k, v in record.items())]
        block = newline.join(lines) + newline
        if blocks:
            end = self._line_end(self._map.block_end(seat.into))
            spaced = len(blocks) < 2 or self._blank_before(blocks[-1][0])
            return self._inserted(end, (newline if spaced else "") + block)
        return self._inserted(len(self.text.string), (newline if self.text.string.strip() else "") + block)

    def _put_inline(self, seat: DataSeat, count: int, record: Mapping[str, Any] | str) -> Edits:
        last_start, last_end = self._map.spans[f"{seat.into}/{count - 1}"]
        line_start = self.text.string.rfind("\n", 0, last_start) + 1
        before = self.text.string[line_start:last_start]
        gap = self.text.newline + before if not before.strip() else " "
        return Edits((Edit(last_end, last_end, f",{gap}{written(record)}"),))

    # Keys: after the last pair of the table they go into.

    def put_keys(self, seat: DataSeat, _target: dict[str, Any] | None, missing: Mapping[str, Any]) -> Placement:
        newline = self.text.newline
        pairs = self._map.pairs.get(seat.into, [])
        equals, lead = self._manner(pairs)
        text = "".join(f"{lead}{_key(k)}{equals}{written(v)}{newline}" for k, v in missing.items())
        if pairs:
            return self._inserted(self._line_end(pairs[-1]), text)
        if not seat.into:
            # No key of the top so far: they must stand before the first table, under the opening comment.
            return self._inserted(self._header_end(), text)
        header = ".".join(_key(step) for step in steps_of(seat.into))
        if seat.into in self._map.headers:
            return self._inserted(self._line_end(self._map.headers[seat.into]), text)
        block = f"[{header}]{newline}{text}"
        return self._inserted(len(self.text.string), (newline if self.text.string.strip() else "") + block)

    def _manner(self, pairs: list[int]) -> tuple[str, str]:
        """How the last of the neighbours writes its equals sign and indents its key."""
        if not pairs:
            return " = ", ""
        start = self.text.string.rfind("\n", 0, pairs[-1]) + 1
        found = _PAIR.match(self.text.string, start)
        return (found[2], found[1]) if found else (" = ", "")

    def _inserted(self, position: int, text: str) -> Edits:
        if position and self.text.string[position - 1] != "\n":
            text = self.text.newline + text.removesuffix(self.text.newline)
        return Edits((Edit(position, position, text),))

    def _line_end(self, offset: int) -> int:
        return self.text.string.find("\n", offset) + 1 or len(self.text.string)

    def _blank_before(self, start: int) -> bool:
        return self.text.string[:start].replace("\r", "").endswith("\n\n")

    def _header_end(self) -> int:
        opening = re.match(r"(?:[ \t]*#[^\n]*\n)+", self.text.string)
        return opening.end() if opening else 0


class _SpanMap(Struct, frozen=True):
    """Where everything stands, by JSON Pointer."""

    spans: dict[str, tuple[int, int]]
    keys: dict[str, int]
    """Offset of the key of each pair and table."""
    blocks: dict[str, list[tuple[int, int]]]
    """Start and end of each `[[table]]` header."""
    headers: dict[str, int]
    """Each `[table]` header."""
    pairs: dict[str, list[int]]
    """The pairs of each table that are written under its own header (or at the top), by offset."""

    def block_end(self, address: str) -> int:
        """Where the last `[[table]]` of an array ends, tables below it included."""
        last = f"{address}/{len(self.blocks[address]) - 1}"
        ends = [span[1] for where, span in self.spans.items() if where == last or where.startswith(f"{last}/")]
        return max(ends)


def _span_map(text: Text) -> _SpanMap:
    walk = _Walk(text, _SpanMap({}, {}, {}, {}, {}))
    for child in parsed(text.utf8).root_node.named_children:
        if child.type == "pair":
            walk.pair_of(child, "")
        elif child.type in ("table", "table_array_element"):
            walk.table(child)
    return walk.map


class _Walk:
    """One walk over the tree of a file, which notes where everything stands."""

    def __init__(self, text: Text, noted: _SpanMap) -> None:
        self._text = text
        self.map = noted
        self._counts: dict[str, int] = {}
        """Blocks of each array of tables so far."""

    def _span(self, node: Node) -> tuple[int, int]:
        return self._text.char_at(node.start_byte), self._text.char_at(node.end_byte)

    def _steps(self, node: Node) -> list[str]:
        if node.type == "dotted_key":
            return [step for child in node.named_children for step in self._steps(child)]
        return [_decoded(self._text.string[slice(*self._span(node))])]

    def _value(self, node: Node, at: str) -> None:
        self.map.spans[at] = self._span(node)
        if node.type == "array":
            items = [child for child in node.named_children if child.type != "comment"]
            for index, child in enumerate(items):
                self._value(child, f"{at}/{index}")
        elif node.type == "inline_table":
            for child in node.named_children:
                if child.type == "pair":
                    self._pair(child, at)

    def _pair(self, node: Node, at: str) -> None:
        key, content = (child for child in node.named_children if child.type != "comment")
        whole = at + "".join(f"/{escaped(step)}" for step in self._steps(key))
        self.map.keys[whole] = self._span(key)[0]
        self._value(content, whole)

    def pair_of(self, node: Node, table: str) -> None:
        """A pair that is written under the header of its table, or at the top."""
        self._pair(node, table)
        self.map.pairs.setdefault(table, []).append(self._span(node)[0])

    def table(self, node: Node) -> None:
        key = next(child for child in node.named_children if child.type != "comment")
        at = self._address(node, key)
        self.map.keys[at] = self._span(key)[0]
        self.map.headers.setdefault(at, self._span(key)[1])
        end = self._span(key)[1] + (2 if node.type == "table_array_element" else 1)
        for child in node.named_children:
            if child.type == "pair":
                self.pair_of(child, at)
                end = self._span(child)[1]
        self.map.spans[at] = (self._span(node)[0], end)

    def _address(self, node: Node, key: Node) -> str:
        """The JSON Pointer of a table: each `[[block]]` of an array counts on."""
        at = ""
        names = self._steps(key)
        for depth, step in enumerate(names):
            at += f"/{escaped(step)}"
            if depth == len(names) - 1 and node.type == "table_array_element":
                self.map.blocks.setdefault(at, []).append((self._span(node)[0], self._span(key)[1]))
                number = self._counts.get(at, 0)
                self._counts[at] = number + 1
                at += f"/{number}"
            elif at in self._counts:
                at += f"/{self._counts[at] - 1}"
        return at


def key_spans(text: Text) -> dict[str, int]:
    """Where the key of each pair and table stands, by JSON Pointer: for complaints about a key itself."""
    return _span_map(text).keys


def written(value: Any) -> str:
    """A value as TOML, on one line."""
    if isinstance(value, str):
        if '"' in value and "'" not in value and value.isprintable() and visible(value) == value:
            return f"'{value}'"
        # What JSON escapes in a string, TOML's basic strings escape alike.
        return toml_escaped(json.dumps(value, ensure_ascii=False))
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int | float):
        return repr(value)
    if isinstance(value, Mapping):
        return "{ " + ", ".join(f"{_key(k)} = {written(v)}" for k, v in value.items()) + " }" if value else "{}"
    if isinstance(value, Sequence):
        return "[" + ", ".join(written(item) for item in value) + "]"
    return str(value)


def document_of(data: Mapping[str, Any]) -> str:
    """A whole TOML document of tables and values."""
    return "\n".join(_table_lines("", data)).strip("\n") + "\n"


def _table_lines(name: str, table: Mapping[str, Any]) -> list[str]:
    values = {key: value for key, value in table.items() if not isinstance(value, Mapping)}
    lines = [f"[{name}]"] if name and values else []
    lines += [f"{_key(key)} = {written(value)}" for key, value in values.items()]
    for key, value in table.items():
        if isinstance(value, Mapping):
            lines += ["", *_table_lines(f"{name}.{_key(key)}" if name else _key(key), value)]
    return lines


def _key(key: str) -> str:
    return key if re.fullmatch(r"[A-Za-z0-9_-]+", key) else written(key)


def _decoded(key: str) -> str:
    if key[:1] not in "\"'":
        return key
    return next(iter(tomllib.loads(f"{key} = 0")))


class _TomlFormat(Format):
    title: ClassVar[str] = "TOML"
    selector: ClassVar[type[Struct]] = DataSelector
    seat: ClassVar[type[Struct]] = DataSeat
    bodies: ClassVar[Sequence[str]] = ("record", "text")
    has_rows: ClassVar[bool] = True
    has_parts: ClassVar[bool] = True
    largest: ClassVar[int] = 16 << 20

    def pasted(self, seat: DataSeat, snippet: Snippet) -> tuple[ExistingEntry, ...]:
        try:
            document = self.open(Text(snippet.text, "utf-8"), None)
        except Unreadable:
            return self._inline(snippet.text)
        return document.pasted(seat)

    def _inline(self, text: str) -> tuple[ExistingEntry, ...]:
        """A row on one line, with its braces or without them."""
        flat = " ".join(text.split()).rstrip(",")
        row = flat if flat.startswith("{") else f"{{ {flat} }}"
        try:
            one = tomllib.loads(f"_ = {row}")["_"]
        except (ValueError, RecursionError):
            return ()
        return (ExistingEntry(0, len(text), Body(record=one)),) if isinstance(one, dict) and one else ()

    def open(self, source: Text | bytes, _options: Any) -> _Toml:
        assert isinstance(source, Text)
        return _Toml(source, read_toml(source))


FORMAT = _TomlFormat()
