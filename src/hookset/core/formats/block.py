"""Nested block text: the many hand-grown forms of `word "name" { key "value" … }`, one reader for all of them.

The layout says what opens and closes a block, what stands between a key and its value, what ends an entry, and what a
comment is. Values are addressed by the way to them: `room/door/@1` is the name after the word `door` of every door
in a room, `room[quay]/*/sound` what `sound` is set to in anything in the room called quay, `**/sound` anywhere.
"""

from __future__ import annotations

import fnmatch
import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any, ClassVar, Literal

from msgspec import Struct

from hookset.core.formats._writing import lead_of, written_lines
from hookset.core.formats.base import (
    AlreadyThere,
    Body,
    Document,
    Edit,
    Edits,
    Format,
    Misfit,
    NoSeat,
    Placement,
    Unreadable,
    Value,
)
from hookset.core.model import Where
from hookset.core.trees import Text

__all__ = ["FORMAT", "BlockSeat", "BlockSelector"]

_STEP = re.compile(r"(?P<word>\*\*|[^/\[\]@]+)(?:\[(?P<name>[^\]]*)\])?|@(?P<index>\d+)")
_DEPTH = 200


class BlockOptions(Struct, frozen=True, forbid_unknown_fields=True):
    opens: str = "{"
    closes: str = "}"
    assign: str = ""
    """What stands between a key and its value, if anything: `=`."""
    ends: str = ""
    """What ends an entry: `;`. Without it the line's end does."""
    comments: tuple[str, ...] = ("//", "#")
    """What a comment to the line's end begins with."""
    block_comments: tuple[tuple[str, str], ...] = (("/*", "*/"),)
    separators: str = ","
    """What may stand between values, as blanks do."""


class BlockSelector(Struct, frozen=True, forbid_unknown_fields=True):
    at: str
    """The way to a value: words of blocks, then a key, or `@N` for the Nth name after a block's word."""
    arg: int = 1
    """Which of a key's values, from one; 0 for every one."""

    def __post_init__(self) -> None:
        _steps(self.at)


class BlockSeat(Struct, frozen=True, forbid_unknown_fields=True):
    into: str = ""
    """The way to the one block that takes the entry; empty: among the outermost."""
    at: Literal["start", "end"] = "end"

    def __post_init__(self) -> None:
        _steps(self.into)


@dataclass(frozen=True, slots=True)
class _Token:
    text: str
    """Without its quotes."""
    start: int
    """Past an opening quote."""
    end: int
    kind: str
    """word, string, opens, closes, assign, ends, newline"""


@dataclass(slots=True)
class _Entry:
    """A key with its values, or a block with its names and what it holds."""

    word: _Token
    values: list[_Token]
    inside: list[_Entry] | None = None
    opened: int = 0
    """Past the opening bracket."""
    closed: int = 0
    """At the closing bracket."""
    end: int = 0


def _steps(way: str) -> tuple[tuple[str, str | None, int], ...]:
    """(word, name, index) for each step."""
    found: list[tuple[str, str | None, int]] = []
    for part in way.split("/") if way else []:
        match = _STEP.fullmatch(part)
        if match is None:
            raise ValueError(f"{part!r} in {way!r} is no step: write word, word[name], *, ** or @1")
        found.append((match["word"] or "", match["name"], int(match["index"] or 0)))
    return tuple(found)


