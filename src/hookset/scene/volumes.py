"""The volumes and tracks of a map: where one may be, what is water, where the road goes."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from hookset.config.layouts import Layout
from hookset.config.layouts.positions import Point, TrackRule, TurnRule, VolumeRule
from hookset.formats.parts import Part, Parts
from hookset.model import Where
from hookset.scene.numbers import Misread, number_of, numbers_in, numbers_of_record, words_of
from hookset.scene.prefabs import Instances
from hookset.scene.reading import open_with_parts
from hookset.scene.things import Misplaced, turn_form
from hookset.space.shapes import Shape
from hookset.space.turns import matrices_of
from hookset.trees import Tree

__all__ = ["Track", "Volume", "read_tracks", "read_volumes"]

Floats = NDArray[np.float64]
_MOST_CORNERS = 20_000


class Volume(Struct, frozen=True):
    """A space of the map that means something."""

    rule: VolumeRule
    path: str
    where: Where
    key: str
    shape: Shape


class Track(Struct, frozen=True):
    """A line along the ground."""

    rule: TrackRule
    path: str
    where: Where
    key: str
    points: Floats
    """(k, 3), or (k, 2) where the file has no heights."""
    width: float


def read_volumes(tree: Tree, layout: Layout, instances: Instances) -> tuple[tuple[Volume, ...], tuple[Misplaced, ...]]:
    """The volumes that the layout's rules find, and what of them cannot be. Those in prefabs are where these stand."""
    up = {"x": 0, "y": 1, "z": 2, "": None}[layout.positions.space.up]
    found: list[Volume] = []
    wrong: list[Misplaced] = []
    for rule in layout.positions.volumes:
        for path, record in _records(tree, rule):
            parts = dict(zip(rule.ways, record.parts, strict=True))
            shape = _shape(rule, parts, record, up)
            if isinstance(shape, Misread):
                wrong.append(Misplaced("number" if shape.finite else "endless", path, shape.where, shape.said))
                continue
            key = words_of(parts.get(rule.entry.key)) or ""
            if not rule.entry.in_prefabs:
                found.append(Volume(rule, path, record.where, key, shape))
                continue
            for instance in instances.get(path, ()):
                moved, called = shape.moved(instance.matrix), instance.name(key)
                if moved is not None:
                    found.append(Volume(rule, path, record.where, called, moved))
                else:
                    wrong.append(Misplaced("shape", path, record.where, called))
    return tuple(found), tuple(wrong)


def read_tracks(tree: Tree, layout: Layout, instances: Instances) -> tuple[tuple[Track, ...], tuple[Misplaced, ...]]:
    """The tracks that the layout's rules find, and what of them cannot be. Those in prefabs are where these stand."""
    up = {"x": 0, "y": 1, "z": 2, "": None}[layout.positions.space.up]
    found: list[Track] = []
    wrong: list[Misplaced] = []
    wide = 2 if not layout.positions.space.up else None
    for rule in layout.positions.tracks:
        for path, record in _records(tree, rule):
            parts = dict(zip(rule.ways, record.parts, strict=True))
            points = _points(parts.get(rule.entry.points), record, wide)
            width = _length(rule.entry.width, parts, 0.0)
            if isinstance(points, Misread) or isinstance(width, Misread):
                bad = points if isinstance(points, Misread) else width
                assert isinstance(bad, Misread)
                wrong.append(Misplaced("number" if bad.finite else "endless", path, bad.where, bad.said))
                continue
            if not len(points):
                continue
            key = words_of(parts.get(rule.entry.key)) or ""
            if not rule.entry.in_prefabs:
                found.append(Track(rule, path, record.where, key, points, width))
                continue
            for instance in instances.get(path, ()):
                moved, wider = _moved(points, width, instance.matrix, up)
                found.append(Track(rule, path, record.where, instance.name(key), moved, wider))
    return tuple(found), tuple(wrong)


def _moved(points: Floats, width: float, matrix: Floats, up: int | None) -> tuple[Floats, float]:
    """A line and its width where a (4, 4) takes them; as wide as that stretches it at most. Points without heights lie
    where the thing stands."""
    ground = [axis for axis in range(3) if axis != (2 if up is None else up)]
    stretch = float(np.linalg.norm(matrix[:3, :3], axis=0)[ground].max())
    whole = points
    if points.shape[1] == 2:
        whole = np.zeros((len(points), 3))
        whole[:, ground] = points
    moved = whole @ matrix[:3, :3].T + matrix[:3, 3]
    return moved[:, ground] if points.shape[1] == 2 else moved, width * stretch


