"""The elements of a file once others have been inserted: those of before, with the new ones among them.

To read a large file once more only to see the few elements that were set takes as long as to read it in the first
place. What is inserted is read by itself; that the whole is XML still is left to expat.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hookset.formats._xml.cut import CutElements, Names, Places, TagColumns, Values
from hookset.formats._xml.elements import DEEPEST, Elements
from hookset.formats._xml.scan import is_xml, scanned
from hookset.formats._xml.spans import ElementSpans
from hookset.formats.base import Edit
from hookset.trees import Text

__all__ = ["with_inserted"]

_MOST = 40
"""Places at which something is inserted: each moves all elements behind it."""
_NOT_PLAIN = re.compile(r"<[!?]|xmlns")
"""Comments and the like, and names that mean something else elsewhere."""
_BETWEEN = re.compile(r"(?s)(?:[^<]|</[^<>]*>|<!--.*?-->|<!\[CDATA\[.*?\]\]>|<\?.*?\?>)*")
"""What can stand between an element and the next one: texts, comments, and the ends of those around it."""
_CLOSING = re.compile(r"(?s)<!--.*?-->|<!\[CDATA\[.*?\]\]>|<\?.*?\?>|(?P<closing></)")
_AROUND = "<x>"
_FAR = 100_000
"""Characters between them at most."""


class _Spot(NamedTuple):
    before: int
    """The number of the element that the new ones come before."""
    parent: int
    byte: int


def with_inserted(
    before: Text, elements: Elements, spans: ElementSpans, after: Text, edits: Sequence[Edit]
) -> Elements | None:
    """The elements of `after`, which is `before` with some edits made. None where that is not plain to say: for what
    replaces anything, does not stand beside an element, or has names in namespaces."""
    if not isinstance(elements, CutElements) or len({edit.start for edit in edits}) < len(edits) or len(edits) > _MOST:
        return None
    if _NOT_PLAIN.search("".join(edit.text for edit in edits)):
        return None
    columns = elements.columns
    # From the last on: what comes before keeps its numbers.
    for edit in sorted(edits, key=lambda one: -one.start):
        spot = _spot(before, elements, spans, edit.start) if edit.start == edit.end else None
        new = scanned(Text(f"{_AROUND}{edit.text}</x>", "utf-8")) if spot is not None else None
        if spot is None or new is None or _depth(elements, spot.parent) + _deepest(new) >= DEEPEST:
            return None
        columns = _with(columns, spot, new.columns, len(edit.text.encode()))
    return CutElements.of(after, columns) if is_xml(after) else None


def _with(columns: TagColumns, spot: _Spot, new: TagColumns, size: int) -> TagColumns:
    """The columns with those of what is inserted among them, which stand in an element of their own so far."""
    at, moved = spot.before, spot.byte - len(_AROUND)
    count = len(new.starts) - 1
    parents = np.where(columns.parents >= at, columns.parents + count, columns.parents)
    outer = np.where(new.parents == 0, spot.parent, new.parents + at - 1)
    values, more = columns.values, new.values
    row = int(np.searchsorted(values.owners, at))
    return TagColumns(
        names=_names_with(columns.names, at, new.names, 1),
        starts=_joined(columns.starts[:at], new.starts[1:] + moved, columns.starts[at:] + size),
        parents=_joined(parents[:at], outer[1:], parents[at:]),
        values=Values(
            names=_names_with(values.names, row, more.names, 0),
            owners=_joined(values.owners[:row], more.owners + (at - 1), values.owners[row:] + count),
            starts=_joined(values.starts[:row], more.starts + moved, values.starts[row:] + size),
            ends=_joined(values.ends[:row], more.ends + moved, values.ends[row:] + size),
        ),
    )


def _names_with(names: Names, at: int, new: Names, skipped: int) -> Names:
    few = tuple(dict.fromkeys((*names.few, *new.few)))
    codes = np.array([few.index(name) for name in new.few], dtype=np.int32)[new.codes[skipped:]]
    return Names(_joined(names.codes[:at], codes, names.codes[at:]), few)


def _joined(*pieces: NDArray[np.integer]) -> Places:
    return np.concatenate(pieces).astype(np.int32)


def _spot(text: Text, elements: Elements, spans: ElementSpans, at: int) -> _Spot | None:
    """Between which elements a place is; None where it is in a tag, in a comment, or outside of all."""
    byte = text.byte_at(at)
    number = bisect_left(spans.starts, byte)
    if number < len(spans) and spans.starts[number] == byte:
        parent = elements.parents[number]
        return _Spot(number, parent, byte) if parent >= 0 else None
    if not 0 < number <= len(elements.tags):
        return None
    # The last one that begins before it ends there, or elements around that one do.
    end = spans[number - 1].end
    if end > at or at - end > _FAR or _BETWEEN.fullmatch(text.string, end, at) is None:
        return None
    inner = number - 1
    for found in _CLOSING.finditer(text.string, end, at):
        if found["closing"]:
            inner = elements.parents[inner] if inner >= 0 else -1
    parent = elements.parents[inner] if inner >= 0 else -1
    return _Spot(number, parent, byte) if parent >= 0 else None


def _depth(elements: Elements, number: int) -> int:
    """How many elements there are around what stands in one, that one with them."""
    depth = 0
    while number >= 0:
        number = elements.parents[number]
        depth += 1
    return depth


def _deepest(elements: Elements) -> int:
    """How many elements are in each other."""
    depths = [0]
    for parent in elements.parents[1:]:
        depths.append(depths[parent] + 1)
    return max(depths)
