"""INI-like files: `[section]`, `key = value` or `key: value`, comments with `;` or `#`."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, ClassVar

from msgspec import Struct

from hookset.formats._continued import Continuation, Continued
from hookset.formats._values import as_words, flat_record, reads_as_number
from hookset.formats._wildcards import ByName, meant
from hookset.formats.base import (
    AlreadyThere,
    Body,
    Clash,
    Edit,
    Edits,
    ExistingEntry,
    Placement,
    Unreadable,
    Value,
    WrongBody,
)
from hookset.formats.document import Editable, HasFields, HasIndex, HasRows, Writable
from hookset.formats.format import Format, Snippet
from hookset.model import Where
from hookset.trees import Text

__all__ = ["FORMAT", "IniSeat", "IniSelector"]

_QUOTES = ('"', "'")
_UNCLOSED = 20
"""Values of a section that open what nothing closes, each of which is looked for to its end; then all others of that
section end with their line."""
_SECTION = re.compile(r"[ \t]*\[([^\]\r\n]*)\]")
_PAIR = re.compile(r"([ \t]*)([^=:\r\n\s](?:[^=:\r\n]*[^=:\r\n\s])?)([ \t]*[=:][ \t]*)([^\r\n]*)")


class IniOptions(Struct, frozen=True, forbid_unknown_fields=True):
    comment: tuple[str, ...] = (";", "#")
    """What a comment line begins with; after a value, a comment needs a blank before it."""
    quotes: bool = True
    """Whether quotes around a value are not part of it."""
    bare: bool = False
    """Whether a line may be a key without a value, as in sections that are lists."""
    continued: tuple[Continuation, ...] = ()
    """What makes a value go on in the next line: `quotes` or `brackets` that are open, a `backslash` or a comma
    (`commas`) at the end of the line, blanks that the next one begins with (`indent`)."""


class IniSelector(Struct, frozen=True, forbid_unknown_fields=True):
    """Values, by section and key; without a key, the keys; `sections`, their names. `*` stands for anything."""

    section: str = "*"
    key: str | None = None
    keys: bool = False
    sections: bool = False
    when: dict[str, str] = {}
    """Only sections in which these keys have these values."""

    def __post_init__(self) -> None:
        if (self.key is not None) + self.keys + self.sections != 1:
            raise ValueError("one of key, keys and sections says what is meant")


class IniSeat(Struct, frozen=True, forbid_unknown_fields=True):
    """A section of an INI file."""

    section: str | None = None
    """The section that takes keys; empty: above the first one. Without it, hooks bring whole sections as text."""
    again: bool = False
    """Whether a key, or without `section` a section, may be there several times: each entry is one more of it."""


class _Pair(Struct, frozen=True):
    section: str
    key: str
    value: str
    start: int
    """Of the line."""
    key_start: int
    value_start: int
    end: int
    """Past the line's ending."""
    lead: str
    equals: str
    quote: str
    block: int
    """The section that it stands in, counted from 0: several may be called alike. -1 above the first one."""


class _Section(Struct, frozen=True):
    name: str
    start: int
    end: int


