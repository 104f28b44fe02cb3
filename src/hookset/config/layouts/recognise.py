"""Which layout a folder follows, and what shows it."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct

from hookset.config.layouts.layout import Layout
from hookset.trees import Glob, Tree

__all__ = ["Likeness", "recognise"]


class Likeness(Struct, frozen=True):
    """How much of a layout a tree shows."""

    layout: Layout
    seen: tuple[tuple[str, str], ...]
    """(file, what it is)"""
    lacking: tuple[tuple[str, str], ...]
    """(pattern, what it would be)"""

    @property
    def whole(self) -> bool:
        """Whether every mark of the layout was found."""
        return not self.lacking


def recognise(tree: Tree, layouts: Iterable[Layout]) -> tuple[Likeness, ...]:
    """The layouts that the tree shows something of, the likeliest first."""
    found = []
    paths = tree.paths()
    for layout in layouts:
        seen, lacking = [], []
        for mark in layout.recognise:
            glob = Glob(mark.file)
            match = next((path for path in paths if glob.matches(path)), None)
            if match is None:
                lacking.append((mark.file, mark.says))
            else:
                seen.append((match, mark.says))
        if seen:
            found.append(Likeness(layout, tuple(seen), tuple(lacking)))
    return tuple(sorted(found, key=lambda one: (len(one.lacking), -len(one.seen), one.layout.name)))
