"""Entries of XML files: elements at a seat, and attributes of one element."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from lxml import etree

from hookset.formats._values import flat_record
from hookset.formats._writing import written_lines
from hookset.formats._xml.asked import XmlSeat
from hookset.formats._xml.mistakes import mistake
from hookset.formats._xml.parser import parser
from hookset.formats._xml.paths import plain_way
from hookset.formats._xml.reading import XmlDocument, written_value
from hookset.formats._xml.snippets import (
    Meaning,
    existing_elements,
    meaning,
    parsed_snippet,
)
from hookset.formats._xml.spans import Span
from hookset.formats.base import (
    AlreadyThere,
    Body,
    Clash,
    Edit,
    Edits,
    ExistingEntry,
    NoSeat,
    Placement,
    WrongBody,
)
from hookset.formats.document import Insertable
from hookset.trees import Text

__all__ = ["EditableXml"]

_NEAREST = 12
_PLAIN = re.compile(r"[A-Za-z_][\w.-]*")
"""The name of an attribute without a prefix."""
_MEANT = re.compile(r"[\w./-]+", re.ASCII)
"""What stands in a file as it is meant, without entities."""
_KEYED = re.compile(r"(.+)\[@([A-Za-z_][\w.-]*)=['\"][^'\"]*['\"]\]")
"""A path that ends with what one attribute says."""
_FEW = 100
_LAST = 500


@dataclass(frozen=True)
class EditableXml(XmlDocument, Insertable):
    """One file, and where entries would go in it."""

    @cached_property
    def _by_attribute(self) -> dict[tuple[int, str], dict[str | None, list[int]]]:
        """By an element and the name of an attribute: the children, by its value."""
        return {}

    @cached_property
    def _lacking(self) -> dict[str, bool]:
        """Of values that were looked for in the text: whether they are certainly nowhere in the file."""
        return {}

    def _there(self, parent: int, new: Any) -> int | None:
        """The child that means what a new element does. One of its attributes tells most others from it."""
        name = next((key for key in new.keys() if _PLAIN.fullmatch(key)), "")  # noqa: SIM118 - of an element
        wanted = meaning(new)
        children = self.elements.children.get(parent, [])
        # What was set a moment ago is one of the last.
        last = children[-_LAST:]
        value = new.get(name) if name else None
        said = self.elements.said(last, name) if name else [value] * len(last)
        for child, text in zip(reversed(last), reversed(said), strict=True):
            if text == value and self._means(child, new, wanted):
                return child
        if any(self._lacks(value) for value in new.values()):
            return None
        like = self._like(parent, name, new.get(name)) if name else children
        return next((child for child in like if self._means(child, new, wanted)), None)

    def _means(self, number: int, new: Any, wanted: Meaning) -> bool:
        """Whether an element says the same as a new one. Few have the same attributes: only of those the text is
        asked."""
        if self.elements.tags[number] != new.tag or self.elements.attributes[number] != dict(new.attrib):
            return False
        return self._meaning(number) == wanted

    def _meaning(self, number: int) -> Meaning:
        elements = self.elements
        inside = tuple(self._meaning(child) for child in elements.children.get(number, ()))
        said = tuple(sorted(elements.attributes[number].items()))
        return elements.tags[number], said, self._text(number), inside

    def _text(self, number: int) -> str:
        span = self._spans[number]
        string = self.text.string
        # What stands as it is meant needs no second look through the file.
        end = string.find("<", span.tag_end, span.close_start)
        said = string[span.tag_end : span.close_start if end < 0 else end]
        if "&" not in said and not string.startswith("<![", end if end >= 0 else span.close_start):
            return said.replace("\r\n", "\n").replace("\r", "\n").strip()
        return self.texts[number].strip()

    @cached_property
    def _spelled_by_number(self) -> bool:
        """Whether characters are written as `&#97;`: what is not in the text can be in the file then."""
        return "&#" in self.text.string

    def _lacks(self, value: str) -> bool:
        """Whether a value is certainly nowhere in the file. To look through the text is quicker for the first few, and
        slower than an index for many."""
        if value not in self._lacking:
            if len(self._lacking) >= _FEW:
                return False
            meant = bool(_MEANT.fullmatch(value)) and not self._spelled_by_number
            self._lacking[value] = meant and value not in self.text.string
        return self._lacking[value]

    def _like(self, parent: int, name: str, value: str) -> Sequence[int]:
        """The children with a value. They are indexed at once: one search by XPath takes as long."""
        key = (parent, name)
        if key not in self._by_attribute:
            found: dict[str | None, list[int]] = {}
            children = self.elements.children.get(parent, ())
            for child, said in zip(children, self.elements.said(children, name), strict=True):
                found.setdefault(said, []).append(child)
            self._by_attribute[key] = found
        return self._by_attribute[key].get(value, ())

    @cached_property
    def _found(self) -> dict[str, Sequence[int]]:
        """By the path of a seat: what it leads to."""
        return {}

    def _spot(self, path: str) -> Sequence[int]:
        """The elements that a seat's path leads to; kept, since one hook after the other asks for the same."""
        if path not in self._found:
            way = plain_way(path)
            lacking = way is not None and way.wanted is not None and self._lacks(way.wanted)
            self._found[path] = () if lacking else self._find(path)
        return self._found[path]

    @cached_property
    def _declared(self) -> Mapping[str | None, str]:
        """The prefixes that the outermost element declares."""
        return self.root.nsmap if "xmlns" in self.text.string else {}

    def put(self, seat: XmlSeat, body: Body) -> Placement:
        if seat.on is not None:
            return self._put_attributes(seat.on, body)
        if body.text is None:
            return WrongBody("an XML element")
        try:
            new = parsed_snippet(body.text, self._declared, parser())
        except etree.XMLSyntaxError as error:
            return WrongBody(f"XML elements, which its text does not parse as ({mistake(error.code)})")
        path = seat.into or seat.before or seat.after or ""
        found = self._spot(path)
        if not found or (len(found) > 1 and seat.after is None):
            often = f" (it is there {len(found)} times)" if found else ""
            return NoSeat(f"one element at {path}{often}", self._candidates(path))
        target = found[-1]
        parent = target if seat.into is not None else self.elements.parents[target]
        if parent < 0:
            return NoSeat(f"an element at {path} that has something around it")
        there = [self._there(parent, element) for element in new]
        if all(child is not None for child in there):
            return AlreadyThere(str(there[0]))
        if seat.into is None:
            return self._beside(self._spans[target], body.text, above=seat.before is not None)
        if inside := self.elements.children.get(target):
            return self._beside(self._spans[inside[-1 if seat.at == "end" else 0]], body.text, above=seat.at == "start")
        return self._inside(self._spans[target], body.text)

    def inserted(self, text: Text, edits: Sequence[Edit]) -> EditableXml | None:
        if self.tree is not None:
            return None
        # Only of a large file, for which NumPy is loaded already.
        from hookset.formats._xml.inserting import with_inserted

        elements = with_inserted(self.text, self.elements, self._spans, text, edits)
        return replace(self, text=text, elements=elements) if elements is not None else None

    def existing(self, seat: XmlSeat) -> Iterator[ExistingEntry]:
        elements = self.elements
        for target in self._find(seat.into or seat.before or seat.after or seat.on or ""):
            if seat.on is not None:
                said = elements.attributes[target].items()
                yield from (ExistingEntry(0, 0, Body(record={key: value})) for key, value in said)
                continue
            holder = target if seat.into is not None else elements.parents[target]
            inside = () if holder < 0 else elements.children.get(holder, ())
            yield from existing_elements(self.text, self._spans, inside)
            if seat.into is None:
                return

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

    def _inside(self, span: Span, text: str) -> Edits:
        """Into an element that has none yet."""
        string, newline = self.text.string, self.text.newline
        outer = _lead(string, span.start) or ""
        lead = outer + self.text.indent
        new = newline + written_lines(self.text, text, lead) + newline + outer
        if string[span.tag_end - 2] == "/":
            return Edits((Edit(span.tag_end - 2, span.tag_end, f">{new}{self._closing(span)}"),))
        inside = string[span.tag_end : span.close_start]
        start = span.tag_end + len(inside.rstrip()) if inside.strip() else span.tag_end
        return Edits((Edit(start, span.close_start, new),))

    def _closing(self, span: Span) -> str:
        """The end tag for an element: with its name as it stands there, prefix and all."""
        name = re.compile(r"[^\s/>]+").match(self.text.string, span.start + 1)
        return f"</{name[0] if name else ''}>"

    def _put_attributes(self, path: str, body: Body) -> Placement:
        if body.record is None:
            return WrongBody("a record of attributes")
        found = self._spot(path)
        if len(found) != 1:
            often = f" (it is there {len(found)} times)" if found else ""
            return NoSeat(f"one element at {path}{often}", self._candidates(path))
        number = found[0]
        said = self.elements.attributes[number]
        wanted, odd = flat_record(body.record)
        if odd:
            return WrongBody(f"a record of attributes with one value each, and `{odd}` has another")
        for key, value in wanted.items():
            if said.get(key, value) != value:
                return Clash(f"{number}@{key}", f"{key} = {said.get(key)!r}, not {value!r}")
        missing = {key: value for key, value in wanted.items() if key not in said}
        if not missing:
            return AlreadyThere(str(number))
        span = self._spans[number]
        end = span.tag_end - (2 if self.text.string[span.tag_end - 2] == "/" else 1)
        at = span.start + len(self.text.string[span.start : end].rstrip())
        return Edits(
            (Edit(at, at, "".join(f' {key}="{written_value(value, chr(34))}"' for key, value in missing.items())),)
        )

    def _candidates(self, path: str) -> tuple[str, ...]:
        """What the path may have been meant to say: values of the attribute that it asks for at its end, or elements
        whose name is in it."""
        if (asked := _KEYED.fullmatch(path)) is not None:
            values = f"{asked[1]}/@{asked[2]}"
            if values not in self._values:
                self._values[values] = self._first_values(asked[1], asked[2])
            return self._values[values]
        names = set(re.findall(r"[A-Za-z_][\w.-]*", path))
        tree = self.root.getroottree()
        near = (e for e in self.root.iter(etree.Element) if etree.QName(e).localname in names)
        return tuple(tree.getpath(element) for element, _ in zip(near, range(_NEAREST), strict=False))

    def _first_values(self, path: str, name: str) -> tuple[str, ...]:
        """Of the elements that a path names: the first values of an attribute. There may be very many."""
        values: dict[str, None] = {}
        for number in self._find(path):
            value = self.elements.attributes[number].get(name)
            if value is not None:
                values[value] = None
            if len(values) == _NEAREST:
                break
        return tuple(values)

    @cached_property
    def _values(self) -> dict[str, tuple[str, ...]]:
        """What was looked up already: many entries may be tried at one seat."""
        return {}


def _lead(string: str, start: int) -> str | None:
    """The blanks before an element on its line; None when something else stands there."""
    lead = string[string.rfind("\n", 0, start) + 1 : start]
    return lead if not lead.strip() else None
