"""Prose as sentences, which run on over the ends of lines."""

from __future__ import annotations

import re
from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Iterator
from operator import itemgetter

from msgspec import Struct

from hookset.authoring.draft.cites import Why, at_line
from hookset.authoring.draft.notes import Line, Notes

__all__ = ["Sentence", "sentences_of"]

_END = re.compile(r"(?<=[.!?])[)\"'”]*\s+(?=[A-ZÄÖÜ(\"'“`]|\S+\.\w)")
_MOST = 60
"""Lines of a paragraph: more than that is a listing, or there to keep a reader busy."""
_QUOTED = 120
"""Characters within which a quotation ends."""
_ITEM = re.compile(
    r"\s*(?:[-*•+|>]|[(\[]?\d{1,2}[.):\]]|[A-Z][.)])\s|[^|\n]*\|[^|\n]*\|"
    r"|\s*[\w-]+(?:[/\\][\w-]+)*\.[A-Za-z]\w{1,4}:?\s*$"
)
"""How an item of a list begins, or a row of a table; or the path of a file that what comes below is for."""


class Sentence(Struct, frozen=True):
    """One sentence, or one item of a list."""

    notes: str
    text: str
    lines: tuple[int, ...]
    """The numbers of the lines that it stands in."""

    @property
    def why(self) -> Why:
        """Its first line."""
        return at_line(self.notes, self.lines[0])


def sentences_of(notes: Iterable[Notes]) -> Iterator[Sentence]:
    """Every sentence of the prose, in order."""
    for one in notes:
        for paragraph in _paragraphs(one.lines):
            yield from _cut(one.path, paragraph)


def _paragraphs(lines: Iterable[Line]) -> Iterator[list[Line]]:
    held: list[Line] = []
    for line in lines:
        ends = line.code or line.heading or not line.text.strip()
        if held and (ends or len(held) >= _MOST or _ITEM.match(line.text) or line.number > held[-1].number + 1):
            yield held
            held = []
        if line.text.strip() and not line.code:
            held.append(line)
    if held:
        yield held


def _is_quoted(before: str, after: str) -> bool:
    """Whether what stands between two texts is quoted: a full stop there ends no sentence."""
    straight = before.count('"') % 2 == 1 and '"' in after
    low = before.rfind("„") > max(before.rfind("“"), before.rfind("”"))
    return straight or (low and re.search("[“”]", after) is not None)


def _cut(path: str, lines: list[Line]) -> Iterator[Sentence]:
    text, starts = "", []
    for line in lines:
        starts.append((len(text), line.number))
        text += line.text.strip() + " "
    start = 0
    for end in (*(match.end() for match in _END.finditer(text)), len(text)):
        if _is_quoted(text[start:end], text[end : end + _QUOTED]):
            continue
        if piece := text[start:end].strip():
            first = bisect_right(starts, start, key=itemgetter(0)) - 1
            yield Sentence(
                path, piece, tuple(n for _, n in starts[first : bisect_left(starts, end, key=itemgetter(0))])
            )
        start = end
