"""Nested block text: the many hand-grown forms of `word "name" { key "value" … }`, one reader for all of them.

The layout says what opens and closes a block, what stands between a key and its value, what ends an entry, and what a
comment is. Values are addressed by the way to them: `room/door/@1` is the name after the word `door` of every door
in a room, `room[quay]/*/sound` what `sound` is set to in anything in the room called quay, `**/sound` anywhere.
"""

from __future__ import annotations

import re
import textwrap
from bisect import bisect_left
from collections.abc import Iterable, Iterator, Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, field
from typing import Any, ClassVar, Literal

from msgspec import Struct

from hookset.formats._block_entries import BlockEntry, BlockOptions, Token
from hookset.formats._blocks import read_entries
from hookset.formats._values import as_words, reads_as_number
from hookset.formats._wildcards import meant
from hookset.formats._writing import lead_of, written_lines
from hookset.formats.base import (
    AlreadyThere,
    Body,
    Edit,
    Edits,
    ExistingEntry,
    NoSeat,
    Placement,
    Unreadable,
    Value,
    WrongBody,
)
from hookset.formats.document import Editable, HasFields, HasParts, HasRows, HasUnits
from hookset.formats.format import Format, Snippet
from hookset.formats.parts import Part, PartTable
from hookset.model import Where
from hookset.model.digits import natural_number
from hookset.trees import Text

__all__ = ["FORMAT", "BlockSeat", "BlockSelector"]

_STEP = re.compile(r"(?P<word>\*\*|[^/\[\]@]+)(?:\[(?P<name>[^\]]*)\])?|@(?P<index>-1|\*|[0-9]{1,6})")
_EVERY = -2
"""The number of a step that means every name of a block."""


class BlockSelector(Struct, frozen=True, forbid_unknown_fields=True):
    """Values of nested blocks."""

    at: str = ""
    """The way to a value: words of blocks, then a key, or `@N` for the Nth name after a block's word, `@-1` for the
    last one, `@*` for each of them, or `@0` for the word of each key in a block: of those in which names are listed."""
    arg: int = 1
    """Which of a key's values, from one; 0 for every one."""
    keys: str | None = None
    """Instead: the way to blocks of which the words of all in them are meant; empty: of the outermost."""

    def __post_init__(self) -> None:
        if self.arg < 0:
            raise ValueError("arg counts from one; 0 is every value of the key")
        if bool(self.at) == (self.keys is not None):
            raise ValueError("one of `at` and `keys` says which values are meant")
        _steps(self.at if self.keys is None else self.keys)


class BlockSeat(Struct, frozen=True, forbid_unknown_fields=True):
    """A spot in a file of nested blocks."""

    into: str = ""
    """The way to the one block that takes the entry; empty: among the outermost."""
    at: Literal["start", "end"] = "end"

    def __post_init__(self) -> None:
        _steps(self.into)


_Beside = tuple[Token, BlockEntry | None, list[BlockEntry]]
_Step = tuple[str, str | None, int | None]


def _steps(way: str) -> tuple[_Step, ...]:
    """(word, name, index) for each step."""
    found: list[_Step] = []
    for part in way.split("/") if way else []:
        match = _STEP.fullmatch(part)
        if match is None:
            raise ValueError(f"{part!r} in {way!r} is no step: write word, word[name], *, **, @1, @-1 or @*")
        index = match["index"]
        number = None if index is None else _EVERY if index == "*" else int(index)
        found.append((match["word"] or "", match["name"], number))
    return tuple(found)