@dataclass(frozen=True)
class _Blocks(Document):
    text: Text
    entries: list[_Entry]
    options: BlockOptions
    problems: tuple[tuple[str, Where], ...] = field(default=())

    def select(self, selector: BlockSelector) -> Iterator[Value]:
        *way, (word, name, index) = _steps(selector.at)
        for holder, inside in self._walk(tuple(way), self.entries, None):
            if index:
                if holder is not None and index <= len(holder.values):
                    yield _value(holder.values[index - 1])
                continue
            for entry in inside:
                if entry.inside is None and _fits(entry, word, name):
                    values = entry.values if selector.arg == 0 else entry.values[selector.arg - 1 : selector.arg]
                    yield from map(_value, values)

    def _walk(
        self, way: tuple[tuple[str, str | None, int], ...], entries: list[_Entry], holder: _Entry | None
    ) -> Iterator[tuple[_Entry | None, list[_Entry]]]:
        """Every block that the way leads to, with what it holds."""
        if not way:
            yield holder, entries
            return
        word, name, _ = way[0]
        if word == "**":
            yield from self._walk(way[1:], entries, holder)
        for entry in entries:
            if entry.inside is not None:
                if word == "**":
                    yield from self._walk(way, entry.inside, entry)
                elif _fits(entry, word, name):
                    yield from self._walk(way[1:], entry.inside, entry)

    def records(self, selector: BlockSelector) -> Iterator[tuple[Where, Any]]:
        """Each block as its keys and values, all of them text; `@1`, `@2` … are its names."""
        for holder, inside in self._walk(_steps(selector.at), self.entries, None):
            if holder is not None:
                names = {f"@{index}": token.text for index, token in enumerate(holder.values, 1)}
                keys = {e.word.text: " ".join(v.text for v in e.values) for e in inside if e.inside is None}
                yield holder.word.start, names | keys

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        tokens = {token.start: token.end for entry in _all(self.entries) for token in (entry.word, *entry.values)}
        return {where: (where, tokens[where]) for where in wheres if isinstance(where, int) and where in tokens}

    # ---- setting entries ----------------------------------------------------------------------------------------

    def put(self, seat: BlockSeat, body: Body) -> Placement:
        if body.text is None or not body.text.strip():
            return Misfit("an entry")
        try:
            new = _Reader(Text(body.text, "utf-8"), self.options).entries()
        except Unreadable as error:
            return Misfit(f"entries, which its text does not read as ({error.what})")
        found = list(self._walk(_steps(seat.into), self.entries, None))
        if len(found) != 1:
            often = f" (it is there {len(found)} times)" if found else ""
            return NoSeat(f"one block at {seat.into}{often}", tuple(sorted({e.word.text for e in _all(self.entries)})))
        holder, inside = found[0]
        meanings = [_meaning(entry) for entry in inside]
        wanted = [_meaning(entry) for entry in new]
        if all(meaning in meanings for meaning in wanted):
            return AlreadyThere(inside[meanings.index(wanted[0])].word.start)
        if holder is None:
            return self._among_outermost(body.text, seat.at)
        return self._into(holder, inside, body.text, seat.at)

    def _among_outermost(self, text: str, at: str) -> Edits:
        string, newline = self.text.string, self.text.newline
        new = written_lines(self.text, text, "") + newline
        if at == "start" and self.entries:
            start = string.rfind("\n", 0, self.entries[0].word.start) + 1
            return Edits((Edit(start, start, new),))
        gap = "" if not string or string.endswith("\n") else newline
        return Edits((Edit(len(string), len(string), gap + new),))

    def _into(self, holder: _Entry, inside: list[_Entry], text: str, at: str) -> Edits:
        string, newline = self.text.string, self.text.newline
        outer = lead_of(string, holder.word.start)
        held = string[holder.opened : holder.closed]
        first = inside[0].word.start if inside else holder.closed
        lead = lead_of(string, first) if inside and "\n" in string[holder.opened : first] else outer + self.text.indent
        new = written_lines(self.text, text, lead)
        if "\n" not in held:
            spare = len(held) - len(held.rstrip())
            return Edits((Edit(holder.closed - spare, holder.closed, newline + new + newline + outer),))
        if at == "start":
            line = string.index("\n", holder.opened) + 1
        else:
            line = string.rfind("\n", holder.opened, holder.closed) + 1
        return Edits((Edit(line, line, new + newline),))


