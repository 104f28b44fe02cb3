"""The names in one file with where each is written, for whoever points at one: from the first character to the last."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping

from msgspec import Struct

from hookset.config.layouts import Layout
from hookset.formats import Unreadable, format_named, text_of
from hookset.model import CouldNotError, Where
from hookset.symbols.facts import FileFacts
from hookset.trees import Text, Tree

__all__ = ["WrittenName", "name_at", "text_in", "written_names"]

_WORD = re.compile(r"[^\s\"'`<>,;(){}\[\]=]+")
_LAST = re.compile(r"\w+$")
_QUOTES = "\"'`"


class WrittenName(Struct, frozen=True):
    """A name where it is written."""

    kind: str
    name: str
    defines: bool
    """Whether it is defined there; else it is used."""
    where: Where
    start: int
    end: int
    """Characters of the file, without quotation marks around it."""
    side: str = ""
    pattern: bool = False
    """Put together at run time."""
    written: str = ""


def text_in(tree: Tree, layout: Layout, path: str) -> Text | None:
    """A file as text, in the encoding of the first rule that looks into it; None for one that is none."""
    for rule in layout.reads:
        form = format_named(rule.format)
        if not form.binary and tree.has(path) and rule.match(path) is not None:
            try:
                return text_of(form, tree.read(path), rule.encodings)
            except CouldNotError:
                return None
    return None


def written_names(text: Text, layout: Layout, facts: FileFacts) -> tuple[WrittenName, ...]:
    """What a file says, in its order. Names that stand for the file as a whole are not written anywhere in it."""
    found = list(_said(facts))
    spans = _spans(text, layout, facts.path, {where for _, _, _, where, _, _, _ in found if isinstance(where, str)})
    names = []
    for kind, name, defines, where, side, pattern, written in found:
        span = spans.get(where) if isinstance(where, str) else (where, where)
        if span is None or (isinstance(where, int) and kind in layout.path_kinds and defines):
            continue
        start, end = _exact(text.string, span, written or name)
        if defines and (start == end or text.string[start:end] not in name):
            ahead = _ahead(text.string, start, name)
            if ahead is None:
                # The file as a whole, by the way to it.
                continue
            start, end = ahead
        names.append(WrittenName(kind, name, defines, where, start, end, side, pattern, text.string[start:end]))
    return tuple(sorted(dict.fromkeys(names), key=lambda one: (one.start, -one.end)))


def name_at(names: Iterable[WrittenName], offset: int) -> WrittenName | None:
    """The name that is pointed at: the shortest of several, a use before a definition."""
    there = [one for one in names if one.start <= offset <= one.end]
    return min(there, key=lambda one: (one.end - one.start, one.defines), default=None)


def _said(facts: FileFacts) -> Iterator[tuple[str, str, bool, Where, str, bool, str]]:
    for block in facts.defined:
        for row, name in enumerate(block.names):
            yield block.kind, name, True, block.where(row), block.side, False, ""
    for block in facts.made:
        for row, name in enumerate(block.names):
            yield block.kind, name, True, block.where(row), block.side, True, ""
    for referred in facts.referred:
        for row, name in enumerate(referred.names):
            written = referred.written[row] if referred.written else name
            yield referred.kind, name, False, referred.where(row), referred.side, row in referred.patterns, written


def _spans(text: Text, layout: Layout, path: str, wheres: set[Where]) -> Mapping[Where, tuple[int, int]]:
    """Where values with an address stand, by any of the rules that look into the file."""
    found: dict[Where, tuple[int, int]] = {}
    for rule in layout.reads:
        form = format_named(rule.format)
        left = wheres - found.keys()
        if left and not form.binary and rule.match(path) is not None:
            try:
                found |= form.locate(text, rule.options, left)
            except Unreadable:
                continue
    return found


def _ahead(text: str, start: int, name: str) -> tuple[int, int] | None:
    """Where the last part of a name stands in the rest of its line: `func open` defines `gate.gd::open`."""
    last = _LAST.search(name)
    if last is None:
        return None
    line = text.find("\n", start)
    found = re.compile(rf"\b{re.escape(last[0])}\b").search(text, start, line if line >= 0 else len(text))
    return found.span() if found is not None else None


def _exact(text: str, span: tuple[int, int], written: str) -> tuple[int, int]:
    """The part of a span that is the name, without the quotation marks around it; or the key in front of a value."""
    start, end = span
    whole = text[start:end] if end > start else ""
    at = whole.find(written) if whole else -1
    if at >= 0:
        return start + at, start + at + len(written)
    key = text.rfind(written, text.rfind("\n", 0, start) + 1, start) if whole else -1
    if key >= 0:
        return key, key + len(written)
    line = text.rfind("\n", 0, start) + 1
    if text[start : start + 1] in (*_QUOTES, "["):
        start += 1
    if text.startswith(written, start):
        return start, start + len(written)
    # Of a name in others, `SIGNALS.opened`, the last part is the key of the value that stands there.
    last = _LAST.search(written)
    before = (
        re.search(rf"(?<!\w){re.escape(last[0])}(?=[\"']?\s*[:=]\s*[\"'`\[]?$)", text[line:start]) if last else None
    )
    if before is not None:
        return line + before.start(), line + before.end()
    if end > start:
        return start, max(start, end - (text[end - 1 : end] in (*_QUOTES,)))
    word = _WORD.match(text, start)
    return start, word.end() if word is not None else start
