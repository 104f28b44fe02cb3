"""Which files the game comes to load, and on which side, beginning with those it reads of its own accord."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

from hookset.core.model import EVERY_SIDE, sides_meet
from hookset.core.web.collect import Web
from hookset.core.web.facts import Referred
from hookset.core.web.index import Index

__all__ = ["Reach", "reach_of"]

_FEW = 8


@dataclass(frozen=True, slots=True)
class Reach:
    """The sides that each file is loaded on; a file that nothing loads is not in it."""

    sides: dict[str, frozenset[str]]
    via: dict[str, tuple[str, Referred]]
    """For each file that another makes the game load: that other one, and the references of it that do so first."""

    def __contains__(self, path: str) -> bool:
        return path in self.sides

    def on(self, path: str, side: str) -> bool:
        """Whether the file is loaded on a side (on any, for EVERY_SIDE)."""
        loaded = self.sides.get(path, frozenset())
        return bool(loaded) if side == EVERY_SIDE else side in loaded


def reach_of(web: Web, index: Index) -> Reach:
    """Follow every use from the layout's roots. Without roots, every file counts as loaded."""
    every = web.layout.sides or (EVERY_SIDE,)
    own_sides = {file.path: (file.side,) if file.side else every for file in web.files}
    if not web.layout.roots and not web.layout.root_names:
        return Reach({path: frozenset(sides) for path, sides in own_sides.items()}, {})
    facts = {file.path: file for file in web.files}
    loaded: dict[str, set[str]] = {}
    via: dict[str, tuple[str, Referred]] = {}
    waiting: deque[tuple[str, str]] = deque()

    def load(path: str, side: str) -> None:
        if side in own_sides[path] and side not in loaded.setdefault(path, set()):
            loaded[path].add(side)
            waiting.append((path, side))

    for path, sides in own_sides.items():
        if any(root.matches(path) for root in web.layout.roots):
            for side in sides:
                load(path, side)
    for kind, names in web.layout.root_names.items():
        for definition in (definition for name in names for definition in index.get(kind, name)):
            for side in own_sides[definition.path]:
                if sides_meet(definition.side, side):
                    load(definition.path, side)
    owners = _few_owners(web)
    while waiting:
        path, side = waiting.popleft()
        for block in facts[path].referred:
            if block.use and not web.layout.kinds[block.kind].entry.reached:
                at = block.side or side
                few = owners.get(block.kind)
                if few is not None and all(at in loaded.get(one, ()) or at not in own_sides[one] for one in few):
                    # All that could be meant is loaded already: in a scene, most links are to what stands in it.
                    continue
                for target in _targets(index, block, at):
                    if target not in loaded:
                        via[target] = path, block
                    load(target, at)
    return Reach({path: frozenset(sides) for path, sides in sorted(loaded.items()) if sides}, via)


def _few_owners(web: Web) -> dict[str, tuple[str, ...]]:
    """For kinds that few files define names of: which."""
    owners: dict[str, dict[str, None]] = {kind: {} for kind in web.layout.kinds}
    for file in web.files:
        for block in file.defined:
            owners[block.kind][file.path] = None
    return {kind: tuple(paths) for kind, paths in owners.items() if len(paths) <= _FEW}


def _targets(index: Index, block: Referred, side: str) -> dict[str, None]:
    """The files that references make the game load on a side, in an order that is always the same. Names built at run
    time lead nowhere that could be told."""
    if not block.patterns and not block.others:
        owners = (index.block(number) for number in sorted(index.blocks_of(block.kind, block.names)))
        return dict.fromkeys(path for path, own in owners if sides_meet(own.side, side))
    found: dict[str, None] = {}
    for row, name in enumerate(block.names):
        if row not in block.patterns:
            for one in (name, *block.others.get(row, ())):
                places = list(index.places(block.kind, one))
                if places:
                    found |= dict.fromkeys(path for path, own in places if sides_meet(own, side))
                    break
    return found
