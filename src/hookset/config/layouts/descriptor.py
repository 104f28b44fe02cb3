"""What a map says of itself: its name and version."""

from __future__ import annotations

from hookset.config.layouts.layout import Layout
from hookset.formats import Unreadable, format_named, text_of
from hookset.model import CouldNotError
from hookset.trees import Tree

__all__ = ["map_words"]


def map_words(tree: Tree, layout: Layout) -> dict[str, str]:
    """`map` and `version` as the descriptor has them; empty where it does not say, or cannot be read."""
    entry = layout.descriptor
    if entry is None or not tree.has(entry.file):
        return {"map": "", "version": ""}
    form = format_named(entry.rule.format)
    try:
        text = text_of(form, tree.read(entry.file), entry.rule.encodings)
        document = form.open(text, entry.rule.options)
        name, version = (
            "" if selector is None else next((value.text for value in document.select(selector)), "")
            for selector in (entry.name, entry.version)
        )
    except (Unreadable, CouldNotError):
        # `check` tells what is wrong with it.
        return {"map": "", "version": ""}
    return {"map": name, "version": version}
