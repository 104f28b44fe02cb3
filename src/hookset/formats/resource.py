"""Text resources: `[node name="Gate" parent="."]` with `key = value` below, as the Godot engine (version 3) writes
scenes, resources and its project file."""

from __future__ import annotations

import posixpath
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, ClassVar

from msgspec import Struct

from hookset.formats._resources import Entry, Section, Term, read_sections
from hookset.formats._values import as_words, reads_as_number
from hookset.formats._wildcards import meant
from hookset.formats.base import (
    AlreadyThere,
    Body,
    Clash,
    Edit,
    Edits,
    ExistingEntry,
    Placement,
    Unreadable,
    Value,
    WrongBody,
)
from hookset.formats.document import Editable, HasFields, HasRows, HasUnits, Writable
from hookset.formats.format import Format, Snippet
from hookset.model import Where
from hookset.trees import Text

__all__ = ["FORMAT", "ResourceSeat", "ResourceSelector"]

_NODES = ("from", "to", "parent")
"""Attributes that name a node of the scene."""


class ResourceSelector(Struct, frozen=True, forbid_unknown_fields=True):
    """Values by section and key. `@path` is an attribute of the heading; `*` stands for anything."""

    section: str = "*"
    at: str = ""
    """`@attribute` or a key; the value itself where that is one text or word."""
    call: str = ""
    """Only what such a call is given, wherever in the value it stands: `ExtResource`, `NodePath`."""
    deep: bool = False
    """Every text in the value, those in lists and tables as well; keys of tables not."""
    way: bool = False
    """It names a node by its way from this one, from the root of the scene in headings: what is meant is the way from
    the root. Nodes of another scene that stands here are not known, and left out."""
    keys: bool = False
    """The keys of the section; without `at`."""
    nodes: bool = False
    """The ways of the nodes in a scene: `.` for the root, `Quay/Gate` for one in another; without `at`."""
    below: str = ""
    """With `nodes`: instead, of each node that has this key or `@attribute`, the ways to those below it; `Gate/*` for
    what stands in another scene."""
    when: dict[str, str] = {}
    """Only sections in which these attributes (`@type`) and keys say so; `*` stands for anything, `` for nothing."""

    def __post_init__(self) -> None:
        if bool(self.at) + self.keys + self.nodes != 1:
            raise ValueError("one of at, keys and nodes says what is meant")
        if self.below and not self.nodes:
            raise ValueError("`below` goes with `nodes`")


class ResourceSeat(Struct, frozen=True, forbid_unknown_fields=True):
    """Where entries go."""

    section: str = ""
    """The section that takes keys with their values; it is made where there is none."""
    into: str = ""
    """The key in that section whose list takes texts."""
    behind: str = ""
    """Or whole sections, behind the last of this word, or before those that stand behind such."""

    def __post_init__(self) -> None:
        if bool(self.section) == bool(self.behind) or (self.into and not self.section):
            raise ValueError("one of section and behind says where; `into` goes with section")


_ORDER = ("gd_scene", "gd_resource", "ext_resource", "sub_resource", "resource", "node", "connection", "editable")


