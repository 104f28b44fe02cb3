"""YAML 1.1 as people write it: values and places from one parse, edits as inserted lines."""

from __future__ import annotations

import json
import re
import textwrap
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, ClassVar

import yaml
from msgspec import Struct

from hookset.formats._data import DataDocument, DataSeat, DataSelector
from hookset.formats._values import as_words, flag_like, reads_as_number
from hookset.formats._yaml_tree import YamlOptions, data_of, is_text, keys_given_twice, last_of, node_of
from hookset.formats.base import Edit, Edits, ExistingEntry, NoSeat, Placement, Unreadable
from hookset.formats.format import Format, Snippet
from hookset.formats.pointers import escaped, steps_of
from hookset.model import Where
from hookset.model.visible import toml_escaped
from hookset.trees import Text

__all__ = ["FORMAT"]

_PLAIN = re.compile(r"[A-Za-zÀ-ɏ_/.][\wÀ-ɏ ./+-]*[\wÀ-ɏ/+]|[A-Za-zÀ-ɏ_]")
_WORDS = {"true", "false", "yes", "no", "on", "off", "null", "y", "n"}


@dataclass(frozen=True)
class _Yaml(DataDocument):
    text: Text
    root: Any
    """The node that the file is made of; None for an empty one."""
    data: Any
    problems: tuple[tuple[str, Where], ...] = ()
    MAKES: ClassVar[bool] = True

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        found: dict[Where, tuple[int, int]] = {}
        for where in wheres:
            node = self._nodes.get(str(where))
            if node is not None:
                found[where] = (node.start_mark.index, last_of(node).end_mark.index)
        return found

    def literals(self, old: str, value: Any) -> Iterator[str]:
        plain = old[:1] not in ("'", '"', "|", ">")
        if not isinstance(value, str) and plain:
            flag = flag_like(old, value) if isinstance(value, bool) else None
            yield flag or json.dumps(value)
            return
        words = as_words(value, old.strip("'\""))
        if words is None:
            return
        if plain:
            yield words if reads_as_number(old) and reads_as_number(words) else _scalar(words)
        elif old.startswith("'") and words.isprintable():
            yield "'" + words.replace("'", "''") + "'"
        yield _quoted(words)

    @cached_property
    def repeated(self) -> list[str]:
        return keys_given_twice(self._nodes)

    @cached_property
    def _nodes(self) -> dict[str, Any]:
        """Nodes by JSON Pointer."""
        found: dict[str, Any] = {}

        def visit(node: Any, at: str) -> None:
            found[at] = node
            if isinstance(node, yaml.MappingNode):
                for key, value in node.value:
                    visit(value, f"{at}/{escaped(str(key.value))}")
            elif isinstance(node, yaml.SequenceNode):
                for index, value in enumerate(node.value):
                    visit(value, f"{at}/{index}")

        if self.root is not None:
            visit(self.root, "")
        return found

    def put_row(self, seat: DataSeat, _target: list[Any] | None, record: dict[str, Any] | str) -> Placement:
        return self._inserted(seat, [_row(record, self._indent)], [_value(record)])

    def put_keys(self, seat: DataSeat, _target: dict[str, Any] | None, missing: Mapping[str, Any]) -> Placement:
        pairs = ["\n".join(_pair(key, value, self._indent)) for key, value in missing.items()]
        return self._inserted(seat, pairs, [f"{_scalar(key)}: {_value(value)}" for key, value in missing.items()])

    @property
    def _indent(self) -> str:
        """Of a level deeper; tabs are none in YAML."""
        return self.text.indent if not self.text.indent.strip(" ") else "  "

    def _inserted(self, seat: DataSeat, block: list[str], flow: list[str]) -> Placement:
        node = self._nodes.get(seat.into)
        string, newline = self.text.string, self.text.newline
        if node is None or not node.value or isinstance(node, yaml.ScalarNode):
            return self._first(seat, node, block)
        if node.flow_style:
            end = last_of(node.value[-1] if seat.form == "row" else node.value[-1][1]).end_mark.index
            return Edits((Edit(end, end, "".join(f", {item}" for item in flow)),))
        children = node.value if seat.form == "row" else [key for key, _ in node.value]
        first = children[0].start_mark.index
        column = string.rfind("\n", 0, first) + 1
        lead = re.match(r"[ ]*(?=-|\S)", string[column:first] or "")
        blanks = " " * children[0].start_mark.column if seat.form == "keys" else (lead.group() if lead else "")
        lines = [_indented(item, blanks, newline) for item in block]
        if seat.at == "start":
            return Edits((Edit(column, column, "".join(line + newline for line in lines)),))
        end = _line_end(string, last_of(node).end_mark.index)
        if end and string[end - 1] != "\n":
            return Edits((Edit(end, end, "".join(newline + line for line in lines)),))
        return Edits((Edit(end, end, "".join(line + newline for line in lines)),))

    def _first(self, seat: DataSeat, node: Any, block: list[str]) -> Placement:
        """Into a list or keys that are not there yet, or are empty."""
        string, newline = self.text.string, self.text.newline
        steps = steps_of(seat.into)
        gap = "" if not string or string.endswith("\n") else newline
        if not steps:
            text = "".join(_indented(item, "", newline) + newline for item in block)
            return Edits((Edit(len(string), len(string), gap + text),))
        if node is None:
            if len(steps) > 1:
                return NoSeat(f"{seat.into} in this file")
            text = f"{_scalar(steps[0])}:{newline}"
            text += "".join(_indented(item, self.text.indent, newline) + newline for item in block)
            return Edits((Edit(len(string), len(string), gap + text),))
        start, end = node.start_mark.index, node.end_mark.index
        line = string.rfind("\n", 0, start) + 1
        lead = re.match(r" *", string[line:])
        blanks = (lead.group() if lead else "") + self.text.indent
        text = "".join(newline + _indented(item, blanks, newline) for item in block)
        while start > line and string[start - 1] == " ":
            start -= 1
        return Edits((Edit(start, end, text),))


