"""Places by what stands beside them: `id` of the records whose `type` is `gate`."""

from __future__ import annotations

from collections.abc import Callable, Collection, Hashable, Iterator, Sequence

from hookset.learning.place import Place
from hookset.learning.said import Said
from hookset.model import Where

__all__ = ["variants"]

_SORTS = range(2, 201)
"""How many sorts of records a value may distinguish."""
_OF_A_SORT = 4
"""Records of each sort that there must be, on the average; twice as many where the value is called anything else."""
_LEAST = 6
"""Records that there must be to look for sorts among them."""
_OFTEN = 6
"""Records of a sort that there are at least, where others are of sorts of their own."""
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
    known_by_name = best.word in heads
    sorts = _sorts(best, known_by_name)
    said = {(path, record(path, where)): text for text, path, where in _each(best) if text in sorts}
    left = _MOST
    for other in known:
        if other is best:
            continue
        parted: dict[str, Said] = {}
        for text, path, where in _each(other):
            if (sort := said.get((path, record(path, where)))) is not None:
                parted.setdefault(sort, Said()).add(text, path, where)
        if len(parted) < (1 if known_by_name else 2) or len(parted) > left:
            continue
        left -= len(parted)
        for sort, texts in parted.items():
            when = {best.word: sort}
            yield Place(other.sort, other.asked, other.form, other.word, other.around, texts, when, other)


def _tells(place: Place, most: int, known: bool) -> bool:
    return len(place.said.texts) * 10 >= most * 9 and bool(_sorts(place, known))


def _sorts(place: Place, known: bool) -> Collection[str]:
    """The values that distinguish records: all of them, or, where values surely do, those that are used often; none
    where they are too many or no words."""
    sorts, mine = place.counts, len(place.said.texts)
    least = 2 if known else _OF_A_SORT if place.word.lower() in _TELLING else 2 * _OF_A_SORT
    if len(sorts) in _SORTS and mine >= least * len(sorts) and all(_word(sort, known) for sort in sorts):
        return sorts
    often = [sort for sort, count in sorts.items() if count >= _OFTEN and _word(sort, known)] if known else ()
    return often if len(often) < _SORTS.stop else ()


def _rank(word: str) -> int:
    low = word.lower()
    return _TELLING.index(low) if low in _TELLING else len(_TELLING)


def _each(place: Place) -> Iterator[tuple[str, str, Where]]:
    yield from zip(place.said.texts, place.said.paths, place.said.wheres, strict=True)


def _word(text: str, known: bool) -> bool:
    plain = text.replace("_", "").replace("-", "")
    return 0 < len(text) <= 40 and not text.isdecimal() and (plain.replace(" ", "") if known else plain).isalnum()
