"""Text catalogues in gettext's PO form (GNU gettext manual, "The Format of PO Files")."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from msgspec import Struct

from hookset.formats._values import flat_record
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
from hookset.formats.document import Editable, HasRecords, HasRows, HasWording
from hookset.formats.format import Format, Nothing, Snippet
from hookset.model import Where
from hookset.trees import Text

__all__ = ["FORMAT"]

_LINE = re.compile(
    r"[ \t]*(?:(?P<word>msgctxt|msgid_plural|msgid|msgstr(?:\[\d+\])?)[ \t]+)?\"(?P<text>(?:\\.|[^\"\\])*)\"[ \t]*"
)
_CHARSET = re.compile(rb"charset=([A-Za-z0-9._-]+)")


class PoSelector(Struct, frozen=True, forbid_unknown_fields=True):
    ids: bool = True
    """The ids that have a translation."""
    untranslated: bool = False
    """Those without one, too."""


class _Message(Struct, frozen=True):
    context: str
    """What distinguishes ids that are spelled alike."""
    id: str
    text: str
    start: int
    """Of the id, within its quotes."""
    end: int


@dataclass(frozen=True)
class _Po(HasRows, HasRecords, HasWording, Editable):
    text: Text
    messages: tuple[_Message, ...]
    problems: tuple[tuple[str, Where], ...] = ()

    def select(self, selector: PoSelector) -> Iterator[Value]:
        """An id that is there in several contexts is there, once."""
        contexts: dict[str, str] = {}
        for message in self._meant(selector):
            if contexts.setdefault(message.id, message.context) == message.context:
                yield Value(message.id, message.start)

    def rows(self, selector: PoSelector) -> Iterator[tuple[Value, Mapping[str, str]]]:
        """With its `context`, of every context."""
        for message in self._meant(selector):
            yield Value(message.id, message.start), {"context": message.context}

    def _meant(self, selector: PoSelector) -> Iterator[_Message]:
        return (one for one in self.messages if one.id and (one.text or selector.untranslated))

    def wording(self, where: Where) -> str:
        return next((message.text for message in self.messages if message.start == where), "")

    def records(self, _selector: PoSelector) -> Iterator[tuple[Where, Any]]:
        return ((message.start, {"id": message.id, "text": message.text}) for message in self.messages)

    def spans(self, wheres: Iterable[Where]) -> dict[Where, tuple[int, int]]:
        ends = {message.start: message.end for message in self.messages}
        return {where: (where, ends[where]) for where in wheres if isinstance(where, int) and where in ends}

    def existing(self, _seat: Nothing) -> Iterator[ExistingEntry]:
        for message in self.messages:
            if message.id:
                yield ExistingEntry(message.start, message.end, Body(record={message.id: message.text}))

    def put(self, _seat: Nothing, body: Body) -> Placement:
        if body.record is None:
            return WrongBody("a record of ids and texts")
        wanted, odd = flat_record(body.record)
        if odd or not wanted:
            return WrongBody("a record of ids with one text each" + (f", and `{odd}` has another" if odd else ""))
        there = {message.id: message for message in self.messages if not message.context}
        for key, value in wanted.items():
            if key in there and there[key].text != value:
                return Clash(there[key].start, f"{key} = {there[key].text!r}, not {value!r}")
        missing = {key: value for key, value in wanted.items() if key not in there}
        if not missing:
            return AlreadyThere(there[next(iter(wanted))].start)
        newline, string = self.text.newline, self.text.string
        entries = [f"msgid {_quoted(key)}{newline}msgstr {_quoted(value)}{newline}" for key, value in missing.items()]
        gap = "" if not string else newline if string.endswith("\n") else newline * 2
        return Edits((Edit(len(string), len(string), gap + newline.join(entries)),))


def _quoted(text: str) -> str:
    return json.dumps(text, ensure_ascii=False)


def _unquoted(text: str) -> str:
    return re.sub(r"\\(.)", lambda m: {"n": "\n", "t": "\t", "r": "\r"}.get(m[1], m[1]), text)


class _PoFormat(Format):
    title: ClassVar[str] = "gettext PO"
    selector: ClassVar[type[Struct]] = PoSelector
    bodies: ClassVar[Sequence[str]] = ("record",)
    largest: ClassVar[int] = 64 << 20

    def row_words(self, _selector: PoSelector) -> frozenset[str]:
        return frozenset({"context"})

    def declared_encoding(self, data: bytes) -> str | None:
        found = _CHARSET.search(data[:4000])
        name = found[1].decode("ascii") if found else ""
        return name if name and name != "CHARSET" else None

    def pasted(self, seat: Nothing, snippet: Snippet) -> tuple[ExistingEntry, ...]:
        try:
            return tuple(self.open(Text(snippet.text, "utf-8"), None).existing(seat))
        except Unreadable:
            return ()

    def open(self, source: Text | bytes, _options: Any) -> _Po:
        assert isinstance(source, Text)
        messages: list[_Message] = []
        parts: dict[str, str] = {}
        place, last, position = (0, 0), "", 0

        def close() -> None:
            if "msgid" in parts:
                text = parts.get("msgstr") or parts.get("msgstr[0]", "")
                messages.append(
                    _Message(_unquoted(parts.get("msgctxt", "")), _unquoted(parts["msgid"]), _unquoted(text), *place)
                )
            parts.clear()

        for line in re.findall(r"[^\n]*\n|[^\n]+", source.string):
            body = line.rstrip("\r\n")
            match = _LINE.fullmatch(body)
            if match is None and body.strip() and not body.lstrip().startswith("#"):
                raise Unreadable(
                    f"is no PO catalogue: {body.strip()[:40]!r} is neither an entry nor a comment", position
                )
            if match is not None:
                word = match["word"] or last
                if match["word"] == "msgctxt" or (match["word"] == "msgid" and "msgid" in parts):
                    close()
                if match["word"] == "msgid":
                    place = (position + match.start("text"), position + match.end("text"))
                parts[word] = parts.get(word, "") + match["text"] if match["word"] is None else match["text"]
                last = word
            position += len(line)
        close()
        return _Po(source, tuple(messages))


FORMAT = _PoFormat()
