"""Places in nested blocks: the names after a block's word, the values of keys."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from typing import Any, NamedTuple

from msgspec.structs import replace

from hookset.learning.material import Sort
from hookset.learning.place import Form, Place
from hookset.learning.places.beside import variants
from hookset.learning.places.keyed import is_keyed, keyed_places
from hookset.learning.places.numbered import numbered
from hookset.learning.said import Said, joined

__all__ = ["block_places"]

_WORD = re.compile(r"[^/\[\]@*\s]+")
_KEY = re.compile(r"[^/\[\]@*]+")
_NTH = re.compile(r"(?:^|/)@[1-9]\d*$")
_NUMBER = re.compile(r"[-+]?[0-9.]+")
_MOST_VALUES = 6
_SEVERAL = 3
"""Blocks of different words that have a key, for it to mean the same in all of them."""
_MOST_WORDS = 400
"""Words that are ways; more than so many are names."""

_DEEPEST = 40
_WORDS = "@0"
"""What the keys of a block are themselves."""
_LAST = "@-1"
"""The last of a block's names."""
_EVERY = "@*"
"""Each of them: among what was found, those that are not looked at one by one."""
_FEW_NAMES, _MANY_NAMES = 4, 12
_ONCE = 1.25
"""How many of what is listed there may be, for each that is by itself, and for each different one."""
_SELDOM = 0.34
"""In how many of the blocks a name is at most, on the average."""

_Found = dict[tuple[str, str, int], Said]
"""By (way, key or `@N`, which of its values)"""


def block_places(sort: Sort) -> Iterator[Place]:
    """By the whole way to them, by the last two words of it where those are the same in several ways, and by the last
    one where several blocks have it."""
    if is_keyed(sort):
        yield from keyed_places(sort)
        return
    owners: dict[tuple[str, int], int] = {}
    found = _found(sort, owners)
    further = {way: said for (way, key, _), said in found.items() if key == _EVERY}
    found = {at: said for at, said in found.items() if at[1] != _EVERY}
    if len({way for way, _, _ in found}) > _MOST_WORDS:
        return
    everywhere = _everywhere(sort)
    last: dict[tuple[str, str, int], list[tuple[str, Said]]] = {}
    by_way: dict[str, list[Place]] = {}
    by_key: dict[tuple[str, int], list[Place]] = {}
    for (way, key, nth), said in found.items():
        last.setdefault((way.rpartition("/")[2], key, nth), []).append((way, said))
    for (word, key, nth), alike in last.items():
        for way, said in alike:
            place = _place(sort, f"{way}/{key}" if way else key, key, word, nth, said)
            by_way.setdefault(way, []).append(place)
            if not key.startswith("@"):
                by_key.setdefault((key, nth), []).append(place)
            yield place
        if len(alike) > 1:
            whole = everywhere.get((word, key, nth)) or joined([said for _, said in alike])
            yield _place(sort, f"**/{word}/{key}" if word else f"**/{key}", key, word, nth, whole)
    for (key, nth), parts in by_key.items():
        if len({part.around for part in parts}) >= _SEVERAL:
            whole = everywhere["", key, nth]
            yield replace(_place(sort, f"**/{key}", key, "", nth, whole), parts=tuple(parts), used=True)
    yield from _listed(sort, found)
    yield from _each_name(sort, by_way, further)
    for places in by_way.values():
        yield from variants(places, lambda path, where: owners.get((path, int(where)), -1))


def _each_name(sort: Sort, by_way: Mapping[str, Sequence[Place]], further: Mapping[str, Said]) -> Iterator[Place]:
    """All names of blocks that have several, one by one and in all blocks of a word."""
    by_word: dict[str, list[Place]] = {}
    for way, places in by_way.items():
        parts = [place for place in places if _NTH.search(str(place.asked["at"]))]
        if len(parts) < _SEVERAL or any(_of_numbers(part.said) for part in parts):
            continue
        word = way.rpartition("/")[2]
        said = joined([*(part.said for part in parts), *filter(None, (further.get(way),))])
        place = replace(
            _place(sort, f"{way}/{_EVERY}", _EVERY, word, 1, said), form="value", parts=tuple(parts), used=True
        )
        by_word.setdefault(word, []).append(place)
        yield place
    for word, alike in by_word.items():
        if len(alike) > 1:
            parts = [*alike, *(part for one in alike for part in one.parts)]
            whole = _place(sort, f"**/{word}/{_EVERY}", _EVERY, word, 1, joined([one.said for one in alike]))
            yield replace(whole, form="value", parts=tuple(parts), used=True)


def _everywhere(sort: Sort) -> _Found:
    """What keys are set to at any depth, by the word of the block around them, and by the key alone: below blocks
    without a word as well, to which no way leads."""
    found: _Found = {}
    for path, document in sort.documents.items():
        waiting = [("", entry) for entry in reversed(getattr(document, "entries", ()))]
        while waiting:
            around, entry = waiting.pop()
            word = entry.word.text
            if entry.key:
                for nth, token in enumerate(entry.values[:_MOST_VALUES], 1):
                    for at in {(around, word, nth), ("", word, nth)}:
                        found.setdefault(at, Said()).add(token.text, path, token.start)
            waiting += ((word, one) for one in reversed(entry.inside or ()))
    return found


def _listed(sort: Sort, found: _Found) -> Iterator[Place]:
    """All values of keys that have several."""
    by_key: dict[tuple[str, str], list[Said]] = {}
    for (way, key, _), said in found.items():
        if not key.startswith("@"):
            by_key.setdefault((way, key), []).append(said)
    for (way, key), parts in by_key.items():
        if len(parts) > 1 and not any(map(_of_numbers, parts)):
            yield _place(sort, f"{way}/{key}" if way else key, key, way.rpartition("/")[2], 0, joined(parts))


