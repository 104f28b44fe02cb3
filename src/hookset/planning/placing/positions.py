"""Where things are to stand: what the builder said, worked out in a map."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from hookset.config.sheets import nearest
from hookset.model import Spot, WrongUseError
from hookset.scene.ground import Ground, ground_of
from hookset.scene.scene import Scene
from hookset.space.transforms import Transform
from hookset.space.turns import TurnForm, matrices_of
from hookset.symbols import spots

__all__ = ["Position", "PositionWish", "positions_for", "row_called", "turn_of"]

Floats = NDArray[np.float64]
_LINE = re.compile(r"(?P<path>.+):(?P<line>[0-9]{1,9})")
_MOST = 10_000
"""Things that are put with one command."""


class PositionWish(Struct, frozen=True, kw_only=True):
    """What the builder says of where something is to stand. Places are numbers along the axes of the map."""

    at: tuple[float, ...] = ()
    """Two or three numbers; of two, the axis that goes up is left out."""
    beside: str = ""
    """At the place of something that is there."""
    by: tuple[float, ...] = ()
    """So far from there, along the axes of the map."""
    on_ground: bool = False
    """As high as the ground is there, and `by` above it."""
    turn: tuple[float, ...] | None = None
    """Degrees: one number about the axis that goes up, or three about x, y and z, in this order, of the map."""
    size: tuple[float, ...] | None = None
    """One number, or three."""
    line_to: tuple[float, ...] = ()
    """Several, along a line from the place to here."""
    count: int = 0
    """So many of them, both ends with one; in a grid, in the first row."""
    every: float = 0.0
    """Or so far from each other."""
    rows: int = 0
    """A grid: so many rows of `count`."""
    step: tuple[float, ...] = ()
    """So far from each other along the two axes of the ground."""
    listed: tuple[tuple[float, ...], ...] = ()
    """Or at each of these places; a fourth number is its turn."""


class Position(Struct, frozen=True):
    """One place, and how what stands there is turned and stretched; None for as it is."""

    at: Floats
    turn: Floats | None = None
    size: Floats | None = None


def row_called(scene: Scene, name: str) -> int:
    """The row of the one thing that is called so. Raises WrongUseError for none, and for several."""
    things = scene.things
    rows = things.by_key.get(name, ())
    if not rows:
        rows = tuple(thing.index for thing in things.by_class(name) if not thing.key)
    if not rows and (line := _LINE.fullmatch(name)) is not None:
        rows = _at_line(scene, line["path"], int(line["line"]))
    if len(rows) == 1:
        return rows[0]
    if rows:
        first = _spots(scene, rows[:1])[0]
        raise WrongUseError(
            "ambiguous-name",
            f"{len(rows)} things are called `{name}`",
            why="it is not known which of them is meant",
            remedy=f"name one by where it stands, such as {first.path}:{first.line}; `hookset where {name}` lists them",
        )
    inner = next((thing for thing in things.rows if thing.within and name in (thing.key, thing.called)), None)
    if inner is not None:
        raise WrongUseError(
            "in-prefab",
            f"`{inner.called}` stands in a prefab: its record in {inner.path} counts wherever that file is named",
            why="to change it would change all of them",
            remedy=f"edit {inner.path} if you mean that, or name {inner.within}",
        )
    known = sorted({thing.key or thing.class_ for thing in things.rows if not thing.within} - {""})
    raise WrongUseError(
        "unknown-name",
        f"nothing that stands in this map is called `{name}`{nearest(name, known)}",
        remedy="`hookset where` lists what stands where",
    )


def _at_line(scene: Scene, path: str, line: int) -> tuple[int, ...]:
    """The rows of things whose records begin in a line of a file."""
    rows = tuple(thing.index for thing in scene.things.rows if thing.path == path and not thing.within)
    return tuple(row for row, spot in zip(rows, _spots(scene, rows), strict=True) if spot.line == line)


def _spots(scene: Scene, rows: Sequence[int]) -> list[Spot]:
    """Where the records of things begin."""
    asked = [(scene.things.rows[row].path, scene.things.rows[row].where) for row in rows]
    found = spots(scene.tree, scene.layout, asked)
    return [found.get(one, Spot(one[0], 0, 0)) for one in asked]


def positions_for(scene: Scene, wish: PositionWish) -> tuple[Position, ...]:
    """The places that are wished. Raises WrongUseError for what cannot be, and for more than anybody places at once."""
    _judge(wish)
    turn, size = turn_of(scene, wish.turn), _size(wish.size)
    start, like = _start(scene, wish)
    if like is not None and turn is None and wish.turn is None:
        turn = like.turn
    ground = _ground(scene) if wish.on_ground else None
    found = []
    for at, own in _places(scene, wish, start):
        if ground is not None:
            at = _on_ground(scene, ground, at, wish)
        found.append(Position(at, turn if own is None else own, size))
        if len(found) > _MOST:
            raise WrongUseError("too-many", f"that would be more than {_MOST:,} things", remedy="place fewer at once")
    return tuple(found)


def _judge(wish: PositionWish) -> None:
    """Raises WrongUseError for a wish that says one thing twice, or of which a part would count for nothing."""
    starts = {"--at": wish.at, "--beside": wish.beside, "--list": wish.listed}
    ways = {"--line-to": wish.line_to, "--rows": wish.rows, "--list": wish.listed}
    parts = {"--count": wish.count, "--every": wish.every}
    for group in (starts, ways, parts):
        if len(given := [option for option, value in group.items() if value]) > 1:
            raise WrongUseError(
                "conflicting-options", f"{' and '.join(given)} exclude each other", remedy="give one of them"
            )
    for option, value, wanted, needed in (
        ("--count", wish.count, wish.line_to or wish.rows, "--line-to X,Y,Z or --rows N"),
        ("--every", wish.every, wish.line_to, "--line-to X,Y,Z"),
        ("--step", wish.step, wish.rows, "--rows N"),
        ("--by", wish.by, not wish.listed, "--at X,Y,Z or --beside NAME, and no --list"),
    ):
        if value and not wanted:
            raise WrongUseError("incomplete-option", f"{option} by itself says nothing", remedy=f"say {needed} as well")


def _start(scene: Scene, wish: PositionWish) -> tuple[Floats, Transform | None]:
    by = np.zeros(3) if not wish.by else _vector(scene, wish.by)
    if wish.beside:
        row = row_called(scene, wish.beside)
        whole = scene.things.transform(row)
        return scene.things.at[row] + by, whole
    if not wish.at and not wish.listed:
        raise WrongUseError("incomplete-option", "it is not said where", remedy="say --at X,Y,Z, or --beside NAME")
    return (_place(scene, wish.at, wish) if wish.at else np.zeros(3)) + by, None


def _places(scene: Scene, wish: PositionWish, start: Floats) -> Iterator[tuple[Floats, Floats | None]]:
    if wish.listed:
        for numbers in wish.listed:
            own = turn_of(scene, numbers[3:4] or None)
            yield _place(scene, numbers[:3], wish), own
    elif wish.line_to:
        end = _place(scene, wish.line_to, wish)
        for share in _shares(wish, float(np.linalg.norm(end - start))):
            yield start + share * (end - start), None
    elif wish.rows:
        first, second = ground_axes(scene)
        if len(wish.step) != 2 or wish.count < 1:
            raise WrongUseError(
                "incomplete-option",
                "a grid has so many in a row, so many rows, and a step for each of the two axes",
                remedy="write --count 4 --rows 3 --step 2,2",
            )
        for row in range(min(wish.rows, _MOST + 1)):
            for column in range(min(wish.count, _MOST + 1)):
                at = start.copy()
                at[first] += column * wish.step[0]
                at[second] += row * wish.step[1]
                yield at, None
    else:
        yield start, None


def _shares(wish: PositionWish, length: float) -> Sequence[float]:
    if wish.every > 0:
        count = min(math.floor(length / wish.every + 1e-9) + 1, _MOST + 1)
        return [index * wish.every / length for index in range(count)] if length else [0.0]
    if wish.count < 2:
        raise WrongUseError(
            "incomplete-option", "a line has two ends", remedy="say --count N, 2 or more, or --every DISTANCE"
        )
    return [index / (wish.count - 1) for index in range(min(wish.count, _MOST + 1))]


def ground_axes(scene: Scene) -> tuple[int, int]:
    """The two axes along the ground."""
    first, second = (axis for axis in range(3) if axis != (2 if scene.up is None else scene.up))
    return first, second


def _place(scene: Scene, numbers: Sequence[float], wish: PositionWish) -> Floats:
    """A place; of two numbers where nothing is said of the height, nobody could tell which height is meant."""
    if len(numbers) == 2 and scene.up is not None and not wish.on_ground:
        raise WrongUseError(
            "wrong-place", "two numbers do not say how high it is", remedy="write X,Y,Z, or add --on-ground"
        )
    return _vector(scene, numbers)


def _vector(scene: Scene, numbers: Sequence[float]) -> Floats:
    """Three numbers; of two, those along the ground."""
    if len(numbers) == 3:
        return np.array(numbers, dtype=np.float64)
    if len(numbers) != 2:
        raise WrongUseError("wrong-place", f"{len(numbers)} numbers are no place", remedy="write X,Y,Z")
    made = np.zeros(3)
    made[list(ground_axes(scene))] = numbers
    return made


def turn_of(scene: Scene, degrees: Sequence[float] | None) -> Floats | None:
    """The matrix of a turn; None for none. Raises WrongUseError for what is no turn."""
    if degrees is None:
        return None
    if len(degrees) not in (1, 3):
        raise WrongUseError("wrong-place", f"{len(degrees)} numbers are no turn", remedy="write DEGREES, or X,Y,Z")
    about = "xyz" if len(degrees) == 3 else "xyz"[2 if scene.up is None else scene.up]
    return np.asarray(matrices_of(TurnForm("degrees", about), np.array([degrees], dtype=np.float64))[0])


def _size(numbers: Sequence[float] | None) -> Floats | None:
    if numbers is None:
        return None
    if len(numbers) not in (1, 3) or not all(numbers):
        raise WrongUseError(
            "wrong-value",
            "a size is one number, or three, and none of them 0",
            remedy="write --size 1.5, or --size 1,1,2",
        )
    return np.array(numbers if len(numbers) == 3 else list(numbers) * 3, dtype=np.float64)


def _ground(scene: Scene) -> Ground:
    ground = ground_of(scene.tree, scene.layout)
    if ground is None or scene.up is None:
        raise WrongUseError(
            "no-ground",
            "nobody knows how high the ground is here",
            why="the layout names no table of heights, or the map has none",
            remedy="say all three numbers: --at X,Y,Z",
        )
    return ground


def _on_ground(scene: Scene, ground: Ground, at: Floats, wish: PositionWish) -> Floats:
    first, second = ground_axes(scene)
    x, y = float(at[first]), float(at[second])
    if not ground.covers(x, y):
        raise WrongUseError(
            "no-ground",
            f"nobody knows how high the ground is at ({x:g}, {y:g})",
            why="heights are known from ({:g}, {:g}) to ({:g}, {:g})".format(*ground.extent),
            remedy="place it within that, or say all three numbers",
        )
    made = at.copy()
    up = 2 if scene.up is None else scene.up
    made[up] = ground.at(x, y) + (wish.by[up] if len(wish.by) == 3 else 0.0)
    return made
