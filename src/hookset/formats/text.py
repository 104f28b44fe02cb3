"""Any text, by regular expressions: enough for a script language that no grammar is at hand for.

The layout says what a comment and what a string is. Comments are blanked out before anything is looked for, and a
match that begins inside of a string is none, so that neither counts.
"""

from __future__ import annotations

import functools
import itertools
import re
import textwrap
from collections import deque
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, ClassVar, Literal

from msgspec import Struct, structs

from hookset.formats._values import as_words, plain_words
from hookset.formats._writing import lead_of, written_lines
from hookset.formats.base import AlreadyThere, Body, Edit, Edits, ExistingEntry, NoSeat, Placement, Value, WrongBody
from hookset.formats.document import Editable, HasRecords, HasRows, Writable
from hookset.formats.format import Format, Snippet
from hookset.model import Where
from hookset.trees import Pattern, Text, pattern_of

__all__ = ["FORMAT", "TextSeat", "TextSelector"]

_FLAGS = re.MULTILINE


_STATEMENT = re.compile(r"[(){}=;<>]")
_OPEN = re.compile(r"\{[a-z][\w-]*\}")
"""A word of a seat that hooks give."""


@functools.lru_cache(maxsize=1024)
def _regex(source: str, *groups: str) -> Pattern:
    """The same object for the same pattern: what it takes is added up. Raises ValueError, in words."""
    try:
        found = pattern_of(source, _FLAGS)
    except ValueError as error:
        raise ValueError(f"{source!r} is no regular expression: {error}") from error
    lacking = [group for group in groups if group not in found.groups]
    if lacking and not (groups == ("value",) and "word" in found.groups):
        raise ValueError(f"{source!r} has no group called {' and '.join(lacking)}: write (?P<{lacking[0]}>…)")
    return found


class TextOptions(Struct, frozen=True, forbid_unknown_fields=True):
    comments: tuple[str, ...] = ()
    """Regular expressions, each of a whole comment; plain characters, such as `#`, run to the end of their line."""
    strings: tuple[str, ...] = (r'"(?:\\.|[^"\\\n])*"',)
    """Regular expressions, each of a whole string with its quotes."""
    constants: str | None = None
    """A regular expression with the groups `name` and `value`: a word that stands for a string."""
    opens: str = "{"
    closes: str = "}"

    def __post_init__(self) -> None:
        for source in (*map(_whole_comment, self.comments), *self.strings):
            _regex(source)
        if self.left_out:
            # Each by itself can be right, and all in one not: groups of the same name, for instance.
            _regex(self.left_out)
        if self.constants is not None:
            _regex(self.constants, "name", "value")

    @property
    def left_out(self) -> str:
        """What finds a comment, as a group `c0`, `c1` …, or a string, as `s0`, `s1` …; empty for neither."""
        kinds = [f"(?P<c{i}>{_within_others(c)})" for i, c in enumerate(map(_whole_comment, self.comments))]
        kinds += [f"(?P<s{i}>{_within_others(s)})" for i, s in enumerate(self.strings)]
        return "|".join(kinds)


_PLAIN = re.compile(r"[^.^$*+?{}\[\]\\|()\r\n]+")


def _whole_comment(source: str) -> str:
    """A regular expression for a comment: other formats are told how comments begin, and what one means here by
    `comments = ["#"]` is that, too. No comment is its own mark and no more."""
    return rf"{source}[^\n]*" if _PLAIN.fullmatch(source) is not None else source


_ITS_FLAGS = re.compile(r"\(\?([aims]+)\)")


def _within_others(source: str) -> str:
    """A regular expression that can stand in another one: flags at its beginning hold for it alone."""
    flags = _ITS_FLAGS.match(source)
    return f"(?{flags[1]}:{source[flags.end() :]})" if flags is not None else source


class TextSelector(Struct, frozen=True, forbid_unknown_fields=True):
    """Values found by a regular expression."""

    match: str
    """A regular expression with a group `value`; a group `word` is looked up among the constants."""

    def __post_init__(self) -> None:
        _regex(self.match, "value")


class TextSeat(Struct, frozen=True, forbid_unknown_fields=True):
    """A line's place by what stands around it."""

    inside: str | None = None
    """A regular expression that ends before an opening bracket: within that pair of brackets."""
    at: Literal["start", "end"] | None = None
    after: str | None = None
    """Below the last line that this regular expression matches in."""
    before: str | None = None
    """Above the first one."""
    otherwise: Literal["start", "end", "refuse"] = "refuse"
    """Where there is no such line yet."""
    begins: str | None = None
    """A regular expression for the line that an entry begins with: it goes on to the next such line."""

    def __post_init__(self) -> None:
        if self.begins is not None and self.at is None:
            raise ValueError("begins says where each of several entries begins, and goes with at")
        if sum(way is not None for way in (self.at, self.after, self.before)) != 1:
            raise ValueError("one of at, after and before says where the entry goes")
        for source in (self.inside, self.after, self.before, self.begins):
            if source is not None:
                _regex(source)


