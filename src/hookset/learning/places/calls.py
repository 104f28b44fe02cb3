"""Places in calls by more than one argument: those that take any number of the same, and those of which the first says
what the others are."""

from __future__ import annotations

import itertools
import re
from collections import Counter
from collections.abc import Iterator, Mapping

from msgspec.structs import replace

from hookset.learning.place import Place, stands
from hookset.learning.places.beside import variants
from hookset.learning.places.items import Way
from hookset.learning.said import joined
from hookset.model import Where

__all__ = ["by_first_argument", "of_all_arguments"]

_ARGUMENTS = 3
"""Arguments that are alike, and how many of them calls have, before that is any number."""
_MOST_WORDS = 2_000
"""Words that calls are given first, each of which is looked at by itself."""
_FIRST = "1"
_MAKES = re.compile(r"(?:define|def|declare|register|create|new|make|add)", re.I)
"""What a call begins with that may define what it is given."""


def of_all_arguments(places: Mapping[Way, Place], calls: Mapping[tuple[str, Where], int]) -> Iterator[Place]:
    """What calls are given that take now more, now fewer of the same: `add("winch", { "sound" }, { "rope" })`."""
    alike: dict[tuple[str, Way], dict[int, Place]] = {}
    for way, place in places.items():
        asked = dict(way)
        if "call" in asked and "keys" not in asked:
            further = tuple(one for one in way if one[0] not in ("call", "arg"))
            alike.setdefault((str(asked["call"]), further), {})[int(asked.get("arg", 1))] = place
    for (call, further), by_number in alike.items():
        numbers = sorted(by_number)
        if len(numbers) < _ARGUMENTS or numbers != list(range(numbers[0], numbers[-1] + 1)):
            continue
        given = Counter((path, calls[path, where]) for one in by_number.values() for path, where in stands(one))
        if len(set(given.values())) < _ARGUMENTS:
            continue
        first = by_number[numbers[0]]
        asked = {"call": call, **({"arg": numbers[0]} if numbers[0] > 1 else {}), "rest": True, **dict(further)}
        said = joined([by_number[number].said for number in numbers])
        yield replace(first, asked=asked, said=said, parts=tuple(by_number[number] for number in numbers))


def by_first_argument(places: Mapping[Way, Place], calls: Mapping[tuple[str, Where], int]) -> Iterator[Place]:
    """What calls are given for each word that they are given first: `set("icon", "bell")`."""
    by_call: dict[str, list[Place]] = {}
    for way, place in places.items():
        asked = dict(way)
        if place.form in ("call", "value") and asked.keys() & {"call"} and not asked.keys() & {"field", "keys"}:
            argument = str(asked.get("arg", 1))
            by_call.setdefault(asked["call"], []).append(replace(place, word=argument))
    told = [known for known in by_call.values() if len(known) > 1 and any(place.word == _FIRST for place in known)]
    told.sort(key=lambda known: -max(len(place.said.texts) for place in known))
    found = (
        (place, said)
        for known in told
        for place in variants(known, lambda path, where: calls[path, where], (_FIRST,))
        if (said := place.when.get(_FIRST)) is not None
    )
    # Calls that are made most come first: very many words are no sorts of anything.
    for place, said in itertools.islice(found, _MOST_WORDS):
        general = places[tuple(place.asked.items())]
        used = place.used or _MAKES.match(general.word) is None
        yield replace(place, word=said, general=general, used=used)
