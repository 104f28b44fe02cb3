"""What a map may define: places whose texts are names, each there once."""

from __future__ import annotations

import math
import posixpath
import re
from collections import Counter
from collections.abc import Mapping, Sequence
from functools import cached_property

from msgspec import Struct

from hookset.learning.evidence import shape_of
from hookset.learning.languages import languages_of
from hookset.learning.place import Place

__all__ = ["NAMING", "SETS", "Vocabulary", "vocabularies"]

_ONCE = 0.95
"""Of the texts of one file: how many must be there once."""
_OVERALL = 0.8
_OWN_ONCE = 0.75
"""The same where a file is made of parts, each with names of its own."""
_BLOCKS = 40
"""Different names of blocks, of which a few may be those of blocks that go on elsewhere."""
_VARIED = 0.7
"""Of the names of files that are called alike."""
_LEAST = 2
_ORDERS, _LONGEST = 4, 60
"""Lists of the same names that there are at least, before they are several orders of those, and how long they are."""
_PAIRS = 7
"""Pairs of the same text that a choice by chance must be expected to have, before it is no chance that it has none:
that happens once in e to the power of so many times."""
_FILES = 3
"""Files that each have names of their own."""
_MOST_WORDS = 4
_MOST_ALIKE, _LEAST_ALIKE = 6, 4
"""Files that say the same names, and names that they say."""
_OWN = 0.4
"""Of the names in files that are called alike: how many are different ones."""
NAMING = frozenset(("id", "key", "name", "alias", "uid", "ident", "identifier", "tag", "code", "handle", "label"))
"""What the value is called, in many formats, that is what others call a record by."""
_OWN_NAME = re.compile(r"(\w{3,}?)_?(?:id|key|name)")
"""The same with what the record is."""


_USES = re.compile(
    r"(?:unset|requires?|needs?|removes?|clears?|deletes?|has|if|not|without|unless|depends?|checks?)(?=$|[_.:\-A-Z])"
)
"""What a key begins with that asks for something, or takes it away: nothing is defined there."""
SETS = re.compile(
    r"(?:[Ss]ets?|[Gg]ives?|[Aa]dds?|[Dd]efines?|[Dd]eclares?|[Rr]egisters?|[Cc]reates?|[Nn]ew|[Mm]akes?)(?=[_.:\-A-Z])"
)
"""What a key begins with that makes something."""
_SET, _SET_OFTEN = 5, 0.3
"""Different texts at least where things are set, and how often each is there at most, on the average."""
_MADE_UP = frozenset(("joined", "humped", "dotted"))
"""Shapes of names that somebody has made up: others may be values."""


class Vocabulary(Struct, frozen=True, eq=False, dict=True):
    """The names at a place."""

    place: Place
    names: Mapping[str, int]
    outside: bool = False
    """Whether it is not the map that defines them."""
    beyond: frozenset[str] = frozenset()
    """Those among them that only the base game defines, at the same place of its files."""
    kind: str = ""
    """The kind of a layout at hand whose names these are."""
    own: bool = False
    """Whether each file has its own, which only that file means."""
    anywhere: bool = False
    """Whether they are what files are called in many folders: looked up where nothing else explains texts."""

    @cached_property
    def shapes(self) -> Mapping[str, int]:
        """How many names have each shape."""
        return Counter(map(shape_of, self.names))

    @cached_property
    def counted(self) -> bool:
        """Whether its names are numbers that stand for things."""
        return self.numbers and self.density < 0.8

    @cached_property
    def numbers(self) -> bool:
        """Whether its names are numbers that something has been given as its name."""
        return sum(map(str.isdecimal, self.names)) * 2 > len(self.names) and self.likeness > 0

    @cached_property
    def density(self) -> float:
        """Which share of the whole numbers between the least and the greatest of its names are names."""
        numbers = [int(name) for name in self.names if name.isdecimal() and len(name) < 12]
        return len(numbers) / (max(numbers) - min(numbers) + 1) if numbers else 0.0

    @cached_property
    def of_texts(self) -> bool:
        """Whether its names are the keys of texts for people, in files that hold no more than that."""
        return self.place.form == "key" and self.place.sort.format == "text"

    @cached_property
    def by_file(self) -> frozenset[tuple[str, str]]:
        """Path and name, of each."""
        return frozenset(zip(self.place.said.paths, self.place.said.texts, strict=True))

    @cached_property
    def likeness(self) -> int:
        """How much the place looks like one of definitions."""
        naming = self.place.form == "value" and _naming(self.place)
        thing = self.place.form == "thing"
        # What a call makes is called so in what the call is given.
        made = naming and "call" in self.place.asked and SETS.match(self.place.around) is not None
        # What is said once in each language is said there for all that ask for it.
        translated = 2 * (self.place.form in ("value", "call") and not self.place.used and _by_language(self.place))
        return (
            2 * (self.place.form in ("key", "name", "function", "module"))
            + 2 * (naming + made)
            + 4 * thing
            + translated
        )


