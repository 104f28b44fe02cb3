"""The parts of a text resource: headings in brackets with attributes, pairs of keys and values below them.

The form is that of the text scenes and resources of the Godot engine, version 3, as its documentation describes them
("TSCN file format"). Values go over several lines; a text does, too.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping

from msgspec import Struct, field

from hookset.formats.base import Unreadable

__all__ = ["Entry", "Section", "Term", "read_sections"]

_BLANK = re.compile(r"(?:[ \t\r\n]+|;[^\n]*)*+")
_INLINE = re.compile(r"[ \t]*+")
_KEY = re.compile(r'[^\s=\[\]";][^=\[\]"\r\n]*?(?=[ \t]*=)|"(?:[^"\\]|\\.)*"(?=[ \t]*=)')
_WORD = re.compile(r"[A-Za-z_@][\w./@-]*|[+-]?(?:[0-9][0-9_]*\.?[0-9]*|\.[0-9]+)(?:[eE][+-]?[0-9]+)?|#[0-9a-fA-F]+")
_TEXT = re.compile(r'&?"((?:[^"\\]|\\.)*+)"', re.DOTALL)
_HEAD = re.compile(r"[A-Za-z_][\w.-]*")
_ESCAPE = re.compile(r"\\(u[0-9a-fA-F]{4}|.)", re.DOTALL)
_LETTERS = {"n": "\n", "t": "\t", "r": "\r", "a": "\a", "b": "\b", "f": "\f", "v": "\v"}
_DEEPEST = 200
_CLOSES = {"(": ")", "[": "]", "{": "}"}


class Term(Struct, frozen=True):
    """A value, or one within another."""

    kind: str
    """text, word, list, table, or call."""
    start: int
    """Of what it says: of a text within its quotes."""
    end: int
    said: str
    """Of a text without quotes and escapes, of a call its name, else as it stands there."""
    inner: tuple[Term, ...] = ()
    """What is in it, keys of tables included."""

    def walk(self) -> Iterator[Term]:
        """It, and all that is in it, in order."""
        waiting = [self]
        while waiting:
            term = waiting.pop()
            yield term
            waiting += reversed(term.inner)


class Entry(Struct, frozen=True):
    """A key and its value."""

    key: str
    key_start: int
    key_end: int
    value: Term
    end: int
    """Past the value."""


class Section(Struct, frozen=True):
    """A heading with what stands below it."""

    word: str
    start: int
    """Of the bracket."""
    head_end: int
    """Past the bracket that closes it."""
    attributes: Mapping[str, Term]
    entries: tuple[Entry, ...] = field(default=())

    @property
    def end(self) -> int:
        """Past the last value."""
        return self.entries[-1].end if self.entries else self.head_end

    def said(self, name: str) -> str:
        """An attribute as text; empty for none."""
        term = self.attributes.get(name)
        return term.said if term is not None and term.kind in ("text", "word") else ""


def read_sections(string: str) -> list[Section]:
    """The sections of a file; what stands above the first has none. Raises Unreadable with the place."""
    return _Reader(string).sections()


class _Reader:
    def __init__(self, string: str) -> None:
        self.string = string
        self.at = 0

    def sections(self) -> list[Section]:
        found: list[Section] = []
        # Pairs above the first heading.
        word, start, head_end = "", 0, 0
        attributes: dict[str, Term] = {}
        entries: list[Entry] = []
        while True:
            self._skip(_BLANK)
            if self.at == len(self.string) or self.string[self.at] == "[":
                if word or entries:
                    found.append(Section(word, start, head_end, attributes, tuple(entries)))
                if self.at == len(self.string):
                    return found
                start, entries = self.at, []
                word, attributes = self._head()
                head_end = self.at
            else:
                entries.append(self._entry())

    def _head(self) -> tuple[str, dict[str, Term]]:
        self.at += 1
        self._skip(_INLINE)
        word = _HEAD.match(self.string, self.at)
        if word is None:
            raise Unreadable("a heading begins with a word", self.at)
        self.at = word.end()
        attributes: dict[str, Term] = {}
        while True:
            self._skip(_BLANK)
            if self.string.startswith("]", self.at):
                self.at += 1
                return word[0], attributes
            name = _HEAD.match(self.string, self.at)
            if name is None:
                raise Unreadable("this heading is not closed, or an attribute in it has no name", self.at)
            self.at = name.end()
            self._expect("=")
            attributes[name[0]] = self._value(0)

    def _entry(self) -> Entry:
        key = _KEY.match(self.string, self.at)
        if key is None:
            raise Unreadable("this is neither a heading nor a key with its value", self.at)
        self.at = key.end()
        self._expect("=")
        value = self._value(0)
        return Entry(key[0].strip('"'), key.start(), key.end(), value, self.at)

    def _expect(self, mark: str) -> None:
        self._skip(_INLINE)
        if not self.string.startswith(mark, self.at):
            raise Unreadable(f"`{mark}` is missing here", self.at)
        self.at += 1

    def _value(self, depth: int) -> Term:
        if depth > _DEEPEST:
            raise Unreadable("values lie too deep in each other", self.at)
        self._skip(_BLANK)
        text = _TEXT.match(self.string, self.at)
        if text is not None:
            self.at = text.end()
            return Term("text", text.start(1), text.end(1), _plain(text[1]))
        mark = self.string[self.at : self.at + 1]
        if mark in ("[", "{"):
            start = self.at
            inner = self._inner(mark, depth)
            return Term("list" if mark == "[" else "table", start, self.at, self.string[start : self.at], inner)
        word = _WORD.match(self.string, self.at)
        if word is None:
            raise Unreadable("this is no value" if mark else "a value is missing at the end of the file", self.at)
        self.at = word.end()
        if not self.string.startswith("(", self.at):
            return Term("word", word.start(), word.end(), word[0])
        inner = self._inner("(", depth)
        return Term("call", word.start(), self.at, word[0], inner)

    def _inner(self, mark: str, depth: int) -> tuple[Term, ...]:
        begun, closes = self.at, _CLOSES[mark]
        self.at += 1
        found: list[Term] = []
        while True:
            self._skip(_BLANK)
            if self.string.startswith(closes, self.at):
                self.at += 1
                return tuple(found)
            if self.at == len(self.string):
                raise Unreadable(f"`{mark}` is not closed", begun)
            found.append(self._value(depth + 1))
            self._skip(_BLANK)
            if self.string[self.at : self.at + 1] in (",", ":"):
                self.at += 1

    def _skip(self, pattern: re.Pattern[str]) -> None:
        match = pattern.match(self.string, self.at)
        if match is not None:
            self.at = match.end()


def _plain(source: str) -> str:
    if "\\" not in source:
        return source
    return _ESCAPE.sub(
        lambda match: chr(int(match[1][1:], 16)) if len(match[1]) == 5 else _LETTERS.get(match[1], match[1]), source
    )
