"""What nested block text is made of: how it is written, its tokens, its entries."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import islice
from typing import overload

from msgspec import Struct

__all__ = ["DEPTH", "BlockEntry", "BlockOptions", "Token", "Tokens"]

DEPTH = 200
"""Blocks in blocks, at most."""
_NUMBER = re.compile(r"[-+.\w]+")


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
    nameless: bool = False
    """Whether blocks have no word before them: an opening bracket on a line of its own opens one."""
    values: int = 0
    """How many values a key has: the next word begins another entry, on the same line, too. 0: all to its end."""
    indented: bool = False
    """Whether blocks have no brackets: what stands further in below a line is in its block."""
    leading: bool = False
    """Whether the opening bracket stands before the word, as in `(door (key "a"))`: S-expressions."""
    quotes: str = '"'
    """Each of these characters begins a text, and ends it."""
    tagged: bool = False
    """Whether a block stands between its word in brackets and the same behind a slash: `[door]` … `[/door]`."""


class Token(Struct, frozen=True):
    text: str
    """Without its quotes."""
    start: int
    """Past an opening quote."""
    end: int
    kind: str
    """word, string, opens, closes, assign, ends, newline; run, for many numbers in a row"""


class Tokens(Sequence[Token]):
    """What is said in a list. A row of thousands of numbers, as maps have them, is taken apart when somebody asks."""

    def __init__(self, pieces: list[Token]) -> None:
        self.pieces = pieces

    def __iter__(self) -> Iterator[Token]:
        for piece in self.pieces:
            yield from _apart(piece) if piece.kind == "run" else (piece,)

    def __bool__(self) -> bool:
        return bool(self.pieces)

    def __len__(self) -> int:
        return sum(len(piece.text.split()) if piece.kind == "run" else 1 for piece in self.pieces)

    @overload
    def __getitem__(self, at: int) -> Token: ...
    @overload
    def __getitem__(self, at: slice) -> Sequence[Token]: ...
    def __getitem__(self, at: int | slice) -> Token | Sequence[Token]:
        if isinstance(at, int) and at >= 0:
            found = next(islice(self, at, None), None)
            if found is None:
                raise IndexError(at)
            return found
        if isinstance(at, slice) and (at.start or 0) >= 0 and (at.stop or -1) >= 0 and at.step is None:
            return list(islice(self, at.start, at.stop))
        if at == slice(-1, None) and self.pieces:
            return list(Tokens(self.pieces[-1:]))[-1:]
        return list(self)[at]


def _apart(run: Token) -> Iterator[Token]:
    for match in _NUMBER.finditer(run.text):
        yield Token(match[0], run.start + match.start(), run.start + match.end(), "word")


@dataclass(slots=True)
class BlockEntry:
    """A key with its values, or a block with its names and what it holds."""

    word: Token
    values: Sequence[Token]
    inside: list[BlockEntry] | None = None
    opened: int = 0
    """Past the opening bracket."""
    closed: int = 0
    """At the closing bracket."""
    end: int = 0
    key: bool = True
    """Whether its values are those of a key: not for a block whose word stands before its brackets."""
    begin: int = -1
    """At the opening bracket, where that stands before the word."""
