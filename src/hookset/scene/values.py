"""What a record has to say for a thing to stand somewhere: the values, by the ways to them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from hookset.config.layouts.positions import NumberWay, PlacedRule
from hookset.formats.parts import Part
from hookset.scene.numbers import pieces_of
from hookset.scene.rows import Thing
from hookset.scene.things import turn_form
from hookset.space.transforms import Transform
from hookset.space.turns import CannotHold, numbers_of

__all__ = ["CannotSay", "Wish", "number_text", "values_for"]

Floats = NDArray[np.float64]
_PLACES = 6
"""Digits behind the point that are written: a thousandth of a millimetre."""


class CannotSay(Exception):  # noqa: N818
    """What a record cannot say by the layout's rules. `what` is in words."""

    def __init__(self, what: str) -> None:
        super().__init__(what)
        self.what = what


class Wish(Struct, frozen=True):
    """How a thing is to stand, in the space of what it stands by; None for what stays as it is."""

    at: Floats | None = None
    turn: Floats | None = None
    size: Floats | None = None

    def of(self, was: Transform) -> Transform:
        """All of it, of a thing that stood as it `was`."""
        return Transform(
            was.at if self.at is None else self.at,
            was.turn if self.turn is None else self.turn,
            was.size if self.size is None else self.size,
        )


def number_text(number: float, like: str = "") -> str:
    """A number as it is written beside `like`: with a point where that is whole and has one."""
    rounded = round(float(number), _PLACES) + 0.0
    if abs(rounded) < 1e15 and rounded.is_integer():
        pieces = pieces_of(like) or []
        pointed = any("." in like[start:end] and one.is_integer() for one, start, end in pieces)
        return f"{int(rounded)}.0" if pointed else str(int(rounded))
    return f"{rounded:.{_PLACES}f}".rstrip("0")


def _number(number: float, like: Any) -> int | float:
    """A number as data, whole where the one before it was whole and it is."""
    rounded = round(float(number), _PLACES) + 0.0
    return int(rounded) if isinstance(like, int) and rounded.is_integer() else rounded


def values_for(thing: Thing, wish: Wish, was: Transform, forward: bool) -> dict[str, Any]:
    """The values by which the record of a thing says what is wished; what is as it is already is left out. `forward`:
    angles go from 0 to a whole turn. Raises CannotSay for what the layout has no words for."""
    rule = thing.rule
    if rule.matrix and thing.part(rule.entry.matrix) is not None:
        matrix = wish.of(was).matrix
        return _row(thing, rule.matrix, matrix.T.ravel())
    found: dict[str, Any] = {}
    if wish.at is not None and not np.allclose(wish.at, was.at, atol=10.0**-_PLACES / 2):
        found |= _row(thing, rule.at, wish.at)
    if wish.turn is not None and not np.allclose(wish.turn, was.turn, atol=1e-9):
        found |= _turned(thing, rule, wish.turn, forward)
    if wish.size is not None and not np.allclose(wish.size, was.size):
        found |= _sized(thing, rule, wish.size)
    return found


def _turned(thing: Thing, rule: PlacedRule, turn: Floats, forward: bool) -> dict[str, Any]:
    if rule.turn is None:
        raise CannotSay(f"the layout does not say where {rule.entry.title} have their turn")
    try:
        numbers = numbers_of(turn_form(rule.turn), turn)
    except CannotHold:
        about = rule.turn.entry.about
        raise CannotSay(f"{rule.entry.title} are turned about {about} only, and this turn leans") from None
    whole = {"degrees": 360.0, "radians": 2 * np.pi}.get(rule.turn.entry.as_) if forward else None
    made = np.array(numbers)
    # What is written as 0 stays that: it must not become a whole turn.
    return _row(
        thing, rule.turn.numbers, made if whole is None else np.where(made < -(10.0**-_PLACES), made + whole, made)
    )


