"""Markdown (CommonMark 0.31), read by the package markdown-it-py; plain text is the same with fewer marks."""

from __future__ import annotations

import functools
import re
from collections.abc import Iterator

from markdown_it import MarkdownIt

from hookset.authoring.draft.notes.line import LONGEST_LINE, MOST_LINES, Line

__all__ = ["lines_of"]

_UNDERLINE = re.compile(r"\s{0,3}(?:=+|-{3,}|\*{3,}|~{3,})\s*$")
_FRAME = re.compile(r"\s*~{8,}\s*")
_FENCE = re.compile(r"[\s>*+.\d-]*(?:`{3,}|~{3,})")


@functools.cache
def _blocks() -> MarkdownIt:
    """Blocks only, and no indented code: in plain text people indent anything."""
    return MarkdownIt("commonmark").disable(["code", "html_block", "reference"]).disable(["inline", "text_join"])


def lines_of(text: str) -> Iterator[Line]:
    """Lines, with what is fenced marked as code."""
    lines = [line[:LONGEST_LINE] for line in text.splitlines()[: MOST_LINES + 1]]
    # Drawn all across the page it is a frame.
    lines = ["" if _FRAME.fullmatch(line) else line for line in lines]
    code: set[int] = set()
    headings: dict[int, str] = {}
    marks: set[int] = set()
    tokens = _blocks().parse("\n".join(lines))
    for token, content in zip(tokens, (*tokens[1:], *tokens[-1:]), strict=True):
        if token.map is None:
            continue
        first, last = token.map
        if token.type == "fence":
            closed = last - first > 1 and _FENCE.match(lines[last - 1]) is not None
            marks |= {first, last - 1} if closed else {first}
            code |= set(range(first + 1, last - 1 if closed else last))
        elif token.type == "heading_open" and token.markup in ("=", "-"):
            # A line drawn below several is no heading of theirs in plain text: it ends them.
            headings |= {first: lines[first]} if last - first == 2 else {}
            marks.add(last - 1)
        elif token.type == "heading_open":
            headings[first] = content.content
    for number, line in enumerate(lines):
        if number in marks:
            yield Line(number + 1, "")
        elif number in code:
            yield Line(number + 1, line, code=True)
        elif _UNDERLINE.match(line):
            yield Line(number + 1, "")
        else:
            yield Line(number + 1, headings.get(number, line), heading=number in headings)
