"""Every reference against every definition: met in the map, met by the stock, missing, or not to be decided."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from enum import Enum
from typing import Any

from msgspec import Struct, structs

from hookset.config.layouts import Kind
from hookset.model import EVERY_SIDE, Definition, Reference, sides_meet
from hookset.symbols.before import ALL_MET, Before, is_plain, known_before
from hookset.symbols.collect import Web, changed_files
from hookset.symbols.facts import FileFacts, Referred
from hookset.symbols.index import Index
from hookset.symbols.many_names import Names
from hookset.symbols.owners import belongings, owner_and_name
from hookset.symbols.reach import Reach
from hookset.symbols.settled import Rest, Settled
from hookset.trees import joined

__all__ = ["Miss", "Outcome", "Resolution", "Resolutions", "resolve", "resolve_all", "settled_by"]


class Outcome(Enum):
    """Whether a reference resolves, and by what."""

    MAP = "in the map"
    STOCK = "in the stock"
    MISSING = "missing"
    OPEN = "not checkable"


class Miss(Enum):
    """How a reference is missing."""

    ABSENT = "absent"
    CASE = "letter case"
    FORM = "normal form"
    SIDE = "other side"
    UNLOADED = "not loaded"
    VARIANT = "variant"
    OUTSIDE = "outside"
    SEPARATOR = "separators"
    ENDING = "ending"


class Resolution(Struct, frozen=True):
    """What became of one reference."""

    reference: Reference
    outcome: Outcome
    miss: Miss | None = None
    hits: tuple[Definition, ...] = ()
    """What meets it; for a miss, what nearly does."""
    lacking: tuple[str, ...] = ()
    """For a miss by side or variant: where it is not."""
    spelling: str = ""
    """For a miss by letter case, separators or ending: how it is really called."""


class Resolutions(Struct, frozen=True):
    """What became of all references. Those that are met are counted, and looked at one by one only when asked for."""

    web: Web
    index: Index
    reach: Reach
    in_map: int
    in_stock: int
    missing: tuple[Resolution, ...]
    """In file order, as the next."""
    open: tuple[Resolution, ...]
    rest: Mapping[str, dict[int, Rest]]
    """By path and number of the block: where not all are met by the map."""

    def __len__(self) -> int:
        return self.in_map + self.in_stock + len(self.missing) + len(self.open)

    def __iter__(self) -> Iterator[Resolution]:
        """Every reference in file order."""
        judge = _Judge(self.web, self.index, self.reach)
        for file in self.web.files:
            for block in file.referred:
                for row in range(len(block.names)):
                    yield judge.resolution(block.reference(file.path, row))

    def written_with(self, part: str, kinds: Collection[str]) -> Iterator[Reference]:
        """References of some kinds that are written with `part` in them."""
        for file in self.web.files if kinds else ():
            for block in file.referred:
                if block.kind in kinds:
                    for row, text in enumerate(block.written or block.names):
                        if part in text:
                            yield block.reference(file.path, row)

    def used(self, kinds: Collection[str]) -> Iterator[Reference]:
        """References of some kinds by what the game loads, as far as the names are known."""
        for file in self.web.files:
            for block in file.referred if file.path in self.reach else ():
                if block.use and block.kind in kinds:
                    for row in range(len(block.names)):
                        if row not in block.patterns:
                            yield block.reference(file.path, row)


def resolve_all(web: Web, index: Index, reach: Reach, last: Resolutions | None = None) -> Resolutions:
    """Judge each reference. Most are of kinds for which being defined anywhere is enough. What the index knows to have
    been settled before is not judged again; and of the map that was judged `last`, if all names are defined as they
    were and the same files are loaded, only files are looked at that have changed or in which something is told."""
    judge = _Judge(web, index, reach)
    changed = _all_that_changed(web, index, reach, last) if last is not None else None
    if last is not None and changed is not None:
        fresh = {now.path for now, _ in changed}
        before = Before(index.settled, frozenset(last.rest.keys() - fresh), frozenset(web.layout.kinds))
        files = [file for file in web.files if file.path in last.rest or file.path in fresh]
        total = len(last) + sum(_size(now) - _size(was) for now, was in changed)
    else:
        before = known_before(web, index, reach)
        files = [file for file in web.files if not before.all_met(file)]
        total = sum(map(_size, web.files))
    all_in_stock = 0
    others: dict[Outcome, list[Resolution]] = {Outcome.MISSING: [], Outcome.OPEN: []}
    rest: dict[str, dict[int, Rest]] = {}
    for file in files:
        for number, block in enumerate(file.referred):
            known = before.rest(file.path, number, block)
            if known is ALL_MET:
                continue
            rows = known.rows if known is not None else judge.doubtful(block)
            in_stock, told = known.in_stock if known is not None else 0, []
            alike: dict[str, Resolution] = {}
            for row in rows:
                name = block.names[row]
                single = row in block.others or row in block.patterns or row in block.guards
                if single or (found := alike.get(name)) is None:
                    found = judge.resolution(block.reference(file.path, row))
                    if not single:
                        alike[name] = found
                elif found.outcome in others:
                    found = structs.replace(found, reference=block.reference(file.path, row))
                if found.outcome in others:
                    others[found.outcome].append(found)
                    told.append(row)
                elif found.outcome is Outcome.STOCK:
                    in_stock += 1
            all_in_stock += in_stock
            if in_stock or told:
                rest.setdefault(file.path, {})[number] = Rest(in_stock, tuple(told))
    missing, undecided = tuple(others[Outcome.MISSING]), tuple(others[Outcome.OPEN])
    in_map = total - all_in_stock - len(missing) - len(undecided)
    return Resolutions(web, index, reach, in_map, all_in_stock, missing, undecided, rest)


def _all_that_changed(
    web: Web, index: Index, reach: Reach, last: Resolutions
) -> list[tuple[FileFacts, FileFacts]] | None:
    """The files that say something else than they did; None where references in others may come to something else."""
    same = index.settled is not None and index.as_earlier.issuperset(web.layout.kinds)
    return changed_files(web, last.web) if same and reach.sides is last.reach.sides else None


def _size(file: FileFacts) -> int:
    """How many references there are in a file."""
    return sum([len(block.names) for block in file.referred])


def settled_by(resolutions: Resolutions) -> Settled:
    """What can be kept of what became of all references."""
    web, index = resolutions.web, resolutions.index
    return Settled(
        kinds=dict(index.digests),
        loaded=resolutions.reach.digest,
        files=dict(web.digests),
        rest=dict(resolutions.rest),
        repeated=index.names_repeated,
        guessed=index.guessed,
    )


def resolve(reference: Reference, web: Web, index: Index, reach: Reach) -> Resolution:
    """One reference by itself."""
    return _resolve(reference, web, index, reach)


class _Judge:
    """Resolves references one by one; what is asked again in the same circumstances is not worked out again."""

    def __init__(self, web: Web, index: Index, reach: Reach) -> None:
        self.web = web
        self.index = index
        self.reach = reach
        self._plain = {name: is_plain(kind, index) for name, kind in web.layout.kinds.items()}
        self._known: dict[tuple[Any, ...], Resolution] = {}
        self._by_loaded: dict[str, Mapping[str, int]] = {}

    def doubtful(self, block: Referred) -> Sequence[int]:
        """The rows of which more must be known than that their name is defined."""
        kind = self.web.layout.kinds[block.kind]
        names = block.names if kind.entry.case == "exact" else [kind.key(name) for name in block.names]
        if self._plain[block.kind]:
            rows = self.index.unknown(block.kind, names)
        elif block.kind in self.index.unknowable or kind.entry.sided:
            return range(len(names))
        elif kind.entry.each and not kind.entry.reached:
            # Being there in every variant is enough.
            rows = _beyond(self.index.in_every_variant(block.kind), names)
        elif kind.entry.each or self.web.layout.sides:
            return range(len(names))
        else:
            # Being defined in a file that is loaded is enough, and there are no sides on which it might not be.
            rows = _beyond(self._loaded(block.kind), names)
        return sorted(block.patterns.union(rows)) if block.patterns else rows

    def _loaded(self, kind: str) -> Mapping[str, int]:
        """The names of a kind that are defined in files that the game loads."""
        if kind not in self._by_loaded:
            known = self.index.known(kind)
            loaded = {number for number in set(known.values()) if self.index.block(kind, number)[0] in self.reach}
            # Of most kinds all are loaded: millions of names need not be there twice.
            self._by_loaded[kind] = (
                known
                if len(loaded) == len(set(known.values()))
                else {name: number for name, number in known.items() if number in loaded}
            )
        return self._by_loaded[kind]

    def resolution(self, reference: Reference) -> Resolution:
        sides = self.reach.sides.get(reference.path) if reference.side == EVERY_SIDE else None
        asked = (
            *(reference.kind, reference.name, reference.others, reference.pattern, reference.side, sides),
            *(reference.optional, reference.guards),
        )
        if (known := self._known.get(asked)) is None:
            known = self._known[asked] = _resolve(reference, self.web, self.index, self.reach)
        return known if known.reference == reference else structs.replace(known, reference=reference)


def _beyond(known: Collection[str], names: Names | Sequence[str]) -> list[int]:
    """The rows of names that are not among those known."""
    if all(map(known.__contains__, names)):
        return []
    return [row for row, name in enumerate(names) if name not in known]


def _resolve(reference: Reference, web: Web, index: Index, reach: Reach) -> Resolution:
    found = _judged(reference, web, index, reach)
    if found.outcome is Outcome.MISSING and (reference.optional or _idle(reference, web, index)):
        return Resolution(reference, Outcome.OPEN)
    return found


def _idle(reference: Reference, web: Web, index: Index) -> bool:
    """Whether something is not there without which the reference does not count."""
    return any(
        not index.get(kind, name)
        and not index.made_like(kind, name)
        and not web.stock.sides(kind, name)
        and not index.stock_makes(kind, name)
        for kind, name in reference.guards
    )


def _judged(reference: Reference, web: Web, index: Index, reach: Reach) -> Resolution:
    kind = web.layout.kinds[reference.kind]
    if reference.pattern or reference.kind in index.unknowable:
        return Resolution(reference, Outcome.OPEN)
    definitions = index.meant(reference)
    if not definitions:
        return _not_in_map(reference, kind, web, index)
    if kind.entry.each:
        there = {d.variant for d in definitions}
        lacking = tuple(v for v in index.variants[reference.kind] if v not in there)
        if lacking and not _stock_sides(reference, web):
            return Resolution(reference, Outcome.MISSING, Miss.VARIANT, tuple(definitions), lacking)
    if kind.entry.sided or kind.entry.reached:
        return _on_each_side(reference, kind, definitions, web, reach)
    return Resolution(reference, Outcome.MAP, None, tuple(definitions))


def _not_in_map(reference: Reference, kind: Kind, web: Web, index: Index) -> Resolution:
    meant = {kind.key(name) for name in (reference.name, *reference.others)}
    if any(kind.key(word) in meant for word in kind.entry.vocabulary):
        return Resolution(reference, Outcome.STOCK)
    if kind.entry.owned:
        return _belonging(reference, kind, web, index)
    if kind.entry.path and joined("", reference.name) is None:
        return Resolution(reference, Outcome.MISSING, Miss.OUTSIDE)
    if stock_sides := _stock_sides(reference, web):
        lacking = tuple(s for s in _sides_of(reference, web) if not any(sides_meet(s, other) for other in stock_sides))
        if lacking and kind.entry.sided:
            return Resolution(reference, Outcome.MISSING, Miss.SIDE, (), lacking)
        return Resolution(reference, Outcome.STOCK)
    if made := index.made_like(reference.kind, reference.name):
        return Resolution(reference, Outcome.OPEN, None, tuple(made))
    if index.stock_makes(reference.kind, reference.name):
        return Resolution(reference, Outcome.OPEN)
    if near := index.folded(reference.kind, reference.name):
        cased = near[0].name.casefold() == reference.name.casefold()
        return Resolution(reference, Outcome.MISSING, Miss.CASE if cased else Miss.FORM, tuple(near), (), near[0].name)
    spelling = web.stock.folded(reference.kind, reference.name)
    if spelling is not None:
        if kind.entry.case == "folded":
            return Resolution(reference, Outcome.STOCK)
        return Resolution(reference, Outcome.MISSING, Miss.CASE, (), (), spelling)
    if kind.entry.path:
        return _path_missing(reference, kind, web, index)
    return Resolution(reference, Outcome.MISSING, Miss.ABSENT)


def _belonging(reference: Reference, kind: Kind, web: Web, index: Index) -> Resolution:
    """A name that its owner does not define itself."""
    within, own = kind.entry.within, owner_and_name(reference.name)[1]
    if within and own in web.layout.kinds[within].entry.vocabulary:
        return Resolution(reference, Outcome.STOCK)
    found = belongings(index, kind, reference.name)
    if found.definitions:
        return Resolution(reference, Outcome.MAP, None, found.definitions)
    if found.made or not found.known:
        return Resolution(reference, Outcome.OPEN, None, found.made)
    if found.cased:
        spelling = f"{reference.name.removesuffix(own)}{owner_and_name(found.cased[0].name)[1]}"
        return Resolution(reference, Outcome.MISSING, Miss.CASE, found.cased, (), spelling)
    return Resolution(reference, Outcome.MISSING, Miss.ABSENT)


def _stock_sides(reference: Reference, web: Web) -> tuple[str, ...]:
    """The sides on which the base game has what a reference may mean: with each ending, below each folder."""
    names = (reference.name, *reference.others)
    kinds = (reference.kind, *web.layout.kinds_below(reference.kind))
    return tuple(side for name in names for kind in kinds for side in web.stock.sides(kind, name))


def _path_missing(reference: Reference, kind: Kind, web: Web, index: Index) -> Resolution:
    """There under other separators or with another ending, or not at all."""
    turned = reference.name.replace("\\", "/")
    if turned != reference.name:
        there = index.get(kind.name, turned)
        if there or web.stock.sides(kind.name, turned):
            return Resolution(reference, Outcome.MISSING, Miss.SEPARATOR, tuple(there), (), turned)
    endings = index.other_endings(kind.name, reference.name)
    if len(endings) == 1:
        return Resolution(reference, Outcome.MISSING, Miss.ENDING, tuple(endings), (), endings[0].name)
    return Resolution(reference, Outcome.MISSING, Miss.ABSENT)


def _on_each_side(
    reference: Reference, kind: Kind, definitions: list[Definition], web: Web, reach: Reach
) -> Resolution:
    """A sided name must be there on each side that the reference runs on, and be loaded there if its kind says so."""
    sides = _sides_of(reference, web)
    if reference.side == EVERY_SIDE and (loaded := reach.sides.get(reference.path)):
        sides = tuple(side for side in sides if side in loaded)
    stock = _stock_sides(reference, web)
    absent: list[str] = []
    unloaded: list[str] = []
    hits: list[Definition] = []
    for side in sides:
        here = [d for d in definitions if not kind.entry.sided or sides_meet(d.side, side)]
        ready = [d for d in here if not kind.entry.reached or reach.on(d.path, side)]
        hits += [d for d in ready if d not in hits]
        if not ready and not any(sides_meet(side, other) for other in stock):
            (unloaded if here else absent).append(side)
    if absent:
        return Resolution(reference, Outcome.MISSING, Miss.SIDE, tuple(definitions), tuple(absent))
    if unloaded:
        return Resolution(reference, Outcome.MISSING, Miss.UNLOADED, tuple(definitions), tuple(unloaded))
    return Resolution(reference, Outcome.MAP if hits else Outcome.STOCK, None, tuple(hits))


def _sides_of(reference: Reference, web: Web) -> tuple[str, ...]:
    return (reference.side,) if reference.side != EVERY_SIDE else web.layout.sides or (EVERY_SIDE,)