@dataclass(frozen=True)
class _Resource(HasRows, HasFields, HasUnits, Writable, Editable):
    text: Text
    sections: tuple[Section, ...]
    problems: tuple[tuple[str, Where], ...] = ()

    def select(self, selector: ResourceSelector) -> Iterator[Value]:
        yield from (value for value, _ in self._selected(selector))

    def _selected(self, selector: ResourceSelector) -> Iterator[tuple[Value, Section]]:
        if selector.below:
            yield from self._from_nodes_with(selector.below)
            return
        for section in self.sections:
            if not meant(selector.section)(section.word) or not self._meant(section, selector.when):
                continue
            if selector.nodes:
                if section.word == "node" and "name" in section.attributes:
                    yield Value(self._ways[section.start], section.attributes["name"].start), section
            elif selector.keys:
                yield from ((Value(entry.key, entry.key_start), section) for entry in section.entries)
            else:
                for term in _terms(section, selector.at):
                    values = _values(term, selector)
                    values = self._led(section, selector, values) if selector.way else values
                    yield from ((value, section) for value in values)

    def _from_nodes_with(self, key: str) -> Iterator[tuple[Value, Section]]:
        """The ways from each node that has a key to all below it."""
        having = {way: node for way, node in self._nodes.items() if next(_terms(node, key), None) is not None}
        for way, node in self._nodes.items():
            parts = [] if way == "." else way.split("/")
            for depth in range(len(parts) + 1):
                above = having.get("/".join(parts[:depth]) or ".")
                if above is None:
                    continue
                below = "/".join(parts[depth:])
                if below:
                    yield (
                        Value(below, node.attributes["name"].start if "name" in node.attributes else node.start),
                        above,
                    )
                if "instance" in node.attributes:
                    yield Value(f"{below}/*".lstrip("/"), node.start, pattern=True), above

    def _led(self, section: Section, selector: ResourceSelector, values: Iterable[Value]) -> Iterator[Value]:
        """To which nodes ways lead."""
        start = "." if selector.at.startswith("@") else self._ways.get(section.start, ".")
        for value in values:
            said = value.text.partition(":")[0]
            way = posixpath.normpath(posixpath.join(start, said)) if said and not said.startswith("/") else ""
            if way and not way.startswith("..") and (way in self._nodes or not self._in_another(way)):
                yield Value(way, value.where)

    def _in_another(self, way: str) -> bool:
        """Whether a node would be one of another scene that stands here."""
        parts = way.split("/")
        above = [".", *("/".join(parts[:depth]) for depth in range(1, len(parts)))]
        return any("instance" in self._nodes[one].attributes for one in above if one in self._nodes)

    def _meant(self, section: Section, when: Mapping[str, str]) -> bool:
        for name, pattern in when.items():
            terms = list(_terms(section, name))
            said = self._plainly(terms[0]) if terms else ""
            if bool(said) != bool(pattern) or not meant(pattern)(said):
                return False
        return True

    def rows(self, selector: ResourceSelector) -> Iterator[tuple[Value, Mapping[str, str]]]:
        """With the attributes and the keys of its section; of a scene with the way of the node, and for attributes that
        name another node what that one says: `to_script`. A reference to an outer resource is its path."""
        for value, section in self._selected(selector):
            row = {"section": section.word, **self._record(section)}
            if section.word == "node":
                row["way"] = self._ways[section.start]
            for name in _NODES:
                other = self._nodes.get(section.said(name)) if name in section.attributes else None
                if other is not None:
                    row |= {f"{name}_{key}": said for key, said in self._record(other).items()}
            yield value, row

    def records(self, selector: ResourceSelector) -> Iterator[tuple[Where, Any]]:
        """Each section as its attributes and keys, all of them text."""
        for section in self.sections:
            if meant(selector.section)(section.word) and self._meant(section, selector.when):
                yield section.start, self._record(section)

    def field(self, record: Where, key: str) -> Where:
        section = next((one for one in self.sections if one.start == record), None)
        terms = list(_terms(section, key)) if section is not None else []
        terms += list(_terms(section, f"@{key}")) if section is not None and not terms else []
        return terms[0].start if terms else record

    def _record(self, section: Section) -> dict[str, str]:
        attributes = {name: self._plainly(term) for name, term in section.attributes.items()}
        return {**attributes, **{entry.key: self._plainly(entry.value) for entry in section.entries}}

    def _plainly(self, term: Term) -> str:
        """What a value says: of a reference to an outer resource its path, of another call what stands in it."""
        if term.kind == "call" and len(term.inner) == 1:
            inner = term.inner[0].said
            return self._outer.get(inner, inner) if term.said == "ExtResource" else inner
        return self.text.string[term.start : term.end] if term.kind == "call" else term.said

    @cached_property
    def _outer(self) -> dict[str, str]:
        """By their numbers: the paths of outer resources."""
        return {one.said("id"): one.said("path") for one in self.sections if one.word == "ext_resource"}

    @cached_property
    def _ways(self) -> dict[int, str]:
        """By where a node's heading begins: its way."""
        ways: dict[int, str] = {}
        for section in self.sections:
            if section.word == "node":
                name = section.said("name")
                parent = section.said("parent") if "parent" in section.attributes else None
                ways[section.start] = "." if parent is None else name if parent == "." else f"{parent}/{name}"
        return ways

    @cached_property
    def _nodes(self) -> dict[str, Section]:
        return {self._ways[one.start]: one for one in self.sections if one.word == "node"}

    @cached_property
    def _ends(self) -> dict[int, int]:
        """By where a value or a key begins: where it ends."""
        found: dict[int, int] = {}
        for section in self.sections:
            found[section.start] = section.head_end
            for term in (*section.attributes.values(), *(entry.value for entry in section.entries)):
                found |= {one.start: one.end for one in term.walk()}
            found |= {entry.key_start: entry.key_end for entry in section.entries}
        return found

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        ends = self._ends
        return {where: (where, ends[where]) for where in wheres if isinstance(where, int) and where in ends}

    def writings(self, span: tuple[int, int], value: Any) -> Iterator[Edit]:
        start, end = span
        string = self.text.string
        words = as_words(value, string[start:end])
        if words is None:
            return
        if string[start - 1 : start] == '"' and string[end : end + 1] == '"':
            yield Edit(start, end, words.replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\n"))
        elif reads_as_number(words) == reads_as_number(string[start:end]) and words.strip() == words:
            yield Edit(start, end, words)

    def unit(self, where: Where) -> ExistingEntry | None:
        section = next((one for one in self.sections if one.start <= int(where) < max(one.end, one.head_end)), None)
        return None if section is None else self._whole(section)

    def _whole(self, section: Section) -> ExistingEntry:
        end = self._line_end(section.end)
        return ExistingEntry(section.start, end, Body(text=self.text.string[section.start : end]))

    def _line_end(self, at: int) -> int:
        newline = self.text.string.find("\n", at)
        return len(self.text.string) if newline < 0 else newline + 1

    def existing(self, seat: ResourceSeat) -> Iterator[ExistingEntry]:
        for section in self.sections:
            if seat.behind and section.word == seat.behind:
                yield self._whole(section)
            elif seat.into and section.word == seat.section:
                listed = (entry.value for entry in section.entries if entry.key == seat.into)
                for term in (one for value in listed for one in value.inner if one.kind == "text"):
                    yield ExistingEntry(term.start - 1, term.end + 1, Body(text=f'"{term.said}"'))
            elif seat.section and section.word == seat.section:
                for entry in section.entries:
                    end = self._line_end(entry.end)
                    text = self.text.string[entry.key_start : end]
                    yield ExistingEntry(entry.key_start, end, Body(text=text))

    def put(self, seat: ResourceSeat, body: Body) -> Placement:
        if seat.into:
            return self._put_into(seat, body.text or "")
        source = body.text
        if source is None and body.record is not None and seat.section:
            source = "\n".join(f"{key}={_written(value)}" for key, value in body.record.items())
        try:
            new = read_sections(source or "")
        except Unreadable:
            new = []
        return (
            self._put_keys(seat.section, new, source or "")
            if seat.section
            else self._put_sections(seat.behind, new, source or "")
        )

    def _put_keys(self, word: str, new: Sequence[Section], source: str) -> Placement:
        if len(new) != 1 or new[0].word not in ("", word) or not new[0].entries:
            return WrongBody("keys with their values")
        here = [section for section in self.sections if section.word == word]
        there = {entry.key: entry for section in here for entry in section.entries}
        missing: list[Entry] = []
        for entry in new[0].entries:
            old = there.get(entry.key)
            if old is None:
                missing.append(entry)
            elif _meaning(old.value) != _meaning(entry.value):
                said = self.text.string[old.value.start : old.value.end]
                return Clash(
                    old.value.start, f"{entry.key} is {said!r}, not {source[entry.value.start : entry.value.end]!r}"
                )
        if not missing:
            return AlreadyThere(there[new[0].entries[0].key].key_start)
        newline = self.text.newline
        lines = newline.join("\n".join(_lines(source, entry)).replace("\n", newline) for entry in missing) + newline
        if here:
            at = self._line_end(here[-1].end)
            gap = "" if here[-1].entries else newline
            return self._inserted(at, gap + lines)
        return self._inserted(len(self.text.string), f"{newline}[{word}]{newline}{newline}{lines}")

    def _put_into(self, seat: ResourceSeat, source: str) -> Placement:
        """One more text in a list; the list itself where there is none."""
        said = source.strip().strip('"')
        if not said or '"' in said or "\n" in said:
            return WrongBody("one text, in quotes or without")
        section = next((one for one in self.sections if one.word == seat.section), None)
        held = [entry.value for entry in section.entries if entry.key == seat.into] if section is not None else []
        if not held:
            line = f'{seat.into}=PoolStringArray( "{said}" )'
            return self._put_keys(seat.section, read_sections(line), line)
        if there := next((one for one in held[0].inner if one.said == said), None):
            return AlreadyThere(there.start)
        if not held[0].inner:
            at = self.text.string.index("[" if held[0].kind == "list" else "(", held[0].start) + 1
            return Edits((Edit(at, at, f' "{said}" '),))
        at = held[0].inner[-1].end + (1 if held[0].inner[-1].kind == "text" else 0)
        return Edits((Edit(at, at, f', "{said}"'),))

    def _put_sections(self, word: str, new: Sequence[Section], source: str) -> Placement:
        if not new or any(section.word != word for section in new):
            return WrongBody(f"sections that begin with [{word} …]")
        there = {_identity(section): section for section in self.sections}
        numbers = {section.said("id"): section for section in self.sections if section.word == word}
        missing: list[str] = []
        for section, end in zip(new, [*(one.start for one in new[1:]), len(source)], strict=True):
            old = there.get(_identity(section))
            if old is None and section.said("id") and section.said("id") in numbers:
                other = numbers[section.said("id")]
                return Clash(other.start, f"[{word}] {other.said('path')} has the number {section.said('id')} here")
            if old is None:
                missing.append(source[section.start : end].strip())
            elif _all_of(old) != _all_of(section):
                name = section.said("name") or section.said("path") or word
                return Clash(old.start, f"[{word}] {name} is there and says something else")
        if not missing:
            return AlreadyThere(there[_identity(new[0])].start)
        newline = self.text.newline
        gap = newline if word in ("ext_resource", "connection") else newline * 2
        block = gap.join(one.replace("\n", newline) for one in missing) + newline
        before = [section for section in self.sections if _rank(section.word) <= _rank(word)]
        if not before:
            return self._inserted(0, block + newline)
        last = before[-1]
        lead = "" if last.word == word and word in ("ext_resource", "connection") else newline
        return self._inserted(self._line_end(last.end), lead + block)

    def _inserted(self, at: int, text: str) -> Edits:
        if at and self.text.string[at - 1] != "\n":
            text = self.text.newline + text
        return Edits((Edit(at, at, text),))


def _span(entry: Entry) -> tuple[int, int]:
    return entry.value.start, entry.value.end


def _rank(word: str) -> int:
    return _ORDER.index(word) if word in _ORDER else len(_ORDER)


def _lines(source: str, entry: Entry) -> list[str]:
    return source[entry.key_start : entry.end].splitlines()


def _identity(section: Section) -> tuple[str, ...]:
    """By what a section is told from others of its word."""
    names = ("path",) if section.word == "ext_resource" else ("name", "parent", "signal", "from", "to", "method", "id")
    return (section.word, *(section.said(name) for name in names))


def _all_of(section: Section) -> tuple[Any, ...]:
    attributes = sorted((name, _meaning(term)) for name, term in section.attributes.items())
    return (tuple(attributes), tuple(sorted((entry.key, _meaning(entry.value)) for entry in section.entries)))


def _meaning(term: Term) -> tuple[Any, ...]:
    if term.kind in ("text", "word"):
        return (term.kind, term.said)
    return (term.kind, term.said if term.kind == "call" else "", tuple(map(_meaning, term.inner)))


def _written(value: Any) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int | float):
        return repr(value)
    if value is None:
        return "null"
    if isinstance(value, list | tuple):
        return f"[ {', '.join(map(_written, value))} ]"
    if isinstance(value, Mapping):
        pairs = (f"{_written(str(key))}: {_written(inner)}" for key, inner in value.items())
        return f"{{ {', '.join(pairs)} }}"
    return '"' + str(value).replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\n") + '"'


