"""A map read by the layout that was learned of it, without parsing its files again."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import msgspec

from hookset.config.layouts import Layout, ReadRule, map_words
from hookset.formats import Document, format_named
from hookset.formats.document import fresh
from hookset.learning.material import Material
from hookset.project import Stock
from hookset.symbols import UNREAD, Analysis, Read, completed, open_document, read_file, way_of
from hookset.trees import Tree

__all__ = ["previewed"]


def previewed(material: Material, layout: Layout, stock: Stock) -> Analysis:
    """The names of a map by a layout, which should read most files as they were read to be learned from."""
    parsed = _parsed(material)

    def opener(tree: Tree, path: str, rule: ReadRule, again: bool) -> Document:
        document = parsed[path].get(way_of(rule))
        return fresh(document) if document is not None else open_document(tree, path, rule, again)

    tree, words = material.tree, map_words(material.tree, layout)
    known = {path: Read(read_file(tree, path, layout, words, opener), UNREAD) for path in parsed}
    return Analysis(completed(tree, layout, stock, known))


def _parsed(material: Material) -> Mapping[str, Mapping[tuple[Any, ...], Document]]:
    """The parsed files, by path and by how a rule would have to read them."""
    found: dict[str, dict[tuple[Any, ...], Document]] = {}
    for sort in material.sorts:
        options = msgspec.convert(dict(sort.options), format_named(sort.format).options)
        for path, document in sort.documents.items():
            found.setdefault(path, {})[sort.format, sort.encodings, options] = document
    return found
