"""How much a place is called like what its texts may be."""

from __future__ import annotations

from hookset.learning.place import Place
from hookset.learning.vocabulary import NAMING

__all__ = ["alike", "called_alike"]

_LOADING = frozenset(("require", "import", "include", "load", "dofile", "use", "from", "module"))
"""What scripts are asked for by, in many languages."""


def alike(word: str, place: Place) -> float:
    """How much a word is like what others are called at a place: 3 where it is the same, 1 for a part of it."""
    if place.form == "module" and word.lower() in _LOADING:
        return 3.0
    mine = word.lower().rstrip("s")
    theirs = {one.lower().rstrip("s") for one in (place.around, place.word) if one}
    if mine in theirs:
        return 3.0
    return float(len(mine) > 2 and any(mine in one or one in mine for one in theirs if len(one) > 2))


def called_alike(place: Place, other: Place) -> float:
    """How much a place is called like what its texts may be: what is called `name` says nothing by that, but what has
    the name does."""
    return alike(place.around if place.around and place.word.lower() in NAMING else place.word, other)
