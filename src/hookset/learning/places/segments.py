"""Places where each text is several names with colons between them: `object:crane:rusty_crane:4` is an object of the
sort `crane` that looks like `rusty_crane`. Each of them is looked at by itself."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from msgspec.structs import replace

from hookset.learning.place import Place, Said

__all__ = ["segmented"]

_HEAD = re.compile(r"([A-Za-z][\w-]*):\S")
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
    texts = [text for text in place.counts if ":" in text and len(text) <= _LONGEST and not any(map(str.isspace, text))]
    if len(texts) < _LEAST:
        return
    by_head: dict[str, list[str]] = {}
    for text in texts:
        if found := _HEAD.match(text):
            by_head.setdefault(found[1], []).append(text)
    least = max(_LEAST, _SHARE * len(place.counts))
    heads = sorted((head for head, own in by_head.items() if len(own) >= least), key=lambda head: -len(by_head[head]))
    for head in heads[:_MOST_HEADS]:
        yield from _segments(place, by_head[head], f"{re.escape(head)}:", 1)
    if len(texts) >= _ALL * len(place.counts) and not 0 < len(heads) <= _MOST_HEADS:
        yield from _segments(place, texts, "", 0)


def _segments(place: Place, texts: Sequence[str], head: str, first: int) -> Iterator[Place]:
    """The segments behind a head."""
    # What stands in brackets behind a name is how it is meant to be.
    name = "[^:(]+" if any(map(_VARIANT.search, texts)) else "[^:]+"
    for segment in range(first, _MOST_SEGMENTS):
        only = f"^{head}{'[^:]*:' * (segment - first)}(?P<value>{name})"
        pattern = re.compile(only)
        meant = {text: found["value"] for text in texts if (found := pattern.match(text))}
        if len(meant) < _ALL * len(texts):
            return
        if len({*meant.values()}) < _LEAST:
            continue
        said = Said()
        for text, path, where in zip(place.said.texts, place.said.paths, place.said.wheres, strict=True):
            if text in meant:
                said.add(meant[text], path, where)
        asked = {**place.asked, "only": only}
        yield replace(place, asked=asked, said=said, general=place, used=True, segment=segment + 1)
