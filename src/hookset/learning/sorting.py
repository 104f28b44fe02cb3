"""Files that are written alike, by what they say: those that say the same at their top are of one sort."""

from __future__ import annotations

import posixpath
from collections import Counter
from collections.abc import Collection, Iterator, Mapping, Sequence
from typing import Any

from hookset.formats import Document
from hookset.learning.dialects import Dialect
from hookset.learning.families import SEVERAL
from hookset.learning.heads import Records, number_head, own_head, section_head, tags_of

__all__ = ["MOST_ALONE", "told_apart"]

MOST_ALONE = 12
"""Files in a folder that are each of a sort of their own, or patterns by which files of one sort are named, before that
is no sort that anybody would make of them."""
_MOST_TABLES = 60
"""Files with sections of records, each perhaps of a sort of its own: more are all of one sort."""
_SAME_NAMES = 0.8
"""Of the names of records in a table: those that records of another have, where it is about those."""
_FEW_TABLES, _OWN_NAMES = 2, 0.5
"""Files that have a record of the same name, and how many names are in no more files, where those are tables by
names."""


def told_apart(dialect: Dialect, documents: Mapping[str, Document]) -> Iterator[dict[str, Document]]:
    """Files that a dialect reads, by sorts."""
    heads: dict[Any, dict[str, Document]] = {}
    many = Counter(map(posixpath.dirname, documents)) if dialect.head is own_head else Counter[str]()
    head_of = number_head if dialect.head is section_head and not _are_tables(documents) else dialect.head
    for path, document in documents.items():
        folder = posixpath.dirname(path)
        # Nobody writes dozens of lists of different sorts into one folder.
        head = folder if many[folder] > MOST_ALONE else head_of(path, document)
        heads.setdefault(head, {})[path] = document
    for whole in _joined(heads):
        yield from _by_name(dialect, whole)


def _are_tables(documents: Mapping[str, Document]) -> bool:
    """Whether most files have sections of records and are tables of different things: none is called as another is in
    another folder, and few names of records are in several. Otherwise the files, or the folders, are what there is one
    of each."""
    found = {path: section_head(path, document) for path, document in documents.items()}
    heads = [head for head in found.values() if isinstance(head, Records)]
    if not 1 < len(heads) <= _MOST_TABLES or 2 * len(heads) < len(documents):
        return False
    often = Counter(name for head in heads for name in head.names)
    own = sum(count <= _FEW_TABLES for count in often.values())
    return len({head.name for head in heads}) == len(heads) and own >= _OWN_NAMES * len(often)


def _by_name(dialect: Dialect, found: dict[str, Document]) -> Iterator[dict[str, Document]]:
    """Files in XML that are called alike in several folders, by themselves where they say other things than the rest
    does."""
    if dialect.format != "xml":
        yield found
        return
    named: dict[tuple[str, str], list[str]] = {}
    for path in found:
        named.setdefault((path.partition("/")[0], posixpath.basename(path)), []).append(path)
    several = [alike for alike in named.values() if SEVERAL <= len(alike) < len(found)]
    words = {path: tags_of(document) for path, document in found.items()} if several else {}
    often = Counter(tag for tags in words.values() for tag in tags)
    rest = dict(found)
    for alike in several:
        mine = Counter(tag for path in alike for tag in words[path])
        others = frozenset(tag for tag, count in often.items() if count > mine[tag])
        if not _alike(frozenset(mine), others):
            yield {path: rest.pop(path) for path in alike}
    if rest:
        yield rest


def _joined(heads: Mapping[Any, dict[str, Document]]) -> Iterator[dict[str, Document]]:
    """The files of each head. Tables of records that are called alike are of one sort, and so are those whose records
    have much in common."""
    tables: list[tuple[Collection[str], dict[str, Document]]] = []
    named: dict[str, dict[str, Document]] = {}
    for head, found in heads.items():
        if isinstance(head, Records):
            named.setdefault(head.name, {}).update(found)
        else:
            yield found
    first = {head.name: head for head in reversed([*heads]) if isinstance(head, Records)}
    beside = _beside_others([head for name, head in first.items() if len(named[name]) == 1])
    for name, found in named.items():
        alone = len(found) > 1 or name in beside
        like = [] if alone else [one for keys, one in tables if _alike(keys, first[name].common)]
        if like:
            like[0].update(found)
        else:
            tables.append(((), dict(found)) if alone else (first[name].common, dict(found)))
    yield from (found for _, found in tables)


def _beside_others(tables: Sequence[Records]) -> frozenset[str]:
    """Files with tables of records that are called as those of one other file are: each is about those, as one with the
    texts of what another defines, and is of one sort with no others. Not looked for among very many."""
    found: set[str] = set()
    often = Counter(name for one in tables for name in one.names)
    for one in tables if len(tables) <= _MOST_TABLES else ():
        own = frozenset(name for name in one.names if often[name] <= _FEW_TABLES)
        for other in tables:
            if one is not other and own and len(own & other.names) >= _SAME_NAMES * len(one.names):
                found |= {one.name, other.name}
    return frozenset(found)


def _alike(one: Collection[str], other: Collection[str]) -> bool:
    both = {*one} & {*other}
    return 2 * len(both) > len({*one, *other})
