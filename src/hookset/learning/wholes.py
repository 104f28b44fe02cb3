"""Places that others are parts of: whether what explains the whole explains each part."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

from hookset.learning.guess import Guess
from hookset.learning.place import Place

__all__ = ["EACH", "explains_each", "is_explained"]

EACH = 0.8
"""Of the texts at each of several places: how many must be names for all to be one."""
_TELLING = 3
"""Different texts that a place has which is asked by itself whether it is one with others."""
_NUMBERED = re.compile(r"[.'\[](?:\d+)[.'\]]")
"""A row of a list, among the keys on the way to a place."""


def explains_each(guess: Guess) -> bool:
    """Whether what explains several places together explains each of them."""
    if guess.evidence.band != "sure" or guess.split:
        return False
    misfits = {one.text for one in guess.evidence.misfits}
    parts = [part for part in guess.place.parts if len(part.counts) >= _TELLING]
    return not _mean_others(guess, [part for part in parts if _NUMBERED.search(str(part.asked)) is None]) and all(
        sum(text not in misfits for text in part.counts) >= EACH * len(part.counts) for part in parts
    )


def _mean_others(guess: Guess, parts: Sequence[Place]) -> bool:
    """Whether places that are explained together, by the names of several vocabularies, are explained by one of those
    each, and by different ones: keys of one record that mean different things, and no rows of a list."""
    if len(guess.targets) < 2:
        return False
    misfits = {one.text for one in guess.evidence.misfits}
    meant = [
        frozenset(
            number
            for number, target in enumerate(guess.targets)
            if all(text in target.names or text in misfits for text in part.counts)
        )
        for part in parts
    ]
    return all(meant) and not frozenset.intersection(*meant) if meant else False


def _explains_parts(guess: Guess) -> bool:
    """Whether what texts at a place are is what they are in every part of it. Of the keys of texts for people some are
    as things are called, and look like names of those by themselves."""
    texts = bool(guess.targets) and guess.targets[0].of_texts
    return guess.evidence.band == "sure" or (texts and guess.evidence.band == "likely")


def is_explained(place: Place, found: Mapping[Place, Guess | None]) -> bool:
    """Whether a place is a part of one that is explained, or a part of such a part."""
    general = place.general
    while general is not None:
        guess = found.get(general)
        if guess is not None and _explains_parts(guess):
            return True
        general = general.general
    return False
