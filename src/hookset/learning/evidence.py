"""How much it says that the texts at one place are names from another.

The question is that of a binomial test: if the different texts at a place were drawn at random, how likely is it that
so many are names? The chance of one text has two parts. One is how many texts of its shape are such names, among those
of the map and those that might as well have been written (additive smoothing, as of Lidstone 1920): `12` meets other
numbers easily, `fog_bell_toll` meets nothing by accident. The other is in how many other vocabularies the text is:
words that are everywhere say little (as inverse document frequency, Spärck Jones 1972).
"""

from __future__ import annotations

import functools
import math
import re
from collections import Counter
from collections.abc import Iterable, Mapping
from typing import Literal

from msgspec import Struct

__all__ = ["NUMBER", "Band", "Pool", "band_of", "shape_of", "tail"]

Band = Literal["sure", "likely", "weak"]

_SURE, _LIKELY = -6.0, -3.0
"""Logarithms (base 10) of the chance that so many texts are names by accident."""
_SURE_SHARE, _LIKELY_SHARE = 0.9, 0.75
"""Of the texts at a place: how many must be names."""
_PLAINLY, _LEAST_SHARE = -10.0, 0.66
"""The same where nearly all places fit."""
_OFTEN_ENOUGH, _HALF = 0.9, 0.5
"""The same for files that are spelled out, where they are there in nearly all places."""
_NO_ACCIDENT = -50.0
"""The same for files that are spelled out, if no more than that speaks for it."""
_MISTAKEN = 0.02
"""Of the places of a sure rule: in how many there may be mistakes, and one more."""
_ENOUGH_FOR_ONE = 6
"""Different names beside which one text that is none is no more than a mistake."""
_SURE_NAMES = 3
"""Different names that a sure rule rests on at least."""
NUMBER = re.compile(r"[+-]?\d+(?:\.\d+)?")
_HUMP = re.compile(r"[a-z][A-Z]")
_IN_NAMES = frozenset("_-.:")
_LONGEST = 200


@functools.lru_cache(maxsize=1 << 18)
def shape_of(text: str) -> str:
    """What a text looks like: number, path, dotted, joined, humped, word, or else prose."""
    if len(text) > _LONGEST or not text or any(character.isspace() or character in '"<>|' for character in text):
        return "prose"
    if NUMBER.fullmatch(text):
        return "number"
    if "/" in text or "\\" in text:
        return "path"
    if not all(character.isalnum() or character in _IN_NAMES for character in text):
        return "prose"
    if "." in text or ":" in text:
        return "dotted"
    if "_" in text or "-" in text:
        return "joined"
    return "humped" if _HUMP.search(text) else "word"


_NUMBERS = 0.35
"""The least chance of a number: they are everywhere."""
_OTHERS = 10.0
"""Vocabularies that there might as well be: where there are few, that a text is in one of them says little."""
_UNWRITTEN = {"number": 0, "word": 150, "prose": 300}
"""Texts of a shape that might as well have been written, beside those that were; of the others 600."""


class Pool(Struct, frozen=True):
    """All different texts of a map, by their shapes."""

    sizes: Mapping[str, int]
    vocabularies: int
    """How many vocabularies there are."""

    @classmethod
    def of(cls, texts: Iterable[str], vocabularies: int) -> Pool:
        """The pool of these; each text counts once."""
        return cls(Counter(map(shape_of, set(texts))), vocabularies)

    def chance(self, shapes: Mapping[str, int], elsewhere: float, names: Mapping[str, int], density: float) -> float:
        """How likely one of some texts is a name by accident, on the average. `shapes` says how many of them have each
        shape, `elsewhere` in how many other vocabularies one is on the average, `names` how many names of each shape
        there are, `density` which share of the whole numbers between the least and the greatest name are names."""
        whole = sum(shapes.values())
        if not whole:
            return 1.0
        found = elsewhere / (self.vocabularies + _OTHERS)
        for shape, often in shapes.items():
            unwritten = _UNWRITTEN.get(shape, 600)
            among = (names.get(shape, 0) + 0.5) / (self.sizes.get(shape, 0) + unwritten + 1.0)
            if shape == "number":
                among = max(among, _NUMBERS, density)
            found += often / whole * min(0.95, among)
        return min(0.95, found)


def tail(hits: int, texts: int, chance: float) -> float:
    """The logarithm (base 10) of how likely at least so many hits are, of so many texts: never less than it is (the
    bound of Chernoff 1952, by relative entropy)."""
    share = hits / texts if texts else 0.0
    if share <= chance:
        return 0.0
    found = share * math.log10(share / chance)
    if share < 1:
        found += (1 - share) * math.log10((1 - share) / (1 - chance))
    return -texts * found


def band_of(chance: float, share: float, names: int, misfits: int, places: int, spelled: bool = False) -> Band:
    """How sure a rule is: by the logarithm of its chance, the share of the texts that it explains, its names, and in
    how many of its places something does not fit. A mistake is rare: where many do not fit, the names may as well be
    defined by what is not at hand. A file that is `spelled` out says more than a word: one is enough to be likely."""
    rare = misfits <= 1 + _MISTAKEN * places
    explains = (share >= _SURE_SHARE and rare) or (misfits == 1 and names >= _ENOUGH_FOR_ONE)
    # To a tenth: how many other texts a map has makes as much of a difference.
    if round(chance, 1) <= _SURE and explains and names >= _SURE_NAMES:
        return "sure"
    enough = names > 1 or spelled
    often = 1 - misfits / places if places else 0.0
    # What fits nearly everywhere may be written in many ways where it does not; dozens of files are no accident.
    plainly = chance <= _PLAINLY and often >= _LIKELY_SHARE
    most = share >= _LIKELY_SHARE or (share >= _LEAST_SHARE and (plainly or (spelled and chance <= _NO_ACCIDENT)))
    # One file that is not as the others are may name all of its files differently.
    most = most or (spelled and plainly and often >= _OFTEN_ENOUGH and share >= _HALF)
    return "likely" if chance <= _LIKELY and most and enough else "weak"
