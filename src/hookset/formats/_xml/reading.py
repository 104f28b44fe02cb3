"""An XML file as it is read: values by XPath, places by the numbers of elements."""

from __future__ import annotations

import functools
import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from lxml import etree

from hookset.formats._values import as_words
from hookset.formats._xml.asked import XmlOptions, XmlSelector, compiled
from hookset.formats._xml.paths import plain_way
from hookset.formats._xml.snippets import existing_elements
from hookset.formats._xml.spans import ElementSpans
from hookset.formats.base import (
    Columns,
    Edit,
    ExistingEntry,
    Value,
    columns_of,
)
from hookset.formats.document import HasRecords, HasRows, HasUnits, HasWording, Writable
from hookset.model import Where
from hookset.trees import Text

__all__ = ["XmlDocument", "located", "written_value"]

_ATTRIBUTE = r"""(?s)\s{name}\s*=\s*(?:"([^"]*)"|'([^']*)')"""
_NOT_XML = re.compile("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
_OF_ELEMENTS = re.compile(r"([^|]*[^/|])/@([A-Za-z_][\w.-]*)")


@dataclass(frozen=True)
class XmlDocument(HasRows, HasRecords, HasWording, HasUnits, Writable):
    """One file, read. What it says is not changed afterwards."""

    text: Text
    root: Any
    options: XmlOptions
    problems: tuple[tuple[str, Where], ...] = ()

    @cached_property
    def _numbers(self) -> dict[Any, int]:
        elements = list(self.root.iter(etree.Element))
        return dict(zip(elements, range(len(elements)), strict=True))

    @cached_property
    def _elements(self) -> ElementSpans:
        return ElementSpans(self.text)

    @cached_property
    def _by_tag(self) -> dict[str, list[Any]]:
        """The elements of each name, in file order: to look through the file takes as long for one of them."""
        found: dict[str, list[Any]] = {}
        for element in self._numbers:
            found.setdefault(element.tag, []).append(element)
        return found

    def _find(self, path: str) -> list[Any]:
        way = plain_way(path)
        if way is not None:
            return way.of(self._by_tag.get(way.name, ()))
        try:
            return compiled(path, tuple(sorted(self.options.namespaces.items())))(self.root)
        except (etree.XPathEvalError, ValueError):
            return []

    def select(self, selector: XmlSelector) -> Iterator[Value]:
        for found in self._find(selector.at):
            if isinstance(found, str):
                element = found.getparent()  # type: ignore[attr-defined]
                name = f"@{found.attrname}" if found.is_attribute else ""  # type: ignore[attr-defined]
                yield Value(str(found).strip() if not name else str(found), f"{self._numbers[element]}{name}")
            elif isinstance(found.tag, str):
                yield Value((found.text or "").strip(), str(self._numbers[found]))

    def columns(self, selector: XmlSelector) -> Columns:
        """Attributes are read off their elements, which takes half the time of asking XPath for each."""
        match = _OF_ELEMENTS.fullmatch(selector.at)
        if match is None:
            return columns_of(self.select(selector))
        way, name = match.groups()
        elements = self._find(way)
        numbers = self._numbers
        texts: list[str] = []
        wheres: list[Where] = []
        for element in elements:
            if (text := element.get(name)) is not None:
                texts.append(text)
                wheres.append(numbers[element])
        return Columns(texts, wheres, (), f"@{name}")

    def rows(self, selector: XmlSelector) -> Iterator[tuple[Value, Mapping[str, str]]]:
        """With the attributes of its element; then the texts of the elements beside that one, and the attributes of
        the one around it."""
        elements = list(self._numbers)
        for value in self.select(selector):
            element = elements[int(str(value.where).partition("@")[0])]
            above = element.getparent()
            texts = {} if above is None else {e.tag: (e.text or "").strip() for e in above if isinstance(e.tag, str)}
            outer = {} if above is None else dict(above.attrib)
            yield value, {**outer, **texts, **element.attrib}

    def wording(self, where: Where) -> str:
        number = int(str(where).replace("/", "@").partition("@")[0])
        return next((e.text or "" for e, n in self._numbers.items() if n == number), "").strip()

    def records(self, selector: XmlSelector) -> Iterator[tuple[Where, Any]]:
        """Each element as its attributes, all of them text."""
        for found in self._find(selector.at):
            if not isinstance(found, str) and isinstance(found.tag, str):
                yield str(self._numbers[found]), dict(found.attrib)

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        return located(self.text, wheres, self._elements.tags)

    def value_span(self, where: Where) -> tuple[int, int] | None:
        """Of an attribute within its quotes; of an element its text, without the blanks around it."""
        number, _, attribute = str(where).partition("@")
        if attribute or not number.isdecimal():
            return self.spans([where]).get(where)
        if int(number) >= len(self._elements):
            return None
        span = self._elements[int(number)]
        inside = self.text.string[span.tag_end : span.close_start]
        if "<" in inside:
            return None
        start = span.tag_end + len(inside) - len(inside.lstrip())
        return start, max(start, span.tag_end + len(inside.rstrip()))

    def writings(self, span: tuple[int, int], value: Any) -> Iterator[Edit]:
        string = self.text.string
        words = as_words(value, string[slice(*span)])
        if words is not None and _NOT_XML.search(words) is None:
            yield Edit(*span, written_value(words, string[span[0] - 1 : span[0]]))

    def unit(self, where: Where) -> ExistingEntry | None:
        number = str(where).replace("/", "@").partition("@")[0]
        return next(existing_elements(self.text, self._elements, [int(number)]), None) if number.isdecimal() else None


def written_value(words: str, quote: str) -> str:
    """A text as an attribute's value in these quotes, or as an element's text: what XML 1.0, 2.4 and 3.3.3 ask for."""
    plain = words.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;").replace("\r", "&#13;")
    if quote not in ('"', "'"):
        return plain
    plain = plain.replace("\t", "&#9;").replace("\n", "&#10;")
    return plain.replace(quote, "&quot;" if quote == '"' else "&apos;")


def located(
    text: Text, wheres: Iterable[Where], tags_of: Callable[[set[int]], Mapping[int, tuple[int, int]]]
) -> dict[Where, tuple[int, int]]:
    """Spans of elements, and of their attributes' values. `tags_of` tells where start tags are, by number."""
    wanted = {where: str(where).replace("/", "@").partition("@") for where in wheres}
    tags = tags_of({int(number) for number, _, _ in wanted.values() if number.isdecimal()})
    found: dict[Where, tuple[int, int]] = {}
    for where, (number, _, attribute) in wanted.items():
        span = tags.get(int(number)) if number.isdecimal() else None
        if span is not None:
            found[where] = _attribute(text, span, attribute) if attribute else span
    return found


def _attribute(text: Text, tag: tuple[int, int], name: str) -> tuple[int, int]:
    match = _value_of(name).search(text.string, *tag)
    if match is None:
        return tag
    return match.span(1) if match[1] is not None else match.span(2)


@functools.lru_cache(maxsize=256)
def _value_of(name: str) -> re.Pattern[str]:
    """An attribute of that name in a start tag, with its value in quotes."""
    local = r"(?:[\w.-]+:)?" + re.escape(name.rpartition("}")[2])
    return re.compile(_ATTRIBUTE.format(name=local))