@dataclass(frozen=True)
class _Ini(HasIndex, HasRows, HasFields, Writable, Editable):
    text: Text
    sections: tuple[_Section, ...]
    pairs: tuple[_Pair, ...]
    options: IniOptions
    problems: tuple[tuple[str, Where], ...] = ()

    def select(self, selector: IniSelector) -> Iterator[Value]:
        is_meant = meant(selector.section)
        if selector.sections:
            yield from (Value(one.name, one.start) for one in self.sections if is_meant(one.name))
            return
        for pair in self.pairs if selector.key is None else self._by_key.of(selector.key):
            if is_meant(pair.section) and (not selector.when or self._holds(pair.block, selector.when)):
                yield Value(pair.key, pair.key_start) if selector.keys else Value(pair.value, pair.value_start)

    def may_match(self, selectors: Sequence[IniSelector]) -> Collection[int]:
        there = self._by_key
        return frozenset(n for n, one in enumerate(selectors) if one.key is None or one.key in there)

    @cached_property
    def _by_key(self) -> ByName[_Pair]:
        return ByName((pair.key, pair) for pair in self.pairs)

    def rows(self, selector: IniSelector) -> Iterator[tuple[Value, Mapping[str, str]]]:
        """With the keys of the section, and its name as `section`."""
        for value in self.select(selector):
            block = self._block_at[int(value.where)]
            yield value, {"section": self.sections[block].name if block >= 0 else "", **self._blocks.get(block, {})}

    @cached_property
    def _block_at(self) -> dict[int, int]:
        """The section, by where it and its keys and values begin."""
        found = {where: pair.block for pair in self.pairs for where in (pair.key_start, pair.value_start)}
        return found | {section.start: number for number, section in enumerate(self.sections)}

    @cached_property
    def _blocks(self) -> dict[int, dict[str, str]]:
        """The keys of each section: of one that is there several times, what the last says."""
        found: dict[int, dict[str, str]] = {}
        for pair in self.pairs:
            found.setdefault(pair.block, {})[pair.key] = pair.value
        return found

    @cached_property
    def _said(self) -> frozenset[tuple[int, str, str]]:
        """Section, key and value of all pairs."""
        return frozenset((pair.block, pair.key, pair.value) for pair in self.pairs)

    def _holds(self, block: int, when: dict[str, str]) -> bool:
        return all((block, key, value) in self._said for key, value in when.items())

    def records(self, selector: IniSelector) -> Iterator[tuple[Where, Any]]:
        """Each section as its keys and values, all of them text."""
        is_meant = meant(selector.section)
        for number, section in enumerate(self.sections):
            if is_meant(section.name):
                yield section.start, dict(self._blocks.get(number, {}))

    def field(self, record: Where, key: str) -> Where:
        block = next((number for number, one in enumerate(self.sections) if one.start == record), None)
        return next((p.value_start for p in self.pairs if p.block == block and p.key == key), record)

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        ends = {pair.value_start: pair.value_start + len(pair.value) for pair in self.pairs}
        ends |= {pair.key_start: pair.key_start + len(pair.key) for pair in self.pairs}
        ends |= {section.start: section.start + len(section.name) for section in self.sections}
        return {where: (where, ends[where]) for where in wheres if isinstance(where, int) and where in ends}

    def writings(self, span: tuple[int, int], value: Any) -> Iterator[Edit]:
        start, end = span
        string = self.text.string
        words = as_words(value, string[start:end])
        if words is None or (reads_as_number(string[start:end]) and not reads_as_number(words)):
            return
        quote = string[start - 1 : start]
        if quote in _QUOTES and string[end : end + 1] == quote:
            start, end = start - 1, end + 1
            marks: tuple[str, ...] = (quote, *(mark for mark in _QUOTES if mark != quote), "")
        else:
            marks = ("", *_QUOTES)
        yield from (Edit(start, end, f"{mark}{words}{mark}") for mark in marks if not mark or mark not in words)

    def existing(self, seat: IniSeat) -> Iterator[ExistingEntry]:
        if seat.section is None:
            string = self.text.string
            starts = [string.rfind("\n", 0, section.start) + 1 for section in self.sections]
            for start, end in zip(starts, [*starts, len(string)][1:], strict=True):
                yield ExistingEntry(start, end, Body(text=string[start:end].strip() + "\n"))
            return
        for pair in self.pairs:
            if pair.section == seat.section:
                yield ExistingEntry(pair.start, pair.end, Body(record={pair.key: pair.value}))

    def put(self, seat: IniSeat, body: Body) -> Placement:
        if seat.section is None:
            return self._put_sections(body, seat.again)
        if body.record is None:
            return WrongBody("a record of keys and values")
        wanted, odd = flat_record(body.record)
        if odd:
            return WrongBody(f"a record of keys with one value each, and `{odd}` has another")
        here = [pair for pair in self.pairs if pair.section == seat.section]
        there = {pair.key: pair for pair in here}
        for key, value in wanted.items() if not seat.again else ():
            if key in there and there[key].value != value:
                return Clash(there[key].value_start, f"{key} = {there[key].value!r}, not {value!r}")
        pairs = {(pair.key, pair.value) for pair in here}
        missing = {key: v for key, v in wanted.items() if (key, v) not in pairs and (seat.again or key not in there)}
        if not missing:
            return AlreadyThere(next(iter(there[key].key_start for key in wanted), 0))
        newline = self.text.newline
        model = here[-1] if here else self.pairs[-1] if self.pairs else None
        lead, equals, quote = (model.lead, model.equals, model.quote) if model else ("", " = ", "")
        lines = "".join(
            f"{lead}{key}{newline}"
            if not value and self.options.bare
            else f"{lead}{key}{equals}{quote}{value}{quote}{newline}"
            for key, value in missing.items()
        )
        if here:
            return self._inserted(here[-1].end, lines)
        section = next((one for one in self.sections if one.name == seat.section), None)
        if section is not None:
            return self._inserted(section.end, lines)
        if not seat.section:
            first = self.sections[0].start if self.sections else len(self.text.string)
            at = self.text.string.rfind("\n", 0, first) + 1
            return self._inserted(at, lines)
        gap = newline if self.text.string.strip() else ""
        return self._inserted(len(self.text.string), f"{gap}[{seat.section}]{newline}{lines}")

    def _put_sections(self, body: Body, again: bool) -> Placement:
        """Whole sections, at the end of the file; `again` where several may be called alike."""
        try:
            new = _parsed(Text(body.text or "", "utf-8"), self.options)
        except Unreadable:
            new = None
        if new is None or not new.sections:
            return WrongBody("sections with their keys")
        there = {(section.name, self._says(number)) for number, section in enumerate(self.sections)}
        called = {} if again else {section.name: number for number, section in enumerate(self.sections)}
        missing = []
        for number, section in enumerate(new.sections):
            if (section.name, new._says(number)) in there:
                continue
            if (other := called.get(section.name)) is not None:
                said, wanted = self._blocks.get(other, {}), new._blocks.get(number, {})
                where = self.sections[other].start
                return Clash(where, f"the section [{section.name}] is there with {said}, not {wanted}")
            missing.append((section.name, new._lines_of(number)))
        if not missing:
            names = {section.name for section in new.sections}
            return AlreadyThere(next(section.start for section in self.sections if section.name in names))
        newline = self.text.newline
        equals = self.pairs[0].equals if self.pairs and any(pair.value for pair in self.pairs) else " = "
        lines = [
            line
            for name, pairs in missing
            for line in ("", f"[{name}]", *(f"{k}{equals}{v}" if v or not self.options.bare else k for k, v in pairs))
        ]
        string = self.text.string
        apart = not string.strip() or string.endswith(("\n\n", "\r\n\r\n"))
        text = newline.join(lines[1:] if apart else lines) + newline
        gap = "" if not string or string.endswith("\n") else newline
        return Edits((Edit(len(string), len(string), gap + text),))

    def _says(self, block: int) -> tuple[tuple[str, str], ...]:
        """The keys and values of a section, in whichever order they are there."""
        return tuple(sorted((pair.key, pair.value) for pair in self._by_block.get(block, ())))

    def _lines_of(self, block: int) -> tuple[tuple[str, str], ...]:
        """Key and value of each line of a section, in order; a key may be there several times."""
        return tuple((pair.key, f"{pair.quote}{pair.value}{pair.quote}") for pair in self._by_block.get(block, ()))

    @cached_property
    def _by_block(self) -> dict[int, list[_Pair]]:
        found: dict[int, list[_Pair]] = {}
        for pair in self.pairs:
            found.setdefault(pair.block, []).append(pair)
        return found

    def _inserted(self, at: int, text: str) -> Edits:
        if at and self.text.string[at - 1] != "\n":
            text = self.text.newline + text.removesuffix(self.text.newline)
        return Edits((Edit(at, at, text),))


