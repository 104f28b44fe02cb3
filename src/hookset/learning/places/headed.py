"""Places in texts for people that stand below their keys: the keys."""

from __future__ import annotations

import re
from collections.abc import Iterator

from hookset.learning.headed import headed
from hookset.learning.material import Sort
from hookset.learning.place import Place
from hookset.learning.places.code import code_of
from hookset.learning.said import Said

__all__ = ["above_texts", "headed_places"]


def above_texts(sort: Sort) -> str:
    """What finds the keys above their texts in most files of a sort; empty where those are no such texts."""
    found = [*headed(sort.paths, lambda path: code_of(sort.documents[path])).values()]
    return found[0] if 2 * len(found) > len(sort.paths) else ""


def headed_places(sort: Sort, match: str) -> Iterator[Place]:
    """The keys, wherever they stand: below some there is no text yet, or one in quotes."""
    said, pattern = Said(), re.compile(match, re.M)
    for path, document in sort.documents.items():
        for one in pattern.finditer(code_of(document)):
            said.add(one["value"], path, one.start("value"))
    yield Place(sort, {"match": match}, "key", "", "", said)
