"""Which records of things stand at an offset of their file: of hundreds of thousands, only a few are looked up."""

from __future__ import annotations

import itertools
import math
from bisect import bisect_right
from collections.abc import Mapping, Sequence

import numpy as np

from hookset.formats.document import HasParts
from hookset.model import Where
from hookset.scene.rows import ThingRows

__all__ = ["begun_by", "rows_at", "rows_between"]


def begun_by(document: HasParts, wheres: Sequence[Where], offsets: Sequence[int]) -> list[int]:
    """For each offset how many of the records, which stand in file order, begin there or before."""
    step = max(1, math.isqrt(len(wheres)))
    marks = range(0, len(wheres), step)
    begins = _begins(document, [wheres[one] for one in marks])
    parts = [max(0, bisect_right(begins, offset) - 1) for offset in offsets]
    asked = sorted({row for part in parts for row in range(part * step, min(part * step + step, len(wheres)))})
    known = dict(zip(asked, _begins(document, [wheres[one] for one in asked]), strict=True))
    found: list[int] = []
    for part, offset in zip(parts, offsets, strict=True):
        rows = range(part * step, min(part * step + step, len(wheres)))
        found.append(rows.start + bisect_right([known[row] for row in rows], offset))
    return found


def _begins(document: HasParts, wheres: Sequence[Where]) -> list[int]:
    """Where some records begin; what cannot be found begins where the one before it does."""
    spans = document.spans(wheres)
    return list(itertools.accumulate((spans.get(where, (0, 0))[0] for where in wheres), max))


def rows_at(rows: ThingRows, path: str, document: HasParts, offsets: Sequence[int]) -> set[int]:
    """The things in whose records some offsets of a file are: of several the one that begins last."""
    last: list[tuple[int, int]] = [(-1, -1)] * len(offsets)
    for first, wheres in _of_file(rows, path).items():
        for number, count in enumerate(begun_by(document, wheres, offsets)):
            if count:
                (begin,) = _begins(document, [wheres[count - 1]])
                last[number] = max(last[number], (begin, first + count - 1))
    return {row for _, record in last if record >= 0 for row in np.flatnonzero(rows.sources == record)[-1:].tolist()}


def rows_between(rows: ThingRows, path: str, document: HasParts, spans: Sequence[tuple[int, int]]) -> list[list[int]]:
    """For each stretch of a file the things whose records begin in it."""
    offsets = [offset - 1 for span in spans for offset in span]
    found: list[list[int]] = [[] for _ in spans]
    for first, wheres in _of_file(rows, path).items():
        counts = begun_by(document, wheres, offsets)
        for number, (low, high) in enumerate(zip(counts[::2], counts[1::2], strict=True)):
            if low < high:
                mine = (rows.sources >= first + low) & (rows.sources < first + high)
                found[number] += np.flatnonzero(mine).tolist()
    return found


def _of_file(rows: ThingRows, path: str) -> Mapping[int, Sequence[Where]]:
    """The records of a file, by the number of the first one among those of all files."""
    firsts = itertools.accumulate((len(one) for one in rows.files), initial=0)
    return {
        first: one.table.wheres for first, one in zip(firsts, rows.files, strict=False) if one.path == path and len(one)
    }