def _parsed(source: Text, options: IniOptions) -> _Ini:
    marks = "|".join(re.escape(mark) for mark in options.comment) or "(?!)"
    comment = re.compile(rf"(?:^|(?<=\s))(?:{marks}).*")
    quoted = re.compile(rf"""[^=:\r\n]*[=:][ \t]*(?:"[^"\r\n]*"|'[^'\r\n]*')(?=[ \t]*(?:$|(?<=\s)(?:{marks})))""")
    sections: list[_Section] = []
    pairs: list[_Pair] = []
    section, position, unclosed = "", 0, _UNCLOSED
    continued = Continued(options.continued, options.comment) if options.continued else None
    while position < len(source.string):
        start, end = position, source.string.find("\n", position) + 1 or len(source.string)
        plain = source.string[start:end].rstrip("\r\n")
        whole = quoted.match(plain) if options.quotes and not comment.match(plain) else None
        body = whole.group() if whole is not None else comment.sub("", plain).rstrip()
        position = end
        if found := _SECTION.fullmatch(body):
            section, unclosed = found[1].strip(), _UNCLOSED
            sections.append(_Section(section, start + body.index("[") + 1, end))
        elif pair := _PAIR.fullmatch(body):
            value, value_start = pair[4], start + pair.start(4)
            longer = continued.value(source.string, value_start) if continued is not None and unclosed else None
            if longer is None:
                unclosed = max(0, unclosed - 1)
            else:
                value_start, value = longer
                behind = max(value_start + len(value), end - 1)
                position = end = source.string.find("\n", behind) + 1 or len(source.string)
            where = start, end, value_start
            pairs.append(_pair(pair, (section, len(sections) - 1), where, value, options))
        elif body.strip() and options.bare:
            lead, key = body[: len(body) - len(body.lstrip())], body.strip()
            key_start, key_end = start + len(lead), start + len(body)
            pairs.append(_Pair(section, key, "", start, key_start, key_end, end, lead, " = ", "", len(sections) - 1))
        elif body.strip():
            raise Unreadable(
                f"is not INI: {body.strip()[:40]!r} is neither a section nor a key with its value; "
                "a layout allows keys without one by `options = { bare = true }`, and says by `continued` what makes "
                "values go on in the next line",
                start,
            )
    return _Ini(source, tuple(sections), tuple(pairs), options)


