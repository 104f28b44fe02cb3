"""How things stand, judged: by the layout's `[[stand]]` rules, and by what is wrong whatever a layout says. All of it
is linear in the number of things, or n log n."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from hookset.config.layouts.positions import StandRule
from hookset.formats.parts import Part
from hookset.model import Where
from hookset.scene.rows import Link, Thing
from hookset.scene.scene import Scene
from hookset.scene.suffixes import parted_name
from hookset.scene.things import Things
from hookset.scene.volumes import Track, Volume
from hookset.space.near import closest, closest_others
from hookset.space.shapes import distance_to_line

__all__ = [
    "Stood",
    "link_to_original",
    "out_of_place",
    "reaches_too_far",
    "same_spot",
    "too_close",
    "too_far",
    "untied",
]

Floats = NDArray[np.float64]
_APART = (0.7548776662466927, 0.5698402909980532)
"""Hardly two places come to the same number by these factors, which are those of a sequence of low discrepancy."""


_DIGITS = 6
"""Behind the point: what differs by less stands at the same place."""


class Stood(Struct, frozen=True):
    """Something that does not stand as it should."""

    thing: Thing
    message: str
    rule: StandRule | None = None
    where: Where | None = None
    """None: the thing as a whole."""
    instead: tuple[str, ...] = ()
    """What could be written there."""


def out_of_place(scene: Scene) -> Iterator[Stood]:
    """What stands outside of what it must be in, or in what it must be outside of."""
    for rule, rows in _ruled(scene):
        inside = [one for one in scene.volumes if one.rule.entry.means == rule.entry.inside]
        if inside:
            within = np.any([one.shape.holds(scene.things.at[rows]) for one in inside], axis=0)
            for row in (row for row, is_in in zip(rows, within, strict=True) if not is_in):
                names = " or ".join(sorted({_volume_name(one) for one in inside})[:3])
                yield _of_rule(scene, rule, row, f"stands outside of {names}")
        for volume in scene.volumes:
            if volume.rule.entry.means in rule.entry.outside:
                for row, is_in in zip(rows, volume.shape.holds(scene.things.at[rows]), strict=True):
                    if is_in:
                        yield _of_rule(scene, rule, row, f"stands in {_volume_name(volume)}")


def _volume_name(volume: Volume) -> str:
    return f"`{volume.key}` ({volume.rule.entry.means})" if volume.key else f"the {volume.rule.entry.means} part"


def too_close(scene: Scene) -> Iterator[Stood]:
    """What stands too close to something else: each pair once."""
    things = scene.things
    for rule, rows in _ruled(scene):
        if rule.entry.clear is None:
            continue
        others = _in_the_way(things, rule)
        distances, which = closest_others(things.at, np.array(rows), np.array(others, dtype=np.int64))
        told: set[frozenset[int]] = set()
        for row, distance, other in zip(rows, distances, which, strict=True):
            pair = frozenset((row, int(other)))
            if distance < rule.entry.clear and pair not in told:
                told.add(pair)
                yield _of_rule(
                    scene,
                    rule,
                    row,
                    f"stands {_length(scene, distance)} from `{things.rows[int(other)].called}`; "
                    f"{_length(scene, rule.entry.clear)} is the least",
                )


def _in_the_way(things: Things, rule: StandRule) -> list[int]:
    """What a rule wants things to keep clear of. What stands for a prefab is where its parts are, and in nobody's way
    beside them."""
    prefabs = {thing.prefab for thing in things.rows} if things.nested else set()
    rows = _of_classes(things, rule.entry.clear_of)
    return [row for row in rows if row not in prefabs and things.rows.named[row]]


def _of_classes(things: Things, patterns: str | Sequence[str]) -> list[int]:
    """The rows of what stands somewhere and is of a class that fits."""
    meant = [rows for rule, class_, rows in things.by_sort if rule.is_of(class_, patterns)]
    found = np.sort(np.concatenate(meant)) if meant else np.zeros(0, dtype=np.int64)
    chosen: list[int] = found[things.rows.placed[found]].tolist()
    return chosen


def too_far(scene: Scene) -> Iterator[Stood]:
    """What is too far from something of a class, or from what it works on."""
    for rule, rows in _ruled(scene):
        if rule.entry.near is not None:
            yield from _far_from_class(scene, rule, rows)
        if rule.entry.link_most is not None:
            yield from _far_from_links(scene, rule, rows, rule.entry.link_most)


def _far_from_class(scene: Scene, rule: StandRule, rows: Sequence[int]) -> Iterator[Stood]:
    near, things = rule.entry.near, scene.things
    assert near is not None
    there = _of_classes(things, near.class_)
    distances, which = closest(things.at[list(rows)], things.at[there])
    sought = near.class_ if isinstance(near.class_, str) else " or ".join(near.class_)
    for row, distance, index in zip(rows, distances, which, strict=True):
        if distance > near.most:
            far = (
                f"is {_length(scene, distance)} from the nearest {sought}" if index >= 0 else f"has no {sought} near it"
            )
            yield _of_rule(scene, rule, row, f"{far}; {_length(scene, near.most)} is the most")


def _far_from_links(scene: Scene, rule: StandRule, rows: Sequence[int], most: float) -> Iterator[Stood]:
    things = scene.things
    for row in rows:
        for link in things.rows[row].links:
            for other in things.linked(row, link.to)[:1]:
                distance = float(np.linalg.norm(things.at[row] - things.at[other]))
                if distance > most:
                    far = f"is {_length(scene, distance)} from `{link.to}`, which it works on"
                    yield _of_rule(scene, rule, row, f"{far}; {_length(scene, most)} is the most")


def reaches_too_far(scene: Scene) -> Iterator[Stood]:
    """What reaches a track or a volume that it must keep off."""
    things = scene.things
    for rule, rows in _ruled(scene):
        reaching = [row for row in rows if things.rows[row].reach is not None]
        if not rule.entry.reach_off or not reaching:
            continue
        reaches = np.array([things.rows[row].reach for row in reaching], dtype=np.float64)
        kept_off: tuple[Track | Volume, ...] = (*scene.tracks, *scene.volumes)
        for what in kept_off:
            if what.rule.entry.means not in rule.entry.reach_off:
                continue
            distances = _away(what, things.at[reaching], scene.up)
            for row, reach, distance in zip(reaching, reaches, distances, strict=True):
                if reach > distance:
                    called = f"`{what.key}`" if what.key else f"the {what.rule.entry.means}"
                    yield _of_rule(
                        scene,
                        rule,
                        row,
                        f"reaches {_length(scene, reach)}, and {called} is {_length(scene, max(distance, 0.0))} away",
                    )


def _away(what: Track | Volume, points: Floats, up: int | None) -> Floats:
    """How far points are from the edge of a track, or from a volume."""
    if isinstance(what, Volume):
        return what.shape.distances(points)
    if what.points.shape[1] == 2:
        points = np.delete(points, 2 if up is None else up, axis=1)
    return distance_to_line(what.points, points) - what.width / 2


def same_spot(scene: Scene) -> Iterator[Stood]:
    """Things of one class with the same place, turn and size."""
    things = scene.things
    first: dict[tuple[object, ...], Thing] = {}
    # Most stand alone where they are: their turns and sizes need not be looked at.
    for row in _crowded(things.at):
        if not things.rows.placed[row] or not things.rows.classes[row]:
            continue
        thing = things.rows[row]
        at, sizes = tuple(things.at[row].round(_DIGITS).tolist()), tuple(things.local_sizes[row].tolist())
        how = (id(thing.rule), thing.sort, at, thing.turn_numbers, sizes)
        other = first.setdefault(how, thing)
        if other is not thing:
            told = _position(things, row)
            yield Stood(thing, f"`{thing.called}` stands at {told}, where `{other.called}` of the same sort stands")


def _crowded(at: Floats) -> list[int]:
    """The rows of places that are there more than once, in their order."""
    # One number for each place sorts sooner than its three: what has a number for itself has the place for itself.
    mixed = at[:, 0].round(_DIGITS)
    mixed += at[:, 1].round(_DIGITS) * _APART[0]
    mixed += at[:, 2].round(_DIGITS) * _APART[1]
    order = np.argsort(mixed, kind="stable")
    mixed = mixed[order]
    again = _beside(order, mixed[1:] == mixed[:-1])
    places = at[again].round(_DIGITS)
    sorted_ = np.lexsort(places.T)
    alike = (places[sorted_][1:] == places[sorted_][:-1]).all(axis=1)
    rows: list[int] = again[_beside(sorted_, alike)].tolist()
    return rows


def _beside(order: NDArray[np.int64], alike: NDArray[np.bool_]) -> NDArray[np.int64]:
    """The rows that are like the one before or after them in an order, rising."""
    more = np.zeros(len(order), dtype=np.bool_)
    more[1:] |= alike
    more[:-1] |= alike
    return np.sort(order[more])


def link_to_original(scene: Scene) -> Iterator[Stood]:
    """Copies that work on what the original works on, though what goes with the copy is there."""
    things = scene.things
    # Gone through three times: in a map of many links, all that is asked of them would be more than they are.
    there = things.keys_among({own for _, _, own, _ in _suspects(things)})
    originals = things.rows_of({original for _, _, own, original in _suspects(things) if own in there})
    for thing, link, own, original in _suspects(things) if originals else ():
        if own not in there:
            continue
        # Whether the first one is there, and works on the same, tells a copy from a lever of two gates.
        if link.to in {one.to for row in originals.get(original, ()) for one in things.rows[row].links}:
            what = f"`{thing.key}` works on `{link.to}`, as `{original}` does; `{own}` is there as well"
            yield Stood(thing, what, where=link.where, instead=(own,))


def _suspects(things: Things) -> Iterator[tuple[Thing, Link, str, str]]:
    """Links of what may be copies, with what each would work on as a copy, and of what it would be one."""
    for thing in things.rows.linking:
        copies = thing.rule.copies
        stem, between, suffix = parted_name(thing.key, copies)
        if not suffix:
            continue
        for link in thing.links:
            its_stem, its_between, its_suffix = parted_name(link.to, copies)
            own = f"{its_stem}{its_between if its_suffix else between}{suffix}"
            original = f"{stem}{between}{its_suffix}" if its_suffix else stem
            if link.to != own and original != thing.key:
                yield thing, link, own, original


def untied(scene: Scene) -> Iterator[Stood]:
    """What lacks a value that it must have."""
    things = scene.things
    for rule, rows in _ruled(scene, placed=False):
        for row in rows:
            for way in rule.entry.tied:
                if _is_empty(things.rows[row].part(way)):
                    yield _of_rule(scene, rule, row, f"has no `{way}`")


def _is_empty(part: Part | None) -> bool:
    return part is None or part.value in ("", ())


def _ruled(scene: Scene, placed: bool = True) -> Iterator[tuple[StandRule, list[int]]]:
    """Each rule with the rows of things that it means."""
    things = scene.things
    for rule in scene.layout.positions.stands:
        meant = [rows for placed_rule, class_, rows in things.by_sort if rule.means(placed_rule, class_)]
        found = np.sort(np.concatenate(meant)) if meant else np.zeros(0, dtype=np.int64)
        rows: list[int] = (found[things.rows.placed[found]] if placed else found).tolist()
        if rows:
            yield rule, rows


def _of_rule(scene: Scene, rule: StandRule, row: int, message: str) -> Stood:
    thing = scene.things.rows[row]
    at = f" at {_position(scene.things, row)}" if thing.placed else ""
    return Stood(thing, f"{rule.entry.title}: `{thing.called}`{at} {message}", rule)


def _position(things: Things, row: int) -> str:
    axes = 3 if things.rows[row].rule.at[2] is not None else 2
    return "(" + ", ".join(f"{round(number, 6) + 0.0:.6g}" for number in things.at[row][:axes].tolist()) + ")"


def _length(scene: Scene, number: float) -> str:
    unit = scene.layout.positions.space.unit
    return f"{number:.3g} {unit}".strip()
