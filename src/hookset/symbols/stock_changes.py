"""What another version of the base game has and has not, and what of that a map counts on."""

from __future__ import annotations

from msgspec import Struct

from hookset.config.layouts import Kind
from hookset.model import Reference, Spot
from hookset.project import Stock
from hookset.symbols.analysis import Analysis
from hookset.symbols.locate import spots_in

__all__ = ["KindChange", "StockChanges", "stock_changes"]


class KindChange(Struct, frozen=True):
    """The names of one kind."""

    kind: Kind
    dropped: tuple[str, ...]
    added: tuple[str, ...]


class StockChanges(Struct, frozen=True):
    """All that differs."""

    kinds: tuple[KindChange, ...]
    """Those of which anything differs."""
    used: tuple[tuple[Reference, Spot], ...]
    """Where the map uses what is dropped and does not define it itself."""


def stock_changes(old: Stock, new: Stock, analysis: Analysis) -> StockChanges:
    """Compare two stocks for a map that is read by its layout."""
    layout, index = analysis.web.layout, analysis.index
    changes: list[KindChange] = []
    dropped: dict[str, frozenset[str]] = {}
    for kind in layout.kinds.values():
        before, after = ({kind.key(name): name for name in stock.names(kind.name)} for stock in (old, new))
        gone, come = (
            sorted(one[key] for key in one.keys() - other.keys()) for one, other in ((before, after), (after, before))
        )
        if gone or come:
            changes.append(KindChange(kind, tuple(gone), tuple(come)))
            dropped[kind.name] = frozenset(map(kind.key, gone))
    used = [
        block.reference(file.path, row)
        for file in analysis.web.files
        for block in file.referred
        if block.use and block.kind in dropped
        for row, name in enumerate(block.names)
        if layout.kinds[block.kind].key(name) in dropped[block.kind] and not index.get(block.kind, name)
    ]
    places = spots_in(analysis.web, [(one.path, one.where) for one in used], None)
    found = ((one, places[one.path, one.where]) for one in used)
    return StockChanges(tuple(changes), tuple(sorted(found, key=lambda pair: (pair[1], pair[0].name))))
