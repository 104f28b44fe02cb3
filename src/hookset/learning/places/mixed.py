"""Places where names stand among other texts: those that begin alike are looked at by themselves, `BUILDING.mill` among
what people read, `make=plank` among other orders."""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec.structs import replace

from hookset.learning.place import Place
from hookset.learning.said import Said

__all__ = ["parted_by_heads"]

_HEAD = re.compile(r"(?P<head>[A-Za-z][A-Za-z0-9]{1,23}(?P<mark>[.:=/_-]))(?=[A-Za-z0-9_])\S*")
_ORDER = "="
"""What stands between an order and the name that it is about."""
_LEAST = 3
"""Different texts that begin alike, at least."""
_SHARE = 0.02
"""Of the different texts at a place: how many must begin alike."""
_MOST = 8
"""Heads that are looked at in one place."""
_ALL = 0.97
"""Of the different texts at a place: where so many begin alike, the place is not mixed."""


def parted_by_heads(place: Place) -> Iterator[Place]:
    """The texts with each head, as places of their own; none for a place where all or none begin alike."""
    if place.form not in ("value", "call") or place.when or place.parts or place.asked.keys() & {"only", "split"}:
        return
    by_head: dict[str, list[str]] = {}
    for text in place.counts:
        found = _HEAD.fullmatch(text) if len(text) <= 200 else None
        if found is not None:
            by_head.setdefault(found["head"], []).append(text)
    least = max(_LEAST, _SHARE * len(place.counts))
    heads = [head for head, texts in by_head.items() if least <= len(texts) < _ALL * len(place.counts)]
    heads.sort(key=lambda head: -len(by_head[head]))
    for head in heads[:_MOST]:
        order = head.endswith(_ORDER)
        meant, said = frozenset(by_head[head]), Said()
        for text, path, where in zip(place.said.texts, place.said.paths, place.said.wheres, strict=True):
            if text in meant:
                said.add(text.removeprefix(head) if order else text, path, where)
        only = rf"^{re.escape(head)}(?P<value>\S+)$" if order else rf"^{re.escape(head)}\S+$"
        word = head[:-1] if order else place.word
        yield replace(place, asked={**place.asked, "only": only}, word=word, said=said, general=place, used=True)
