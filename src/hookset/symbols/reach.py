"""Which files the game loads, and on which side, starting from those it always reads."""

from __future__ import annotations

from collections import deque
from collections.abc import Collection, Iterable

from msgspec import Struct

from hookset.model import EVERY_SIDE, Reference, sides_meet
from hookset.symbols.collect import Web, changed_files
from hookset.symbols.facts import FileFacts, Referred
from hookset.symbols.index import Index
from hookset.symbols.settled import digest
from hookset.trees import Globs

__all__ = ["Reach", "Reached", "reach_of", "reference_to"]

_FEW = 8


class Reach(Struct, frozen=True):
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

    @property
    def digest(self) -> bytes:
        """The same where the same files are loaded on the same sides."""
        sides = {one: ",".join(sorted(one)) for one in set(self.sides.values())}
        return digest("\n".join(f"{path}\0{sides[loaded]}" for path, loaded in self.sides.items()))


class Reached(Struct, frozen=True):
    """What was found of the same map before a change."""

    web: Web
    reach: Reach


class _Loading:
    """What has come to be loaded, and what that has still to be followed from."""

    def __init__(self, web: Web, index: Index) -> None:
        self._web = web
        self._index = index
        self._loading = _loading(web)
        every = web.layout.sides or (EVERY_SIDE,)
        self.own_sides = {file.path: (file.side,) if file.side else every for file in web.files}
        self.loaded: dict[str, set[str]] = {}
        self.via: dict[str, tuple[str, Referred]] = {}
        self._waiting: deque[tuple[str, str]] = deque()
        self._owners = _few_owners(web)
        self._followed: dict[tuple[str, str], set[int]] = {}
        """By kind and side: the numbers of the blocks of definitions that references have led to."""

    def load(self, path: str, side: str) -> None:
        if side in self.own_sides[path] and side not in self.loaded.setdefault(path, set()):
            self.loaded[path].add(side)
            self._waiting.append((path, side))

    def load_roots(self) -> None:
        """Load what the game reads by itself."""
        roots = Globs(self._web.layout.roots)
        for path, sides in self.own_sides.items():
            if roots.matches(path):
                for side in sides:
                    self.load(path, side)
        for kind, names in self._web.layout.root_names.items():
            for definition in (definition for name in names for definition in self._index.get(kind, name)):
                for side in self.own_sides[definition.path]:
                    if sides_meet(definition.side, side):
                        self.load(definition.path, side)

    def follow(self) -> None:
        """All that the files use which are loaded."""
        facts = {file.path: file for file in self._web.files}
        while self._waiting:
            path, side = self._waiting.popleft()
            for block in facts[path].referred:
                if block.use and block.kind in self._loading:
                    self._use(path, block, block.side or side)

    def _use(self, path: str, block: Referred, side: str) -> None:
        few = self._owners.get(block.kind)
        if few is not None and all(side in self.loaded.get(o, ()) or side not in self.own_sides[o] for o in few):
            # All that could be meant is loaded already: in a scene, most links are to what stands in it.
            return
        for target in self._fresh_targets(block, side):
            if target not in self.loaded:
                self.via[target] = path, block
            self.load(target, side)

    def _fresh_targets(self, block: Referred, side: str) -> Iterable[str]:
        """The files that references make the game load on a side and none has before."""
        followed = self._followed.setdefault((block.kind, side), set())
        return _targets(self._index, block, side, followed)


def reach_of(web: Web, index: Index, before: Reached | None = None) -> Reach:
    """Follow every use from the layout's roots. Without roots, every file counts as loaded. What was found `before` is
    taken over where files that have changed lead to the same files as they did."""
    if before is not None and (again := _as_before(web, index, before)) is not None:
        return again
    loading = _Loading(web, index)
    if not web.layout.roots and not web.layout.root_names:
        return Reach({path: frozenset(sides) for path, sides in loading.own_sides.items()}, {})
    loading.load_roots()
    loading.follow()
    return Reach({path: frozenset(sides) for path, sides in sorted(loading.loaded.items()) if sides}, loading.via)


def _as_before(web: Web, index: Index, before: Reached) -> Reach | None:
    """What was found before, if it is so still; None where all is to be followed once more."""
    loading = _loading(web)
    changed = changed_files(web, before.web)
    if changed is None or not loading <= index.as_earlier or any(one.side != was.side for one, was in changed):
        return None
    via = dict(before.reach.via)
    for one, was in changed:
        first: dict[str, Referred] = {}
        for side in before.reach.sides.get(one.path, ()):
            now, then = _leads(index, one, side, loading), _leads(index, was, side, loading)
            if [*now] != [*then]:
                return None
            mine = (target for target in now if via.get(target) == (one.path, then[target]))
            if any(first.setdefault(target, now[target]) is not now[target] for target in mine):
                # Which of two came first is not known.
                return None
        via |= {target: (one.path, block) for target, block in first.items()}
    return Reach(before.reach.sides, via)


def _loading(web: Web) -> frozenset[str]:
    """The kinds whose names make the game load the files that define them."""
    return frozenset(name for name, kind in web.layout.kinds.items() if not kind.entry.reached)


def _leads(index: Index, file: FileFacts, side: str, loading: Collection[str]) -> dict[str, Referred]:
    """The files that one makes the game load on a side, in order, each with the references that do so first."""
    found: dict[str, Referred] = {}
    for block in file.referred:
        if block.use and block.kind in loading:
            for target in _targets(index, block, block.side or side):
                found.setdefault(target, block)
    return found


def _few_owners(web: Web) -> dict[str, tuple[str, ...]]:
    """For kinds that few files define names of: which."""
    owners: dict[str, dict[str, None]] = {kind: {} for kind in web.layout.kinds}
    for file in web.files:
        for block in file.defined:
            owners[block.kind][file.path] = None
    return {kind: tuple(paths) for kind, paths in owners.items() if len(paths) <= _FEW}


def _targets(index: Index, block: Referred, side: str, followed: set[int] | None = None) -> Iterable[str]:
    """The files that references make the game load on a side, in an order that is always the same: without those of
    the numbered definitions that were `followed` already, to which these are added."""
    if block.patterns or block.others:
        return _looked_up(index, block, side)
    numbers = index.blocks_of(block.kind, block.names)
    if followed is not None:
        numbers -= followed
        followed |= numbers
    owners = (index.block(block.kind, number) for number in sorted(numbers))
    return dict.fromkeys(path for path, own in owners if sides_meet(own.side, side)) if numbers else ()


def _looked_up(index: Index, block: Referred, side: str) -> dict[str, None]:
    """The files that references make the game load on a side. A name built at run time may mean all that it fits,
    unless nothing of it is known."""
    found: dict[str, None] = {}
    for row, name in enumerate(block.names):
        meant = index.fitting(block.kind, name) if row in block.patterns else (name, *block.others.get(row, ()))
        for one in meant:
            places = list(index.places(block.kind, one))
            found |= dict.fromkeys(path for path, own in places if sides_meet(own, side))
            if places and row not in block.patterns:
                break
    return found


def reference_to(index: Index, block: Referred, path: str, target: str) -> Reference:
    """The first of a file's references that leads to another file."""
    for row, name in enumerate(block.names):
        meant = index.fitting(block.kind, name) if row in block.patterns else (name, *block.others.get(row, ()))
        if any(own == target for one in meant for own, _ in index.places(block.kind, one)):
            return block.reference(path, row)
    return block.reference(path, 0)
