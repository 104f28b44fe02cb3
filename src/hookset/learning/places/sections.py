"""Places in INI files: the names of sections, keys, and values by their key."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from typing import Any

from hookset.learning.material import Sort
from hookset.learning.place import Place, Said, joined

__all__ = ["section_places"]

_TABLE = 3
"""Keys that a section has at least which may be a table by names."""
_WORDS = re.compile(r"(?P<head>[A-Za-z_@!]\w*)[ \t]+(?P<rest>[^\s\"']+)")
"""A line in which nothing is set: `include other.txt`."""
_PLAIN = re.compile(r"[^*?\[\]]+")


def section_places(sort: Sort) -> Iterator[Place]:
    """Values by key in any section, and in one of that name; keys and values of sections that are tables by names."""
    sections = Said()
    by_key: dict[str, Said] = {}
    by_section: dict[str, dict[str, Said]] = {}
    keys: dict[str, Said] = {}
    words: dict[str, Said] = {}
    for path, document in sort.documents.items():
        found: Any = document
        for pair in found.pairs:
            if not pair.value and (word := _WORDS.fullmatch(pair.key)) is not None:
                words.setdefault(word["head"], Said()).add(word["rest"], path, pair.key_start + word.start("rest"))
        for section in found.sections:
            sections.add(section.name, path, section.start)
        for pair in found.pairs:
            if not _PLAIN.fullmatch(pair.key) or not _PLAIN.fullmatch(pair.section or "x"):
                continue
            keys.setdefault(pair.section, Said()).add(pair.key, path, pair.key_start)
            if pair.value:
                by_key.setdefault(pair.key, Said()).add(pair.value, path, pair.value_start)
                inner = by_section.setdefault(pair.section, {})
                inner.setdefault(pair.key, Said()).add(pair.value, path, pair.value_start)
    if sections.texts:
        yield Place(sort, {"sections": True}, "name", "section", "", sections)
    lines = Sort("lines", {"fields": "blanks", "comment": [";", "#"]}, sort.documents, sort.globs, sort.encodings)
    for head, said in words.items():
        yield Place(lines, {"field": 2, "when": {"1": head}}, "value", head, "", said)
    known = {key: Place(sort, {"key": key}, "value", key, "", said) for key, said in by_key.items()}
    yield from known.values()
    for section in keys if len(keys) > 1 else ():
        if section:
            yield from _of_section(sort, section, keys[section], by_section.get(section, {}), known)


def _of_section(
    sort: Sort, section: str, keys: Said, values: Mapping[str, Said], known: Mapping[str, Place]
) -> Iterator[Place]:
    """What only the sections of one name say."""
    if len(keys.texts) >= _TABLE:
        yield Place(sort, {"section": section, "keys": True}, "key", "", section, keys)
    if len(values) >= _TABLE:
        yield Place(sort, {"section": section, "key": "*"}, "value", "", section, joined(list(values.values())))
    for key, one in values.items():
        if len(known[key].said.texts) > len(one.texts):
            yield Place(sort, {"section": section, "key": key}, "value", key, section, one, general=known[key])
