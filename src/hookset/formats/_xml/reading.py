"""An XML file as it is read: values by XPath, places by the numbers of elements."""

from __future__ import annotations

import functools
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from lxml import etree

from hookset.formats._values import as_words
from hookset.formats._xml.asked import XmlOptions, XmlSelector, compiled
from hookset.formats._xml.elements import Elements, texts_of
from hookset.formats._xml.entities import text_of, unseen_in
from hookset.formats._xml.parser import parser
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

__all__ = ["XmlDocument", "located", "number_of", "written_value"]

_ATTRIBUTE = r"""(?s)\s{name}\s*=\s*(?:"([^"]*)"|'([^']*)')"""
_NOT_XML = re.compile("[\0-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")
_OF_ELEMENTS = re.compile(r"([^|]*[^/|])/@([A-Za-z_][\w.-]*)")


@dataclass(frozen=True)
class XmlDocument(HasRows, HasRecords, HasWording, HasUnits, Writable):
    """One file, read. What it says is not changed afterwards."""

    text: Text
    elements: Elements
    options: XmlOptions
    tree: Any = None
    """The outermost element as lxml has it, where lxml had to read the file."""
    problems: tuple[tuple[str, Where], ...] = ()
    entities: Mapping[str, str | None] = field(default_factory=dict)
    """The texts that names stand for which the file declares, where lxml had to read it; None for what is no text."""

    @property
    def unseen(self) -> tuple[tuple[str, Where], ...]:
        return tuple(unseen_in(self.text.string, self.tree, self.entities)) if self.entities else ()

    @cached_property
    def root(self) -> Any:
        """The outermost element as lxml has it: for paths that are not plain."""
        return self.tree if self.tree is not None else etree.fromstring(self.text.utf8, parser(large=True))

    @cached_property
    def texts(self) -> Sequence[str]:
        """What stands in each element before anything else does."""
        if self.tree is not None:
            return [text_of(element, self.entities) for element in self.tree.iter(etree.Element)]
        return texts_of(self.text)

    @cached_property
    def _numbers(self) -> dict[Any, int]:
        """The number of each element of the tree."""
        elements = list(self.root.iter(etree.Element))
        return dict(zip(elements, range(len(elements)), strict=True))

    @cached_property
    def _spans(self) -> ElementSpans:
        return ElementSpans(self.text, self.elements.starts)

    @cached_property
    def _plainly(self) -> dict[str, Sequence[int]]:
        """What plain paths lead to: several rules ask for attributes of the same elements."""
        return {}

    def _asked(self, path: str) -> list[Any]:
        """What XPath finds in the tree."""
        try:
            return compiled(path, tuple(sorted(self.options.namespaces.items())))(self.root)
        except (etree.XPathEvalError, ValueError):
            return []

    def _find(self, path: str) -> Sequence[int]:
        """The numbers of the elements that a path names, as it gives them."""
        if (way := plain_way(path)) is not None:
            if path not in self._plainly:
                self._plainly[path] = way.of(self.elements)
            return self._plainly[path]
        found = (one for one in self._asked(path) if not isinstance(one, str) and isinstance(one.tag, str))
        return [self._numbers[element] for element in found]

    def select(self, selector: XmlSelector) -> Iterator[Value]:
        columns = self.columns(selector)
        return (Value(text, columns.where(row)) for row, text in enumerate(columns.texts))

    def columns(self, selector: XmlSelector) -> Columns:
        way, name = _attribute_of(selector.at)
        if name:
            numbers = self._find(way)
            said = self.elements.said(numbers, name)
            if None in said:
                numbers = [number for number, text in zip(numbers, said, strict=True) if text is not None]
            return Columns([text for text in said if text is not None], numbers, (), f"@{name}")
        if plain_way(selector.at) is not None:
            numbers, texts = self._find(selector.at), self.texts
            return Columns([texts[number].strip() for number in numbers], [str(number) for number in numbers])
        return columns_of(self._values_asked(selector.at))

    def _values_asked(self, path: str) -> Iterator[Value]:
        for found in self._asked(path):
            if isinstance(found, str):
                element = found.getparent()  # type: ignore[attr-defined]
                name = f"@{found.attrname}" if found.is_attribute else ""  # type: ignore[attr-defined]
                yield Value(str(found).strip() if not name else str(found), f"{self._numbers[element]}{name}")
            elif isinstance(found.tag, str):
                yield Value(text_of(found, self.entities).strip(), str(self._numbers[found]))

    def rows(self, selector: XmlSelector) -> Iterator[tuple[Value, Mapping[str, str]]]:
        """With the attributes of its element; then the texts of the elements beside that one, and the attributes of
        the one around it."""
        elements = self.elements
        beside: dict[int, dict[str, str]] = {}
        values = list(self.select(selector))
        numbers = [number_of(value.where) for value in values]
        for value, number, said in zip(values, numbers, elements.each(numbers), strict=True):
            above = elements.parents[number]
            if above not in beside:
                beside[above] = {} if above < 0 else self._around(above)
            yield value, {**beside[above], **said}

    def _around(self, above: int) -> dict[str, str]:
        elements, texts = self.elements, self.texts
        said = {elements.tags[number]: texts[number].strip() for number in elements.children[above]}
        return {**elements.attributes[above], **said}

    def wording(self, where: Where) -> str:
        number = number_of(where)
        return self.texts[number].strip() if number < len(self.texts) else ""

    def records(self, selector: XmlSelector) -> Iterator[tuple[Where, Any]]:
        """Each element as its attributes, all of them text."""
        numbers = self._find(selector.at)
        return ((str(number), dict(said)) for number, said in zip(numbers, self.elements.each(numbers), strict=True))

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        return located(self.text, wheres, self._spans.tags)

    def value_span(self, where: Where) -> tuple[int, int] | None:
        """Of an attribute within its quotes; of an element its text, without the blanks around it."""
        number, _, attribute = str(where).partition("@")
        if attribute or not number.isdecimal():
            return self.spans([where]).get(where)
        if int(number) >= len(self._spans):
            return None
        span = self._spans[int(number)]
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
        return next(existing_elements(self.text, self._spans, [int(number)]), None) if number.isdecimal() else None


def number_of(where: Where) -> int:
    """The number of the element of an address."""
    return int(str(where).replace("/", "@").partition("@")[0])


@functools.lru_cache(maxsize=256)
def _attribute_of(path: str) -> tuple[str, str]:
    """A path to elements and the name of their attribute, of one that leads to attributes; else the name is empty."""
    match = _OF_ELEMENTS.fullmatch(path)
    return (match[1], match[2]) if match is not None else (path, "")


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
