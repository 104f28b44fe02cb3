"""XML 1.0: values by XPath, places by byte offsets from a second, streaming parser.

A value's place is the number of its element in document order, with the attribute's name: `412@script`. Finding the
characters for it costs one more pass, and only when something is shown or edited. Entities and the network are off.
"""

from __future__ import annotations

import functools
import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, partial
from typing import Any, ClassVar

from lxml import etree
from msgspec import Struct

from hookset.formats._values import as_words
from hookset.formats._writing import written_lines
from hookset.formats._xml_asked import XmlOptions, XmlSeat, XmlSelector, compiled
from hookset.formats._xml_mistakes import mistake
from hookset.formats._xml_paths import mistake_in
from hookset.formats._xml_snippets import (
    attributes_in,
    blank_for,
    elements_in,
    existing_elements,
    meaning,
    parsed_snippet,
)
from hookset.formats._xml_spans import ElementSpans, Span, tag_spans
from hookset.formats.base import (
    AlreadyThere,
    Body,
    Clash,
    Columns,
    Edit,
    Edits,
    ExistingEntry,
    NoSeat,
    Placement,
    Unreadable,
    Value,
    WrongBody,
    columns_of,
)
from hookset.formats.document import Editable, HasRecords, HasRows, HasUnits, HasWording, Writable
from hookset.formats.format import Format, Snippet
from hookset.model import Where
from hookset.trees import Text

__all__ = ["FORMAT", "XmlSeat", "XmlSelector"]