@dataclass(frozen=True)
class _Blocks(HasRows, HasFields, HasParts, HasUnits, Editable):
    text: Text
    entries: list[BlockEntry]
    options: BlockOptions
    problems: tuple[tuple[str, Where], ...] = field(default=())

    def select(self, selector: BlockSelector) -> Iterator[Value]:
        return (_value(token) for token, _, _ in self._selected(selector))

    def _selected(self, selector: BlockSelector) -> Iterable[_Beside]:
        """Values, each with the block that it is a name of, or a value in, and with what that holds."""
        found = self._in_order_of_ways(selector)
        if "**" not in (selector.at if selector.keys is None else selector.keys):
            return found
        # Those of the outer blocks come first, and some by several ways.
        once = {token.start: (token, holder, inside) for token, holder, inside in found}
        return [once[start] for start in sorted(once)]

    def _in_order_of_ways(self, selector: BlockSelector) -> Iterator[_Beside]:
        if selector.keys is not None:
            for _, inside in self._walk(_steps(selector.keys), self.entries, None):
                yield from ((entry.word, entry, entry.inside or []) for entry in inside)
            return
        *way, (word, name, index) = _steps(selector.at)
        for holder, inside in self._walk(tuple(way), self.entries, None):
            if index == 0:
                yield from ((entry.word, holder, inside) for entry in inside if _is_alone(entry))
                continue
            if index is not None:
                names = holder.values if holder is not None else []
                meant = names if index == _EVERY else names[-1:] if index < 0 else names[index - 1 : index]
                yield from ((one, holder, inside) for one in meant)
                continue
            for entry in inside:
                if entry.key and _fits(entry, word, name):
                    values = entry.values if selector.arg == 0 else entry.values[selector.arg - 1 : selector.arg]
                    beside = (holder, inside) if _is_alone(entry) else (entry, entry.inside or [])
                    yield from ((one, *beside) for one in values)

    def _walk(
        self, way: tuple[_Step, ...], entries: list[BlockEntry], holder: BlockEntry | None
    ) -> Iterator[tuple[BlockEntry | None, list[BlockEntry]]]:
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

    def rows(self, selector: BlockSelector) -> Iterator[tuple[Value, Mapping[str, str]]]:
        """With the first values of the keys in the same block; `@1`, `@2` … are the names of that block."""
        for token, holder, inside in self._selected(selector):
            yield _value(token), _block_record(holder, inside, 1)

    def records(self, selector: BlockSelector) -> Iterator[tuple[Where, Any]]:
        """Each block as its keys and values, all of them text; `@1`, `@2` … are its names."""
        for holder, _ in self._holders(selector):
            yield holder.word.start, _block_record(holder, holder.inside or [])

    def parts(self, selector: BlockSelector, ways: Sequence[str]) -> PartTable:
        """`@1` is the block's first name; `door/at` what `at` is set to in the first `door` in it."""
        holders = [holder for holder, _ in self._holders(selector)]
        columns = tuple([_part(holder, tuple(way.split("/"))) for holder in holders] for way in ways)
        return PartTable([holder.word.start for holder in holders], columns)

    def around(self, selector: BlockSelector) -> Sequence[Where | None]:
        return [outer for _, outer in self._holders(selector)]

    def _holders(self, selector: BlockSelector) -> Iterator[tuple[BlockEntry, int | None]]:
        found = {holder.word.start for holder, _ in self._walk(_steps(selector.at), self.entries, None) if holder}
        return _with_outer(self.entries, found)

    def ways(self, record: Where) -> tuple[str, ...]:
        holder = next((entry for entry in _all(self.entries) if entry.word.start == record), None)
        inside = holder.inside or [] if holder is not None else []
        return tuple(entry.word.text for entry in inside if _is_alone(entry))

    def adding(self, record: Where, values: Mapping[str, Any]) -> Edits | None:
        holder = next((entry for entry in _all(self.entries) if entry.word.start == record), None)
        if holder is None or holder.inside is None or any("/" in way or way.startswith("@") for way in values):
            return None
        lines = []
        for way, value in values.items():
            words = [as_words(one) for one in (value if isinstance(value, list | tuple) else [value])]
            if None in words:
                return None
            lines.append(self._written(way, " ".join(word or "" for word in words), value))
        return self._into(holder, holder.inside, "\n".join(lines), "end")

    def _written(self, way: str, words: str, value: Any) -> str:
        """A key with its value, in the form of the file."""
        options = self.options
        if options.leading:
            quote = options.quotes[:1] if isinstance(value, str) else ""
            return f"{options.opens}{way} {quote}{words}{quote}{options.closes}"
        if options.tagged:
            return f"{way}{options.assign or ' '}{words}"
        return f"{way}{f' {options.assign} ' if options.assign else ' '}{words}{options.ends}"

    def field(self, record: Where, key: str) -> Where:
        for entry in _all(self.entries):
            if entry.word.start == record:
                inside = (one.values[0].start for one in entry.inside or () if one.word.text == key and one.values)
                return next(inside, record)
        return record

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        wanted = sorted({where for where in wheres if isinstance(where, int)})
        tokens = (token for entry in _all(self.entries) for token in _all_of(entry, wanted))
        ends = {token.start: token.end for token in tokens}
        return {where: (where, ends[where]) for where in wanted if where in ends}

    def writings(self, span: tuple[int, int], value: Any) -> Iterator[Edit]:
        string = self.text.string
        old = string[slice(*span)]
        words = as_words(value, old)
        if words is None or (reads_as_number(old) and not reads_as_number(words)):
            return
        yield Edit(*span, words)
        if not self._is_quote(span[0] - 1):
            quote = next((one for one in self.options.quotes if one not in words), self.options.quotes[:1])
            yield Edit(*span, f"{quote}{words}{quote}")

    # ---- setting entries ----------------------------------------------------------------------------------------

    def existing(self, seat: BlockSeat) -> Iterator[ExistingEntry]:
        for _, inside in self._walk(_steps(seat.into), self.entries, None):
            yield from (self._held(entry) for entry in inside)

    def _held(self, entry: BlockEntry) -> ExistingEntry:
        start = _begin(entry)
        end = entry.end + (entry.begin < 0 and _is_alone(entry) and self._is_quote(entry.end))
        return ExistingEntry(start, end, Body(text=textwrap.dedent(self.text.string[start:end])))

    def _is_quote(self, at: int) -> bool:
        mark = self.text.string[at : at + 1]
        return bool(mark) and mark in self.options.quotes

    def unit(self, where: Where) -> ExistingEntry | None:
        """The block that begins there."""
        found = (entry for entry in _all(self.entries) if entry.word.start == where and entry.inside is not None)
        return next(map(self._held, found), None)

    def put(self, seat: BlockSeat, body: Body) -> Placement:
        if body.text is None or not body.text.strip():
            return WrongBody("an entry")
        try:
            new = read_entries(Text(body.text, "utf-8"), self.options)
        except Unreadable as error:
            return WrongBody(f"entries, which its text does not read as ({error.what})")
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

    def _into(self, holder: BlockEntry, inside: list[BlockEntry], text: str, at: str) -> Edits:
        string, newline = self.text.string, self.text.newline
        outer = lead_of(string, holder.word.start)
        existing = string[holder.opened : holder.closed]
        first = _begin(inside[0]) if inside else holder.closed
        lead = lead_of(string, first) if inside and "\n" in string[holder.opened : first] else outer + self.text.indent
        new = written_lines(self.text, text, lead)
        if self.options.indented:
            line = string.find("\n", holder.opened if at == "start" else holder.closed) + 1
            end = len(string)
            return Edits((Edit(line, line, new + newline) if line else Edit(end, end, newline + new),))
        # What closes the block stands on a line of its own then, or where it stood in a list.
        closing = "" if self.options.leading else newline + outer
        end = holder.opened + len(existing.rstrip())
        if "\n" not in existing:
            return Edits((Edit(end, holder.closed, newline + new + closing),))
        if at == "start":
            line = string.find("\n", holder.opened, first) + 1
            if not line:
                # The first entry stands beside the word of the block.
                return Edits((Edit(holder.opened, first, newline + new + newline + lead),))
            return Edits((Edit(line, line, new + newline),))
        line = string.rfind("\n", holder.opened, holder.closed) + 1
        if string[line : holder.closed].strip():
            # The last one is closed on its own line.
            return Edits((Edit(end, holder.closed, newline + new + closing),))
        return Edits((Edit(line, line, new + newline),))