def _line_end(string: str, offset: int) -> int:
    if offset and string[offset - 1] == "\n":
        return offset
    return string.find("\n", offset) + 1 or len(string)


def _indented(item: str, blanks: str, newline: str) -> str:
    return newline.join(blanks + line for line in item.split("\n"))


def _row(record: Mapping[str, Any] | str, indent: str) -> str:
    if isinstance(record, str):
        return f"- {_scalar(record)}"
    lines = [line for key, value in record.items() for line in _pair(key, value, indent)]
    return "- " + "\n  ".join(lines or ["{}"])


def _pair(key: str, value: Any, indent: str) -> list[str]:
    """A key and its value, on as many lines as it has keys of its own; lists stay on one."""
    if not isinstance(value, Mapping) or not value:
        return [f"{_scalar(key)}: {_value(value)}"]
    below = [line for name, inner in value.items() for line in _pair(name, inner, indent)]
    return [f"{_scalar(key)}:", *(indent + line for line in below)]


def _value(value: Any) -> str:
    """On one line; what holds more than one thing in flow style."""
    if isinstance(value, list | tuple):
        return f"[{', '.join(map(_in_flow, value))}]"
    if isinstance(value, Mapping):
        return "{" + ", ".join(f"{_in_flow(key)}: {_in_flow(inner)}" for key, inner in value.items()) + "}"
    return _scalar(value) if isinstance(value, str) else json.dumps(value, ensure_ascii=False)


def _in_flow(value: Any) -> str:
    """A value between brackets, where commas and brackets mean something."""
    plain = _value(value)
    return _quoted(value) if isinstance(value, str) and re.search(r"[,\[\]{}]", plain) else plain


def _scalar(value: Any) -> str:
    text = str(value)
    if isinstance(value, str) and (not _PLAIN.fullmatch(text) or text.lower() in _WORDS or not is_text(text)):
        return _quoted(text)
    return text


def _quoted(text: str) -> str:
    """In double quotes, which hold any text: what JSON escapes, YAML escapes alike."""
    return toml_escaped(json.dumps(text, ensure_ascii=False))


class _YamlFormat(Format):
    title: ClassVar[str] = "YAML"
    selector: ClassVar[type[Struct]] = DataSelector
    seat: ClassVar[type[Struct]] = DataSeat
    options: ClassVar[type[Struct]] = YamlOptions
    bodies: ClassVar[Sequence[str]] = ("record", "text")
    has_rows: ClassVar[bool] = True
    has_parts: ClassVar[bool] = True
    largest: ClassVar[int] = 64 << 20

    def pasted(self, seat: DataSeat, snippet: Snippet) -> tuple[ExistingEntry, ...]:
        try:
            document = self.open(Text(textwrap.dedent(snippet.text), "utf-8"), YamlOptions())
        except Unreadable:
            return ()
        return document.pasted(seat)

    def open(self, source: Text | bytes, options: YamlOptions) -> _Yaml:
        assert isinstance(source, Text)
        root = node_of(source.string, options)
        return _Yaml(source, root, data_of(root))


FORMAT = _YamlFormat()
