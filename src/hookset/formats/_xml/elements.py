"""The elements of a file as columns, by their number in document order: made while expat parses, without a tree.

Python gets an element and its attributes in one call then, where a tree has to be asked for each of them.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any
from xml.parsers import expat

from lxml import etree

from hookset.trees import Text

__all__ = ["DEEPEST", "Elements", "elements_of", "elements_of_tree", "is_of_another_kind", "texts_of"]

DEEPEST = 250
"""Levels; libxml2 reads some more, and says what is wrong with a file that has others."""
_FIRST_VERSION = re.compile(r"""<\?xml\s+version\s*=\s*["']1\.0["']""")
_PLAIN_ADDRESS = re.compile(r"[A-Za-z][A-Za-z0-9+.-]*:[A-Za-z0-9/._~-]+")
"""A namespace that both parsers take for one: libxml2 looks at it as an address (RFC 3986)."""
_MARKS = ("<!DOCTYPE", "xml:id")


@dataclass(frozen=True, eq=False)
class Elements:
    """All elements of a file; lists of the same length."""

    tags: Sequence[str]
    """Names; one that is in a namespace is `{namespace}name`."""
    attributes: Sequence[dict[str, str]]
    parents: Sequence[int]
    """The number of the element around each; -1 for the outermost."""

    @cached_property
    def named(self) -> Mapping[str, Sequence[int]]:
        """The elements of each name."""
        found: dict[str, list[int]] = {}
        for number, tag in enumerate(self.tags):
            if tag in found:
                found[tag].append(number)
            else:
                found[tag] = [number]
        return found

    @property
    def starts(self) -> Sequence[int] | None:
        """Where each start tag begins, in bytes; None where that was not noted."""
        return None

    @cached_property
    def children(self) -> Mapping[int, list[int]]:
        """Of each element that has some: those that stand in it."""
        found: dict[int, list[int]] = {}
        for number, parent in enumerate(self.parents):
            if parent in found:
                found[parent].append(number)
            else:
                found[parent] = [number]
        return found

    def said(self, numbers: Sequence[int], name: str) -> list[str | None]:
        """What some elements say at an attribute; None for one that does not have it."""
        return [pairs.get(name) for pairs in map(self.attributes.__getitem__, numbers)]

    def column(self, numbers: Sequence[int], name: str) -> Sequence[str | None]:
        """The same, for those who may not look at them one by one."""
        return self.said(numbers, name)

    def saying(self, numbers: Sequence[int], names: Collection[str]) -> Iterable[Mapping[str, str]]:  # noqa: ARG002
        """What each of some elements says at some attributes, and perhaps at others."""
        return map(self.attributes.__getitem__, numbers)

    def each(self, numbers: Sequence[int]) -> Iterator[dict[str, str]]:
        """The attributes of some elements, one after the other."""
        return map(self.attributes.__getitem__, numbers)

    def upwards(self, number: int, names: Iterable[str]) -> list[int] | None:
        """An element and those around it, from the inside out, if they are called so; None where they are not."""
        found = []
        for name in names:
            if number < 0 or self.tags[number] != name:
                return None
            found.append(number)
            number = self.parents[number]
        return found


class _ForTheOther(Exception):  # noqa: N818
    """There is something in the file about which the two parsers may differ."""


def is_of_another_kind(text: Text) -> bool:
    """Whether there is something in a file that libxml2 judges by rules of its own."""
    string = text.string
    return any(mark in string for mark in _MARKS) or (
        string.startswith("<?xml") and _FIRST_VERSION.match(string) is None
    )


def elements_of(text: Text) -> Elements | None:
    """The elements of a file that both parsers are sure to read alike; None for others, and for what is not XML."""
    if is_of_another_kind(text):
        return None
    parser = expat.ParserCreate("utf-8", "}")
    tags: list[str] = []
    attributes: list[dict[str, str]] = []
    parents: list[int] = []
    around = [-1]
    tag, attribute, parent, inside, outside = tags.append, attributes.append, parents.append, around.append, around.pop

    def start(name: str, pairs: dict[str, str]) -> None:
        parent(around[-1])
        inside(len(tags))
        tag(name)
        attribute(pairs)
        if len(around) > DEEPEST:
            raise _ForTheOther

    def end(_name: str) -> None:
        outside()

    parser.StartElementHandler = start
    parser.EndElementHandler = end
    parser.StartNamespaceDeclHandler = _check_namespace
    try:
        parser.Parse(text.utf8, True)
    except (expat.ExpatError, _ForTheOther):
        return None
    # expat says `namespace}name`.
    renamed = {name: f"{{{name}" for name in parser.intern if name and "}" in name}
    if renamed:
        tags = [renamed.get(name, name) for name in tags]
        attributes = [{renamed.get(key, key): value for key, value in pairs.items()} for pairs in attributes]
    return Elements(tags, attributes, parents)


def _check_namespace(_prefix: str | None, address: str | None) -> None:
    if address and not _PLAIN_ADDRESS.fullmatch(address):
        raise _ForTheOther


def texts_of(text: Text) -> list[str]:
    """What stands in each element before anything else does, of a file that `elements_of` has read."""
    parser = expat.ParserCreate("utf-8", "}")
    parser.buffer_text = True
    texts: list[str] = []
    at = -1

    def start(_name: str, _pairs: dict[str, str]) -> None:
        nonlocal at
        at = len(texts)
        texts.append("")

    def ended(*_what: str) -> None:
        nonlocal at
        at = -1

    def said(words: str) -> None:
        if at >= 0:
            texts[at] += words

    parser.StartElementHandler = start
    parser.EndElementHandler = parser.CommentHandler = parser.ProcessingInstructionHandler = ended
    parser.CharacterDataHandler = said
    parser.Parse(text.utf8, True)
    return texts


def elements_of_tree(root: Any) -> Elements:
    """The elements of a tree that lxml has made."""
    elements = list(root.iter(etree.Element))
    numbers = dict(zip(elements, range(len(elements)), strict=True))
    numbers[None] = -1
    return Elements(
        [element.tag for element in elements],
        [dict(element.attrib) for element in elements],
        [numbers.get(element.getparent(), -1) for element in elements],
    )