def _begin(entry: BlockEntry) -> int:
    """Where an entry begins, with its bracket or quote."""
    return entry.word.start - (entry.word.kind == "string") if entry.begin < 0 else entry.begin


def _is_alone(entry: BlockEntry) -> bool:
    """Whether it is a key, and nothing stands in it."""
    return entry.key and not entry.inside


def _block_record(holder: BlockEntry | None, inside: list[BlockEntry], most: int | None = None) -> dict[str, str]:
    """A block's names and keys, with as many of their values as are wanted."""
    names = {f"@{index}": token.text for index, token in enumerate(holder.values, 1)} if holder is not None else {}
    return names | {e.word.text: " ".join(v.text for v in e.values[:most]) for e in inside if _is_alone(e)}


def _with_outer(entries: list[BlockEntry], found: AbstractSet[int]) -> Iterator[tuple[BlockEntry, int | None]]:
    """The blocks that were found, in file order, each with the closest one around it."""
    waiting: list[tuple[BlockEntry, int | None]] = [(entry, None) for entry in reversed(entries)]
    while waiting:
        entry, outer = waiting.pop()
        if entry.inside is None:
            continue
        here = entry.word.start in found
        if here:
            yield entry, outer
        waiting += ((one, entry.word.start if here else outer) for one in reversed(entry.inside))


