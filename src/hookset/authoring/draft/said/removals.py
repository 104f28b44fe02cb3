"""Texts that notes show to have them taken out of a file: "then delete the line …"."""

from __future__ import annotations

import re

from hookset.authoring.draft.said.chunks import Chunk
from hookset.authoring.draft.words import words

__all__ = ["goes"]

_SENTENCE = re.compile(r"(?<=[.!?;])\s+")
_NAME = re.compile(r"[\w.]*\w")
_FEW = 40
"""Characters behind a text in which it is said that it goes."""
_NEAR = _FEW + 120
"""As far as what says so can reach."""


def goes(chunk: Chunk) -> bool:
    """Whether a text is shown to have it taken out."""
    said = chunk.near[-1].text if chunk.near else ""
    before, behind = said, chunk.after
    if chunk.inline:
        before, _, behind = said.partition(chunk.text)
    elif chunk.gap is not None:
        return all(line.sign == "-" for line in chunk.lines)
    return _ends_with_it(before, chunk.text) or _begins_with_it(behind)


def _ends_with_it(said: str, text: str) -> bool:
    """Whether the last that a sentence tells to do, before a text, is to take that text out."""
    table = words()["takes-out"]
    for clause in reversed(re.split(table["clause"], _SENTENCE.split(said.strip())[-1], flags=re.IGNORECASE)):
        told = [
            (match.start(), match.end(), name)
            for name in ("out", "other")
            for match in re.finditer(rf"(?<![\w-])(?:{table[name]})(?![\w-])", clause, re.IGNORECASE)
        ]
        if told:
            _, end, name = max(told)
            return name == "out" and _means(clause[end:], text)
    return False


def _means(said: str, text: str) -> bool:
    """Whether what is to go is the text: "the line", "this", its name; and not "the old one"."""
    named = {word.lower() for word in re.findall(r"[\w.]{4,}", text)} & {word.lower() for word in _NAME.findall(said)}
    what = words()["takes-out"]["what"]
    return not _NAME.search(said) or bool(named) or re.search(rf"(?<!\w)(?:{what})(?!\w)", said, re.I) is not None


def _begins_with_it(said: str) -> bool:
    """Whether what is said right behind a text is that it goes."""
    table = words()["takes-out"]
    found = re.search(rf"(?<![\w-])(?:{table['behind']})(?![\w-])", said[:_NEAR], re.IGNORECASE)
    before = said[: found.start()] if found is not None else ""
    other = re.search(rf"{table['clause']}|(?<!\w)(?:{table['may']})(?!\w)", before, re.IGNORECASE)
    return found is not None and len(before) <= _FEW and other is None
