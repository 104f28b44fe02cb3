"""What a map has that entries are filled in with: the names that are taken, an id by the path it stands for."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from functools import partial
from typing import Any

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from hookset.config.layouts import Layout, map_words
from hookset.config.layouts.rules import ReadRule
from hookset.config.layouts.schema import LookupEntry
from hookset.config.sheets import nearest
from hookset.formats import Document, Unreadable, format_named
from hookset.formats.document import records_of
from hookset.model import CouldNotError
from hookset.project import Stock
from hookset.symbols.reading import open_document, read_file
from hookset.trees import Glob, Tree

__all__ = ["LookedUp", "MapValues"]


class LookedUp(Struct, frozen=True):
    """What a table of the map has for a key."""

    value: str = ""
    by: str = ""
    """Where it stands, in words."""
    lacking: str = ""
    """Why there is no value; empty where there is one."""
    details: tuple[str, ...] = ()
    absent: bool = False
    """There is no such key: an entry could be made."""


class _Table(Struct, frozen=True):
    """What the files of a table have."""

    keys: tuple[str, ...] = ()
    values: Mapping[str, tuple[tuple[str, str], ...]] = {}
    """By key: (value, path) of each row. Where the look-up has no key, all values are below the empty one."""
    lacking: str = ""


@dataclass(frozen=True)
class MapValues:
    """What entries are filled in with in a map: names that are taken, tables of ids. Each is read once."""

    layout: Layout
    tree: Tree
    stock: Stock
    _names: dict[str, frozenset[str]] = field(default_factory=dict, repr=False, compare=False)
    _tables: dict[str, _Table] = field(default_factory=dict, repr=False, compare=False)

    def with_more(self, tree: Tree, more: Iterable[MapValues]) -> MapValues:
        """The same once the tree holds what was in files of its own: the names that are known need not be read."""
        known = {kind: names.union(*(one.names(kind) for one in more)) for kind, names in self._names.items()}
        return MapValues(self.layout, tree, self.stock, known)

    def names(self, kind: str) -> frozenset[str]:
        """The names of a kind that map and stock have. Only the files that can define any are read."""
        if kind not in self._names:
            # Kinds that are of one kind share their names, and their numbers.
            found = (self._read_names(one) for one in sorted(self.layout.kin.get(kind, {kind})))
            self._names[kind] = frozenset().union(*found)
        return self._names[kind]

    def _read_names(self, kind: str) -> Iterator[str]:
        yield from self.stock.names(kind)
        yield from self.layout.kinds[kind].entry.vocabulary
        rules = tuple(rule for rule in map(partial(_defining, kind), self.layout.reads) if rule.defines)
        layout = replace(self.layout, reads=rules)
        words = map_words(self.tree, self.layout)
        for path in self.tree.paths():
            if any(rule.match(path) is not None for rule in rules):
                facts = read_file(self.tree, path, layout, words)
                yield from (name for block in facts.defined for name in block.names)

    def look_up(self, entry: LookupEntry, key: str) -> LookedUp:
        """The value that a table has for a key, or why there is none."""
        if entry.name not in self._tables:
            self._tables[entry.name] = self._read_table(entry)
        table = self._tables[entry.name]
        if table.lacking:
            return LookedUp(lacking=table.lacking)
        found = table.values.get(key if entry.key else "", ())
        values = sorted({value for value, _ in found})
        where = ", ".join(dict.fromkeys(path for _, path in found))
        if len(values) == 1:
            return LookedUp(values[0], f"in {where}")
        if values:
            return LookedUp(
                lacking=f"there are {len(values)} of them in {where}",
                details=tuple(f"{value}, in {path}" for value, path in dict.fromkeys(found))[:12],
            )
        if not entry.key:
            return LookedUp(lacking=f"there is none in {entry.file}", absent=True)
        near = nearest(key, sorted(set(table.keys)))
        return LookedUp(lacking=f"`{key}` is not in {entry.file}{near}", absent=True)

    def _read_table(self, entry: LookupEntry) -> _Table:
        glob = Glob(entry.file)
        keys: list[str] = []
        values: dict[str, list[tuple[str, str]]] = {}
        for path in self.tree.paths():
            rule = self.layout.text_rule(path) if glob.matches(path) else None
            if rule is None:
                continue
            try:
                selector = msgspec.convert(entry.ask, format_named(rule.format).selector)
                document = open_document(self.tree, path, rule)
            except msgspec.ValidationError as error:
                own = f": {error.__cause__}" if isinstance(error.__cause__, ValueError) else ""
                return _Table(lacking=f"`ask` is not what {rule.format} files are asked with{own}")
            except (Unreadable, CouldNotError) as error:
                return _Table(lacking=f"{path} {error.what}")
            for key, value in _rows(document, selector, entry):
                keys.append(key)
                if value is not None:
                    values.setdefault(key, []).append((value, path))
        return _Table(tuple(keys), {key: tuple(found) for key, found in values.items()})


def _defining(kind: str, rule: ReadRule) -> ReadRule:
    """What of a rule tells the names of a kind."""
    defines = tuple(define for define in rule.defines if define.kind == kind)
    return msgspec.structs.replace(rule, defines=defines, refers=(), record=None)


def _rows(document: Document, selector: Any, entry: LookupEntry) -> Iterator[tuple[str, str | None]]:
    """(key, value) of each row; the key is empty where the look-up has none."""
    if not entry.key:
        yield from (("", value.text) for value in document.select(selector))
        return
    for _, record in records_of(document, selector):
        key = _text(record, entry.key)
        if key is not None:
            yield key, _text(record, entry.value)


def _text(record: Any, field: str) -> str | None:
    value = record.get(field) if isinstance(record, dict) else None
    if isinstance(value, bool) or value is None:
        return None
    return str(value) if isinstance(value, str | int | float) else None
