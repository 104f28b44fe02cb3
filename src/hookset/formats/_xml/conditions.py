"""Conditions on attributes, as XPath 1.0 has them in brackets: read into functions, asked of an element's attributes.

Those that ask for anything else are left to lxml.
"""

from __future__ import annotations

import functools
import re
from collections.abc import Callable, Iterator, Mapping
from typing import NamedTuple

from hookset.formats._xml.elements import Elements

__all__ = ["Condition", "Test", "condition"]

Test = Callable[[Mapping[str, str]], bool]
"""Whether attributes are as a condition asks."""


class Condition(NamedTuple):
    """What a condition comes to."""

    keys: frozenset[str]
    """The attributes that it looks at."""
    of: Callable[[Elements], Test]
    """In one file."""
    text: str | None = None
    """What its one attribute must say, where no more is asked: most conditions are so."""


_TOKEN = re.compile(
    r"""\s*(?:(?P<text>'[^']*'|"[^"]*")|@(?P<attribute>[A-Za-z_][\w.-]*)"""
    r"""|(?P<path>/[A-Za-z_][\w.-]*(?:/[A-Za-z_][\w.-]*)*/@[A-Za-z_][\w.-]*)"""
    r"""|(?P<word>and|or|not|starts-with|contains)\b(?!-)|(?P<sign>!=|=|\(|\)|,))"""
)
_DEEPEST = 20


class _Otherwise(Exception):  # noqa: N818
    """The condition asks for something else."""


@functools.lru_cache(maxsize=256)
def condition(written: str) -> Condition | None:
    """What stands between the brackets; None for what only XPath can be asked."""
    try:
        return _Reading(written).whole()
    except _Otherwise:
        return None


class _Reading:
    """One condition while it is read."""

    def __init__(self, written: str) -> None:
        self._tokens = list(_tokens(written))
        self._depth = 0

    def whole(self) -> Condition:
        found = self._either()
        if self._tokens:
            raise _Otherwise
        return found

    def _next(self, kind: str, *words: str) -> str | None:
        """The next token's text, where it is of a kind and one of some words."""
        if self._tokens and self._tokens[0][0] == kind and (not words or self._tokens[0][1] in words):
            return self._tokens.pop(0)[1]
        return None

    def _need(self, kind: str, *words: str) -> str:
        found = self._next(kind, *words)
        if found is None:
            raise _Otherwise
        return found

    def _either(self) -> Condition:
        found = self._both()
        while self._next("word", "or"):
            found = _joined(found, self._both(), either=True)
        return found

    def _both(self) -> Condition:
        found = self._one()
        while self._next("word", "and"):
            found = _joined(found, self._one(), either=False)
        return found

    def _one(self) -> Condition:
        if word := self._next("word", "not", "starts-with", "contains"):
            self._need("sign", "(")
            found = _denied(self._inside()) if word == "not" else self._compared(word)
        elif self._next("sign", "("):
            found = self._inside()
        else:
            return self._said()
        self._need("sign", ")")
        return found

    def _inside(self) -> Condition:
        self._depth += 1
        if self._depth > _DEEPEST:
            raise _Otherwise
        return self._either()

    def _compared(self, word: str) -> Condition:
        key = self._need("attribute")
        self._need("sign", ",")
        text = self._need("text")
        return _begins(key, text) if word == "starts-with" else _holds(key, text)

    def _said(self) -> Condition:
        key = self._need("attribute")
        sign = self._next("sign", "=", "!=")
        if sign is None:
            return _has(key)
        if (path := self._next("path")) is not None:
            return _among(key, path) if sign == "=" else _other_than(key, path)
        text = self._need("text")
        return _says(key, text) if sign == "=" else _differs(key, text)


def _tokens(written: str) -> Iterator[tuple[str, str]]:
    at = 0
    written = written.rstrip()
    while at < len(written):
        match = _TOKEN.match(written, at)
        if match is None or match.lastgroup is None:
            raise _Otherwise
        text = match[match.lastgroup]
        yield match.lastgroup, text[1:-1] if match.lastgroup == "text" else text
        at = match.end()


def _joined(one: Condition, other: Condition, *, either: bool) -> Condition:
    def of(elements: Elements) -> Test:
        first, second = one.of(elements), other.of(elements)
        if either:
            return lambda said: first(said) or second(said)
        return lambda said: first(said) and second(said)

    return Condition(one.keys | other.keys, of)


def _denied(inner: Condition) -> Condition:
    def of(elements: Elements) -> Test:
        test = inner.of(elements)
        return lambda said: not test(said)

    return Condition(inner.keys, of)


def _of(key: str, test: Test) -> Condition:
    """One attribute's, and the same in every file."""
    return Condition(frozenset((key,)), lambda _: test)


def _has(key: str) -> Condition:
    return _of(key, lambda said: key in said)


def _says(key: str, text: str) -> Condition:
    return _of(key, lambda said: said.get(key) == text)._replace(text=text)


def _differs(key: str, text: str) -> Condition:
    return _of(key, lambda said: key in said and said[key] != text)


def _begins(key: str, text: str) -> Condition:
    return _of(key, lambda said: said.get(key, "").startswith(text))


def _holds(key: str, text: str) -> Condition:
    return _of(key, lambda said: text in said.get(key, ""))


def _among(key: str, path: str) -> Condition:
    def of(elements: Elements) -> Test:
        texts = _texts_at(path, elements)
        return lambda said: said.get(key) in texts

    return Condition(frozenset((key,)), of)


def _other_than(key: str, path: str) -> Condition:
    """As XPath 1.0 has it (3.4): there is one among them that differs."""

    def of(elements: Elements) -> Test:
        texts = _texts_at(path, elements)
        # One of several differs from anything; a single one from all but itself.
        return lambda said: key in said and (len(texts) > 1 or not texts.issubset((said[key],)))

    return Condition(frozenset((key,)), of)


def _texts_at(path: str, elements: Elements) -> frozenset[str]:
    """What an attribute says, of the elements that a path of names leads to from the outermost one."""
    to, _, key = path.rpartition("/@")
    names = to.removeprefix("/").split("/")[::-1]
    ways = (elements.upwards(number, names) for number in elements.named.get(names[0], ()))
    found = [way[0] for way in ways if way is not None and elements.parents[way[-1]] < 0]
    return frozenset(text for text in elements.said(found, key) if text is not None)
