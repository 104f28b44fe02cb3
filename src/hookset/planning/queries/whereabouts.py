"""Where things stand: which, in what, near what, linked to what, set by which pack."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from hookset.config.layouts.positions import PlacedRule, fitting, is_one_name
from hookset.config.sheets import nearest
from hookset.edits.find import EntryState, found
from hookset.model import Spot, WrongUseError
from hookset.planning.naming.rewriting import facts_of
from hookset.project import Ledger, LedgerHook, MapProject
from hookset.project.ledger import LedgerEdit
from hookset.scene.offsets import rows_at, rows_between
from hookset.scene.records import open_for_edits
from hookset.scene.rows import Thing
from hookset.scene.scene import Scene
from hookset.scene.values import CannotSay
from hookset.space.transforms import all_parted
from hookset.space.turns import degrees_about
from hookset.symbols import spots
from hookset.trees import Tree

__all__ = ["Linked", "Neighbour", "Whereabouts", "owners_of", "whereabouts"]

_NEAR = 3


class Neighbour(Struct, frozen=True):
    """Something that stands near."""

    called: str
    distance: float


class Linked(Struct, frozen=True):
    """Something that a thing works on, or is worked on by."""

    called: str
    distance: float | None
    """None for what is not there."""


class Whereabouts(Struct, frozen=True, kw_only=True):
    """One thing, and where it stands."""

    thing: Thing
    spot: Spot
    at: tuple[float, ...]
    """Along the axes of the map: three numbers, or two where there is no height."""
    turn: tuple[float, ...]
    """Degrees: one about the axis that goes up, or three about x, y and z; none where it is not turned."""
    size: tuple[float, ...]
    """None where it is not stretched."""
    inside: tuple[str, ...]
    """The volumes that it is in."""
    near: tuple[Neighbour, ...]
    works_on: tuple[Linked, ...]
    worked_on_by: tuple[str, ...]
    pack: str


def whereabouts(project: MapProject, ledger: Ledger, names: Sequence[str], pack: str = "") -> tuple[Whereabouts, ...]:
    """The things whose key, class or group is what one of these names or patterns means, that refer to a name (a
    callback, a model), or that a pack has set; all of them where nothing is said. Raises WrongUseError for a name of
    nothing."""
    scene = Scene(project.tree, project.layout)
    owners = owners_of(project.tree, ledger, scene)
    rows: Sequence[int] = range(len(scene.things))
    if names:
        found_rows: set[int] = set()
        for name in names:
            meant = _called(scene, name) or _referring(scene, name)
            if not meant:
                known = sorted({*scene.things.rows.keys, *scene.things.rows.classes} - {""})
                raise WrongUseError(
                    "unknown-name",
                    f"nothing that stands in this map is called `{name}`, or refers to that{nearest(name, known)}",
                    remedy="`hookset where` lists what stands where",
                )
            found_rows |= meant
        rows = [row for row in rows if row in found_rows]
    if pack:
        rows = [row for row in rows if owners.get(row) == pack]
    return tuple(_all_about(scene, rows, owners))


def _called(scene: Scene, name: str) -> set[int]:
    rows = scene.things.rows
    columns = (rows.keys, rows.classes, rows.groups)
    if is_one_name(name):
        return {row for column in columns if name in column for row, word in enumerate(column) if word == name and word}
    meant = fitting(set[str]().union(*columns) - {""}, name)
    return {row for column in columns for row, word in enumerate(column) if word in meant} if meant else set()


def _referring(scene: Scene, name: str) -> set[int]:
    """The things whose records refer to a name of any kind."""
    found_rows: set[int] = set()
    for path in scene.things.rows.paths:
        facts = facts_of(scene.tree, scene.layout, path)
        addresses = [block.where(row) for block in facts.referred for row, one in enumerate(block.names) if one == name]
        if not addresses:
            continue
        file = open_for_edits(scene.tree, _rule_of(scene, path), path)
        begins = [start for start, _ in file.document.spans(addresses).values()]
        found_rows |= rows_at(scene.things.rows, path, file.document, begins)
    return found_rows


def _rule_of(scene: Scene, path: str) -> PlacedRule:
    """The first rule by which things stand in a file."""
    return next(one.rule for one in scene.things.rows.files if one.path == path and len(one))


def _edits_of(hook: LedgerHook) -> Sequence[LedgerEdit]:
    return () if hook.was_there else hook.edits


def owners_of(tree: Tree, ledger: Ledger, scene: Scene) -> Mapping[int, str]:
    """By the row of a thing: the pack that has set it."""
    owners: dict[int, str] = {}
    for path in scene.things.rows.paths:
        hooks = [(pack.name, hook) for pack in ledger.packs for hook in pack.hooks if hook.path == path]
        if not hooks:
            continue
        try:
            file = open_for_edits(tree, _rule_of(scene, path), path)
        except CannotSay:
            continue
        set_in = ((name, found(file.text.string, edit)) for name, hook in hooks for edit in _edits_of(hook))
        there = [(name, one) for name, one in set_in if one.standing is not EntryState.GONE]
        rows = rows_between(scene.things.rows, path, file.document, [(one.start, one.end) for _, one in there])
        for (name, _), mine in zip(there, rows, strict=True):
            owners |= dict.fromkeys(mine, name)
    return owners


def _all_about(scene: Scene, rows: Sequence[int], owners: Mapping[int, str]) -> list[Whereabouts]:
    things = scene.things
    places = spots(scene.tree, scene.layout, [(things.rows[row].path, things.rows[row].where) for row in rows])
    inside = {row: [] for row in rows} if rows else dict[int, list[str]]()
    for volume in scene.volumes if rows else ():
        for row, within in zip(rows, volume.shape.holds(things.at[list(rows)]), strict=True):
            if within and things.rows[row].placed:
                inside[row].append(volume.key or volume.rule.entry.means)
    near = _near(scene, rows)
    turns, sizes = _turned(scene, rows)
    used: dict[str, list[str]] = {}
    for thing in things.rows if things.rows.inner else things.rows.linking:
        for link in thing.links:
            used.setdefault(link.to, []).append(thing.called)
    found_all = []
    for number, row in enumerate(rows):
        thing = things.rows[row]
        count = 2 if thing.rule.at[2] is None else 3
        links = [(link.to, things.linked(row, link.to)) for link in thing.links]
        found_all.append(
            Whereabouts(
                thing=thing,
                spot=places.get((thing.path, thing.where), Spot(thing.path, 0, 0)),
                at=tuple(float(one) for one in things.at[row][:count]),
                turn=turns[number],
                size=sizes[number],
                inside=tuple(inside[row]),
                near=near.get(row, ()),
                works_on=tuple(
                    Linked(to, float(np.linalg.norm(things.at[row] - things.at[there[0]])) if there else None)
                    for to, there in links
                ),
                worked_on_by=tuple(used.get(thing.key, ())) if thing.key else (),
                pack=owners.get(row, ""),
            )
        )
    return found_all


_MOST_NEAR = 200
"""Things of which it is told what is near them."""


def _near(scene: Scene, rows: Sequence[int]) -> dict[int, tuple[Neighbour, ...]]:
    things = scene.things
    named = np.nonzero(things.rows.placed & things.rows.named)[0]
    found_near: dict[int, tuple[Neighbour, ...]] = {}
    for row in rows[:_MOST_NEAR] if len(named) else ():
        apart = np.linalg.norm(things.at[named] - things.at[row], axis=1)
        # To sort all of them for each would take longer than all the rest.
        most = np.partition(apart, _NEAR)[_NEAR] if len(apart) > _NEAR else np.inf
        nearest_ones = np.nonzero(apart <= most)[0]
        ordered = nearest_ones[np.argsort(apart[nearest_ones], kind="stable")][: _NEAR + 1]
        closest = [index for index in ordered if named[index] != row][:_NEAR]
        found_near[row] = tuple(Neighbour(things.rows[named[one]].called, float(apart[one])) for one in closest)
    return found_near


def _turned(scene: Scene, rows: Sequence[int]) -> tuple[list[tuple[float, ...]], list[tuple[float, ...]]]:
    """How things are turned, in degrees: about the axis that goes up, if by that alone; and by what they are stretched.
    Nothing for what is not, and for what is sheared or flat."""
    things, axis = scene.things, 2 if scene.up is None else scene.up
    matrices = things.world[list(rows)] if len(rows) > _MOST_NEAR else [things.matrix(row) for row in rows]
    turns, sizes, good = all_parted(np.asarray(matrices).reshape(-1, 4, 4))
    still = np.isclose(turns, np.eye(3), atol=1e-6).all(axis=(1, 2))
    turned: NDArray[np.bool_] = good & ~still
    stretched = good & ~np.isclose(sizes, 1.0).all(axis=1)
    j, k = (axis + 1) % 3, (axis + 2) % 3
    angles = np.arctan2(turns[:, k, j], turns[:, j, j])
    upright = np.tile(np.eye(3), (len(turns), 1, 1))
    upright[:, j, j] = upright[:, k, k] = np.cos(angles)
    upright[:, k, j] = np.sin(angles)
    upright[:, j, k] = -upright[:, k, j]
    by_that_alone = np.isclose(upright, turns, atol=1e-5).all(axis=(1, 2))
    leaning = turned & ~by_that_alone
    said = {row: (angle,) for row, angle in enumerate(np.degrees(angles).tolist()) if turned[row]}
    said |= dict(zip(np.nonzero(leaning)[0].tolist(), degrees_about("xyz", turns[leaning]).tolist(), strict=True))
    found = [tuple(round(one, 4) + 0.0 for one in said.get(row, ())) for row in range(len(turns))]
    return found, [tuple(size) if one else () for size, one in zip(sizes.tolist(), stretched.tolist(), strict=True)]
