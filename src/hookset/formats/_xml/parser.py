"""The one way that XML is parsed: without entities, document types and the network."""

from __future__ import annotations

from lxml import etree

__all__ = ["parser"]


def parser(*, large: bool = False) -> etree.XMLParser:
    """A parser for one file or snippet; for a large one if another parser has read it already, and found no harm."""
    return etree.XMLParser(encoding="utf-8", resolve_entities=False, no_network=True, load_dtd=False, huge_tree=large)
