"""What must be there first: met or not, and by what."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

from msgspec import Struct
from packaging.specifiers import SpecifierSet

from hookset.config.layouts import Layout
from hookset.model import sides_meet
from hookset.packs import HookSheet
from hookset.packs.hooksheet import NeedEntry
from hookset.symbols import Index

__all__ = ["PACK", "NeedState", "needs_state"]

PACK = "pack"
"""The kind of a need that is a pack."""


_OF_LAYOUTS: dict[str, Callable[[Layout], Iterable[str]]] = {
    "seat": lambda layout: layout.seats,
    "kind": lambda layout: layout.kinds,
    "lookup": lambda layout: layout.lookups,
}
"""Kinds of needs that are about what the layout knows."""


class NeedState(Struct, frozen=True):
    """One need and whether this map meets it."""

    need: NeedEntry
    met: bool
    by: str
    """What meets it, or why nothing does."""


def needs_state(sheet: HookSheet, index: Index, packs: Mapping[str, str]) -> tuple[NeedState, ...]:
    """Each need against the names of a map, and the packs (name → version) that are or would be there."""
    return tuple(_state(need, index, packs) for need in sheet.needs)


def _state(need: NeedEntry, index: Index, packs: Mapping[str, str]) -> NeedState:
    if need.kind == PACK:
        version = packs.get(need.name)
        if version is None:
            return NeedState(need, False, f"the pack {need.name} is not installed")
        if need.version and not SpecifierSet(need.version).contains(version, prereleases=True):
            return NeedState(need, False, f"{need.name} {version} is installed; {need.version} is needed")
        return NeedState(need, True, f"{need.name} {version} is installed")
    if need.kind in _OF_LAYOUTS:
        known = sorted(_OF_LAYOUTS[need.kind](index.layout))
        if need.name in known:
            return NeedState(need, True, f"the layout {index.layout.name} has it")
        return NeedState(need, False, f"the layout {index.layout.name} has no {need.kind} of that name")
    kind = index.layout.kinds.get(need.kind)
    if kind is None:
        return NeedState(need, False, f"the layout {index.layout.name} knows nothing of the kind {need.kind}")
    here = [d for d in index.get(need.kind, need.name) if sides_meet(d.side, need.side)]
    if here:
        return NeedState(need, True, f"in {', '.join(_unique(d.path for d in here))}")
    if any(sides_meet(side, need.side) for side in index.stock.sides(need.kind, need.name)):
        return NeedState(need, True, "in the stock")
    return NeedState(need, False, f"no {kind.label} `{need.name}` in the map or the stock")


def _unique(paths: Iterable[str]) -> list[str]:
    return list(dict.fromkeys(paths))