_DECLARED = re.compile(rb"""^<\?xml[^>]*?encoding\s*=\s*["']([A-Za-z0-9._-]+)["']""")
_ATTRIBUTE = r"""(?s)\s{name}\s*=\s*(?:"([^"]*)"|'([^']*)')"""
_NOT_XML = re.compile("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
_NEAREST = 12
_OF_ELEMENTS = re.compile(r"([^|]*[^/|])/@([A-Za-z_][\w.-]*)")
_PLAIN = re.compile(r"[A-Za-z_][\w.-]*")
"""What stands in a file as it is meant, without entities; and the name of an attribute without a prefix."""
_FEW = 4
_NAMED = re.compile(r"//([A-Za-z_][\w.-]*)\[@([A-Za-z_][\w.-]*)='([^']*)'\]")
_ANYWHERE = re.compile(r"//([A-Za-z_][\w.-]*)")


@dataclass(frozen=True)
class _Xml(HasRows, HasRecords, HasWording, HasUnits, Writable, Editable):
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
    def _by_attribute(self) -> dict[tuple[Any, str], dict[str, list[Any]]]:
        """By an element and the name of an attribute: the children, by its value."""
        return {}

    @cached_property
    def _asked(self) -> Counter[tuple[Any, str]]:
        """How often children of an element were asked for by an attribute."""
        return Counter()

    def _there(self, parent: Any, new: Any) -> Any | None:
        """The child that means what a new element does. One of its attributes tells most others from it."""
        name = next((key for key in new.keys() if _PLAIN.fullmatch(key)), "")  # noqa: SIM118 - of an element
        wanted = meaning(new)
        like = self._like(parent, name, new.get(name)) if name else parent.iterchildren(new.tag)
        return next((child for child in like if child.tag == new.tag and meaning(child) == wanted), None)

    @cached_property
    def _spelled_by_number(self) -> bool:
        """Whether characters are written as `&#97;`: what is not in the text can be in the file then."""
        return "&#" in self.text.string

    def _lacks(self, value: str) -> bool:
        """Whether a value is certainly nowhere in the file."""
        return bool(_PLAIN.fullmatch(value)) and not self._spelled_by_number and value not in self.text.string

    def _like(self, parent: Any, name: str, value: str) -> Sequence[Any]:
        """The children with a value. A large file is searched for a few, and indexed for more."""
        if self._lacks(value):
            return ()
        key = (parent, name)
        self._asked[key] += 1
        if self._asked[key] <= _FEW:
            return _with_attribute(name)(parent, value=value)  # type: ignore[no-any-return]
        if key not in self._by_attribute:
            found: dict[str, list[Any]] = {}
            for child in parent.iterchildren(etree.Element):
                found.setdefault(child.get(name), []).append(child)
            self._by_attribute[key] = found
        return self._by_attribute[key].get(value, ())

    @cached_property
    def _found(self) -> dict[str, list[Any]]:
        """By the path of a seat: what it leads to."""
        return {}

    def _spot(self, path: str) -> list[Any]:
        """The elements that a seat's path leads to; kept, since one hook after the other asks for the same."""
        if path not in self._found:
            named = _NAMED.fullmatch(path)
            if named is not None:
                self._found[path] = self._elements_with(*named.groups())
            else:
                self._found[path] = [element for element in self._find(path) if not isinstance(element, str)]
        return self._found[path]

    def _elements_with(self, tag: str, name: str, value: str) -> list[Any]:
        """`//tag[@name='value']`, for a third of what XPath takes."""
        if self._lacks(value):
            return []
        return [element for element in self.root.iter(tag) if element.get(name) == value]

    def _find(self, path: str) -> list[Any]:
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
        plain = _ANYWHERE.fullmatch(way)
        elements = self.root.iter(plain[1]) if plain is not None else self._find(way)
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
        return _located(self.text, wheres, self._elements.tags)

    def value_span(self, where: Where) -> tuple[int, int] | None:
        """Of an attribute within its quotes; of an element its text, without the blanks around it."""
        number, _, attribute = str(where).partition("@")
        if attribute or not number.isdigit():
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
            yield Edit(*span, _in_quotes(words, string[span[0] - 1 : span[0]]))

    # ---- setting entries ----------------------------------------------------------------------------------------

    def put(self, seat: XmlSeat, body: Body) -> Placement:
        if seat.on is not None:
            return self._put_attributes(seat.on, body)
        if body.text is None:
            return WrongBody("an XML element")
        try:
            new = parsed_snippet(body.text, self.root.nsmap, _parser())
        except etree.XMLSyntaxError as error:
            return WrongBody(f"XML elements, which its text does not parse as ({mistake(error.code)})")
        path = seat.into or seat.before or seat.after or ""
        found = self._spot(path)
        if not found or (len(found) > 1 and seat.after is None):
            often = f" (it is there {len(found)} times)" if found else ""
            return NoSeat(f"one element at {path}{often}", self._candidates(path))
        target = found[-1]
        parent = target if seat.into is not None else target.getparent()
        if parent is None:
            return NoSeat(f"an element at {path} that has something around it")
        there = [self._there(parent, element) for element in new]
        if all(child is not None for child in there):
            return AlreadyThere(str(self._numbers[there[0]]))
        if seat.into is None:
            return self._beside(self._elements[self._numbers[target]], body.text, above=seat.before is not None)
        neighbour = next(target.iterchildren(etree.Element, reversed=seat.at == "end"), None)
        if neighbour is not None:
            return self._beside(self._elements[self._numbers[neighbour]], body.text, above=seat.at == "start")
        return self._inside(target, self._elements[self._numbers[target]], body.text)

    def existing(self, seat: XmlSeat) -> Iterator[ExistingEntry]:
        found = self._find(seat.into or seat.before or seat.after or seat.on or "")
        for target in (element for element in found if not isinstance(element, str)):
            if seat.on is not None:
                yield from (ExistingEntry(0, 0, Body(record={key: value})) for key, value in target.attrib.items())
                continue
            holder = target if seat.into is not None else target.getparent()
            inside = (child for child in (() if holder is None else holder) if isinstance(child.tag, str))
            yield from existing_elements(self.text, self._elements, (self._numbers[child] for child in inside))
            if seat.into is None:
                return

    def unit(self, where: Where) -> ExistingEntry | None:
        number = str(where).replace("/", "@").partition("@")[0]
        return next(existing_elements(self.text, self._elements, [int(number)]), None) if number.isdigit() else None

    def _beside(self, span: Span, text: str, above: bool) -> Edits:
        """Next to an element, in its indentation."""
        string = self.text.string
        lead = _lead(string, span.start)
        new = written_lines(self.text, text, lead or "").lstrip(" \t")
        if lead is None:
            at = span.start if above else span.end
            return Edits((Edit(at, at, new),))
        if above:
            return Edits((Edit(span.start, span.start, new + self.text.newline + lead),))
        return Edits((Edit(span.end, span.end, self.text.newline + lead + new),))

    def _inside(self, element: Any, span: Span, text: str) -> Edits:
        """Into an element that has none yet."""
        string, newline = self.text.string, self.text.newline
        outer = _lead(string, span.start) or ""
        lead = outer + self.text.indent
        new = newline + written_lines(self.text, text, lead) + newline + outer
        if string[span.tag_end - 2] == "/":
            name = re.match(r"<([^\s/>]+)", string[span.start :])
            closing = f"></{name[1] if name else element.tag}>"
            return Edits((Edit(span.tag_end - 2, span.tag_end, ">" + new + closing[1:]),))
        inside = string[span.tag_end : span.close_start]
        start = span.tag_end + len(inside.rstrip()) if inside.strip() else span.tag_end
        return Edits((Edit(start, span.close_start, new),))

    def _put_attributes(self, path: str, body: Body) -> Placement:
        if body.record is None:
            return WrongBody("a record of attributes")
        found = self._spot(path)
        if len(found) != 1:
            often = f" (it is there {len(found)} times)" if found else ""
            return NoSeat(f"one element at {path}{often}", self._candidates(path))
        element = found[0]
        wanted = {str(key): _attribute_text(value) for key, value in body.record.items()}
        for key, value in wanted.items():
            if element.get(key, value) != value:
                return Clash(f"{self._numbers[element]}@{key}", f"{key} = {element.get(key)!r}, not {value!r}")
        missing = {key: value for key, value in wanted.items() if element.get(key) is None}
        number = self._numbers[element]
        if not missing:
            return AlreadyThere(str(number))
        span = self._elements[number]
        end = span.tag_end - (2 if self.text.string[span.tag_end - 2] == "/" else 1)
        at = span.start + len(self.text.string[span.start : end].rstrip())
        return Edits((Edit(at, at, "".join(f' {key}="{_escaped(value)}"' for key, value in missing.items())),))

    def _candidates(self, path: str) -> tuple[str, ...]:
        """Elements whose name is in the path: where it may have been meant to lead."""
        names = set(re.findall(r"[A-Za-z_][\w.-]*", path))
        tree = self.root.getroottree()
        near = (e for e in self.root.iter(etree.Element) if etree.QName(e).localname in names)
        return tuple(tree.getpath(element) for element, _ in zip(near, range(_NEAREST), strict=False))


@functools.lru_cache(maxsize=256)
def _with_attribute(name: str) -> etree.XPath:
    """Children by the value of an attribute."""
    return etree.XPath(f"*[@{name}=$value]")


def _lead(string: str, start: int) -> str | None:
    """The blanks before an element on its line; None when something else stands there."""
    lead = string[string.rfind("\n", 0, start) + 1 : start]
    return lead if not lead.strip() else None


def _in_quotes(words: str, quote: str) -> str:
    """A text as an attribute's value in these quotes, or as an element's text: what XML 1.0, 2.4 and 3.3.3 ask for."""
    plain = words.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;").replace("\r", "&#13;")
    if quote not in ('"', "'"):
        return plain
    plain = plain.replace("\t", "&#9;").replace("\n", "&#10;")
    return plain.replace(quote, "&quot;" if quote == '"' else "&apos;")


def _attribute_text(value: Any) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    return str(value)


def _escaped(value: str) -> str:
    return value.replace("&", "&amp;").replace("<", "&lt;").replace('"', "&quot;")


def _parser() -> etree.XMLParser:
    return etree.XMLParser(encoding="utf-8", resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)


def _located(
    text: Text, wheres: Iterable[Where], tags_of: Callable[[set[int]], Mapping[int, tuple[int, int]]]
) -> dict[Where, tuple[int, int]]:
    """Spans of elements, and of their attributes' values. `tags_of` tells where start tags are, by number."""
    wanted = {where: str(where).replace("/", "@").partition("@") for where in wheres}
    tags = tags_of({int(number) for number, _, _ in wanted.values() if number.isdigit()})
    found: dict[Where, tuple[int, int]] = {}
    for where, (number, _, attribute) in wanted.items():
        span = tags.get(int(number)) if number.isdigit() else None
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


class _XmlFormat(Format):
    title: ClassVar[str] = "XML"
    selector: ClassVar[type[Struct]] = XmlSelector
    seat: ClassVar[type[Struct]] = XmlSeat
    options: ClassVar[type[Struct]] = XmlOptions
    bodies: ClassVar[Sequence[str]] = ("text", "record")
    has_rows: ClassVar[bool] = True

    def mistake(self, asked: XmlSelector | XmlSeat, options: XmlOptions) -> str:
        return mistake_in(asked.path, tuple(sorted(options.namespaces.items())))

    def locate(self, source: Text, _options: Any, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        return _located(source, wheres, partial(tag_spans, source))

    def declared_encoding(self, data: bytes) -> str | None:
        found = _DECLARED.match(data[:200])
        return found[1].decode("ascii") if found else None

    def pasted(self, seat: XmlSeat, snippet: Snippet) -> tuple[ExistingEntry, ...]:
        if seat.on is not None:
            return tuple(attributes_in(snippet.text, seat.on))
        return tuple(elements_in(snippet.text, seat.into or "", _parser()))

    def blank(self, seat: XmlSeat) -> str:
        path = seat.into or seat.before or seat.after or seat.on or ""
        return blank_for(path)

    def open(self, source: Text | bytes, options: XmlOptions) -> _Xml:
        assert isinstance(source, Text)
        if (entity := source.string.find("<!ENTITY")) >= 0:
            raise Unreadable("declares entities, which can grow without end or reach other files", entity)
        try:
            root = etree.fromstring(source.utf8, _parser())
        except etree.XMLSyntaxError as error:
            line, column = error.position
            start = 0
            for _ in range(line - 1):
                start = source.string.find("\n", start) + 1
            where = min(start + max(column - 1, 0), len(source.string))
            raise Unreadable(f"is not XML: {mistake(error.code)}", where) from error
        return _Xml(source, root, options)


FORMAT = _XmlFormat()
