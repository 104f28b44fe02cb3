"""XPath 1.0 in time that grows with the file, not with its square: whoever wrote the path may have meant us harm.

`//a//b` is asked in two steps, the second one below the outermost elements of the first only: what lies below the
others lies below those, too. What cannot be asked in such a way is refused when the layout is read.
"""

from __future__ import annotations

import functools
import re
from collections.abc import Iterator, Sequence
from typing import Any

from lxml import etree
from msgspec import Struct

from hookset.formats._xml.conditions import Condition, Test, condition
from hookset.formats._xml.elements import Elements

__all__ = ["Namespaces", "PlainWay", "XmlPath", "compiled", "mistake_in", "plain_way"]

Namespaces = tuple[tuple[str, str], ...]

_LONGEST = 2_000
_FAR_AXES = re.compile(r"\b(?:following|preceding)\s*::")
_SIBLINGS = re.compile(r"\b(?:following|preceding)-sibling\s*::\s*[\w.*:-]+\s*(?!\s|\[\s*1\s*\])")
_FROM_THE_TOP = re.compile(r"(?:[\[(,=<>!|+]|\band\b|\bor\b|\bdiv\b|\bmod\b)\s*//")
_QUOTED = re.compile(r"\"[^\"]*\"|'[^']*'")
_VARIABLE = re.compile(r"\$\s*[\w{]")
_NAMESPACES = re.compile(r"\bnamespace\s*::")
_CALLED = re.compile(r"(?<![\w.:-])([A-Za-z_][\w.-]*)\s*\(")
_PREFIX = re.compile(r"(?<![\w.:-])([A-Za-z_][\w.-]*):(?!:)")
_WORD = re.compile(r"\{[^{}]*\}")
_STEP = re.compile(
    r"""(?P<slashes>//?)(?P<name>[A-Za-z_][\w.-]*)(?P<conditions>(?:\[(?:[^\[\]'"]|'[^']*'|"[^"]*")+\])*)"""
)
_CONDITION = re.compile(r"""\[((?:[^\[\]'"]|'[^']*'|"[^"]*")+)\]""")
_SAYS = re.compile(r"""\s*@([A-Za-z_][\w.-]*)\s*=\s*(?:'([^']*)'|"([^"]*)")\s*""")
_FUNCTIONS = frozenset((
    "last", "position", "count", "id", "local-name", "namespace-uri", "name", "string", "concat", "starts-with",
    "contains", "substring-before", "substring-after", "substring", "string-length", "normalize-space", "translate",
    "boolean", "not", "true", "false", "lang", "number", "sum", "floor", "ceiling", "round", "comment", "text",
    "processing-instruction", "node", "and", "or", "div", "mod",
))  # fmt: skip
"""What XPath 1.0 lets stand before a parenthesis: functions, tests for nodes, operators."""
_MOST_BELOW = 2
"""Times that a predicate may ask for what lies anywhere below."""


class _Step(Struct, frozen=True):
    name: str
    conditions: tuple[Condition, ...]

    def tests(self, elements: Elements) -> list[Test]:
        return [condition.of(elements) for condition in self.conditions]


class PlainWay(Struct, frozen=True):
    """`//above/name[@key='value']`, or `/outermost/above/name`, of any length. Most paths are so, and columns are
    gone through for them in a tenth of the time that asking XPath takes."""

    steps: tuple[_Step, ...]
    anywhere: bool
    """Whether the first step may be anything but the outermost element."""
    wanted: str | None
    """The text that an attribute of the last step must say, where one must."""

    def of(self, elements: Elements) -> Sequence[int]:
        """The numbers of the elements that are meant."""
        *above, last = self.steps
        found: Sequence[int] = elements.named.get(last.name, ())
        for asked in last.conditions:
            if asked.text is not None:
                (key,) = asked.keys
                texts = elements.said(found, key)
                found = [number for number, text in zip(found, texts, strict=True) if text == asked.text]
                continue
            test, each = asked.of(elements), elements.saying(found, asked.keys)
            found = [number for number, said in zip(found, each, strict=True) if test(said)]
        if not above and self.anywhere:
            return found
        parents = elements.parents
        names = [step.name for step in reversed(above)]
        tests = [step.tests(elements) for step in reversed(above)]
        right = {around: self._right(elements, around, names, tests) for around in {parents[one] for one in found}}
        return [number for number in found if right[parents[number]]]

    def _right(self, elements: Elements, around: int, names: Sequence[str], tests: Sequence[list[Test]]) -> bool:
        """Whether an element, and those around it, are the ones above the last step."""
        way = elements.upwards(around, names)
        if way is None or not (self.anywhere or (elements.parents[way[-1]] if way else around) < 0):
            return False
        return all(test(elements.attributes[one]) for one, own in zip(way, tests, strict=True) for test in own)


@functools.lru_cache(maxsize=256)
def plain_way(path: str) -> PlainWay | None:
    """The path, if it is as plain as that."""
    matches = list(_STEP.finditer(path))
    if not matches or "".join(match[0] for match in matches) != path:
        return None
    if any(match["slashes"] == "//" for match in matches[1:]):
        return None
    steps = []
    for match in matches:
        conditions = [condition(written[1]) for written in _CONDITION.finditer(match["conditions"])]
        if None in conditions:
            return None
        steps.append(_Step(match["name"], tuple(one for one in conditions if one is not None)))
    said = [_SAYS.fullmatch(written[1]) for written in _CONDITION.finditer(matches[-1]["conditions"])]
    wanted = next((match[2] if match[2] is not None else match[3] for match in said if match is not None), None)
    return PlainWay(tuple(steps), matches[0]["slashes"] == "//", wanted)


