"""What stands beside texts that are no names, and beside no others: a sound that is switched off need not be there."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterator, Mapping

import msgspec

from hookset.formats import format_named
from hookset.formats.document import HasRows, fresh
from hookset.learning.place import Place
from hookset.model import Where

__all__ = ["excepted", "exception_of"]

_LEAST = 3
"""Texts that are no names, at least."""
_ALL, _NONE = 0.9, 0.02
"""Of those beside which it stands: how many at least; of the names: how many at most."""
_LONGEST = 30
_SWITCH = 6
"""Different words that stand in such a place, at most."""
_COMMON = frozenset(("only", "skip", "split", "when", "name", "unless"))
"""What rules of any format have: those that make names of a part of a text, or of what stands beside it, are left."""

_FORMATS = frozenset(("xml", "json", "glb", "toml", "yaml", "csv", "block", "ini"))
"""Those in which other values stand beside one."""

_Stand = tuple[str, Where]


def exception_of(place: Place, misfits: Collection[_Stand]) -> tuple[str, str] | None:
    """(key, word) of what stands beside texts that are no names, given where those stand; None where nothing does."""
    if len(misfits) < _LEAST or place.when or place.parts or _COMMON & place.asked.keys():
        return None
    if place.sort.format not in _FORMATS:
        return None
    wrong = Counter(
        pair
        for stand, text, beside in _beside(place, {path for path, _ in misfits})
        if stand in misfits
        for pair in _telling(text, beside)
    )
    often = {pair for pair, count in wrong.items() if count >= _ALL * len(misfits)}
    # Most misfits have nothing in common: then nobody need know what stands beside the others.
    if not often:
        return None
    right = Counter[tuple[str, str]]()
    words: dict[str, set[str]] = {key: set() for key, _ in often}
    names = 0
    for stand, text, beside in _beside(place, place.said.paths.different):
        names += stand not in misfits
        for key, word in _telling(text, beside):
            right[key, word] += stand not in misfits
            if key in words:
                words[key].add(word)
    told = [one for one in often if right[one] <= _NONE * names and len(words[one[0]]) <= _SWITCH]
    return min(told, key=lambda one: (right[one], -wrong[one], one), default=None)


def _telling(text: str, beside: Mapping[str, str]) -> Iterator[tuple[str, str]]:
    """What stands beside a text and may say that it is no name."""
    return ((key, word) for key, word in beside.items() if 0 < len(word) <= _LONGEST and word != text)


def excepted(place: Place, exception: tuple[str, str]) -> frozenset[_Stand]:
    """Where the texts stand that have it beside them."""
    key, word = exception
    return frozenset(
        stand for stand, _, beside in _beside(place, place.said.paths.different) if beside.get(key, "") == word
    )


def _beside(place: Place, paths: Collection[str]) -> Iterator[tuple[_Stand, str, Mapping[str, str]]]:
    """Where each text of a place stands in some files, the text, and what stands beside it."""
    selector = msgspec.convert(dict(place.asked), format_named(place.sort.format).selector)
    for path in paths:
        document = fresh(place.sort.documents[path])
        for value, beside in document.rows(selector) if isinstance(document, HasRows) else ():
            yield (path, value.where), value.text, beside
