"""Entries that notes give as rows of a table, with their keys as its titles."""

from __future__ import annotations

import re
from collections.abc import Iterator
from itertools import pairwise

from hookset.authoring.draft.notes import Line, Notes
from hookset.authoring.draft.notes.tables import cells_of, is_below_titles
from hookset.authoring.draft.said.chunks import Chunk

__all__ = ["tabled"]

_KEY = re.compile(r"[A-Za-z_][\w-]*")
_ROWS = 2
_NEAR, _FAR = 3, 8


def tabled(notes: Notes) -> Iterator[Chunk]:
    """Each row as a text of keys and values on lines of their own; what is empty is left out."""
    titles: list[str] = []
    said: list[Line] = []
    for line, below in pairwise((*notes.lines, Line(0, ""))):
        if "|" not in line.text or line.code:
            titles = []
            said += [line] if line.text.strip() else []
        elif is_below_titles(below.text):
            titles = cells_of(line.text)
        elif not is_below_titles(line.text) and len(row := cells_of(line.text)) == len(titles):
            cells = [(key, cell) for key, cell in zip(titles, row, strict=True) if cell]
            if len(cells) >= _ROWS and all(_KEY.fullmatch(key) for key, _ in cells):
                lines = tuple(Line(line.number, f"{key} = {cell}") for key, cell in cells)
                yield Chunk(
                    notes=notes.path, lines=lines, near=tuple(said[-_NEAR:]), far=tuple(said[-_FAR:-_NEAR]), tabled=True
                )
