"""The parts of elements that stand for things: attributes, and the attributes and texts of what is in them."""

from __future__ import annotations

import functools
import re
from array import array
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from msgspec import Struct

from hookset.formats._values import as_words
from hookset.formats._xml.asked import XmlSelector
from hookset.formats._xml.editing import EditableXml
from hookset.formats._xml.elements import Elements
from hookset.formats._xml.paths import plain_way
from hookset.formats._xml.reading import written_value
from hookset.formats.base import Edit, Edits
from hookset.formats.document import HasParts
from hookset.formats.parts import Addresses, Part, PartTable, TextColumn
from hookset.model import Where

__all__ = ["XmlWithParts", "way_mistake"]

_WAY = re.compile(r"(?:(?P<tag>[A-Za-z_][\w.-]*)(?:\[@(?P<key>[A-Za-z_][\w.-]*)='(?P<is>[^'<&]*)'\])?)?(?P<at>/?@)?"
                  r"(?P<name>(?<=@)[A-Za-z_][\w.-]*)?")  # fmt: skip


class _Way(Struct, frozen=True):
    """A way to a value: an attribute of the element, or an attribute or the text of one in it."""

    tag: str
    key: str
    is_: str
    name: str
    """Of an attribute; empty for a text."""

    def meets(self, elements: Elements, numbers: Sequence[int]) -> list[int]:
        """The elements that the way goes to, of some that stand in records."""
        called = [number for number in numbers if elements.tags[number] == self.tag]
        if not self.key:
            return called
        return [one for one, said in zip(called, elements.said(called, self.key), strict=True) if said == self.is_]

    def element(self, elements: Elements, record: int) -> int | None:
        """The element that has the value."""
        if not self.tag:
            return record
        return next(iter(self.meets(elements, elements.children.get(record, ()))), None)


@functools.lru_cache(maxsize=256)
def _way(written: str) -> _Way | None:
    match = _WAY.fullmatch(written)
    if match is None or bool(match["at"]) != bool(match["name"]) or (match["tag"] is None) != (match["at"] == "@"):
        return None
    return _Way(match["tag"] or "", match["key"] or "", match["is"] or "", match["name"] or "")


def way_mistake(written: str) -> str:
    """What is wrong with a way to a value of an element; empty where nothing is."""
    if _way(written) is not None:
        return ""
    return (
        f"{written!r} is no way to a value of an element: write @name, child/@name, child[@key='word']/@name or child"
    )


