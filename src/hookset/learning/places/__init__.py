"""Where texts stand in files of a sort: one module for each way in which formats hold them."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from hookset.learning.material import Sort
from hookset.learning.place import Place
from hookset.learning.places.attributes import attribute_places, attributed
from hookset.learning.places.blocks import block_places
from hookset.learning.places.bracketed import bracketed, bracketed_places
from hookset.learning.places.code import code_places
from hookset.learning.places.data import data_places
from hookset.learning.places.elements import element_places
from hookset.learning.places.entities import entity_places, of_entities
from hookset.learning.places.headed import above_texts, headed_places
from hookset.learning.places.marked import parted_by_marks
from hookset.learning.places.mixed import parted_by_heads
from hookset.learning.places.scripts import script_places
from hookset.learning.places.sections import section_places
from hookset.learning.places.segments import segmented
from hookset.learning.places.tables import line_places, table_places
from hookset.learning.places.words import word_places

__all__ = ["places_of"]


def _text_places(sort: Sort) -> Iterator[Place]:
    if bracketed(sort):
        yield from bracketed_places(sort)
        return
    if attributed(sort):
        yield from attribute_places(sort)
        return
    if match := above_texts(sort):
        yield from headed_places(sort, match)
        return
    if of_entities(sort):
        yield from entity_places(sort)
        return
    yield from word_places(sort)
    yield from code_places(sort)


_LONGEST = 200
"""Characters: what is longer is no name."""
_BY_FORMAT: dict[str, Callable[[Sort], Iterator[Place]]] = {
    "json": data_places,
    "glb": data_places,
    "toml": data_places,
    "yaml": data_places,
    "xml": element_places,
    "block": block_places,
    "csv": table_places,
    "lines": line_places,
    "ini": section_places,
    "lua": script_places,
    "ecmascript": script_places,
    "gdscript": script_places,
    "text": _text_places,
}


def places_of(sort: Sort) -> Iterator[Place]:
    """Every place in files of a sort, with what stands there; none of formats in which nobody writes names."""
    for place in _BY_FORMAT[sort.format](sort) if sort.format in _BY_FORMAT else ():
        if any(0 < len(text) <= _LONGEST for text in place.counts):
            yield place
            yield from parted_by_marks(place)
            yield from parted_by_heads(place)
            yield from segmented(place)
