"""The next number that is free, in the map as it is planned so far."""

from __future__ import annotations

import re

from hookset.config.layouts import Layout
from hookset.model.digits import natural_number
from hookset.symbols.numbers import ids_among

__all__ = ["next_id", "next_suffix"]


def next_id(kind: str, layout: Layout, taken: frozenset[str]) -> tuple[str | None, str]:
    """(the id, where it came from or why there is none). `taken` are the names of the kind."""
    entry = layout.kinds[kind].entry.numbers
    if entry is None:
        return None, f"the layout does not say of {layout.kinds[kind].label}s that they are numbers"
    ids = ids_among(layout.kinds[kind], sorted(taken))
    if ids is None or ids.next is None:
        return None, f"none is left up to {entry.last}"
    way = "the first gap" if entry.free == "first-gap" else "after the highest"
    return ids.next, f"the next free {layout.kinds[kind].label}, {way}"


def next_suffix(kind: str, front: str, layout: Layout, taken: frozenset[str]) -> tuple[str, str]:
    """The number that follows the highest of the names with that front."""
    pattern = re.compile(re.escape(front) + r"(\d+)")
    numbers = [
        number
        for name in taken
        if (match := pattern.fullmatch(name)) and (number := natural_number(match[1])) is not None
    ]
    first = next((rule.entry.first for rule in layout.series if rule.entry.kind == kind), 1)
    by = f"after `{front}{max(numbers)}`" if numbers else f"the first `{front}…`"
    return str(max([first - 1, *numbers]) + 1), by
