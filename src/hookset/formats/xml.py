"""XML 1.0: values by XPath, places by byte offsets from a second, streaming parser.

A value's place is the number of its element in document order, with the attribute's name: `412@script`. Finding the
characters for it costs one more pass, and only when something is shown or edited. Entities and the network are off.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from functools import partial
from typing import Any, ClassVar

from lxml import etree
from msgspec import Struct

from hookset.formats._xml.asked import XmlOptions, XmlSeat, XmlSelector
from hookset.formats._xml.elements import Elements, elements_of, elements_of_tree
from hookset.formats._xml.entities import declared_in
from hookset.formats._xml.mistakes import mistake
from hookset.formats._xml.parser import parser
from hookset.formats._xml.parts import XmlWithParts, way_mistake
from hookset.formats._xml.paths import mistake_in
from hookset.formats._xml.reading import located
from hookset.formats._xml.snippets import (
    attributes_in,
    blank_for,
    elements_in,
)
from hookset.formats._xml.spans import tag_spans
from hookset.formats.base import (
    ExistingEntry,
    Unreadable,
)
from hookset.formats.format import Format, Snippet
from hookset.model import Where
from hookset.trees import Text

__all__ = ["FORMAT", "XmlSeat", "XmlSelector"]

_LARGE = 1 << 17
"""Characters of a file whose elements take less time and room when they are not made one by one."""
_DECLARED = re.compile(rb"""^<\?xml[^>]*?encoding\s*=\s*["']([A-Za-z0-9._-]+)["']""")


class _XmlFormat(Format):
    title: ClassVar[str] = "XML"
    selector: ClassVar[type[Struct]] = XmlSelector
    seat: ClassVar[type[Struct]] = XmlSeat
    options: ClassVar[type[Struct]] = XmlOptions
    bodies: ClassVar[Sequence[str]] = ("text", "record")
    has_rows: ClassVar[bool] = True
    has_parts: ClassVar[bool] = True

    def way_mistake(self, way: str) -> str:
        return way_mistake(way)

    def mistake(self, asked: XmlSelector | XmlSeat, options: XmlOptions) -> str:
        return mistake_in(asked.path, tuple(sorted(options.namespaces.items())))

    def locate(self, source: Text, _options: Any, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        return located(source, wheres, partial(tag_spans, source))

    def declared_encoding(self, data: bytes) -> str | None:
        found = _DECLARED.match(data[:200])
        return found[1].decode("ascii") if found else None

    def pasted(self, seat: XmlSeat, snippet: Snippet) -> tuple[ExistingEntry, ...]:
        if seat.on is not None:
            return tuple(attributes_in(snippet.text, seat.on))
        return tuple(elements_in(snippet.text, seat.into or "", parser()))

    def blank(self, seat: XmlSeat) -> str:
        path = seat.into or seat.before or seat.after or seat.on or ""
        return blank_for(path)

    def open(self, source: Text | bytes, options: XmlOptions) -> XmlWithParts:
        assert isinstance(source, Text)
        if (elements := _columns_of(source)) is not None:
            return XmlWithParts(source, elements, options)
        try:
            root = etree.fromstring(source.utf8, parser())
        except etree.XMLSyntaxError as error:
            line, column = error.position
            start = 0
            for _ in range(line - 1):
                start = source.string.find("\n", start) + 1
            where = min(start + max(column - 1, 0), len(source.string))
            raise Unreadable(f"is not XML: {mistake(error.code)}", where) from error
        return XmlWithParts(source, elements_of_tree(root), options, root, (), declared_in(source.string, root))


def _columns_of(text: Text) -> Elements | None:
    """The elements of a file without a tree; None for one that lxml must look at."""
    if len(text.string) >= _LARGE:
        # NumPy takes as long to load as a small map to check.
        from hookset.formats._xml.scan import scanned

        if (found := scanned(text)) is not None:
            return found
    return elements_of(text)


FORMAT = _XmlFormat()
