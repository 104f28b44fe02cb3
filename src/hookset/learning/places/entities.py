"""Places in maps of level editors: entities in braces, each with keys and values in quotes, and brushes, whose sides
are lines of three points and a texture. (The form that editors of levels share: a key `classname` in each entity.)"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping

from hookset.learning.material import Sort
from hookset.learning.place import Place
from hookset.learning.places.code import code_of
from hookset.learning.said import Said

__all__ = ["entity_places", "of_entities"]

_PAIR = re.compile(r"^[ \t]*\"(?P<key>[^\"\r\n]{1,60})\"[ \t]+\"(?P<value>[^\"\r\n]+)\"", re.M)
_POINT = r"\([ \t]*[-+\d][^()\r\n]*\)[ \t]*"
_SIDE = rf"^[ \t]*{_POINT}{_POINT}{_POINT}(?P<value>[^\s()]+)"
"""A side of a brush: three points on it, and what it looks like."""
_PATCH = r"^[ \t]*patchDef\d\s*\{\s*(?P<value>[^\s(){}]+)"
"""A curved side begins with what it looks like."""
_LEAST = 2


def of_entities(sort: Sort) -> bool:
    """Whether files say of which class each thing in them is, as maps of level editors do."""
    return sum('"classname"' in code_of(document) for document in sort.documents.values()) * 2 > len(sort.documents)


def entity_places(sort: Sort) -> Iterator[Place]:
    """The values of each key, whatever has it, and what brushes look like."""
    codes = {path: code_of(document) for path, document in sort.documents.items()}
    found: dict[str, Said] = {}
    for path, code in codes.items():
        for one in _PAIR.finditer(code):
            found.setdefault(one["key"], Said()).add(one["value"], path, one.start("value"))
    for key, said in found.items():
        if len(said.texts) >= _LEAST:
            match = rf"^[ \t]*\"{re.escape(key)}\"[ \t]+\"(?P<value>[^\"\r\n]+)\""
            yield Place(sort, {"match": match}, "value", key, "entity", said)
    yield from _textures(sort, codes)


def _textures(sort: Sort, codes: Mapping[str, str]) -> Iterator[Place]:
    for match in (_SIDE, _PATCH):
        said, pattern = Said(), re.compile(match, re.M)
        for path, code in codes.items():
            for one in pattern.finditer(code):
                said.add(one["value"], path, one.start("value"))
        if len(said.texts) >= _LEAST:
            yield Place(sort, {"match": match}, "value", "texture", "brush", said, used=True)
