"""The file in which a map says what it is called and of which version it is."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any

from msgspec import Struct

from hookset.learning.material import Material, Sort
from hookset.learning.place import Place
from hookset.learning.places import places_of

__all__ = ["LearnedDescriptor", "descriptor_of"]

_FORMATS = frozenset(("json", "toml", "yaml", "ini", "xml", "block", "lua"))
"""Those that hold values below their keys."""
_LONGEST = 100_000
"""Bytes: what says what a map is called is no longer."""
_NAMES = ("name", "id", "key", "title")
"""What the name is called; the first of them that is there is meant."""
_VERSIONS = ("version", "ver", "revision")
_VERSION = re.compile(r"[vV]?\d+(?:[.]\d+)*(?:[-+._ ]?[a-zA-Z]\w*)?")


class LearnedDescriptor(Struct, frozen=True):
    """Where the map says its name and its version."""

    file: str
    sort: Sort
    name: Mapping[str, Any]
    """What its format is asked with."""
    version: Mapping[str, Any]
    """The same; empty where it says none."""
    says: tuple[str, str]
    """The name, and the version."""


def descriptor_of(material: Material, name: str) -> LearnedDescriptor | None:
    """The one file at the top of a map, which lies in a folder of that name, that says what the map is called: its name
    and a version beside it, or the folder's own name. None where no file does, or several equally."""
    found = [
        made
        for sort in material.sorts
        if sort.format in _FORMATS
        for path in sort.paths
        if "/" not in path and material.tree.size(path) <= _LONGEST
        for made in _said_in(sort, path)
    ]
    own = [one for one in found if _plain(one.says[0]) == _plain(name)]
    both = [one for one in own or found if one.version]
    best = both or own
    return best[0] if len({one.file for one in best}) == 1 else None


def _said_in(sort: Sort, path: str) -> Iterator[LearnedDescriptor]:
    """The names that a file says once, each with the version that stands beside it."""
    alone = Sort(sort.format, sort.options, {path: sort.documents[path]}, (path,), sort.encodings)
    single = [place for place in places_of(alone) if _is_single(place)]
    versions = [place for place in single if place.word.lower() in _VERSIONS and _VERSION.fullmatch(_text(place))]
    for word in _NAMES:
        for named in (place for place in single if place.word.lower() == word):
            version = next((one for one in versions if _beside(one, named)), None)
            asked = dict(version.asked) if version is not None else {}
            says = _text(named), _text(version) if version is not None else ""
            yield LearnedDescriptor(path, sort, dict(named.asked), asked, says)


def _is_single(place: Place) -> bool:
    whole = place.form == "value" and not place.parts and not place.segment and not place.when
    return whole and len(place.said.texts) == 1 and "only" not in place.asked


def _beside(one: Place, other: Place) -> bool:
    """Whether two values stand in one table."""
    return _table(one.asked.items()) == _table(other.asked.items())


def _table(asked: Iterable[tuple[str, Any]]) -> Sequence[tuple[str, Any]]:
    """What a format is asked with, without the last step."""
    return [(key, re.sub(r"[\w-]+$", "", str(word))) for key, word in asked if key != "key"]


def _text(place: Place) -> str:
    return place.said.texts[0].strip()


def _plain(name: str) -> str:
    return re.sub(r"[\W_]+", "", name).casefold()