def _sized(thing: Thing, rule: PlacedRule, size: Floats) -> dict[str, Any]:
    if rule.size is None:
        raise CannotSay(f"the layout does not say where {rule.entry.title} have their size")
    if not isinstance(rule.entry.size, str):
        return _row(thing, rule.size, size)
    part = thing.part(rule.entry.size) or thing.records.first_said(rule.entry.size)
    alone = isinstance(part, Part) and not isinstance(part.value, tuple) and len(_pieces(part.value)) == 1
    even = bool(np.allclose(size, size[0]))
    if alone and not even:
        raise CannotSay("its record has one number for its size, and this size has several")
    if alone or (part is None and even):
        return _row(thing, (NumberWay(rule.entry.size),), size[:1])
    return _row(thing, rule.size, size)


def _pieces(value: Any) -> Sequence[Any]:
    return [value] if isinstance(value, int | float) else pieces_of(value) or () if isinstance(value, str) else ()


def _row(thing: Thing, ways: Sequence[NumberWay | None], numbers: Floats) -> dict[str, Any]:
    """Numbers into the values that hold them; what a value says besides stays."""
    wanted: dict[str, dict[int | None, float]] = {}
    for way, number in zip(ways, numbers, strict=True):
        if way is not None:
            wanted.setdefault(way.way, {})[way.nth] = float(number)
        elif abs(number) > 10.0**-_PLACES:
            raise CannotSay(f"the layout has nothing for one of the three numbers, which would be {number:g}")
    return {way: _written(way, numbered, thing) for way, numbered in wanted.items()}


def _written(way: str, numbered: Mapping[int | None, float], thing: Thing) -> Any:
    part = thing.part(way)
    if part is None:
        return _new(way, numbered, thing)
    value = part.value
    if isinstance(value, tuple):
        made = [one.value for one in value]
        for nth, number in numbered.items():
            if (nth or 0) >= len(made):
                raise CannotSay(f"its record has {len(made)} numbers where {(nth or 0) + 1} are needed")
            like = made[nth or 0]
            made[nth or 0] = number_text(number, like) if isinstance(like, str) else _number(number, like)
        return made
    if isinstance(value, str):
        return _respelt(value, numbered)
    return _number(next(iter(numbered.values())), value)


def _respelt(text: str, numbered: Mapping[int | None, float]) -> str:
    pieces = pieces_of(text)
    if pieces is None or len(pieces) <= max((nth or 0) for nth in numbered):
        raise CannotSay(f"`{text[:40]}` has not the numbers that are needed")
    made, end = "", 0
    for nth, (_, start, stop) in enumerate(pieces):
        own = numbered.get(nth, numbered.get(None) if nth == 0 else None)
        made += text[end:start] + (text[start:stop] if own is None else number_text(own, text[start:stop]))
        end = stop
    return made + text[end:]


def _new(way: str, numbered: Mapping[int | None, float], thing: Thing) -> Any:
    """A value that the record did not have, as others in its file write theirs, or in the manner of its position."""
    numbers = [numbered[nth] for nth in sorted(numbered, key=lambda one: one or 0)]
    like = thing.rule.at[0]
    model = thing.records.first_said(way) or (thing.part(like.way) if like is not None else None)
    said = model.value if model is not None else None
    if isinstance(said, tuple):
        first = said[0].value if said else 0.0
        if isinstance(first, str):
            texts = [number_text(one, first) for one in numbers]
            return texts if len(texts) > 1 else texts[0]
        made = [_number(one, first) for one in numbers]
        return made if len(made) > 1 or None not in numbered else made[0]
    if isinstance(said, str):
        pieces = pieces_of(said) or []
        between = said[pieces[0][2] : pieces[1][1]] if len(pieces) > 1 else " "
        return between.join(number_text(one, said) for one in numbers)
    made = [_number(one, said) for one in numbers]
    return made if len(made) > 1 else made[0]