class XmlPath:
    """A compiled path. Asked of a root, it gives what it names, in document order."""

    def __init__(self, parts: tuple[etree.XPath, ...]) -> None:
        self._parts = parts

    def __call__(self, root: Any) -> list[Any]:
        found = self._parts[0](root)
        if not isinstance(found, list):
            return []
        for part in self._parts[1:]:
            below: list[Any] = []
            for element in _outermost(found):
                below += part(element)
            found = below
        return found


def _outermost(found: list[Any]) -> Iterator[Any]:
    elements = [one for one in found if not isinstance(one, str)]
    inside = set(elements)
    return (one for one in elements if not any(above in inside for above in one.iterancestors()))


@functools.lru_cache(maxsize=256)
def compiled(path: str, namespaces: Namespaces) -> XmlPath:
    """Raises ValueError, in words, for what is no XPath, and for one that would take too long."""
    if len(path) > _LONGEST:
        raise ValueError(f"an XPath of {len(path):,} characters is not asked; {_LONGEST:,} are the most")
    plain = _QUOTED.sub(lambda found: '"' + "_" * (len(found[0]) - 2) + '"', path)
    if _FAR_AXES.search(plain):
        raise ValueError(f"{path!r} asks for everything before or behind: name the elements by what they are in")
    if _SIBLINGS.search(plain):
        raise ValueError(f"{path!r} asks for all siblings of each element: ask for the first one, with [1]")
    _check_words(path, plain)
    pieces = _pieces(path, plain)
    inner = "".join(_predicates(plain))
    if _FROM_THE_TOP.search(inner) or inner.count("//") > _MOST_BELOW or (len(pieces) == 1 and _descends(plain) > 1):
        raise ValueError(f"{path!r} looks through the whole file for each element: take the `//` out of its conditions")
    try:
        whole = etree.XPath(path, namespaces=dict(namespaces), smart_strings=True)
        parts = [etree.XPath(piece, namespaces=dict(namespaces), smart_strings=True) for piece in pieces]
    except etree.XPathSyntaxError as error:
        raise ValueError(f"{path!r} is no XPath") from error
    return XmlPath(tuple(parts) if len(parts) > 1 else (whole,))


def _check_words(path: str, plain: str) -> None:
    """Raises ValueError for what parses, but means nothing: asked of a file, it would find nothing, and say nothing."""
    if _VARIABLE.search(plain):
        raise ValueError(f"{path!r} has a variable, and nothing gives it a value: write the text in quotes")
    if _NAMESPACES.search(plain):
        raise ValueError(f"{path!r} asks for namespaces, which are no values: ask for elements, attributes or texts")
    for called in _CALLED.finditer(plain):
        if called[1] not in _FUNCTIONS:
            raise ValueError(f"{path!r} calls {called[1]}(), which XPath 1.0 does not have")


def mistake_in(path: str, namespaces: Namespaces) -> str:
    """What is wrong with a path that compiles, in words: prefixes that are not declared, results that are no place in
    the file; empty where nothing is."""
    plain = _WORD.sub("_", _QUOTED.sub("''", path))
    for prefix, uri in namespaces:
        if not prefix or not uri:
            return f"options.namespaces has {prefix!r} = {uri!r}: each needs a prefix and a URI"
    for prefix in _PREFIX.findall(plain):
        if prefix not in dict(namespaces) and prefix != "xml":
            return f"{path!r} uses the prefix {prefix}: without saying what it stands for: options.namespaces says that"
    try:
        result = etree.XPath(path, namespaces=dict(namespaces))(etree.Element("none"))
    except etree.XPathError:
        return f"{path!r} puts together what cannot be: a list of elements with a number or a text"
    if isinstance(result, list):
        return ""
    return f"{path!r} comes to a number, a text, or true or false: ask for elements, attributes or texts"


def _descends(plain: str) -> int:
    """How often a path goes any number of levels down, outside of its conditions."""
    outer = plain
    for predicate in _predicates(plain):
        outer = outer.replace(predicate, "")
    alternatives = outer.split("|")
    return max(one.count("//") + one.count("descendant") + one.count("ancestor") for one in alternatives)


def _predicates(plain: str) -> Iterator[str]:
    """The outermost conditions, with their brackets."""
    depth = start = 0
    for index, character in enumerate(plain):
        if character == "[":
            start = start if depth else index
            depth += 1
        elif character == "]":
            depth -= 1
            if not depth:
                yield plain[start : index + 1]


def _pieces(path: str, plain: str) -> list[str]:
    """The path cut at each `//` that stands outside of brackets, but for one at its beginning. Paths with alternatives
    or functions stay whole."""
    depth = 0
    cuts: list[int] = []
    for index, character in enumerate(plain):
        if character in "[(":
            depth += 1
            if character == "(":
                return [path]
        elif character in "])":
            depth -= 1
        elif character == "|" and not depth:
            return [path]
        elif character == "/" and not depth and index and plain.startswith("//", index):
            cuts.append(index)
    ends = [*cuts, len(path)]
    first = path[: ends[0]]
    return [first, *(f".{path[start:end]}" for start, end in zip(cuts, ends[1:], strict=True))]