@dataclass(frozen=True)
class _Plain(HasRows, HasRecords, Writable, Editable):
    text: Text
    options: TextOptions
    problems: tuple[tuple[str, Where], ...] = ()
    _ends: dict[int, int] = field(default_factory=dict)
    """Where the values that were found end, by where they begin."""

    @cached_property
    def _scanned(self) -> tuple[str, list[tuple[int, int]]]:
        """The text with its comments blanked out, and where its strings are."""
        string = self.text.string
        if not self.options.left_out:
            return string, []
        pieces: list[str] = []
        strings: list[tuple[int, int]] = []
        position = 0
        for match in _regex(self.options.left_out).finditer(string):
            if match.lastgroup is not None and match.lastgroup.startswith("s"):
                strings.append(match.span())
            else:
                pieces += [string[position : match.start()], re.sub(r"[^\r\n]", " ", match.group())]
                position = match.end()
        return "".join(pieces) + string[position:], strings

    def _matches(self, source: str) -> Iterator[re.Match[str]]:
        code, strings = self._scanned
        starts = [start for start, _ in strings]
        for match in _regex(source).finditer(code):
            if not _within(match.start(), starts, strings):
                yield match

    @cached_property
    def _constants(self) -> dict[str, tuple[str, int]]:
        """What each constant stands for, and where that is written."""
        if self.options.constants is None:
            return {}
        return {m["name"]: (m["value"], m.start("value")) for m in self._matches(self.options.constants)}

    def select(self, selector: TextSelector) -> Iterator[Value]:
        return (value for value, _ in self.rows(selector))

    def rows(self, selector: TextSelector) -> Iterator[tuple[Value, Mapping[str, str]]]:
        """With the other named groups of the match."""
        for match in self._matches(selector.match):
            groups = {name: text for name, text in match.groupdict().items() if text is not None}
            if "value" in groups:
                self._ends[match.start("value")] = match.end("value")
                yield Value(match["value"], match.start("value")), groups
            elif "word" in groups:
                known = self._constants.get(match["word"])
                yield Value(*known) if known else Value("*", match.start("word"), pattern=True), groups

    def records(self, selector: TextSelector) -> Iterator[tuple[Where, Any]]:
        """Each match as its named groups."""
        for match in self._matches(selector.match):
            yield match.start(), match.groupdict()

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        word = re.compile(r"[^\s\"']*")
        found: dict[Where, tuple[int, int]] = {}
        for where in wheres:
            if isinstance(where, int) and where in self._ends:
                found[where] = (where, self._ends[where])
            elif isinstance(where, int) and (match := word.match(self.text.string, where)):
                found[where] = match.span()
        return found

    def writings(self, span: tuple[int, int], value: Any) -> Iterator[Edit]:
        """As it is; within a string of the language with a backslash before its quotes."""
        old = self.text.string[slice(*span)]
        yield from (Edit(*span, words) for words in plain_words(old, value))
        around = next((one for one in self._scanned[1] if one[0] < span[0] and span[1] < one[1] + 1), None)
        words = as_words(value, old)
        if around is not None and words is not None:
            quote = self.text.string[around[0]]
            yield Edit(*span, words.replace("\\", "\\\\").replace(quote, f"\\{quote}"))

    # ---- setting entries ----------------------------------------------------------------------------------------

    def existing(self, seat: TextSeat) -> Iterator[ExistingEntry]:
        """The lines that the seat's landmark matches in; without a landmark every line of its scope, or all from one
        at which an entry begins to the next."""
        string, landmark = self.text.string, seat.after or seat.before
        scopes = [(0, len(string))] if seat.inside is None else list(self._pairs(seat.inside))
        if seat.begins is not None:
            yield from self._stretches(seat.begins, scopes)
            return
        if landmark is not None:
            starts = {string.rfind("\n", 0, match.start()) + 1 for match in self._matches(landmark)}
        else:
            starts = {match.start() for match in re.finditer(r"(?m)^[^\S\n]*\S", self._scanned[0])}
        for start in sorted(starts):
            end = string.find("\n", start) + 1 or len(string)
            if any(low <= start < high for low, high in scopes):
                yield ExistingEntry(start, end, Body(text=string[start:end].strip()))

    def _stretches(self, begins: str, scopes: Sequence[tuple[int, int]]) -> Iterator[ExistingEntry]:
        """What stands from each line that is matched to the next, without the blank lines behind it."""
        string = self.text.string
        for low, high in scopes:
            found = (match.start() for match in self._matches(begins) if low <= match.start() < high)
            starts = sorted({string.rfind("\n", 0, start) + 1 for start in found})
            for start, after in itertools.pairwise((*starts, high)):
                text = string[start:after].rstrip()
                end = string.find("\n", start + len(text)) + 1 or len(string)
                yield ExistingEntry(start, end, Body(text=text.strip()))

    def _among(self, seat: TextSeat, text: str) -> Edits:
        """Above the first entry or below the last one, with a blank line between where those have one."""
        string, newline = self.text.string, self.text.newline
        found = list(self.existing(seat))
        if not found:
            return self._in_scope((0, len(string)), text, seat.at or "end", inside=False)
        apart = any(
            not string[one.end : two.start].strip("\r\n") and one.end < two.start
            for one, two in itertools.pairwise(found)
        )
        blank = newline if apart else ""
        lead = lead_of(string, found[0].start)
        parts = [one.body.text or "" for one in _Plain(Text(text, "utf-8"), self.options).existing(seat)]
        parts = parts if apart and parts and text.lstrip().startswith(parts[0]) else [text]
        new = (newline + blank).join(written_lines(self.text, part, lead) for part in parts) + newline
        if seat.at == "start":
            return Edits((Edit(found[0].start, found[0].start, new + blank),))
        end = found[-1].end
        gap = "" if string[:end].endswith("\n") else newline
        return Edits((Edit(end, end, gap + blank + new),))

    def put(self, seat: TextSeat, body: Body) -> Placement:
        if body.text is None or not body.text.strip():
            return WrongBody("text")
        scope = (0, len(self.text.string))
        if seat.inside is not None:
            pairs = list(self._pairs(seat.inside))
            if len(pairs) != 1:
                often = f" (it is there {len(pairs)} times)" if pairs else ""
                return NoSeat(f"one pair of brackets after {seat.inside}{often}")
            scope = pairs[0]
        if (standing := self._standing(body.text, scope)) is not None:
            return AlreadyThere(standing)
        if seat.begins is not None and seat.inside is None:
            return self._among(seat, body.text)
        landmark = seat.after or seat.before
        if landmark is not None:
            found = [m for m in self._matches(landmark) if scope[0] <= m.start() < scope[1]]
            if found:
                match = found[-1] if seat.after is not None else found[0]
                offset = match.end() - 1 if seat.after is not None else match.start()
                lead = lead_of(self.text.string, match.start())
                return self._at_line(offset, body.text, lead, below=seat.after is not None)
            if seat.otherwise == "refuse":
                return NoSeat(f"a line that matches {landmark}")
        at = seat.at or ("start" if seat.otherwise == "start" else "end")
        return self._in_scope(scope, body.text, at, inside=seat.inside is not None)

    def _at_line(self, offset: int, text: str, lead: str, below: bool) -> Edits:
        string, newline = self.text.string, self.text.newline
        new = written_lines(self.text, text, lead)
        if not below:
            start = string.rfind("\n", 0, offset) + 1
            return Edits((Edit(start, start, new + newline),))
        end = string.find("\n", offset)
        end = len(string) if end < 0 else end - (string[end - 1] == "\r")
        return Edits((Edit(end, end, newline + new),))

    def _in_scope(self, scope: tuple[int, int], text: str, at: str, inside: bool) -> Edits:
        string, newline = self.text.string, self.text.newline
        if not inside:
            if at == "start":
                return Edits((Edit(0, 0, written_lines(self.text, text, "") + newline),))
            gap = "" if not string or string.endswith("\n") else newline
            return Edits((Edit(len(string), len(string), gap + written_lines(self.text, text, "") + newline),))
        start, end = scope
        outer = lead_of(string, start)
        existing = string[start:end]
        first = start + len(existing) - len(existing.lstrip())
        lead = lead_of(string, first) if existing.strip() and "\n" in string[start:first] else outer + self.text.indent
        new = written_lines(self.text, text, lead)
        if "\n" not in existing:
            spare = len(existing) - len(existing.rstrip())
            return Edits((Edit(end - spare, end, newline + new + newline + outer),))
        if at == "start":
            line = string.find("\n", start) + 1
            return Edits((Edit(line, line, new + newline),))
        line = string.rfind("\n", start, end) + 1
        return Edits((Edit(line, line, new + newline),))

    def _pairs(self, source: str) -> Iterator[tuple[int, int]]:
        """What stands between the brackets after each match."""
        code, strings = self._scanned
        starts = [start for start, _ in strings]
        opens, closes = self.options.opens, self.options.closes
        bracket = re.compile(f"{re.escape(opens)}|{re.escape(closes)}")
        for match in self._matches(source):
            depth, start = 0, -1
            for found in bracket.finditer(code, match.end()):
                if _within(found.start(), starts, strings):
                    continue
                depth += 1 if found.group() == opens else -1
                if start < 0:
                    start = found.end()
                if depth <= 0:
                    if start <= found.start():
                        yield start, found.start()
                    break

    @property
    def depths(self) -> list[tuple[int, int]]:
        """Where brackets stand, and in how many what follows is."""
        code, strings = self._scanned
        starts = [start for start, _ in strings]
        found: list[tuple[int, int]] = []
        depth = 0
        for match in re.finditer(f"{re.escape(self.options.opens)}|{re.escape(self.options.closes)}", code):
            if not _within(match.start(), starts, strings):
                depth += 1 if match.group() == self.options.opens else -1
                found.append((match.start(), depth))
        return found

    def _standing(self, text: str, scope: tuple[int, int]) -> int | None:
        """Where all the lines of `text` stand below each other, blanks aside."""
        code = self._scanned[0]
        # Comments count neither here nor in the file, unless there is nothing else.
        own = _Plain(Text(text, "utf-8"), self.options)._scanned[0]
        if not own.strip():
            own, code = text, self.text.string
        wanted = [" ".join(line.split()) for line in own.strip().splitlines() if line.strip()]
        lines: list[tuple[str, int]] = []
        position = scope[0]
        for line in code[scope[0] : scope[1]].splitlines(keepends=True):
            if line.strip():
                lines.append((" ".join(line.split()), position))
            position += len(line)
        for index in range(len(lines) - len(wanted) + 1):
            if [line for line, _ in lines[index : index + len(wanted)]] == wanted:
                return lines[index][1]
        return None


