"""Places in nested blocks: the names after a block's word, the values of keys."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import Any

from hookset.learning.material import Sort
from hookset.learning.place import Form, Place, Said, joined
from hookset.learning.places.beside import variants
from hookset.learning.places.numbered import numbered

__all__ = ["block_places"]

_WORD = re.compile(r"[^/\[\]@*\s]+")
_MOST_VALUES = 6
_MOST_WORDS = 400
"""Words that are ways; more than so many are names."""

_Found = dict[tuple[str, str, int], Said]
"""By (way, key or `@N`, which of its values)"""


def block_places(sort: Sort) -> Iterator[Place]:
    """By the whole way to them, and by the last two words of it where those are the same in several ways."""
    owners: dict[tuple[str, int], int] = {}
    found = _found(sort, owners)
    if len({way for way, _, _ in found}) > _MOST_WORDS:
        return
    last: dict[tuple[str, str, int], list[tuple[str, Said]]] = {}
    by_way: dict[str, list[Place]] = {}
    for (way, key, nth), said in found.items():
        last.setdefault((way.rpartition("/")[2], key, nth), []).append((way, said))
    for (word, key, nth), alike in last.items():
        for way, said in alike:
            place = _place(sort, f"{way}/{key}" if way else key, key, word, nth, said)
            by_way.setdefault(way, []).append(place)
            yield place
        if len(alike) > 1:
            whole = joined([said for _, said in alike])
            yield _place(sort, f"**/{word}/{key}" if word else f"**/{key}", key, word, nth, whole)
    listed: dict[tuple[str, str], list[Said]] = {}
    for (way, key, _), said in found.items():
        if not key.startswith("@"):
            listed.setdefault((way, key), []).append(said)
    for (way, key), parts in listed.items():
        if len(parts) > 1:
            yield _place(sort, f"{way}/{key}" if way else key, key, way.rpartition("/")[2], 0, joined(parts))
    for places in by_way.values():
        yield from variants(places, lambda path, where: owners.get((path, int(where)), -1))


def _found(sort: Sort, owners: dict[tuple[str, int], int]) -> _Found:
    """What stands at words that are no names of things."""
    found: _Found = {}
    for path, document in sort.documents.items():
        _walk("", getattr(document, "entries", ()), path, found, owners, 0)
    things = numbered({word for way, key, _ in found for word in (*way.split("/"), key)})
    return {at: said for at, said in found.items() if things.isdisjoint((*at[0].split("/"), at[1]))}


def _place(sort: Sort, at: str, key: str, word: str, nth: int, said: Said) -> Place:
    named = key.startswith("@")
    form: Form = "name" if named else "value"
    asked: dict[str, Any] = {"at": at} if nth == 1 else {"at": at, "arg": nth}
    return Place(sort, asked, form, word if named else key, "" if named else word, said)


def _walk(
    way: str,
    entries: Sequence[Any],
    path: str,
    found: _Found,
    owners: dict[tuple[str, int], int],
    owner: int,
) -> None:
    for entry in entries:
        name = entry.word.text
        if entry.inside is None:
            if _WORD.fullmatch(name):
                for nth, token in enumerate(entry.values[:_MOST_VALUES], 1):
                    owners[path, token.start] = owner
                    found.setdefault((way, name, nth), Said()).add(token.text, path, token.start)
            continue
        if not _WORD.fullmatch(name):
            continue
        inner = f"{way}/{name}" if way else name
        for nth, token in enumerate(entry.values[:_MOST_VALUES], 1):
            owners[path, token.start] = entry.word.start
            found.setdefault((inner, f"@{nth}", 1), Said()).add(token.text, path, token.start)
        if inner.count("/") < 40:
            _walk(inner, entry.inside, path, found, owners, entry.word.start)