def _pair(
    found: re.Match[str], section: tuple[str, int], where: tuple[int, int, int], value: str, options: IniOptions
) -> _Pair:
    """A key and its value, without the quotes around it; `section` with its number, `where` with the start and the end
    of the line, and the start of the value."""
    start, end, value_start = where
    quote = ""
    if options.quotes and len(value) > 1 and value[0] == value[-1] and value[0] in _QUOTES:
        value, value_start, quote = value[1:-1], value_start + 1, value[0]
    key_start = start + found.start(2)
    name, block = section
    return _Pair(name, found[2], value, start, key_start, value_start, end, found[1], found[3], quote, block)


class _IniFormat(Format):
    title: ClassVar[str] = "INI"
    selector: ClassVar[type[Struct]] = IniSelector
    seat: ClassVar[type[Struct]] = IniSeat
    options: ClassVar[type[Struct]] = IniOptions
    bodies: ClassVar[Sequence[str]] = ("record", "text")
    has_rows: ClassVar[bool] = True
    largest: ClassVar[int] = 16 << 20

    def pasted(self, seat: IniSeat, snippet: Snippet) -> tuple[ExistingEntry, ...]:
        try:
            document = _parsed(Text(snippet.text, "utf-8"), snippet.options or IniOptions())
        except Unreadable:
            return ()
        if seat.section is not None and not document.sections:
            return tuple(document.existing(IniSeat(section="")))
        return tuple(document.existing(seat))

    def open(self, source: Text | bytes, options: IniOptions) -> _Ini:
        assert isinstance(source, Text)
        return _parsed(source, options)


FORMAT = _IniFormat()
