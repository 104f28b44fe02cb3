"""HTML (as of the WHATWG standard, read leniently): texts by line, `<pre>` and code as what is to be copied."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from lxml import etree

from hookset.authoring.draft.notes.line import Line

__all__ = ["lines_of"]

_BLOCKS = frozenset([
    "address", "article", "aside", "blockquote", "br", "dd", "div", "dl", "dt", "fieldset", "footer", "form",
    "h1", "h2", "h3", "h4", "h5", "h6", "header", "hr", "li", "main", "nav", "ol",
    "p", "pre", "section", "table", "tbody", "td", "th", "thead", "tr", "ul", "textarea",
])  # fmt: skip
_HEADINGS = frozenset(["h1", "h2", "h3", "h4", "h5", "h6", "title", "dt"])
_CODE = frozenset(["pre", "textarea", "xmp"])
_SILENT = frozenset(["script", "style", "template", "noscript"])


def lines_of(text: str) -> Iterator[Line]:
    """Lines of a page. Numbers are those of the file, where an element begins."""
    parser = etree.HTMLParser(no_network=True, recover=True, huge_tree=False)
    try:
        root = etree.fromstring(text.encode("utf-8", "replace"), parser)
    except etree.XMLSyntaxError:
        root = None
    if root is not None:
        yield from _Reader().read(root)


class _Reader:
    """Walks the elements and breaks lines where a browser would."""

    def __init__(self) -> None:
        self.line = ""
        self.number = 1

    def read(self, root: Any) -> Iterator[Line]:
        yield from self._element(root, code=False, heading=False)
        yield from self._broken(False, False)

    def _broken(self, code: bool, heading: bool) -> Iterator[Line]:
        if self.line.strip():
            yield Line(self.number, self.line.rstrip() if code else self.line.strip(), code, heading)
        self.line = ""

    def _element(self, element: Any, code: bool, heading: bool) -> Iterator[Line]:
        tag = element.tag if isinstance(element.tag, str) else ""
        if not tag or tag in _SILENT:
            return
        block = tag in _BLOCKS or tag in _HEADINGS
        inside = (code or tag in _CODE, heading or tag in _HEADINGS)
        if block:
            yield from self._broken(code, heading)
        if not self.line:
            self.number = element.sourceline or self.number
        if tag in _CODE:
            yield Line(self.number, "")
        ticked = "`" if tag in ("code", "tt", "kbd") and not code else ""
        self.line += "- " if tag == "li" else ticked
        yield from self._text(element.text, *inside)
        for child in element:
            yield from self._element(child, *inside)
            yield from self._text(child.tail, *inside)
        self.line += ticked
        if block:
            yield from self._broken(*inside)
        if tag in _CODE:
            yield Line(self.number, "")

    def _text(self, text: str | None, code: bool, heading: bool) -> Iterator[Line]:
        if not text:
            return
        if not code:
            self.line += " ".join(text.split()).join(
                (" " if text[:1].isspace() else "", " " if text[-1:].isspace() else "")
            )
            return
        first, *rest = text.split("\n")
        self.line += first
        for line in rest:
            yield from self._broken(code, heading)
            self.number += 1
            self.line = line
