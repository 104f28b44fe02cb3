"""Reading the files of a base game or a library by a layout: what a map can count on without having it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import msgspec
from msgspec.structs import replace

from hookset.config.layouts import Layout, map_words
from hookset.formats import Unreadable, format_named
from hookset.formats._media import in_words
from hookset.formats.document import facts_of, wording_at
from hookset.model import CouldNotError, Definition, Where
from hookset.project import MapProject
from hookset.project.stocks import Stock, StockList, StockNames, StockRow
from hookset.symbols.cache import FactsCache
from hookset.symbols.collect import Web, collect
from hookset.symbols.facts import FileFacts
from hookset.symbols.reading import open_document, read_file
from hookset.trees import Tree

__all__ = ["rooted", "rows_like", "stock_rows"]

_MADE = "made at run time"


def stock_rows(tree: Tree, layout: Layout, kinds: frozenset[str]) -> Iterator[StockRow]:
    """Every name of these kinds (of every kind but the manifest's, for none), with its file's particulars."""
    skipped = layout.manifest.kind if layout.manifest else ""
    words = map_words(tree, layout)
    for path in tree.paths():
        facts = read_file(tree, path, layout, words)
        definitions = [d for d in facts.definitions if not kinds or d.kind in kinds]
        for row in _rows(tree, layout, facts, [d for d in definitions if d.kind != skipped]):
            yield msgspec.structs.replace(row, name=layout.kinds[row.kind].entry.stock_prefix + row.name)
        for block in facts.made:
            if (not kinds or block.kind in kinds) and block.kind != skipped:
                prefix = layout.kinds[block.kind].entry.stock_prefix
                names = (name for name in block.names if name.strip("*"))
                yield from (StockRow(block.kind, prefix + name, block.side, path, _MADE) for name in names)


def rows_like(web: Web, part: str, kind: str | None, most: int) -> list[StockRow]:
    """The first `most` names of a map that hold `part`, whatever their letter case, with their files' particulars."""
    skipped = web.layout.manifest.kind if web.layout.manifest else ""
    folded = part.casefold()
    found: dict[tuple[str, str, str, str], Definition] = {}
    for file in web.files:
        for block in file.defined:
            if block.kind == (kind or block.kind) and block.kind != skipped:
                for row, name in enumerate(block.names):
                    if folded in name.casefold():
                        found[block.kind, name, block.side, file.path] = block.definition(file.path, row)
    shown: dict[str, list[Definition]] = {}
    for key in sorted(found)[:most]:
        shown.setdefault(key[3], []).append(found[key])
    files = (file for file in web.files if file.path in shown)
    return sorted(row for file in files for row in _rows(web.tree, web.layout, file, shown[file.path]))


def _rows(tree: Tree, layout: Layout, file: FileFacts, definitions: list[Definition]) -> Iterator[StockRow]:
    """Definitions of one file, with what is worth knowing of each."""
    path = file.path
    # Particulars belong to the file itself; a table's other names would all repeat them.
    detail = _particulars(tree, file, layout) if any(d.kind in layout.path_kinds for d in definitions) else ""
    texts = _texts(tree, path, layout, [d for d in definitions if layout.kinds[d.kind].entry.each])
    for definition in definitions:
        text = texts.get(definition.where, "")
        words_of = f"{definition.variant}: {text}" if text else definition.variant
        told = detail if definition.kind in layout.path_kinds else words_of
        yield StockRow(definition.kind, definition.name, definition.side, path, told)


def _texts(tree: Tree, path: str, layout: Layout, definitions: list[Definition]) -> dict[Where, str]:
    """What entries say that are there once per language."""
    found: dict[Where, str] = {}
    for rule in layout.reads if definitions else ():
        if rule.format != "any" and rule.match(path) is not None:
            try:
                document = open_document(tree, path, rule)
            except (Unreadable, CouldNotError):
                continue
            found |= {d.where: text for d in definitions if (text := wording_at(document, d.where))}
    return found


def rooted(project: MapProject, cache_of: Callable[[Path], FactsCache | None]) -> MapProject:
    """The project with what its content roots have in its stock: asked each time, since they can change like the map.
    `cache_of` says where it is remembered what the files of a root say."""
    groups: list[StockList] = []
    for name, tree in project.roots:
        web = collect(tree, project.layout, Stock(), cache_of((project.root / name).resolve()))
        groups.append(StockList(name, tuple(_names_in(web))))
    return replace(project, stock=Stock((*project.stock.sources, *groups))) if groups else project


def _names_in(web: Web) -> Iterator[StockNames]:
    """What the files of a base game or a library define, by kind and side."""
    skipped = web.layout.manifest.kind if web.layout.manifest else ""
    names: dict[tuple[str, str], dict[str, None]] = {}
    for file in web.files:
        for block in file.defined:
            if block.kind != skipped:
                names.setdefault((block.kind, block.side), {}).update(dict.fromkeys(block.names))
        for block in file.made:
            if block.kind != skipped:
                made = dict.fromkeys(name for name in block.names if name.strip("*"))
                names.setdefault((block.kind, block.side), {}).update(made)
    for (kind, side), found in names.items():
        prefix = web.layout.kinds[kind].entry.stock_prefix
        yield StockNames(kind=kind, side=side, names=tuple(prefix + name for name in found))


def _particulars(tree: Tree, file: FileFacts, layout: Layout) -> str:
    """What is worth knowing of a file before it is used; empty for formats that have nothing to tell."""
    told: list[str] = []
    for rule in layout.reads:
        # Of a table of a million things there is nothing to tell: it need not be read for that.
        if format_named(rule.format).has_facts and rule.match(file.path) is not None:
            try:
                told += in_words(facts_of(open_document(tree, file.path, rule)))
            except (Unreadable, CouldNotError):
                continue
    told += (f"damaged: {problem.what}" for problem in file.problems if problem.damage)
    return ", ".join(dict.fromkeys(told))
