"""Places in INI files: the names of sections, keys, and values by their key."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from hookset.learning.material import Sort
from hookset.learning.place import Place
from hookset.learning.places.cells import cell_places
from hookset.learning.said import Said, joined
from hookset.learning.vocabulary import NAMING, SETS

__all__ = ["section_places"]

_TABLE = 3
"""Keys that a section has at least which may be a table by names."""
_MANY = 60
"""Keys that a section has at least in a file, on the average, which is a table by names such as one of texts: each key
is another name there, and means nothing by itself."""
_ONCE = 0.95
"""Of the keys of such a table: how many must be there once."""
_HEADS = 12
"""Keys of such a table that begin alike, at least, to be looked at by themselves."""
_HEAD = re.compile(r"[A-Za-z]\w*[.:/]")
"""What keys of a table begin with that are about one sort of thing: `sound.bell`."""
_ALIKE = 3
"""Sections that are called alike, at least, or have the same key, to be records of one sort."""
_WORDS = re.compile(r"(?P<head>[A-Za-z_@!]\w*)[ \t]+(?P<rest>[^\s\"']+)")
"""A line in which nothing is set: `include other.txt`."""
_TRANSLATED = re.compile(r"[A-Za-z][A-Za-z0-9-]*\[[a-z]{2,3}(?:_[A-Z]{2})?(?:\.[\w-]+)?(?:@\w+)?\]")
"""A key for one language, beside the same for all: `Name[de]` (Desktop Entry Specification, 5)."""
_PLAIN = re.compile(r"[^*?\[\]]+")
_SORT = re.compile(r"(?P<sort>[A-Za-z]+(?:[_.-][A-Za-z]+)*?)(?P<joint>[_.:/ -]+)(?P<name>\S.*)")
"""A section whose name says what it is, and which one: `door_7`, `item sword`."""
_MARKED = re.compile(r"(?P<mark>\w*)\(\s*\"(?:\?\w+:)?(?P<name>[^\"]*)\"\s*\)")
"""A text that is marked as one to be translated, perhaps with a word that tells it from others (as of gettext)."""
_MARK = r"\(\s*\"(?:\?\w+:)?(?P<value>[^\"]*)\"\s*\)"

_BETWEEN = re.compile(r"\"\s*,\s*\"")
"""What stands between texts in quotes that one value lists."""
_COMMA = re.compile(r"\s*[,;]\s*")
_LIST = re.compile(r"[A-Za-z_]\w*(?:\s*[,;]\s*[A-Za-z_]\w*)+")
"""Several names, one behind the other."""
_LISTS = 4
"""One in so many values is a list, where lists are meant."""

_Pairs = Mapping[str, Said]


class _Everywhere(Struct, frozen=True):
    """A key in all sections, and how many values it has there."""

    place: Place
    values: int


@dataclass(slots=True)
class _Found:
    """What files say: sections; keys of each section; values by key, and by section and key."""

    sections: Said = field(default_factory=Said)
    keys: dict[str, Said] = field(default_factory=dict)
    by_key: dict[str, Said] = field(default_factory=dict)
    by_section: dict[str, dict[str, Said]] = field(default_factory=dict)


def section_places(sort: Sort) -> Iterator[Place]:
    """Values by key in any section, and in those of one name or of names alike; keys and values of sections that are
    tables by names; what stands in the cells of values that are tables."""
    tables = _tables(sort)
    for section in tables:
        yield from _of_table(sort, section)
    found = _found(sort, tables)
    sections, keys, by_key, by_section = found.sections, found.keys, found.by_key, found.by_section
    if sections.texts:
        yield Place(sort, {"sections": True}, "name", "section", "", sections)
    yield from _of_words(sort)
    known = {
        key: _Everywhere(_valued(sort, {"key": key}, key, _around(key, by_section), said), len(said.texts))
        for key, said in by_key.items()
    }
    yield from (one.place for one in known.values())
    alike = _alike(keys)
    for section in keys if len(keys) > 1 and not _are_names(sections, keys) else ():
        if section and section not in alike:
            yield from _of_section(sort, section, keys[section], by_section.get(section, {}), known, _records(keys))
    yield from _of_sections(sort, alike, sections, by_section, known)
    if "continued" in sort.options:
        yield from cell_places(sort)


def _found(sort: Sort, tables: frozenset[str]) -> _Found:
    """All that files say outside of sections that are tables by names."""
    whole = _Found()
    own: Counter[str] = Counter()
    for path, document in sort.documents.items():
        read: Any = document
        for section in read.sections:
            whole.sections.add(section.name, path, section.start)
        for pair in read.pairs:
            if pair.section in tables or not (_PLAIN.fullmatch(pair.key) and _PLAIN.fullmatch(pair.section or "x")):
                continue
            whole.keys.setdefault(pair.section, Said()).add(pair.key, path, pair.key_start)
            if pair.value:
                own[pair.key] += pair.value == pair.section
                inner = whole.by_section.setdefault(pair.section, {})
                for values in (whole.by_key, inner):
                    values.setdefault(pair.key, Said()).add(pair.value, path, pair.value_start)
    # What calls sections as they are called anyhow is for people: `[Fog Bell]` with `name = Fog Bell`.
    for key in [key for key, said in whole.by_key.items() if 2 * own[key] > len(said.texts)]:
        for values in (whole.by_key, *whole.by_section.values()):
            values.pop(key, None)
    return whole


def _tables(sort: Sort) -> frozenset[str]:
    """Sections with so many keys in a file, each once, that those can only be names."""
    pairs: Counter[str] = Counter()
    keys: dict[str, dict[str, set[str]]] = {}
    for path, document in sort.documents.items():
        found: Any = document
        for pair in found.pairs:
            if pair.value and not _TRANSLATED.fullmatch(pair.key):
                pairs[pair.section] += 1
                keys.setdefault(pair.section, {}).setdefault(path, set()).add(pair.key)
    records = _alike(keys)
    return frozenset(
        section
        for section, by_path in keys.items()
        if _PLAIN.fullmatch(section or "x")
        and section not in records
        and (once := sum(map(len, by_path.values()))) >= _ONCE * pairs[section]
        and once >= (_MANY if not _numbered(by_path) else _TABLE) * len(by_path)
    )


def _numbered(by_path: Mapping[str, Collection[str]]) -> bool:
    """Whether keys are numbers: those of things, of which each has another."""
    keys = [key for mine in by_path.values() for key in mine]
    return sum(map(str.isdecimal, keys)) >= _ONCE * len(keys)


def _of_table(sort: Sort, section: str) -> Iterator[Place]:
    """The keys of a table by names, its values, and the values of keys that begin alike."""
    keys, values = Said(), Said()
    by_head: dict[str, Said] = {}
    for path, document in sort.documents.items():
        found: Any = document
        for pair in found.pairs:
            if pair.section != section:
                continue
            keys.add(pair.key, path, pair.key_start)
            if pair.value:
                values.add(pair.value, path, pair.value_start)
                if (begin := _HEAD.match(pair.key)) is not None:
                    by_head.setdefault(begin[0], Said()).add(pair.value, path, pair.value_start)
    yield Place(sort, {"section": section, "keys": True}, "key", "", section, keys)
    whole = Place(sort, {"section": section, "key": "*"}, "value", "", section, values)
    yield whole
    for head, said in by_head.items():
        if _HEADS <= len(said.texts) < len(values.texts):
            yield Place(sort, {"section": section, "key": f"{head}*"}, "value", head[:-1], section, said, general=whole)


def _around(key: str, by_section: Mapping[str, _Pairs]) -> str:
    """The sections that have a key, where those are of one name."""
    found = [section for section, values in by_section.items() if key in values]
    return found[0] if len(found) == 1 else ""


def _of_words(sort: Sort) -> Iterator[Place]:
    """What stands behind the first word of lines in which nothing is set."""
    lines = replace(sort, format="lines", options={"fields": "blanks", "comment": [";", "#"]})
    words: dict[str, Said] = {}
    for path, document in sort.documents.items():
        found: Any = document
        for pair in found.pairs:
            if not pair.value and (word := _WORDS.fullmatch(pair.key)) is not None:
                words.setdefault(word["head"], Said()).add(word["rest"], path, pair.key_start + word.start("rest"))
    for head, said in words.items():
        yield Place(lines, {"field": 2, "when": {"1": head}}, "value", head, "", said)


def _valued(
    sort: Sort, asked: Mapping[str, Any], key: str, section: str, said: Said, general: Place | None = None
) -> Place:
    """Values by their key, without the marks for translation around them where all have those."""
    marks = {found["mark"] if (found := _MARKED.fullmatch(text)) is not None else None for text in said.texts}
    mark = next(iter(marks)) if len(marks) == 1 else None
    if mark is not None:
        inner = Said()
        for text, path, where in zip(said.texts, said.paths, said.wheres, strict=True):
            inner.add(_MARKED.sub(r"\g<name>", text), path, where)
        said, asked = inner, {**asked, "only": mark + _MARK}
    elif sum(_BETWEEN.search(text) is not None for text in said.texts) * _LISTS > len(said.texts):
        said, asked = _parted(said, _BETWEEN), {**asked, "split": _BETWEEN.pattern}
    elif SETS.match(key) and any(_LIST.fullmatch(text) for text in said.texts):
        said, asked = _parted(said, _COMMA), {**asked, "split": _COMMA.pattern}
    return Place(sort, asked, "value", key, section, said, general=general)


def _parted(said: Said, between: re.Pattern[str]) -> Said:
    """Each of the texts that values list, where it stands."""
    parts = Said()
    for text, path, where in zip(said.texts, said.paths, said.wheres, strict=True):
        at = 0
        for part in between.split(text):
            parts.add(part, path, int(where) + at if part else where)
            found = between.search(text, at)
            at = found.end() if found is not None else at
    return parts


def _alike(sections: Iterable[str]) -> Mapping[str, str]:
    """Sections that are records of one sort by what they are called, with what all of those are called like."""
    found: dict[str, list[str]] = {}
    for section in sections:
        if (sort := _SORT.fullmatch(section)) is not None:
            found.setdefault(sort["sort"] + sort["joint"], []).append(section)
    return {one: f"{head}*" for head, ones in found.items() if len(ones) >= _ALIKE for one in ones}


def _are_names(sections: Said, keys: _Pairs) -> bool:
    """Whether sections are records that are each called so: none is there twice, and most of what they say is said by
    half of them or more. What one of them says is no sort of its own."""
    often = _records(keys)
    shared = sum(count for count in often.values() if 2 * count >= len(keys))
    return len({*sections.texts}) == len(sections.texts) > _TABLE and 2 * shared >= often.total()


def _records(keys: _Pairs) -> Counter[str]:
    """In how many sections of different names each key is: keys of records are in many, names in one."""
    return Counter(key for said in keys.values() for key in set(said.texts))


def _of_section(
    sort: Sort, section: str, keys: Said, values: _Pairs, known: Mapping[str, _Everywhere], often: Mapping[str, int]
) -> Iterator[Place]:
    """What only the sections of one name say."""
    shared = sum(often[key] >= _ALIKE for key in set(keys.texts)) * 2 > len(set(keys.texts))
    if len(keys.texts) >= _TABLE and not shared:
        yield Place(sort, {"section": section, "keys": True}, "key", "", section, keys)
    if len(values) >= _TABLE and not shared:
        yield Place(sort, {"section": section, "key": "*"}, "value", "", section, joined(list(values.values())))
    yield from _narrower(sort, section, section, values, known)


def _of_sections(
    sort: Sort,
    alike: Mapping[str, str],
    sections: Said,
    by_section: Mapping[str, _Pairs],
    known: Mapping[str, _Everywhere],
) -> Iterator[Place]:
    """What the sections say that are called alike, and what each of them is called behind that."""
    together: dict[str, dict[str, list[Said]]] = {}
    called: dict[str, Said] = {}
    for section, glob in alike.items():
        for key, said in by_section.get(section, {}).items():
            together.setdefault(glob, {}).setdefault(key, []).append(said)
    for section, path, where in zip(sections.texts, sections.paths, sections.wheres, strict=True):
        if section in alike:
            head = alike[section][:-1]
            called.setdefault(alike[section], Said()).add(section[len(head) :], path, where)
    for glob, said in called.items():
        word = glob[:-1].rstrip("_.:/ -")
        pattern = f"^{re.escape(glob[:-1])}(?P<value>.+)$"
        yield Place(sort, {"sections": True, "section": glob, "only": pattern}, "name", word, "", said)
        values = {key: joined(parts) for key, parts in together.get(glob, {}).items()}
        yield from _narrower(sort, glob, word, values, known)


def _narrower(
    sort: Sort, section: str, around: str, values: _Pairs, known: Mapping[str, _Everywhere]
) -> Iterator[Place]:
    """Values by key in some sections, where others have the key as well."""
    for key, one in values.items():
        if known[key].values > len(one.texts):
            # What all sections have, such as a name, is in those of one sort another thing.
            general = None if key.lower() in NAMING and "*" in section else known[key].place
            yield _valued(sort, {"section": section, "key": key}, key, around, one, general)