def vocabularies(
    places: Sequence[Place], outside: bool = False, elsewhere: Mapping[Place, frozenset[str]] | None = None
) -> list[Vocabulary]:
    """The places that may define something; `elsewhere` is what the base game says at the same ones."""
    found: list[Vocabulary] = []
    orders, named = _orders(places), _named_blocks(places)
    for place in places:
        if place in orders:
            continue
        if not _of_names(place, (id(place.sort), place.around) in named):
            if not outside and _of_own_names(place):
                found.append(Vocabulary(place, place.counts, own=True))
            continue
        beyond = (elsewhere or {}).get(place, frozenset()) - place.counts.keys()
        names = {**place.counts, **dict.fromkeys(sorted(beyond), 1)} if beyond else place.counts
        found.append(Vocabulary(place, names, outside, beyond))
    return found


def _orders(places: Sequence[Place]) -> frozenset[Place]:
    """Lists that are the same names in several orders: none of them defines those."""
    alike: dict[tuple[int, frozenset[str]], list[Place]] = {}
    for place in places:
        listed = place.form == "value" and str(place.asked.get("field", place.asked.get("at", ""))).endswith("*")
        if listed and _LEAST < len(place.counts) == len(place.said.texts) <= _LONGEST:
            alike.setdefault((id(place.sort), frozenset(place.counts)), []).append(place)
    return frozenset(place for same in alike.values() if len(same) >= _ORDERS for place in same)


def _named_blocks(places: Sequence[Place]) -> frozenset[tuple[int, str]]:
    """Words of blocks that each have a name behind them, with their sort: what a key in them calls them as well is for
    people."""
    names = (
        place for place in places if place.form == "name" and len(place.counts) >= _OVERALL * len(place.said.texts)
    )
    return frozenset((id(place.sort), place.word) for place in names)


def _of_names(place: Place, titled: bool) -> bool:
    counts = place.counts
    if len(counts) < _LEAST or place.parts or place.used or _USES.match(place.word):
        return False
    total = len(place.said.texts)
    if SETS.match(place.word) and len(counts) >= _SET and len(counts) >= _SET_OFTEN * total:
        # What is set may be set again.
        return sum(shape_of(text) in _MADE_UP for text in counts) >= _OVERALL * len(counts)
    once = len(set(zip(place.said.paths, place.said.texts, strict=True))) / total
    again = len(counts) < _OVERALL * total
    if _continued(place):
        again, once = False, 1.0
    if once < _ONCE or (
        again and not (_by_language(place) or _in_each(place) or _in_variants(place) or _by_file(place))
    ):
        return False
    if _once_by_accident(place) and not _in_variants(place):
        # Where all together are used again and again, a few of them are there once by accident.
        return False
    called = place.form == "name" or (place.form == "value" and _naming(place) and not titled)
    unnamed = sum(len(text) == 1 or (shape_of(text) == "prose" and not (called and _short(text))) for text in counts)
    return unnamed * 2 < len(counts)


def _continued(place: Place) -> bool:
    """Whether the names are those of blocks that go on elsewhere: most are there once, and a few again and again."""
    single = sum(often == 1 for often in place.counts.values())
    return place.form == "name" and len(place.counts) >= _BLOCKS and single >= _OWN_ONCE * len(place.counts)


def _once_by_accident(place: Place) -> bool:
    """Whether the texts of a place are used again and again in the whole of which it is a part, and are no names of
    records there, or a choice of so many of those would perhaps have none twice: fewer than `_PAIRS` are expected."""
    general, total = place.general, len(place.said.texts)
    if general is None or 10 * len(general.counts) >= 6 * len(general.said.texts):
        return False
    if len(place.counts) < total or not _naming(place):
        return True
    pairs = sum(often * (often - 1) for often in general.counts.values()) / 2
    whole, different = len(general.said.texts), len(general.counts)
    # How many of all choices have none twice, at most: by Maclaurin's inequality of symmetric means.
    choices = _choices(different, total) + total * math.log(whole / different) - _choices(whole, total)
    return min(-pairs * (total / whole) ** 2, choices) > -_PAIRS


