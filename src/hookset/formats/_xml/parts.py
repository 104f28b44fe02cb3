"""The parts of elements that stand for things: attributes, and the attributes and texts of what is in them."""

from __future__ import annotations

import functools
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from lxml import etree
from msgspec import Struct

from hookset.formats._values import as_words
from hookset.formats._xml.asked import XmlSelector
from hookset.formats._xml.editing import EditableXml
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

    def element(self, record: Any) -> Any | None:
        """The element that has the value."""
        if not self.tag:
            return record
        if not self.key:
            return record.find(self.tag)
        return next((child for child in record.iterchildren(self.tag) if child.get(self.key) == self.is_), None)


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
        elements = self._elements_at(selector)
        numbers = [self._numbers[element] for element in elements]
        holding = [row for row, element in enumerate(elements) if len(element)]
        columns: list[Sequence[Part | None]] = []
        for way in (_way(way) for way in ways):
            if way is None:
                columns.append((None,) * len(elements))
            elif not way.tag:
                texts = [element.get(way.name) for element in elements]
                columns.append(TextColumn(texts, Addresses(numbers, f"@{way.name}")))
            else:
                columns.append(self._in_children(way, elements, holding))
        return PartTable(Addresses(numbers), tuple(columns))

    def _in_children(self, way: _Way, elements: Sequence[Any], holding: Sequence[int]) -> TextColumn:
        texts: list[str | None] = [None] * len(elements)
        numbers = [0] * len(elements)
        for row in holding:
            child = way.element(elements[row])
            if child is not None:
                texts[row] = child.get(way.name) if way.name else (child.text or "").strip()
                numbers[row] = self._numbers[child]
        return TextColumn(texts, Addresses(numbers, f"@{way.name}" if way.name else ""))

    def around(self, selector: XmlSelector) -> Sequence[Where | None]:
        elements = self._elements_at(selector)
        # By the element: the closest record that it is, or is in; nothing is around the root.
        known: dict[Any, Any] = {element: element for element in elements} | {None: None}
        return [None if above is None else str(self._numbers[above]) for above in self._closest(elements, known)]

    def _closest(self, elements: Sequence[Any], known: dict[Any, Any]) -> Iterator[Any]:
        for element in elements:
            above = element.getparent()
            if above not in known:
                passed = []
                while above not in known:
                    passed.append(above)
                    above = above.getparent()
                known.update(dict.fromkeys(passed, known[above]))
            yield known[above]

    def _elements_at(self, selector: XmlSelector) -> Sequence[Any]:
        """The elements that a selector names, in file order."""
        if selector not in self._recorded:
            found, numbers = self._find(selector.at), self._numbers
            if plain_way(selector.at) is None:
                found = sorted({one for one in found if one in numbers}, key=numbers.__getitem__)
            self._recorded[selector] = found
        return self._recorded[selector]

    @cached_property
    def _recorded(self) -> dict[XmlSelector, Sequence[Any]]:
        """What was found already: the tree does not change."""
        return {}

    def ways(self, record: Where) -> tuple[str, ...]:
        """Its attributes, and those and the texts of elements in it that hold no further ones; of several elements of a
        name, each by its first attribute."""
        element = next((e for e, number in self._numbers.items() if str(number) == str(record)), None)
        return tuple(dict.fromkeys(_ways(element))) if element is not None else ()

    def adding(self, record: Where, values: Mapping[str, Any]) -> Edits | None:
        element = next((e for e, number in self._numbers.items() if str(number) == str(record)), None)
        if element is None:
            return None
        attributes: dict[Any, dict[str, str]] = {}
        texts: dict[Any, str] = {}
        made: dict[tuple[str, str, str], dict[str, str]] = {}
        for written, value in values.items():
            way, words = _way(written), as_words(value)
            if way is None or words is None:
                return None
            owner = way.element(element)
            if owner is None:
                made.setdefault((way.tag, way.key, way.is_), {})[way.name] = words
            elif way.name:
                attributes.setdefault(owner, {})[way.name] = words
            elif len(owner):
                return None
            else:
                texts[owner] = words
        edits = [edit for owner, words in texts.items() for edit in self._with_text(owner, words)]
        if made:
            edits += self._with_children(element, "\n".join(_written(*one, pairs) for one, pairs in made.items()))
        # Of two edits at one place the last comes first: attributes before what closes the tag.
        edits += (self._with_attributes(owner, pairs) for owner, pairs in attributes.items())
        return Edits(tuple(edits))

    def _with_attributes(self, element: Any, pairs: Mapping[str, str]) -> Edit:
        span = self._elements[self._numbers[element]]
        end = span.tag_end - (2 if self.text.string[span.tag_end - 2] == "/" else 1)
        at = span.start + len(self.text.string[span.start : end].rstrip())
        return Edit(at, at, "".join(f' {name}="{written_value(words, chr(34))}"' for name, words in pairs.items()))

    def _with_text(self, element: Any, words: str) -> Iterator[Edit]:
        span = self._elements[self._numbers[element]]
        if self.text.string[span.tag_end - 2] == "/":
            closing = f">{written_value(words, '')}</{element.tag}>"
            yield Edit(span.tag_end - 2, span.tag_end, closing)
        else:
            yield Edit(span.tag_end, span.close_start, written_value(words, ""))

    def _with_children(self, element: Any, text: str) -> tuple[Edit, ...]:
        last = next(element.iterchildren(etree.Element, reversed=True), None)
        if last is not None:
            return self._beside(self._elements[self._numbers[last]], text, above=False).edits
        return self._inside(element, self._elements[self._numbers[element]], text).edits


def _ways(element: Any) -> Iterator[str]:
    yield from (f"@{name}" for name in element.attrib)
    children = [child for child in element if isinstance(child.tag, str) and not len(child)]
    for child in children:
        many = sum(other.tag == child.tag for other in children) > 1
        first = next(iter(child.attrib), "")
        step = f"{child.tag}[@{first}='{child.get(first)}']" if many and first else child.tag
        yield from (f"{step}/@{name}" for name in child.attrib if not (many and name == first))
        if (child.text or "").strip() and not many:
            yield child.tag


def _written(tag: str, key: str, is_: str, pairs: Mapping[str, str]) -> str:
    """A new element with these attributes; the pair without a name is its text."""
    known = {key: is_} if key else {}
    attributes = {**known, **{name: words for name, words in pairs.items() if name}}
    head = tag + "".join(f' {name}="{written_value(words, chr(34))}"' for name, words in attributes.items())
    return f"<{head}>{written_value(pairs[''], '')}</{tag}>" if "" in pairs else f"<{head}/>"
