"""Elements as entries: those that stand at a seat of an XML file, and those of a text that is to go there."""

from __future__ import annotations

import re
import textwrap
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from lxml import etree

from hookset.formats._xml.spans import ElementSpans
from hookset.formats.base import Body, ExistingEntry
from hookset.trees import Text

__all__ = ["Meaning", "attributes_in", "blank_for", "elements_in", "existing_elements", "meaning", "parsed_snippet"]

_PREFIX = re.compile(r"[<\s]([A-Za-z_][\w.-]*):[A-Za-z_]")
_PAIR = re.compile(r"""([A-Za-z_][\w.:-]*)\s*=\s*(?:"([^"<]*)"|'([^'<]*)')""")

Meaning = tuple[str, tuple[tuple[str, str], ...], str, tuple["Meaning", ...]]
"""An element's name, attributes by their names, text, and what is in it."""


def parsed_snippet(text: str, namespaces: Mapping[str | None, str], parser: Any) -> list[Any]:
    """The elements of an entry. Raises etree.XMLSyntaxError."""
    declared = "".join(f' xmlns{f":{p}" if p else ""}="{uri}"' for p, uri in namespaces.items())
    root = etree.fromstring(f"<x{declared}>{text}</x>", parser)
    elements = [child for child in root if isinstance(child.tag, str)]
    if not elements:
        raise etree.XMLSyntaxError("no element in it", 0, 0, 0)
    return elements


def meaning(element: Any) -> Meaning:
    """An element as XML sees it: attributes have no order, blanks around texts do not count."""
    children = tuple(meaning(child) for child in element if isinstance(child.tag, str))
    return element.tag, tuple(sorted(element.attrib.items())), (element.text or "").strip(), children


def existing_elements(text: Text, spans: ElementSpans, numbers: Iterable[int]) -> Iterator[ExistingEntry]:
    """Elements by their numbers, which are in document order. None is looked at before it is asked for: a list may have
    ten thousands."""
    for span in (spans[number] for number in numbers):
        yield ExistingEntry(span.start, span.end, Body(text=_dedented(text.string, span.start, span.end)))


def _dedented(string: str, start: int, end: int) -> str:
    if string.find("\n", start, end) < 0:
        return string[start:end].strip()
    line = string.rfind("\n", 0, start) + 1
    lead = string[line:start]
    return textwrap.dedent((lead if not lead.strip() else "") + string[start:end]).strip()


def elements_in(text: str, path: str, parser: Any) -> Iterator[ExistingEntry]:
    """The elements of a pasted text. Where it shows the one around them as well, by the last step of `path`, they are
    those inside of it."""
    declared = "".join(f' xmlns:{prefix}="pasted:{prefix}"' for prefix in sorted(set(_PREFIX.findall(text))))
    opening = f"<pasted{declared}>"
    try:
        root = etree.fromstring(opening + text + "</pasted>", parser)
    except etree.XMLSyntaxError:
        return
    if any((child.tail or "").strip() for child in root.iter()):
        # Prose between elements: no text to paste.
        return
    around = re.fullmatch(r".*/([A-Za-z_][\w.:-]*)", path)
    inside = root.find(f".//{around[1]}") if around is not None and ":" not in around[1] else None
    holder = root if inside is None else inside
    numbers = {element: number for number, element in enumerate(root.iter(etree.Element))}
    pasted = Text(opening + text + "</pasted>", "utf-8")
    for one in existing_elements(pasted, ElementSpans(pasted), (numbers[child] for child in holder)):
        yield ExistingEntry(one.start - len(opening), one.end - len(opening), one.body)


def attributes_in(text: str, path: str) -> Iterator[ExistingEntry]:
    """Attributes, alone or in a start tag of the element that `path` leads to."""
    name = re.search(r"([A-Za-z_][\w.:-]*)(?:\[[^\[\]]*\])*$", path)
    body = re.sub(rf"^\s*<{re.escape(name[1])}(?=\s)|/?>\s*$", "", text) if name is not None else text
    if not _PAIR.sub("", body).strip():
        offset = text.index(body) if body else 0
        for pair in _PAIR.finditer(body):
            value = pair[2] if pair[2] is not None else pair[3]
            yield ExistingEntry(offset + pair.start(), offset + pair.end(), Body(record={pair[1]: value}))


_STEPS = re.compile(r"(?:/{1,2}[A-Za-z_][\w.-]*(?:\[@[A-Za-z_][\w.-]*='[^']*'\])?)+")
_STEP = re.compile(r"(/{1,2})([A-Za-z_][\w.-]*)(?:\[@([A-Za-z_][\w.-]*)='([^']*)'\])?")


def blank_for(path: str) -> str:
    """The least that a file must hold for the XPath to lead somewhere; empty for one that says more than names."""
    if _STEPS.fullmatch(path) is None:
        return ""
    opened, closed = "", ""
    for slashes, name, key, value in _STEP.findall(path):
        if slashes == "//" and not opened:
            opened, closed = "<Blank>", "</Blank>"
        given = f' {key}="{value}"' if key else ""
        opened, closed = f"{opened}<{name}{given}>", f"</{name}>{closed}"
    return f"{opened}{closed}\n"
