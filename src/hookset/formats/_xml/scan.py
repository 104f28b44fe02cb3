"""The elements of a large file, found in its bytes by looking at all of them at once.

A parser calls Python for each element, and each of its attributes becomes an object, whether anybody asks for it or
not. Here expat says whether the file is XML, and is asked for no more than that; where tags and values stand is
worked out column by column, and a text is cut out when a rule asks for it. XML 1.0 makes that sure: once comments,
CDATA and instructions are blanked, there is no `<` but at the beginning of a tag (2.4, 3.1).
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import NamedTuple
from xml.parsers import expat

import numpy as np
from numpy.typing import NDArray

from hookset.formats._xml.cut import CutElements, Names, Places, TagColumns, Values, places_where
from hookset.formats._xml.elements import DEEPEST, is_of_another_kind
from hookset.trees import Text

__all__ = ["is_xml", "scanned"]

Bytes = NDArray[np.uint8]

_LARGEST = 1 << 31
"""Bytes that have a number of 32 bits."""
_NAMESPACES = (b"xmlns", b"xml:")
"""Names that mean something else elsewhere."""
_NO_TAGS = re.compile(rb"(?s)<(?:!--.*?--|!\[CDATA\[.*?\]\]|\?.*?\?)>")
_MOST_STEPS = 1000
"""What is gone through one by one, for all tags at once: names and blanks are shorter."""
_LESS, _GREATER, _SLASH, _EQUALS = b"<>/="
_DOUBLE, _SINGLE = b"\"'"
_WIDE = 8
"""Bytes of a name that are compared at once, as one number."""
_KEPT = np.array([(1 << 8 * width) - 1 for width in range(_WIDE + 1)], dtype=np.uint64)
_AT_ONCE = 1 << 20
"""Names that are looked at together: for more, what is worked out in between takes more memory than the file."""
_FEW_NAMES = 256
"""Names that have a number of one byte."""
_TABLE = 16
"""Bits of a table's numbers."""
_MIXED = np.uint64(0x9E3779B97F4A7C15)
"""Spreads numbers over a table: 2 to the 64th over the golden ratio (Knuth, The Art of Computer Programming, 6.4)."""
_BLANK = np.zeros(256, dtype=np.bool_)
_BLANK[list(b"\t\n\r ")] = True
_ENDS_NAME = _BLANK.copy()
_ENDS_NAME[list(b"/>")] = True


class _ForTheOther(Exception):  # noqa: N818
    """There is something in the file that a parser must look at."""


class _Tags(NamedTuple):
    """All start tags."""

    starts: Places
    name_ends: Places
    ends: Places
    """Where the `>` of each stands."""


class _Quoted(NamedTuple):
    """All values in quotes."""

    owners: Places
    """The number of the tag that has each."""
    opening: Places
    closing: Places


def scanned(text: Text) -> CutElements | None:
    """The elements of a file; None for what is not XML, has names in namespaces, or is more than a scan can tell."""
    if len(text.utf8) >= _LARGEST or is_of_another_kind(text) or any(mark in text.utf8 for mark in _NAMESPACES):
        return None
    if not is_xml(text):
        return None
    try:
        columns = _scan(text.utf8)
        return CutElements.of(text.without_bytes(), columns)
    except _ForTheOther:
        return None


def is_xml(text: Text) -> bool:
    """Whether the file is XML: expat says so, and makes nothing of it."""
    parser = expat.ParserCreate("utf-8", "}")
    try:
        parser.Parse(text.utf8, True)
    except expat.ExpatError:
        return False
    return True


def _scan(utf8: bytes) -> TagColumns:
    data = np.frombuffer(_without_other_markup(utf8), dtype=np.uint8)
    every = places_where(data, lambda piece: piece == _LESS)
    closing = data[every + 1] == _SLASH
    starts = every[~closing]
    tags, quoted = _tags(data, starts)
    steps = np.where(closing, -1, 1).astype(np.int32)
    single = data[tags.ends - 1] == _SLASH
    steps[np.flatnonzero(~closing)[single]] = 0
    # An element that is closed later has been counted as one of those around it.
    depths = np.cumsum(steps, dtype=np.int32)[~closing] - ~single
    return TagColumns(
        names=_names(data, starts + 1, tags.name_ends),
        starts=starts,
        parents=_parents(depths),
        values=Values(_value_names(data, tags, quoted), quoted.owners, quoted.opening + 1, quoted.closing),
    )