@dataclass(frozen=True)
class XmlWithParts(EditableXml, HasParts):
    """One file, with the things in it."""

    def parts(self, selector: XmlSelector, ways: Sequence[str]) -> PartTable:
        records = self._records_at(selector)
        columns: list[Sequence[Part | None]] = []
        for way in (_way(way) for way in ways):
            if way is None:
                columns.append((None,) * len(records))
            elif not way.tag:
                texts = self.elements.column(records, way.name)
                columns.append(TextColumn(texts, Addresses(records, f"@{way.name}")))
            else:
                columns.append(self._in_children(way, records))
        return PartTable(Addresses(records), tuple(columns))

    def _in_children(self, way: _Way, records: Sequence[int]) -> TextColumn:
        elements = self.elements
        texts: list[str | None] = [None] * len(records)
        numbers = array("i", bytes(len(records) * array("i").itemsize))
        children = way.meets(elements, elements.named.get(way.tag, ()))
        owners = set(map(elements.parents.__getitem__, children))
        rows = {number: row for row, number in enumerate(records) if number in owners}
        said = elements.said(children, way.name) if way.name else [self.texts[child].strip() for child in children]
        for child, text in zip(children, said, strict=True):
            row = rows.get(elements.parents[child])
            # Of several the first one counts.
            if row is not None and not numbers[row]:
                texts[row], numbers[row] = text, child
        return TextColumn(texts, Addresses(numbers, f"@{way.name}" if way.name else ""))

    def around(self, selector: XmlSelector) -> Sequence[Where | None]:
        records = self._records_at(selector)
        around = self.elements.parents.__getitem__
        parents = dict.fromkeys(map(around, records))
        further = self._further_out(parents)
        meant = frozenset(record for record in records if record in further)
        outer: dict[int, Where | None] = {-1: None}
        for parent in parents:
            self._look_out(parent, meant, outer)
        return [outer[around(record)] for record in records]

    def _further_out(self, numbers: Iterable[int]) -> set[int]:
        """Elements, and all that they are in."""
        found = {-1}
        for number in numbers:
            while number not in found:
                found.add(number)
                number = self.elements.parents[number]
        return found

    def _look_out(self, number: int, meant: frozenset[int], outer: dict[int, Where | None]) -> None:
        """Note of an element, and of those around it, which record each is, or is in; nothing is around the
        outermost."""
        passed = []
        while number not in outer and number not in meant:
            passed.append(number)
            number = self.elements.parents[number]
        if number not in outer:
            outer[number] = str(number)
        outer.update(dict.fromkeys(passed, outer[number]))

    def _records_at(self, selector: XmlSelector) -> Sequence[int]:
        """The elements that a selector names, in file order."""
        if selector not in self._recorded:
            found = self._find(selector.at)
            self._recorded[selector] = found if plain_way(selector.at) is not None else sorted(set(found))
        return self._recorded[selector]

    @cached_property
    def _recorded(self) -> dict[XmlSelector, Sequence[int]]:
        """What was found already: the elements do not change."""
        return {}

    def _record(self, where: Where) -> int | None:
        number = str(where)
        return int(number) if number.isdecimal() and int(number) < len(self.elements.tags) else None

    def ways(self, record: Where) -> tuple[str, ...]:
        """Its attributes, and those and the texts of elements in it that hold no further ones; of several elements of a
        name, each by its first attribute."""
        number = self._record(record)
        return () if number is None else tuple(dict.fromkeys(self._ways_of(number)))

    def _ways_of(self, number: int) -> Iterator[str]:
        elements = self.elements
        yield from (f"@{name}" for name in elements.attributes[number])
        children = [child for child in elements.children.get(number, ()) if child not in elements.children]
        for child in children:
            tag, said = elements.tags[child], elements.attributes[child]
            many = sum(elements.tags[other] == tag for other in children) > 1
            first = next(iter(said), "")
            step = f"{tag}[@{first}='{said[first]}']" if many and first else tag
            yield from (f"{step}/@{name}" for name in said if not (many and name == first))
            if self.texts[child].strip() and not many:
                yield tag

    def adding(self, record: Where, values: Mapping[str, Any]) -> Edits | None:
        number = self._record(record)
        if number is None:
            return None
        attributes: dict[int, dict[str, str]] = {}
        texts: dict[int, str] = {}
        made: dict[tuple[str, str, str], dict[str, str]] = {}
        for written, value in values.items():
            way, words = _way(written), as_words(value)
            if way is None or words is None:
                return None
            owner = way.element(self.elements, number)
            if owner is None:
                made.setdefault((way.tag, way.key, way.is_), {})[way.name] = words
            elif way.name:
                attributes.setdefault(owner, {})[way.name] = words
            elif owner in self.elements.children:
                return None
            else:
                texts[owner] = words
        edits = [edit for owner, words in texts.items() for edit in self._with_text(owner, words)]
        if made:
            edits += self._with_children(number, "\n".join(_written(*one, pairs) for one, pairs in made.items()))
        # Of two edits at one place the last comes first: attributes before what closes the tag.
        edits += (self._with_attributes(owner, pairs) for owner, pairs in attributes.items())
        return Edits(tuple(edits))

    def _with_attributes(self, number: int, pairs: Mapping[str, str]) -> Edit:
        span = self._spans[number]
        end = span.tag_end - (2 if self.text.string[span.tag_end - 2] == "/" else 1)
        at = span.start + len(self.text.string[span.start : end].rstrip())
        return Edit(at, at, "".join(f' {name}="{written_value(words, chr(34))}"' for name, words in pairs.items()))

    def _with_text(self, number: int, words: str) -> Iterator[Edit]:
        span = self._spans[number]
        if self.text.string[span.tag_end - 2] == "/":
            closing = f">{written_value(words, '')}{self._closing(span)}"
            yield Edit(span.tag_end - 2, span.tag_end, closing)
        else:
            yield Edit(span.tag_end, span.close_start, written_value(words, ""))

    def _with_children(self, number: int, text: str) -> tuple[Edit, ...]:
        inside = self.elements.children.get(number)
        if inside:
            return self._beside(self._spans[inside[-1]], text, above=False).edits
        return self._inside(self._spans[number], text).edits


def _written(tag: str, key: str, is_: str, pairs: Mapping[str, str]) -> str:
    """A new element with these attributes; the pair without a name is its text."""
    known = {key: is_} if key else {}
    attributes = {**known, **{name: words for name, words in pairs.items() if name}}
    head = tag + "".join(f' {name}="{written_value(words, chr(34))}"' for name, words in attributes.items())
    return f"<{head}>{written_value(pairs[''], '')}</{tag}>" if "" in pairs else f"<{head}/>"
