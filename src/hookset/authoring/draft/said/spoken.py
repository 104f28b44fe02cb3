"""Texts that give one key twice, for two languages, and do not say which is which."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from msgspec.structs import replace

from hookset.authoring.draft.notes import Line
from hookset.authoring.draft.said.chunks import Chunk
from hookset.authoring.draft.words import language_of

__all__ = ["by_languages"]

_ROW = re.compile(r"\s*[\"'`]?(?P<key>[\w.-]+)[\"'`]?\s*[=:]\s*(?P<text>\S.*)")
_TWO = 2


def by_languages(chunk: Chunk, languages: Sequence[str]) -> Iterator[Chunk]:
    """The text; where two lines give the same key, and the map has two languages, one for each: the first in that of
    the notes, unless their words tell otherwise."""
    lines = [line for line in chunk.lines if line.text.strip()]
    rows = [_ROW.fullmatch(line.text) for line in lines]
    keys = {row["key"] for row in rows if row is not None}
    if len(languages) != _TWO or len(rows) != _TWO or None in rows or len(keys) != 1 or chunk.inline:
        yield chunk
        return
    own = language_of("\n".join(line.text for line in (*chunk.far, *chunk.near)))
    spoken = [language_of(row["text"]) for row in rows if row is not None]
    if len(set(spoken)) != _TWO or not set(spoken) <= set(languages):
        spoken = sorted(languages, key=lambda language: language != own)
    for line, language in zip(lines, spoken, strict=True):
        yield replace(chunk, lines=(line,), near=(*chunk.near, Line(line.number, f"{language}:")))
