"""Places in blocks that stand further in below their key, `Heron:` and below it `Image: heron`: such keys are now words
of the language, and now names."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from typing import Any, NamedTuple

from msgspec.structs import replace

from hookset.learning.material import Sort
from hookset.learning.place import Place
from hookset.learning.said import Said, joined

__all__ = ["is_keyed", "keyed_places"]

_FEW_NAMES, _ONCE = 4, 0.8
"""Different words of keys, for them to be names; and how many of all are different ones then."""
_ALIKE = 4
"""Words that differ by a number only are no words of a language where so many are one without it."""
_MOST_VALUES, _DEEPEST, _SEVERAL = 6, 12, 3
_NUMBER = re.compile(r"\d+")
_PLAIN = re.compile(r"[^/\[\]@*?\s]+")


class _Block(NamedTuple):
    path: str
    entries: Sequence[Any]


def is_keyed(sort: Sort) -> bool:
    """Whether files are written so."""
    return bool(sort.options.get("indented")) and bool(sort.options.get("assign"))


def keyed_places(sort: Sort) -> Iterator[Place]:
    """By the whole way, in which `*` stands for keys that are names; and by the key alone, where several blocks have
    it."""
    blocks = [_Block(path, getattr(document, "entries", ())) for path, document in sort.documents.items()]
    by_key: dict[tuple[str, int], list[Place]] = {}
    for place in _explored(sort, "", blocks):
        key, _, _ = str(place.asked.get("at", "")).rpartition("/")[2].partition("?")
        if "at" in place.asked and key != "*" and int(place.asked.get("arg", 1)):
            by_key.setdefault((key, int(place.asked.get("arg", 1))), []).append(place)
        yield place
    for (key, nth), parts in by_key.items():
        if len({str(part.asked["at"]) for part in parts}) >= _SEVERAL:
            whole = _value(sort, f"**/{key}", key, "", nth, joined([part.said for part in parts]))
            yield replace(whole, parts=tuple(parts), used=True)


def _explored(sort: Sort, way: str, blocks: Sequence[_Block]) -> Iterator[Place]:
    """All places in some blocks, which the same way leads to."""
    if way.count("/") > _DEEPEST:
        return
    around = next((step for step in reversed(way.split("/")) if step not in ("*", "")), "")
    words = Counter(entry.word.text for block in blocks for entry in block.entries if entry.inside)
    named = len(words) >= _FEW_NAMES and len(words) >= _ONCE * words.total()
    numbered = len(words) >= _ALIKE * max(1, len({_NUMBER.sub("#", word) for word in words}))
    if named:
        said = Said()
        for block in blocks:
            for entry in block.entries:
                said.add(entry.word.text, block.path, entry.word.start)
        yield Place(sort, {"keys": way}, "key", around, "", said)
    groups: dict[str, list[_Entry]] = {}
    for block in blocks:
        for entry in block.entries:
            step = "*" if named or (numbered and entry.word.text in words) else _step(entry.word.text)
            if step:
                groups.setdefault(step, []).append(_Entry(block.path, entry))
    for step, entries in groups.items():
        inner = f"{way}/{step}" if way else step
        yield from _values(sort, inner, around if step == "*" else step.partition("?")[0], around, entries)
        below = [_Block(one.path, one.entry.inside) for one in entries if one.entry.inside]
        if below:
            yield from _explored(sort, inner, below)


class _Entry(NamedTuple):
    path: str
    entry: Any


def _values(sort: Sort, at: str, word: str, around: str, entries: Sequence[_Entry]) -> Iterator[Place]:
    """What keys are set to: each value by itself, and all where there are several."""
    found: dict[int, Said] = {}
    for path, entry in entries:
        for nth, token in enumerate(entry.values[:_MOST_VALUES], 1):
            found.setdefault(nth, Said()).add(token.text, path, token.start)
    for nth, said in found.items():
        yield _value(sort, at, word, around, nth, said)
    if len(found) > 1:
        yield _value(sort, at, word, around, 0, joined(list(found.values())))


def _value(sort: Sort, at: str, word: str, around: str, nth: int, said: Said) -> Place:
    return Place(sort, {"at": at} if nth == 1 else {"at": at, "arg": nth}, "value", word, around, said)


def _step(word: str) -> str:
    """The step of a way for a key: `Armed@main` is one of those that begin so."""
    plain = word.partition("@")
    if _PLAIN.fullmatch(plain[0]) is None:
        return ""
    return f"{plain[0]}?*" if plain[1] else plain[0]