def _without_other_markup(data: bytes) -> bytearray:
    """The bytes with blanks where comments, CDATA and instructions stand, and some behind the last."""
    blanked = bytearray(len(data) + _WIDE)
    blanked[: len(data)] = data
    blanked[len(data) :] = b" " * _WIDE
    # Most have an instruction at their beginning, and nothing else of the kind: then the rest need not be searched.
    others = b"<!" in data or data.find(b"<?", 2) >= 0
    for match in _NO_TAGS.finditer(data) if others else filter(None, (_NO_TAGS.match(data),)):
        blanked[match.start() : match.end()] = b" " * (match.end() - match.start())
    return blanked


def _tags(data: Bytes, starts: Places) -> tuple[_Tags, _Quoted]:
    """Raises _ForTheOther for a file in which some values are in double quotes, and others in single ones."""
    name_ends = _after(data, starts + 1, lambda found: ~_ENDS_NAME[found], 1)
    greater = places_where(data, lambda piece: piece == _GREATER)
    double = places_where(data, lambda piece: piece == _DOUBLE)
    single = places_where(data, lambda piece: piece == _SINGLE)
    for marks, others in ((double, single), (single, double)):
        ended = _tag_ends(starts, greater, marks)
        if ended is None:
            continue
        ends, counts = ended
        if not _delimits(others, starts, ends, marks):
            owners = np.repeat(np.arange(len(starts), dtype=np.int32), counts // 2)
            inside = marks if int(counts.sum()) == len(marks) else marks[_inside(starts, ends, marks)]
            return _Tags(starts, name_ends, ends), _Quoted(owners, inside[0::2], inside[1::2])
    raise _ForTheOther


def _tag_ends(starts: Places, greater: Places, marks: Places) -> tuple[Places, Places] | None:
    """Of each start tag where it ends, and how many quotes stand in it: a `>` behind an odd number of them is part of
    a value (XML 1.0, 2.4). None where that does not come out even."""
    first = np.searchsorted(marks, starts)
    at = np.searchsorted(greater, starts)
    ends = greater[at]
    counts = np.searchsorted(marks, ends) - first
    odd = np.flatnonzero(counts % 2)
    for _ in range(_MOST_STEPS):
        if not len(odd):
            return ends, counts.astype(np.int32)
        at[odd] += 1
        if at[odd[-1]] >= len(greater):
            break
        ends[odd] = greater[at[odd]]
        counts[odd] = np.searchsorted(marks, ends[odd]) - first[odd]
        odd = odd[counts[odd] % 2 == 1]
    return None


def _delimits(others: Places, starts: Places, ends: Places, marks: Places) -> bool:
    """Whether quotes of the other kind begin or end a value: one that does not stands in a value itself, behind an odd
    number of quotes of the first kind."""
    others = others[_inside(starts, ends, others)]
    tags = np.searchsorted(starts, others, side="right") - 1
    return bool(((np.searchsorted(marks, others) - np.searchsorted(marks, starts[tags])) % 2 == 0).any())


def _inside(starts: Places, ends: Places, places: Places) -> NDArray[np.bool_]:
    """Which places are in a tag."""
    tags = np.searchsorted(starts, places, side="right") - 1
    return (tags >= 0) & (places < ends[tags])


def _value_names(data: Bytes, tags: _Tags, quoted: _Quoted) -> Names:
    """What each value is called: a name, `=`, and the value, with blanks between them or none (XML 1.0, 3.1)."""
    owners, opening, closing = quoted
    begins = np.empty(len(owners), dtype=np.int32)
    begins[1:] = closing[:-1] + 1
    first = np.ones(len(owners), dtype=np.bool_)
    first[1:] = owners[1:] != owners[:-1]
    begins[first] = tags.name_ends[owners[first]]
    for at in range(0, len(begins), _AT_ONCE):
        piece = slice(at, at + _AT_ONCE)
        begins[piece] = _after(data, begins[piece], _BLANK.__getitem__, 1)
    return _names(data, begins, opening, _end_of_name)


def _end_of_name(data: Bytes, opening: Places) -> Places:
    """Where names end behind which `=` and a value stand."""
    equals = _after(data, opening - 1, _BLANK.__getitem__, -1)
    if (data[equals] != _EQUALS).any():
        raise _ForTheOther
    return _after(data, equals - 1, _BLANK.__getitem__, -1) + 1


def _after(data: Bytes, places: Places, passes: Callable[[Bytes], NDArray[np.bool_]], step: int) -> Places:
    """Each place moved past the bytes that are let through."""
    found = places.astype(np.int32)
    moving = np.flatnonzero(passes(data[found]))
    for _ in range(_MOST_STEPS):
        if not len(moving):
            return found
        found[moving] += step
        moving = moving[passes(data[found[moving]])]
    raise _ForTheOther


def _names(data: Bytes, starts: Places, ends: Places, ended: Callable[[Bytes, Places], Places] | None = None) -> Names:
    """Which of a few names stands between places; the names end there, or where `ended` says of them."""
    codes: NDArray[np.integer] = np.zeros(len(starts), dtype=np.uint8)
    known: dict[str, int] = {}
    for at in range(0, len(starts), _AT_ONCE):
        piece = slice(at, at + _AT_ONCE)
        found = _names_together(data, starts[piece], ends[piece] if ended is None else ended(data, ends[piece]))
        numbers = np.array([known.setdefault(name, len(known)) for name in found.few], dtype=np.int32)
        if len(known) > _FEW_NAMES and codes.dtype == np.uint8:
            codes = codes.astype(np.int32)
        codes[piece] = numbers[found.codes]
    return Names(codes, tuple(known))


def _names_together(data: Bytes, starts: Places, ends: Places) -> Names:
    """The same of some names, at least one."""
    # Each eight bytes of the file as one number: names are as different as the numbers of their bytes.
    windows = np.ndarray((len(data) - _WIDE + 1,), dtype="<u8", buffer=data, strides=(1,))
    lengths = ends - starts
    if int(lengths.max()) > _MOST_STEPS:
        raise _ForTheOther
    codes = _numbered(windows[starts] & _KEPT[np.minimum(lengths, _WIDE)])
    for begin in range(_WIDE, int(lengths.max()), _WIDE):
        longer = np.flatnonzero(lengths > begin)
        more = _numbered(windows[starts[longer] + begin] & _KEPT[np.minimum(lengths[longer] - begin, _WIDE)])
        codes[longer] += (int(codes.max()) + 1) * (more + 1)
        codes = _numbered(codes.astype(np.uint64))
    few = np.zeros(int(codes.max()) + 1, dtype=np.int64)
    few[codes] = np.arange(len(codes))
    cut = ((int(starts[row]), int(ends[row])) for row in few)
    return Names(codes.astype(np.int32), tuple(data[start:end].tobytes().decode() for start, end in cut))


def _numbered(words: NDArray[np.uint64]) -> NDArray[np.int64]:
    """Numbers from 0 on in place of others, the same for the same ones. They are few: a table holds them, and where two
    fall on one place in it, they are sorted."""
    places = ((words * _MIXED) >> np.uint64(64 - _TABLE)).astype(np.int64)
    last = np.zeros(1 << _TABLE, dtype=np.int64)
    last[places] = np.arange(len(words))
    if (words[last[places]] != words).any():
        return np.unique(words, return_inverse=True)[1].astype(np.int64)
    used = np.zeros(1 << _TABLE, dtype=np.int64)
    used[places] = 1
    numbers: NDArray[np.int64] = (np.cumsum(used) - 1)[places]
    return numbers


def _parents(depths: NDArray[np.int32]) -> Places:
    """For each element the last one before it that is one level further out."""
    if int(depths.max()) + 2 > DEEPEST:
        raise _ForTheOther
    parents = np.full(len(depths), -1, dtype=np.int32)
    outer = np.flatnonzero(depths == 0)
    for depth in range(1, int(depths.max()) + 1):
        inner = np.flatnonzero(depths == depth)
        parents[inner] = outer[np.searchsorted(outer, inner) - 1]
        outer = inner
    return parents