class _Reader:
    """Tokens into entries."""

    def __init__(self, text: Text, options: BlockOptions) -> None:
        self.text = text
        self.options = options
        self.tokens = list(self._scan())
        self.position = 0

    def _scan(self) -> Iterator[_Token]:
        options = self.options
        comments = [re.escape(a) + r"[\s\S]*?" + re.escape(b) for a, b in options.block_comments]
        comments += [re.escape(mark) + r"[^\n]*" for mark in options.comments]
        special = options.opens + options.closes + options.assign + options.ends + options.separators
        kinds = [("comment", "|".join(comments) or "(?!)"), ("string", r'"(?:\\.|[^"\\])*"')]
        kinds += [(kind, re.escape(mark)) for kind, mark in self._marks().items() if mark]
        kinds += [("newline", r"\n"), ("skip", rf"[\s{re.escape(options.separators)}]")]
        kinds += [("word", rf'[^\s"{re.escape(special)}]+'), ("stray", r".")]
        pattern = re.compile("|".join(f"(?P<{kind}>{source})" for kind, source in kinds))
        for match in pattern.finditer(self.text.string):
            kind = match.lastgroup or "stray"
            if kind == "stray":
                raise Unreadable(f"is no block text: {match.group()!r} does not fit here", match.start())
            if kind == "string":
                yield _Token(match.group()[1:-1], match.start() + 1, match.end() - 1, kind)
            elif kind == "comment" and "\n" in match.group():
                yield _Token("", match.start(), match.end(), "newline")
            elif kind not in ("comment", "skip"):
                yield _Token(match.group(), match.start(), match.end(), kind)

    def _marks(self) -> dict[str, str]:
        options = self.options
        return {"opens": options.opens, "closes": options.closes, "assign": options.assign, "ends": options.ends}

    def entries(self) -> list[_Entry]:
        found = self._inside(0)
        if self.position < len(self.tokens):
            raise Unreadable(f"closes a block that it does not open, with {self.options.closes!r}", self._here().start)
        return found

    def _here(self) -> _Token:
        return self.tokens[self.position]

    def _inside(self, depth: int) -> list[_Entry]:
        if depth > _DEPTH:
            raise Unreadable("is nested too deeply to be a file that somebody made", self._here().start)
        found: list[_Entry] = []
        while self.position < len(self.tokens):
            token = self._here()
            if token.kind == "closes":
                break
            if token.kind in ("newline", "ends"):
                self.position += 1
            elif token.kind in ("word", "string"):
                found.append(self._entry(depth))
            else:
                raise Unreadable(f"has {token.text!r} where a word should begin an entry", token.start)
        return found

    def _entry(self, depth: int) -> _Entry:
        entry = _Entry(self._here(), [])
        self.position += 1
        while self.position < len(self.tokens):
            token = self._here()
            if token.kind in ("word", "string"):
                entry.values.append(token)
                self.position += 1
            elif token.kind == "assign":
                self.position += 1
            elif token.kind == "opens":
                return self._block(entry, depth)
            elif token.kind == "newline" and (self._opens_next() or self.options.ends):
                self.position += 1
            else:
                break
        entry.end = entry.values[-1].end if entry.values else entry.word.end
        return entry

    def _opens_next(self) -> bool:
        """Whether the next thing on the lines below is an opening bracket."""
        ahead = next((t for t in self.tokens[self.position : self.position + 4] if t.kind != "newline"), None)
        return ahead is not None and ahead.kind == "opens"

    def _block(self, entry: _Entry, depth: int) -> _Entry:
        opening = self._here()
        self.position += 1
        entry.opened = opening.end
        entry.inside = self._inside(depth + 1)
        if self.position >= len(self.tokens):
            raise Unreadable(f"does not close the block {entry.word.text!r} that it opens here", entry.word.start)
        entry.closed = self._here().start
        entry.end = self._here().end
        self.position += 1
        return entry


def _value(token: _Token) -> Value:
    return Value(token.text, token.start)


def _fits(entry: _Entry, word: str, name: str | None) -> bool:
    if not fnmatch.fnmatchcase(entry.word.text, word):
        return False
    return name is None or (bool(entry.values) and fnmatch.fnmatchcase(entry.values[0].text, name))


def _all(entries: list[_Entry]) -> Iterator[_Entry]:
    for entry in entries:
        yield entry
        yield from _all(entry.inside or [])


def _meaning(entry: _Entry) -> tuple[Any, ...]:
    inside = None if entry.inside is None else tuple(_meaning(one) for one in entry.inside)
    return entry.word.text, tuple(value.text for value in entry.values), inside


class _BlockFormat(Format):
    title: ClassVar[str] = "nested block text"
    binary: ClassVar[bool] = False
    selector: ClassVar[type[Struct]] = BlockSelector
    seat: ClassVar[type[Struct]] = BlockSeat
    options: ClassVar[type[Struct]] = BlockOptions
    bodies: ClassVar[Sequence[str]] = ("text",)
    largest: ClassVar[int] = 64 << 20

    def open(self, source: Text | bytes, options: BlockOptions) -> Document:
        assert isinstance(source, Text)
        return _Blocks(source, _Reader(source, options).entries(), options)


FORMAT = _BlockFormat()
