"""Places in rows of keys in square brackets, each with its value behind it: `*[name] fog_bell [file] fog.ogg`."""

from __future__ import annotations

import re
from collections.abc import Iterator

from hookset.learning.dialects import BRACKETED
from hookset.learning.material import Sort
from hookset.learning.place import Place
from hookset.learning.places.code import code_of
from hookset.learning.said import Said

__all__ = ["bracketed", "bracketed_places"]

_KEY = r"\+?[A-Za-z_][\w.-]*"
_COUNTED = r"\d+"
_VALUE = r"[ \t]*(?P<value>[^\s\[\]](?:[^\[\]\r\n]*[^\s\[\]])?)[ \t]*(?=\[|\r?$)"
"""Without blanks around it: a text that begins and ends with none is found in one go, however many blanks there are."""
_PAIR = re.compile(rf"\[(?:(?P<key>{_KEY})|{_COUNTED})\]{_VALUE}", re.M)
_NUMBERS = re.compile(r"[-+.\d \t,;:]+")


def bracketed(sort: Sort) -> bool:
    """Whether most lines of a sort begin with a key in brackets that has a value behind it."""
    lines = [line for document in sort.documents.values() for line in code_of(document).splitlines() if line.strip()]
    return 2 * sum(BRACKETED.match(line) is not None for line in lines) > len(lines)


def bracketed_places(sort: Sort) -> Iterator[Place]:
    """The values of each key, and those of keys that are numbers together, each asked for by a regular expression."""
    found: dict[str, Said] = {}
    for path, document in sort.documents.items():
        for pair in _PAIR.finditer(code_of(document)):
            found.setdefault(pair["key"] or "", Said()).add(pair["value"], path, pair.start("value"))
    for key, said in found.items():
        if not all(map(_NUMBERS.fullmatch, said.texts)):
            match = rf"\[{re.escape(key) if key else _COUNTED}\]{_VALUE}"
            # What is counted lists what has a name: it says what it is nowhere.
            yield Place(sort, {"match": match}, "value", key.lstrip("+"), "", said, used=not key)