def _within(offset: int, starts: list[int], spans: list[tuple[int, int]]) -> bool:
    """Whether an offset is inside of a span; its first character is not."""
    from bisect import bisect_left

    index = bisect_left(starts, offset) - 1
    return index >= 0 and offset < spans[index][1]


def _whole_blocks(document: _Plain, lines: Sequence[ExistingEntry]) -> Iterator[ExistingEntry]:
    """Lines, those together that stand in brackets with the one that opens them; what is never closed stays lines."""
    depths, depth = document.depths, 0
    if not depths or depths[-1][1] != 0:
        yield from lines
        return
    held: list[ExistingEntry] = []
    waiting = deque(depths)
    for line in lines:
        if held and depth <= 0:
            yield _block(document, held)
            held = []
        held.append(line)
        while waiting and waiting[0][0] < line.end:
            depth = waiting.popleft()[1]
    if held:
        yield _block(document, held)


def _block(document: _Plain, lines: Sequence[ExistingEntry]) -> ExistingEntry:
    if len(lines) == 1:
        return lines[0]
    start, end = lines[0].start, lines[-1].end
    return ExistingEntry(start, end, Body(text=textwrap.dedent(document.text.string[start:end]).strip()))


class _TextFormat(Format):
    title: ClassVar[str] = "text, by regular expressions"
    selector: ClassVar[type[Struct]] = TextSelector
    seat: ClassVar[type[Struct]] = TextSeat
    options: ClassVar[type[Struct]] = TextOptions
    bodies: ClassVar[Sequence[str]] = ("text",)
    largest: ClassVar[int] = 64 << 20

    def head(self, seat: TextSeat) -> Pattern | None:
        return None if seat.begins is None else _regex(seat.begins)

    def constant(self, name: str) -> dict[str, Any] | None:
        return {"match": rf"^[ \t]*(?:[a-z]+[ \t]+)*{re.escape(name)}[ \t]*=[ \t]*(?P<value>[^\s;,]+)"}

    def row_words(self, selector: TextSelector) -> frozenset[str]:
        return _regex(selector.match).groups

    def pasted(self, seat: TextSeat, snippet: Snippet) -> tuple[ExistingEntry, ...]:
        document = _Plain(Text(snippet.text, "utf-8"), snippet.options)
        if seat.inside is not None and (there := tuple(document.existing(seat))):
            return there
        if seat.begins is not None:
            return tuple(document.existing(structs.replace(seat, inside=None)))
        alike = structs.replace(seat, inside=None)
        if _OPEN.search(f"{seat.after or ''}{seat.before or ''}"):
            # Beside a line that only the map says: what is set there need not be like it, but for being no prose.
            lines = list(_whole_blocks(document, list(document.existing(TextSeat(at="end")))))
            return tuple(line for line in lines if _STATEMENT.search(line.body.text or ""))
        return tuple(_whole_blocks(document, list(document.existing(alike))))

    def open(self, source: Text | bytes, options: TextOptions) -> _Plain:
        assert isinstance(source, Text)
        return _Plain(source, options)


FORMAT = _TextFormat()
