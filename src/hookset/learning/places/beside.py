"""Places by what stands beside them: `id` of the records whose `type` is `gate`."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator, Sequence

from hookset.learning.place import Place, Said
from hookset.model import Where

__all__ = ["variants"]

_SORTS = range(2, 201)
"""How many sorts of records a value may distinguish."""
_OF_A_SORT = 4
"""Records of each sort that there must be, on the average; twice as many where the value is called anything else."""
_LEAST = 6
"""Records that there must be to look for sorts among them."""
_MOST = 2_000
"""Places of single sorts that come of one place of records."""
_TELLING = ("type", "kind", "class", "category", "sort")
"""What the value is called, in many formats, that tells sorts of records apart."""


def variants(
    known: Sequence[Place], record: Callable[[str, Where], Hashable], heads: Sequence[str] = ()
) -> Iterator[Place]:
    """The places of one sort of records once more for each sort that one value of them distinguishes. `record`
    says of where a value stands (path and place) which record that is in, `heads` which values surely distinguish."""
    most = max((len(place.said.texts) for place in known), default=0)
    if most < _LEAST:
        return
    telling = [place for place in known if _tells(place, most, place.word in heads)]
    if not telling:
        return
    best = min(telling, key=lambda one: (one.word not in heads, _rank(one.word), len(one.counts)))
    said = {(path, record(path, where)): text for text, path, where in _each(best)}
    left = _MOST
    for other in known:
        if other is best:
            continue
        parted: dict[str, Said] = {}
        for text, path, where in _each(other):
            if (sort := said.get((path, record(path, where)))) is not None:
                parted.setdefault(sort, Said()).add(text, path, where)
        if len(parted) < 2 or len(parted) > left:
            continue
        left -= len(parted)
        for sort, texts in parted.items():
            when = {best.word: sort}
            yield Place(other.sort, other.asked, other.form, other.word, other.around, texts, when, other)


def _tells(place: Place, most: int, known: bool) -> bool:
    sorts = place.counts
    mine = len(place.said.texts)
    least = 2 if known else _OF_A_SORT if place.word.lower() in _TELLING else 2 * _OF_A_SORT
    if mine * 10 < most * 9 or len(sorts) not in _SORTS or mine < least * len(sorts):
        return False
    return all(_word(sort.replace(" ", "_") if known else sort) for sort in sorts)


def _rank(word: str) -> int:
    low = word.lower()
    return _TELLING.index(low) if low in _TELLING else len(_TELLING)


def _each(place: Place) -> Iterator[tuple[str, str, Where]]:
    yield from zip(place.said.texts, place.said.paths, place.said.wheres, strict=True)


def _word(text: str) -> bool:
    return 0 < len(text) <= 40 and not text.isdecimal() and text.replace("_", "").replace("-", "").isalnum()