def _found(sort: Sort, owners: dict[tuple[str, int], int]) -> _Found:
    """What stands at words that are no names of things, and the words themselves where they are names."""
    found: _Found = {}
    held = _held(sort)
    walk = _Walk(held.ways, found, owners)
    for path, document in sort.documents.items():
        walk.through("", getattr(document, "entries", ()), path, 0)
    for way in [way for way, key, _ in found if key == _LAST and not _varies(way, found)]:
        del found[way, _LAST, 1]
    things = numbered({word for way, key, _ in found for word in (*way.split("/"), key)})
    plain = {at: said for at, said in found.items() if things.isdisjoint((*at[0].split("/"), at[1]))}
    return plain | {(way, _WORDS, 1): said for way, said in held.words.items() if held.may_be_names(way)}


def _of_numbers(said: Said) -> bool:
    """Whether most are numbers: how many there are of what another value names."""
    return sum(_NUMBER.fullmatch(text) is not None for text in said.texts) * 2 > len(said.texts)


def _varies(way: str, found: _Found) -> bool:
    """Whether some blocks have two names, and others one: the second one is what a variant is called then."""
    second = found.get((way, "@2", 1))
    return second is not None and (way, "@3", 1) not in found and len(second.texts) < len(found[way, "@1", 1].texts)


def _place(sort: Sort, at: str, key: str, word: str, nth: int, said: Said) -> Place:
    named = key.startswith("@")
    form: Form = "name" if named and key != _WORDS else "value"
    asked: dict[str, Any] = {"at": at} if nth == 1 else {"at": at, "arg": nth}
    return Place(sort, asked, form, word if named else key, "" if named else word, said)


class _Held(NamedTuple):
    """What stands in blocks, by the way to them."""

    words: dict[str, Said]
    """Keys of which nothing is known but what they are."""
    blocks: Counter[str]
    quoted: Counter[str]
    """How many of the keys are in quotes."""
    bare: Counter[str]
    """How many of them are set to nothing."""

    @property
    def ways(self) -> frozenset[str]:
        """The ways to blocks in which anything stands."""
        return frozenset(self.blocks)

    def may_be_names(self, way: str) -> bool:
        """Whether the keys in some blocks may be names: few of them are in many of the blocks, where words of a
        language are; or they are quoted; or many stand there by themselves, and hardly any is there again."""
        texts = self.words[way].texts
        names = len(set(texts))
        seldom = len(texts) < _SELDOM * self.blocks[way] * names
        listed = names >= _MANY_NAMES and _ONCE * self.bare[way] > len(texts) and _ONCE * names > len(texts)
        return names >= _FEW_NAMES and (seldom or 2 * self.quoted[way] > len(texts) or listed)


def _held(sort: Sort) -> _Held:
    held = _Held({}, Counter(), Counter(), Counter())
    for path, document in sort.documents.items():
        waiting = [("", entry) for entry in getattr(document, "entries", ())]
        while waiting:
            above, entry = waiting.pop()
            if not entry.inside or not _WORD.fullmatch(entry.word.text) or above.count("/") > _DEEPEST:
                continue
            way = _way(above, entry.word.text)
            held.blocks[way] += 1
            for one in entry.inside:
                if one.key and not one.inside:
                    held.words.setdefault(way, Said()).add(one.word.text, path, one.word.start)
                    held.quoted[way] += one.word.kind == "string"
                    held.bare[way] += not one.values
            waiting += ((way, one) for one in entry.inside)
    return held


class _Walk(NamedTuple):
    """Goes through blocks, and notes what stands where."""

    ways: frozenset[str]
    """To blocks in which anything stands. Without brackets, a line in which nothing stands is of the same sort."""
    found: _Found
    owners: dict[tuple[str, int], int]

    def through(self, way: str, entries: Sequence[Any], path: str, owner: int) -> None:
        """What stands in a block, and in those in it."""
        for entry in entries:
            inner = _way(way, entry.word.text)
            if entry.key and inner not in self.ways:
                if _WORD.fullmatch(entry.word.text) or _says_words(entry):
                    for nth, token in enumerate(entry.values[:_MOST_VALUES], 1):
                        self._note((way, entry.word.text, nth), token, path, owner)
            elif _WORD.fullmatch(entry.word.text):
                for nth, token in enumerate(entry.values[:_MOST_VALUES], 1):
                    self._note((inner, f"@{nth}", 1), token, path, entry.word.start)
                for token in entry.values[_MOST_VALUES:]:
                    self._note((inner, _EVERY, 1), token, path, entry.word.start)
                for token in entry.values[-1:]:
                    self._note((inner, _LAST, 1), token, path, entry.word.start)
                if inner.count("/") <= _DEEPEST:
                    self.through(inner, entry.inside or (), path, entry.word.start)

    def _note(self, at: tuple[str, str, int], token: Any, path: str, owner: int) -> None:
        self.owners[path, token.start] = owner
        self.found.setdefault(at, Said()).add(token.text, path, token.start)


def _says_words(entry: Any) -> bool:
    """Whether a key of several words says anything but how many: those that say that are names as a rule."""
    said = [token.text for token in entry.values[:1]]
    return _KEY.fullmatch(entry.word.text) is not None and not any(map(_NUMBER.fullmatch, said))


def _way(above: str, word: str) -> str:
    return f"{above}/{word}" if above else word
