"""Every reference against every definition: met in the map, met by the stock, missing, or not to be decided."""

from __future__ import annotations

from enum import Enum

from msgspec import Struct

from hookset.core.layouts import Kind
from hookset.core.model import EVERY_SIDE, Definition, Reference, sides_meet
from hookset.core.trees import joined
from hookset.core.web.collect import Web
from hookset.core.web.index import Index
from hookset.core.web.reach import Reach

__all__ = ["Miss", "Outcome", "Resolution", "resolve_all"]


class Outcome(Enum):
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


def resolve_all(web: Web, index: Index, reach: Reach) -> tuple[Resolution, ...]:
    """One resolution for each reference, in file order."""
    return tuple(_resolve(reference, web, index, reach) for file in web.files for reference in file.references)


def _resolve(reference: Reference, web: Web, index: Index, reach: Reach) -> Resolution:
    kind = web.layout.kinds[reference.kind]
    if reference.pattern or reference.kind in index.unknowable:
        return Resolution(reference, Outcome.OPEN)
    definitions = index.meant(reference)
    if not definitions:
        return _not_in_map(reference, kind, web, index)
    if kind.entry.each:
        there = {d.variant for d in definitions}
        lacking = tuple(v for v in index.variants[reference.kind] if v not in there)
        if lacking and not web.stock.sides(reference.kind, reference.name):
            return Resolution(reference, Outcome.MISSING, Miss.VARIANT, tuple(definitions), lacking)
    if kind.entry.sided or kind.entry.reached:
        return _on_each_side(reference, kind, definitions, web, reach)
    return Resolution(reference, Outcome.MAP, None, tuple(definitions))


def _not_in_map(reference: Reference, kind: Kind, web: Web, index: Index) -> Resolution:
    if any(kind.key(word) == kind.key(reference.name) for word in kind.entry.vocabulary):
        return Resolution(reference, Outcome.STOCK)
    if kind.entry.path and joined("", reference.name) is None:
        return Resolution(reference, Outcome.MISSING, Miss.OUTSIDE)
    if stock_sides := web.stock.sides(reference.kind, reference.name):
        lacking = tuple(s for s in _sides_of(reference, web) if not any(sides_meet(s, other) for other in stock_sides))
        if lacking and kind.entry.sided:
            return Resolution(reference, Outcome.MISSING, Miss.SIDE, (), lacking)
        return Resolution(reference, Outcome.STOCK)
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
    stock = web.stock.sides(reference.kind, reference.name)
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
