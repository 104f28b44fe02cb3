"""The one way that XML is parsed: without entities, document types and the network."""

from __future__ import annotations

from lxml import etree

__all__ = ["parser"]


def parser() -> etree.XMLParser:
    """A parser for one file or snippet."""
    return etree.XMLParser(encoding="utf-8", resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
