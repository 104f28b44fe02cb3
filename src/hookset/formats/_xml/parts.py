"""The parts of elements that stand for things: attributes, and the attributes and texts of what is in them."""

from __future__ import annotations

import functools
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from lxml import etree

from hookset.formats._values import as_words
from hookset.formats._xml.asked import XmlSelector
from hookset.formats._xml.editing import EditableXml
from hookset.formats._xml.reading import written_value
from hookset.formats.base import Edit, Edits, Part, Parts
from hookset.formats.document import HasParts
from hookset.model import Where

__all__ = ["XmlWithParts", "way_mistake"]

_WAY = re.compile(r"(?:(?P<tag>[A-Za-z_][\w.-]*)(?:\[@(?P<key>[A-Za-z_][\w.-]*)='(?P<is>[^'<&]*)'\])?)?(?P<at>/?@)?"
                  r"(?P<name>(?<=@)[A-Za-z_][\w.-]*)?")  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Way:
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

    def parts(self, selector: XmlSelector, ways: Sequence[str]) -> Iterator[Parts]:
        known = [_way(way) for way in ways]
        own = [
            (column, way.name, f"@{way.name}") for column, way in enumerate(known) if way is not None and not way.tag
        ]
        inner = [(column, way) for column, way in enumerate(known) if way and way.tag]
        nothing: list[Part | None] = [None] * len(ways)
        numbers = self._numbers
        records = {found: None for found in self._find(selector.at) if not isinstance(found, str) and found in numbers}
        outer: dict[Any, Any] = {}
        for element, number in numbers.items():
            above = element.getparent()
            outer[element] = around = above if above in records else outer.get(above)
            if element not in records:
                continue
            parts, get, where = nothing.copy(), element.get, str(number)
            for column, name, at in own:
                if (text := get(name)) is not None:
                    parts[column] = Part(where + at, text)
            if inner and len(element):
                for column, way in inner:
                    parts[column] = self._in_child(way, element)
            yield Parts(where, None if around is None else str(numbers[around]), tuple(parts))

    def _in_child(self, way: _Way, element: Any) -> Part | None:
        child = way.element(element)
        if child is None:
            return None
        if not way.name:
            return Part(str(self._numbers[child]), (child.text or "").strip())
        text = child.get(way.name)
        return None if text is None else Part(f"{self._numbers[child]}@{way.name}", text)

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
