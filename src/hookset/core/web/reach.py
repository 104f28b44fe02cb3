"""Which files the game comes to load, and on which side, beginning with those it reads of its own accord."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

from hookset.core.model import EVERY_SIDE, Reference, sides_meet
from hookset.core.web.collect import Web
from hookset.core.web.index import Index

__all__ = ["Reach", "reach_of"]


@dataclass(frozen=True, slots=True)
class Reach:
    """The sides that each file is loaded on; a file that nothing loads is not in it."""

    sides: dict[str, frozenset[str]]
    via: dict[str, Reference]
    """For each file that another makes the game load, the reference that does so first."""

    def __contains__(self, path: str) -> bool:
        return path in self.sides

    def on(self, path: str, side: str) -> bool:
        """Whether the file is loaded on a side (on any, for EVERY_SIDE)."""
        loaded = self.sides.get(path, frozenset())
        return bool(loaded) if side == EVERY_SIDE else side in loaded


def reach_of(web: Web, index: Index) -> Reach:
    """Follow every use from the layout's roots. Without roots, every file counts as loaded."""
    every = web.layout.sides or (EVERY_SIDE,)
    paths = [file.path for file in web.files]
    own_sides = {file.path: _own_sides(web, file.path, every) for file in web.files}
    if not web.layout.roots and not web.layout.root_names:
        return Reach({path: frozenset(own_sides[path]) for path in paths}, {})
    references = {file.path: _followed(web, file.references) for file in web.files}
    loaded: dict[str, set[str]] = {}
    via: dict[str, Reference] = {}
    waiting: deque[tuple[str, str]] = deque()

    def load(path: str, side: str) -> None:
        if side in own_sides[path] and side not in loaded.setdefault(path, set()):
            loaded[path].add(side)
            waiting.append((path, side))

    for path in paths:
        if any(root.matches(path) for root in web.layout.roots):
            for side in own_sides[path]:
                load(path, side)
    for kind, names in web.layout.root_names.items():
        for definition in (definition for name in names for definition in index.get(kind, name)):
            for side in own_sides[definition.path]:
                if sides_meet(definition.side, side):
                    load(definition.path, side)
    while waiting:
        path, side = waiting.popleft()
        for reference in references[path]:
            at = reference.side or side
            for definition in index.meant(reference):
                if sides_meet(definition.side, at):
                    if definition.path not in loaded:
                        via[definition.path] = reference
                    load(definition.path, at)
    return Reach({path: frozenset(sides) for path, sides in sorted(loaded.items()) if sides}, via)


def _followed(web: Web, references: tuple[Reference, ...]) -> list[Reference]:
    """Uses that make the game load something. Naming a callback does not load the script that registers it."""
    return [r for r in references if r.use and not r.pattern and not web.layout.kinds[r.kind].entry.reached]


def _own_sides(web: Web, path: str, every: tuple[str, ...]) -> tuple[str, ...]:
    for rule in web.layout.reads:
        match = rule.match(path)
        if match is not None and ("side" in match.words or rule.side):
            side = web.layout.side_of(match.words["side"]) if "side" in match.words else rule.side
            return (side,) if side else every
    return every