def _terms(section: Section, at: str) -> Iterator[Term]:
    if at.startswith("@"):
        yield from (term for name, term in section.attributes.items() if meant(at[1:])(name))
    else:
        yield from (entry.value for entry in section.entries if meant(at)(entry.key))


def _values(term: Term, selector: ResourceSelector) -> Iterator[Value]:
    if selector.call:
        for one in term.walk():
            if one.kind == "call" and one.said == selector.call and one.inner:
                yield Value(one.inner[0].said, one.inner[0].start)
    elif selector.deep:
        waiting = [term]
        while waiting:
            one = waiting.pop()
            if one.kind == "text":
                yield Value(one.said, one.start)
            waiting += reversed(one.inner[1::2] if one.kind == "table" else one.inner)
    elif term.kind in ("text", "word"):
        yield Value(term.said, term.start)


class _ResourceFormat(Format):
    title: ClassVar[str] = "a text resource"
    selector: ClassVar[type[Struct]] = ResourceSelector
    seat: ClassVar[type[Struct]] = ResourceSeat
    bodies: ClassVar[Sequence[str]] = ("text", "record")
    has_rows: ClassVar[bool] = True
    largest: ClassVar[int] = 64 << 20

    def pasted(self, seat: ResourceSeat, snippet: Snippet) -> tuple[ExistingEntry, ...]:
        try:
            document = self.open(Text(snippet.text, "utf-8"), None)
        except Unreadable:
            return ()
        if seat.into:
            said = snippet.text.strip()
            quoted = len(said) > 2 and said[0] == said[-1] == '"' and "\n" not in said and '"' not in said[1:-1]
            return (ExistingEntry(0, len(snippet.text), Body(text=said)),) if quoted else ()
        if seat.section and document.sections and all(not one.word for one in document.sections):
            return tuple(
                ExistingEntry(entry.key_start, entry.end, Body(text=snippet.text[entry.key_start : entry.end]))
                for section in document.sections
                for entry in section.entries
            )
        return tuple(document.existing(seat))

    def open(self, source: Text | bytes, options: Any) -> _Resource:  # noqa: ARG002
        assert isinstance(source, Text)
        return _Resource(source, tuple(read_sections(source.string)))


FORMAT = _ResourceFormat()