def _choices(many: int, few: int) -> float:
    """The natural logarithm of how many ways there are to choose so few of so many."""
    return math.lgamma(many + 1) - math.lgamma(few + 1) - math.lgamma(many - few + 1)


def _naming(place: Place) -> bool:
    """Whether the value is called what others call a record by: `id`, or `mission_id` in a list of missions."""
    word = place.word.lower()
    own = _OWN_NAME.fullmatch(word)
    around = f"{place.around} {place.asked.get('call', '')}".lower()
    return word in NAMING or (own is not None and own[1] in around)


def _short(text: str) -> bool:
    """Whether a text of several words may be a name all the same: `Fog Bell`, `Fog Bell (old)`."""
    return len(text.split()) <= _MOST_WORDS and (text[-1:].isalnum() or text.endswith((")", "]")))


def _of_own_names(place: Place) -> bool:
    """Whether files each name what is in them, and several use the same names: the skills of each unit."""
    named = {place.word.lower(), place.around.lower()} & NAMING or _OWN_NAME.fullmatch(place.word.lower())
    if not named or place.form != "value" or place.parts or place.used or place.when or place.general is not None:
        return False
    pairs = set(zip(place.said.paths, place.said.texts, strict=True))
    by_file = Counter(path for path, _ in pairs)
    once = len(pairs) / len(place.said.texts)
    others = sum(text.isdecimal() or shape_of(text) == "prose" for text in place.counts)
    if len(by_file) >= _FILES and len(pairs) >= _LEAST * len(by_file) and once >= _ONCE and not others:
        return True
    # Many files have the same names for what is in them: `main`, and some of them others.
    several = sum(often >= _LEAST for often in by_file.values())
    again = 2 * len(place.counts) <= len(pairs)
    return again and several >= _FILES and once >= _OWN_ONCE and 5 * others <= len(place.counts)


def _by_language(place: Place) -> bool:
    """Whether its files are the same once more in each language, and so are most of the texts that are no numbers."""
    numbers = 2 * sum(map(str.isdecimal, place.counts)) > len(place.counts)
    if numbers or len(place.counts) >= _OVERALL * len(place.said.texts):
        return False
    return len(languages_of(place.said.paths.different)) > 1


def _in_each(place: Place) -> bool:
    """Whether a few files each call nearly all by name that any of them does: those of several games in one map."""
    by_path: dict[str, set[str]] = {}
    for text, path in zip(place.said.texts, place.said.paths, strict=True):
        by_path.setdefault(path, set()).add(text)
    named = place.form == "value" and place.word.lower() in NAMING
    alike = all(len(texts) >= _OVERALL * len(place.counts) for texts in by_path.values())
    return named and alike and len(by_path) <= _MOST_ALIKE and len(place.counts) >= _LEAST_ALIKE


def _by_file(place: Place) -> bool:
    """Whether all files are called alike, and each calls by name what it holds, as those of several levels do: what is
    there in two of them is another thing of that name."""
    called = {posixpath.basename(path) for path in place.said.paths}
    named = place.form == "key" or (place.form == "value" and place.word.lower() in NAMING)
    return named and len(called) == 1 and len(place.counts) >= max(_LEAST_ALIKE, _OWN * len(place.said.texts))


def _in_variants(place: Place) -> bool:
    """Whether folders hold files that are called alike, as those of several games or difficulties do, and what each of
    those names is much the same: then each has what is in it once."""
    if place.form not in ("name", "key") and place.word.lower() not in NAMING:
        return False
    pairs = {(posixpath.basename(path), text) for path, text in zip(place.said.paths, place.said.texts, strict=True)}
    folders = {posixpath.dirname(path) for path in place.said.paths}
    if len(folders) < _FILES or len(place.counts) < _VARIED * len(pairs):
        return False
    alike = Counter(posixpath.basename(path) for path in place.sort.paths if posixpath.dirname(path) in folders)
    return sum(often * 2 > len(folders) for often in alike.values()) >= _FILES