def _part(holder: BlockEntry, way: tuple[str, ...]) -> Part | None:
    *outer, last = way
    for step in outer:
        inner = next((e for e in holder.inside or () if e.inside is not None and e.word.text == step), None)
        if inner is None:
            return None
        holder = inner
    if last.startswith("@"):
        number = natural_number(last[1:])
        tokens = holder.values[number - 1 : number] if number else []
    else:
        tokens = next((e.values for e in holder.inside or () if e.key and e.word.text == last), [])
    if len(tokens) > 1:
        return Part(tokens[0].start, tuple(Part(token.start, token.text) for token in tokens))
    return Part(tokens[0].start, tokens[0].text) if tokens else None


def _all_of(entry: BlockEntry, wanted: Sequence[int]) -> Iterator[Token]:
    """The word and the values of an entry, if any of them stands where something is wanted."""
    last = bisect_left(wanted, entry.word.start)
    if last < len(wanted) and wanted[last] <= max(entry.end, entry.opened):
        yield entry.word
        yield from entry.values


def _value(token: Token) -> Value:
    return Value(token.text, token.start)


def _fits(entry: BlockEntry, word: str, name: str | None) -> bool:
    if not meant(word)(entry.word.text):
        return False
    return name is None or (bool(entry.values) and meant(name)(entry.values[0].text))


def _all(entries: list[BlockEntry]) -> Iterator[BlockEntry]:
    for entry in entries:
        yield entry
        yield from _all(entry.inside or [])


def _meaning(entry: BlockEntry) -> tuple[Any, ...]:
    inside = None if entry.inside is None else tuple(_meaning(one) for one in entry.inside)
    return entry.word.text, tuple(value.text for value in entry.values), inside


class _BlockFormat(Format):
    title: ClassVar[str] = "nested block text"
    selector: ClassVar[type[Struct]] = BlockSelector
    seat: ClassVar[type[Struct]] = BlockSeat
    options: ClassVar[type[Struct]] = BlockOptions
    bodies: ClassVar[Sequence[str]] = ("text",)
    has_rows: ClassVar[bool] = True
    has_parts: ClassVar[bool] = True
    largest: ClassVar[int] = 64 << 20

    def pasted(self, seat: BlockSeat, snippet: Snippet) -> tuple[ExistingEntry, ...]:
        try:
            document = self.open(Text(snippet.text, "utf-8"), snippet.options)
        except Unreadable:
            return ()
        return tuple(document.existing(seat)) or tuple(document.existing(BlockSeat()))

    def open(self, source: Text | bytes, options: BlockOptions) -> _Blocks:
        assert isinstance(source, Text)
        return _Blocks(source, read_entries(source, options), options)


FORMAT = _BlockFormat()