def _records(tree: Tree, rule: VolumeRule | TrackRule) -> Iterator[tuple[str, Parts]]:
    ways = rule.ways
    for path in tree.paths():
        if rule.asked.files.matches(path) and (document := open_with_parts(tree, path, rule)) is not None:
            for record in document.parts(rule.asked.selector, ways):
                if all(one.holds(words_of(record.parts[ways.index(one.way)])) for one in rule.when):
                    yield path, record


class _Unread(Exception):  # noqa: N818
    def __init__(self, what: Misread) -> None:
        super().__init__()
        self.what = what


def _shape(rule: VolumeRule, parts: Mapping[str, Part | None], record: Parts, up: int | None) -> Shape | Misread:
    try:
        return _made(rule, parts, record, up)
    except _Unread as error:
        return error.what


def _made(rule: VolumeRule, parts: Mapping[str, Part | None], record: Parts, up: int | None) -> Shape:
    entry = rule.entry
    turn = _turn(rule.turn, parts)
    if entry.shape == "box":
        if rule.low is not None and rule.high is not None:
            low, high = (_triple(point, parts, 0.0, record) for point in (rule.low, rule.high))
            return Shape(form="box", at=(low + high) / 2, half=np.abs(high - low) / 2, up=up)
        point = rule.half or rule.size
        lengths = _triple(point, parts, 0.0, record) if point is not None else np.zeros(3)
        half = np.abs(lengths) / (1.0 if rule.half is not None else 2.0)
        return Shape(form="box", at=_triple(rule.at, parts, 0.0, record), turn=turn, half=half, up=up)
    height = _given(_length(entry.height, parts, np.inf))
    if entry.shape == "outline":
        points = _points(parts.get(entry.points), record, 2 if up is None else None)
        if isinstance(points, Misread):
            raise _Unread(points)
        corners = points if points.shape[1] == 2 else np.delete(points, 2 if up is None else up, axis=1)
        foot = _given(_length(entry.foot, parts, -np.inf))
        return Shape(
            form="outline", corners=corners, low=foot, high=foot + height if np.isfinite(foot) else height, up=up
        )
    at = _triple(rule.at, parts, 0.0, record)
    radius = _given(_length(entry.radius, parts, 0.0))
    if entry.shape == "sphere":
        return Shape(form="sphere", at=at, radius=radius, up=up)
    if up is None or not np.isfinite(height):
        return Shape(form="cylinder", at=at, radius=radius, up=up)
    foot = float(at[up])
    return Shape(form="cylinder", at=at, radius=radius, low=foot, high=foot + height, up=up)


def _given(value: float | Misread) -> float:
    if isinstance(value, Misread):
        raise _Unread(value)
    return value


def _triple(point: Point | None, parts: Mapping[str, Part | None], otherwise: float, record: Parts) -> Floats:
    numbers, wrong, there = numbers_of_record(point or (), parts, otherwise)
    if wrong:
        raise _Unread(wrong[0])
    if not there:
        raise _Unread(Misread(record.where, "nothing"))
    return np.array(numbers)


def _turn(rule: TurnRule | None, parts: Mapping[str, Part | None]) -> Floats:
    if rule is None:
        return np.eye(3)
    numbers, wrong, there = numbers_of_record(rule.numbers, parts, 0.0)
    if wrong:
        raise _Unread(wrong[0])
    return np.asarray(matrices_of(turn_form(rule), np.array([numbers]))[0]) if there else np.eye(3)


def _length(said: str | float, parts: Mapping[str, Part | None], otherwise: float) -> float | Misread:
    if isinstance(said, int | float):
        return float(said)
    found = number_of(parts.get(said), None) if said else None
    return otherwise if found is None else found


def _points(part: Part | None, record: Parts, wide: int | None) -> Floats | Misread:
    """The points of a line: a row of numbers of which two or three belong together, which the lists in it tell, or else
    what divides their number; three where both would do."""
    if part is None:
        return Misread(record.where, "nothing")
    found = numbers_in(part)
    if isinstance(found, Misread):
        return found
    numbers = np.array([number for number, _ in found[: 3 * _MOST_CORNERS]])
    if not np.isfinite(numbers).all():
        return Misread(part.where, "a point without end", finite=False)
    lists = (
        [one.value for one in part.value if isinstance(one.value, list | tuple)]
        if isinstance(part.value, tuple)
        else []
    )
    lengths = {len(one) for one in lists}
    each = wide or (min(lengths) if lengths else 3 if len(numbers) % 3 == 0 else 2)
    if len(lengths) > 1:
        return Misread(part.where, "points of two and of three numbers")
    if each not in (2, 3) or not len(numbers) or len(numbers) % each:
        return Misread(part.where, f"{len(numbers)} numbers")
    return numbers.reshape(-1, each)
