"""Scripts parsed by their grammar, within bounds.

Behind a mistake a grammar looks for a way on. For each step of that it may read the rest of the file again, looking for
the end of a string or a comment that nobody began: one bracket that is missing in a script of 200 KB keeps it busy for
minutes.
"""

from __future__ import annotations

import ctypes
import sys
from collections import deque

from tree_sitter import Language, Parser, Point, Tree

__all__ = ["parsed"]

_QUICK = 8 << 10
"""Bytes that are parsed in no time, whatever they are."""
_PIECE = 4 << 10
_OFTEN = 32
"""How often a grammar may read a script: real ones without mistakes are read twice at most, extremes four times."""


def parsed(language: Language, data: bytes) -> Tree:
    """The tree of a script; where its mistakes would keep the grammar busy for long, that of its part up to there,
    with the first of them."""
    if len(data) <= _QUICK:
        return Parser(language).parse(data)
    source = _Source(data)
    furthest = 0

    def is_enough(offset: int, _mistaken: bool) -> bool:
        nonlocal furthest
        furthest = max(furthest, offset)
        return source.given > _OFTEN * len(data)

    try:
        return Parser(language).parse(source.read, progress_callback=is_enough)
    except ValueError:
        if source.given <= _OFTEN * len(data):
            raise
        return _mistaken(language, data, furthest)
    finally:
        source.let_go()


def _mistaken(language: Language, data: bytes, furthest: int) -> Tree:
    """The tree of as much of a script as shows its first mistake."""
    end = data.find(b"\n", furthest, furthest + _PIECE) + 1 or furthest + _PIECE
    tree = Parser(language).parse(data[:end])
    # Should it be something else than a mistake that keeps the grammar busy, the whole is to be known all the same.
    return tree if tree.root_node.has_error else Parser(language).parse(data)


class _Source:
    """What a parser reads from, a piece at a time."""

    def __init__(self, data: bytes) -> None:
        self.given = 0
        """Bytes, of all pieces."""
        self._data = data
        self._pieces: deque[bytes] = deque()

    def read(self, offset: int, _point: Point) -> bytes:
        """The piece that begins at an offset."""
        piece = self._data[offset : offset + _PIECE]
        self.given += len(piece)
        self._pieces.append(piece)
        # The parser may look at the one before until it has this.
        while len(self._pieces) > 2:
            _release(self._pieces)
        return piece

    def let_go(self) -> None:
        """Of the last pieces, once the parser is done."""
        while self._pieces:
            _release(self._pieces)


def _release(pieces: deque[bytes]) -> None:
    """Drop the first of some pieces. py-tree-sitter 0.25 and 0.26 hold what a reader gives them for ever: a script that
    is checked at each key press would take some MB each time. Where a version lets go of it, there is nothing to do."""
    if len(pieces[0]) > 1:
        for _ in range(_references(pieces) - _ALONE):
            _decrement(pieces[0])
    pieces.popleft()


def _references(pieces: deque[bytes]) -> int:
    return sys.getrefcount(pieces[0])


_ALONE = _references(deque([bytes(2)]))
"""References to a piece that only its queue holds."""
_decrement = ctypes.pythonapi.Py_DecRef
_decrement.argtypes, _decrement.restype = [ctypes.py_object], None
