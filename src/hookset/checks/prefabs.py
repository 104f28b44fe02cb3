"""Prefabs: the files for which things stand are there, end somewhere, and come to no more than can be looked at."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.checks.standing import STANDING, misplaced, standing, told
from hookset.model import Severity, Where

if TYPE_CHECKING:
    from hookset.scene.things import Misplaced

__all__: list[str] = []

PREFABS = (
    STANDING.replace('reach = "reach"', 'reach = "reach"\nprefab = "file"\nprefab_file = "prefabs/{value}.json"')
    + """
[[read]]
files = "prefabs/*.json"
format = "json"
[[placed]]
name = "parts"
title = "what stands in prefabs"
file = "prefabs/*.json"
ask = { at = "$[*]" }
key = "key"
at = "at"
prefab = "file"
prefab_file = "prefabs/{value}.json"
in_prefabs = true
"""
)


def _tenfold(deep: int) -> dict[str, str | None]:
    """Files of which each names the next one ten times."""
    files: dict[str, str | None] = {f"prefabs/n{deep}.json": '[{"at": [0, 0, 0]}]'}
    for level in range(deep):
        files[f"prefabs/n{level}.json"] = f"[{', '.join(10 * [_named(level + 1)])}]"
    return files


def _named(level: int) -> str:
    return f'{{"at": [0, 0, 0], "file": "n{level}"}}'


def _misplaced(case: Case) -> tuple[Misplaced, ...]:
    """Whatever is said of prefabs and cannot be: only where a layout has any are all things looked at."""
    return misplaced(case) if any(rule.entry.prefab for rule in case.layout.positions.placed) else ()


@check(
    code="prefab-stands-for-nothing",
    title="Something stands for a file that is not there",
    severity=Severity.ERROR,
    why="the game puts nothing there, or stops",
    remedy="bring the file, or name one that is there",
    example=Example(
        fails=standing('{"key": "camp", "at": [1, 2, 3], "file": "tent"}'),
        passes=standing('{"key": "camp", "at": [1, 2, 3], "file": "tent"}')
        | {"prefabs/tent.json": '[{"key": "pole", "at": [0, 0, 0]}]'},
        layout=PREFABS,
    ),
)
def prefab_stands_for_nothing(case: Case) -> Iterable[UnplacedFinding]:
    for one in _misplaced(case):
        # Where a rule says that the file is referred to, that has been told.
        if one.what == "prefab" and one.where not in _referring(case, one.path):
            yield told(one, f"`{one.said}` is no file of the map")


def _referring(case: Case, path: str) -> set[Where]:
    facts = next((one for one in case.web.files if one.path == path), None)
    return {block.where(row) for block in facts.referred for row in range(len(block.names))} if facts else set()


@check(
    code="prefab-not-looked-into",
    title="The layout does not say what stands in a prefab",
    severity=Severity.NOTE,
    why="what stands in it is on no picture, and nothing of it is checked",
    remedy="give the layout a `[[placed]]` with `in_prefabs` for such files, or leave it",
    example=Example(
        fails=standing('{"key": "camp", "at": [1, 2, 3], "file": "../tent"}') | {"tent.json": "[]"},
        passes=standing('{"key": "camp", "at": [1, 2, 3], "file": "tent"}') | {"prefabs/tent.json": "[]"},
        layout=PREFABS,
    ),
)
def prefab_not_looked_into(case: Case) -> Iterable[UnplacedFinding]:
    for one in _misplaced(case):
        if one.what == "unread":
            yield told(one, f"the layout reads nothing in {one.said}, for which this stands")


@check(
    code="prefab-out-of-shape",
    title="A prefab tilts or stretches a volume in it",
    severity=Severity.NOTE,
    why="what is in the volume there is not known, and what asks for it is not checked",
    remedy="turn the prefab about the axis that goes up only, and stretch it alike along all axes",
    example=Example(
        fails=standing('{"key": "camp", "at": [1, 2, 3], "size": [1, 2, 3], "file": "tent"}')
        | {"prefabs/tent.json": '[{"key": "pond", "at": [0, 0, 0], "radius": 2}]'},
        passes=standing('{"key": "camp", "at": [1, 2, 3], "size": 2, "file": "tent"}')
        | {"prefabs/tent.json": '[{"key": "pond", "at": [0, 0, 0], "radius": 2}]'},
        layout=PREFABS
        + """
[[volume]]
title = "ponds"
means = "water"
file = "prefabs/*.json"
ask = { at = "$[?@.radius]" }
key = "key"
shape = "sphere"
at = "at"
radius = "radius"
in_prefabs = true
""",
    ),
)
def prefab_out_of_shape(case: Case) -> Iterable[UnplacedFinding]:
    for one in _misplaced(case):
        if one.what == "shape":
            yield told(one, f"`{one.said}` would be of another shape than the layout says")


@check(
    code="prefab-contains-itself",
    title="A prefab stands in itself",
    severity=Severity.ERROR,
    why="there would be no end of it: the game stops there, or runs out of memory",
    remedy="take out the record that names the file around it",
    example=Example(
        fails=standing('{"key": "camp", "at": [1, 2, 3], "file": "tent"}')
        | {"prefabs/tent.json": '[{"key": "pole", "at": [0, 0, 0], "file": "tent"}]'},
        passes=standing('{"key": "camp", "at": [1, 2, 3], "file": "tent"}')
        | {"prefabs/tent.json": '[{"key": "pole", "at": [0, 0, 0]}]'},
        layout=PREFABS,
    ),
)
def prefab_contains_itself(case: Case) -> Iterable[UnplacedFinding]:
    for one in _misplaced(case):
        if one.what == "contains":
            yield told(one, f"{one.said} stands in itself, by what it contains")


@check(
    code="too-many-in-prefabs",
    title="Prefabs within prefabs come to too many things",
    severity=Severity.ERROR,
    why="where the rest of them stand has not been looked at",
    remedy="name the file fewer times, or name fewer others in it",
    example=Example(
        fails=standing('{"key": "camp", "at": [1, 2, 3], "file": "n0"}') | _tenfold(6),
        passes=standing('{"key": "camp", "at": [1, 2, 3], "file": "n0"}') | _tenfold(2),
        layout=PREFABS,
    ),
)
def too_many_in_prefabs(case: Case) -> Iterable[UnplacedFinding]:
    for one in _misplaced(case):
        if one.what == "crowded":
            yield told(one, f"with {one.said}, more than 200,000 things would stand in prefabs")
