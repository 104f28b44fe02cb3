"""Places in XML by what they are inside: the `name` in the section `Tracks`, the `name` in the section `Drivers`."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from msgspec.structs import replace

from hookset.learning.evidence import NUMBER
from hookset.learning.material import Sort
from hookset.learning.place import Place
from hookset.learning.said import Said

__all__ = ["named_around", "places_inside"]

_FILES = 3
"""Files in which there are elements of one name, before that tells what stands inside them."""
_LEAST = 3
"""Texts inside elements of one name that there must be."""
_MOST = 60
"""Names around one place that make parts of it."""
Around = Mapping[str, Sequence[tuple[str, ...]]]
"""By path and the number of an element: the named elements that it is in, each as a step of XPath."""


def named_around(sort: Sort, name: str) -> Around:
    """The elements around each element that have a name in the attribute `name`, those of frequent names only."""
    known: dict[str, set[str]] = {}
    steps: dict[str, list[tuple[str, ...]]] = {}
    documents: Mapping[str, Any] = sort.documents
    for path, document in documents.items():
        inside: dict[Any, tuple[str, ...]] = {}
        mine = steps.setdefault(path, [])
        for element in document.root.iter("*"):
            around = inside.get(element.getparent(), ())
            mine.append(around)
            word = element.get(name)
            step = f"//{element.tag}[@{name}='{word}']" if word and _tells(word) and "{" not in element.tag else ""
            inside[element] = (*around, step) if step else around
            if step:
                known.setdefault(step, set()).add(path)
    often = frozenset(step for step, paths in known.items() if len(paths) >= _FILES)
    return {path: [tuple(step for step in one if step in often) for one in each] for path, each in steps.items()}


def places_inside(place: Place, around: Around) -> Iterator[Place]:
    """The parts of a place that named elements are around; none of numbers, of which few are enough for anything."""
    if 2 * sum(map(bool, map(NUMBER.fullmatch, place.counts))) > len(place.counts):
        return
    parted: dict[str, Said] = {}
    for text, path, where in zip(place.said.texts, place.said.paths, place.said.wheres, strict=True):
        for step in dict.fromkeys(around[path][int(str(where).partition("@")[0])]):
            parted.setdefault(step, Said()).add(text, path, where)
    if len(parted) > _MOST:
        return
    for step, said in parted.items():
        if _LEAST <= len(said.texts) < len(place.said.texts):
            yield replace(place, asked={"at": step + str(place.asked["at"])}, said=said, general=place)


def _tells(word: str) -> bool:
    """Whether a name is a word that may be there again, and no number of one of many: `camera 12`."""
    return len(word) <= 40 and not word[-1:].isdecimal() and not set(word) & set("'\"\n")
