"""Second names: what records are called as well, by another value beside the one that names them."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from msgspec.structs import replace

from hookset.learning.evidence import band_of
from hookset.learning.guess import Guess
from hookset.learning.lookup import Lookup
from hookset.learning.place import Place
from hookset.learning.vocabulary import NAMING, Vocabulary

__all__ = ["with_aliases"]

_LEAST, _SHARE = 2, 0.6
"""Texts that are no names, and how many of them another value must explain."""
_PARTS = re.compile(r"[A-Z]?[a-z]+|[A-Z]+")


def with_aliases(guesses: Iterable[Guess], places: Sequence[Place], lookup: Lookup) -> tuple[Guess, ...]:
    """The rules, where what several call otherwise than most is a second name of the same records."""
    found = tuple(guesses)
    lacking: dict[Vocabulary, set[str]] = {}
    for guess in found:
        if guess.targets and guess.evidence.band != "weak":
            lacking.setdefault(guess.targets[0], set()).update(one.text for one in guess.evidence.misfits)
    also = {target: _alias(target, texts, places, lookup) for target, texts in lacking.items() if len(texts) >= _LEAST}
    return tuple(
        _with(guess, alias) if guess.targets and (alias := also.get(guess.targets[0])) is not None else guess
        for guess in found
    )


def _alias(target: Vocabulary, texts: set[str], places: Sequence[Place], lookup: Lookup) -> Vocabulary | None:
    """What else names the records of a vocabulary, if that explains most of what its own names do not."""
    own = target.place
    best: tuple[int, Place] | None = None
    for place in places if own.form == "value" and not target.own else ():
        if place.sort is not own.sort or place.around != own.around or not _names(place, own):
            continue
        met = sum(text in place.counts for text in texts)
        if met >= max(_LEAST, _SHARE * len(texts)) and (best is None or met > best[0]):
            best = met, place
    if best is None:
        return None
    number = lookup.number(best[1])
    return lookup.known[number] if number >= 0 else Vocabulary(best[1], best[1].counts)


def _names(place: Place, own: Place) -> bool:
    """Whether a value is called as if it were a name, and is another one than the one that is known."""
    words = {part.lower() for part in _PARTS.findall(place.word)}
    other = place.word != own.word and place.asked != own.asked
    return other and place.form == "value" and not place.parts and not place.used and bool(words & NAMING)


def _with(guess: Guess, alias: Vocabulary) -> Guess:
    """A rule with what its records are called as well."""
    if guess.place is alias.place or alias in guess.targets:
        return guess
    evidence = guess.evidence
    left = tuple(one for one in evidence.misfits if one.text not in alias.names)
    more = {one.text for one in evidence.misfits} - {one.text for one in left}
    if not more or evidence.band == "weak":
        return guess
    hits = evidence.hits + len(evidence.misfits) - len(left)
    names = evidence.names + len(more)
    band = band_of(evidence.chance, hits / evidence.texts, names, len(left), evidence.texts)
    kept = replace(evidence, hits=hits, misfits=left, names=names, band=band if band != "weak" else evidence.band)
    return replace(guess, targets=(*guess.targets, alias), evidence=kept)
