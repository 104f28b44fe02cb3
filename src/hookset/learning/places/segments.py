"""Places where each text is several names with marks between them: `object:crane:rusty_crane:4` is an object of the
sort `crane` that looks like `rusty_crane`, and `raise | harbour | 3` is about the harbour. Each of them is looked at by
itself."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence

from msgspec.structs import replace

from hookset.learning.place import Place
from hookset.learning.said import Said

__all__ = ["segmented"]

_MARKS: Mapping[str, str] = {":": ":", "|": r"\s*\|\s*", ",": r"\s*,\s*", ";": r"\s*;\s*"}
"""What stands between names in a text, and the pattern for it."""
_BLANKS = r"\s*"
_LEAST = 3
"""Different texts that begin alike, at least, and different names that stand at one of their segments."""
_MOST_HEADS, _MOST_SEGMENTS = 4, 4
_SHARE = 0.02
"""Of the different texts at a place: how many must begin alike."""
_ALL = 0.9
"""Of some texts: how many must have a segment, for it to be looked at."""
_LONGEST = 200
_VARIANT = re.compile(r"[\w-]\(")


def segmented(place: Place) -> Iterator[Place]:
    """The segments of texts that begin alike, as places of their own, and those of all texts where all have some."""
    if place.form not in ("value", "call") or place.when or place.parts or place.asked.keys() & {"only", "split"}:
        return
    for mark, between in _MARKS.items():
        texts = [text for text in place.counts if mark in text and len(text) <= _LONGEST and _plain(text, mark)]
        if len(texts) >= _LEAST:
            yield from _with_mark(place, texts, mark, between)


def _plain(text: str, mark: str) -> bool:
    """Whether a text may be names with a mark between them. Those between colons and commas have no blanks: that is
    prose."""
    if mark in "|;":
        return True
    return not any(map(str.isspace, text if mark == ":" else text.replace(", ", ",")))


def _with_mark(place: Place, texts: Sequence[str], mark: str, between: str) -> Iterator[Place]:
    """The segments between the marks in some texts."""
    begins = re.compile(rf"([A-Za-z][\w-]*){between}(?=\S)")
    by_head: dict[str, list[str]] = {}
    for text in texts:
        if found := begins.match(text):
            by_head.setdefault(found[1], []).append(text)
    least = max(_LEAST, _SHARE * len(place.counts))
    heads = sorted((head for head, own in by_head.items() if len(own) >= least), key=lambda head: -len(by_head[head]))
    for head in heads[:_MOST_HEADS]:
        yield from _segments(place, by_head[head], (mark, between), f"{re.escape(head)}{between}", 1)
    if len(texts) >= _ALL * len(place.counts) and not 0 < len(heads) <= _MOST_HEADS:
        yield from _segments(place, texts, (mark, between), "", 0)


def _segments(place: Place, texts: Sequence[str], marked: tuple[str, str], head: str, first: int) -> Iterator[Place]:
    """The segments behind a head."""
    mark, between = marked
    # What stands in brackets behind a name is how it is meant to be.
    name = f"[^{mark}(]+" if any(map(_VARIANT.search, texts)) else f"[^{mark}]+"
    if mark != ":":
        name = rf"[^{mark}\s](?:[^{mark}]*[^{mark}\s])?"
    for segment in range(first, _MOST_SEGMENTS):
        # What stands before a mark has no such mark in it: no text is gone through twice.
        only = f"^{head}{f'[^{mark}]*{between.removeprefix(_BLANKS)}' * (segment - first)}(?P<value>{name})"
        pattern = re.compile(only)
        meant = {text: found["value"] for text in texts if (found := pattern.match(text))}
        if len(meant) < _ALL * len(texts):
            return
        names = {*meant.values()}
        if len(names) < _LEAST or (mark != ":" and 2 * sum(map(str.isdecimal, names)) > len(names)):
            # Numbers beside one another are mostly measures.
            continue
        said = Said()
        for text, path, where in zip(place.said.texts, place.said.paths, place.said.wheres, strict=True):
            if text in meant:
                said.add(meant[text], path, where)
        asked = {**place.asked, "only": only}
        yield replace(place, asked=asked, said=said, general=place, used=True, segment=segment + 1)
