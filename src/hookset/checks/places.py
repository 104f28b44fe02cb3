"""Where things are: in the folder for their sort, on the ground."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.config.layouts.comparisons import GroundRule
from hookset.model import Severity
from hookset.scene.ground import GroundPoint, HeightFault, ground_by, points_of

__all__: list[str] = []

SHELVES = """
[kinds.shelf]
label = "folder of a sort"
[[read]]
files = "*/*.yaml"
format = "yaml"
defines = [{ kind = "shelf", at = "$.sort", name = "{value} in {parent}" }]
[[mirror]]
kind = "shelf"
"""
GROUND = """
[[read]]
files = ["ground.csv", "standing.csv"]
format = "csv"
[[ground]]
title = "things stand on the ground"
table = { file = "ground.csv", ask = { column = "x" }, x = "x", y = "y", height = "height" }
things = [{ file = "standing.csv", ask = { column = "x" }, x = "x", y = "y", height = "height" }]
lowest = -0.5
highest = 0.5
"""


@check(
    code="wrong-folder",
    title="Something lies in another folder than the base game's own of its sort",
    severity=Severity.WARNING,
    why="the game looks for things of a sort in the folders where it keeps its own",
    remedy="move it there, with what belongs to it",
    example=Example(
        fails={"sheds/post.yaml": "sort: post\n"},
        passes={"posts/post.yaml": "sort: post\n"},
        layout=SHELVES,
        stock={"shelf": ("post in posts", "shed in sheds")},
    ),
)
def wrong_folder(case: Case) -> Iterable[UnplacedFinding]:
    for mirror in case.layout.mirrors:
        known: dict[str, set[str]] = {}
        for name in case.web.stock.names(mirror.kind):
            sort, between, folder = name.rpartition(mirror.between)
            if between:
                known.setdefault(sort, set()).add(folder)
        for definition in (d for group in case.index.groups(mirror.kind).values() for d in group):
            sort, _, folder = definition.name.rpartition(mirror.between)
            if folder in known.get(sort, set()) or (sort not in known and not (mirror.closed and known)):
                continue
            if sort in known:
                there = " or ".join(f"`{one}`" for one in sorted(known[sort]))
                message = f"`{sort}` lies in `{folder}` here; the game keeps its own in {there}"
            else:
                message = f"the game has nothing of the sort `{sort}`; there are {', '.join(sorted(known))}"
            yield UnplacedFinding(
                path=definition.path,
                where=definition.where,
                message=message,
                why=mirror.why,
                remedy="" if sort in known else "write one of these sorts",
                kind=mirror.kind,
                name=definition.name,
            )


@check(
    code="off-the-ground",
    title="Something floats above the ground or lies under it",
    severity=Severity.WARNING,
    loaded=True,
    why="players cannot see it or reach it",
    remedy="correct its height, or the table of heights",
    example=Example(
        fails={"ground.csv": "x,y,height\n0,0,1\n8,0,3\n", "standing.csv": "x,y,height\n4,0,7\n"},
        passes={"ground.csv": "x,y,height\n0,0,1\n8,0,3\n", "standing.csv": "x,y,height\n4,0,2\n"},
        layout=GROUND,
    ),
)
def off_the_ground(case: Case) -> Iterable[UnplacedFinding]:
    for rule in case.layout.grounds:
        ground, _ = ground_by(case.web.tree, rule)
        if ground is not None:
            for thing in (point for standing in rule.things for point in points_of(case.web.tree, standing)):
                yield from _told(rule, thing, ground.at(thing.x, thing.y))


def _told(rule: GroundRule, thing: GroundPoint, ground: float) -> Iterator[UnplacedFinding]:
    above = thing.height - ground
    entry = rule.entry
    if (entry.lowest is None or above >= entry.lowest) and (entry.highest is None or above <= entry.highest):
        return
    side = f"{above:.2f} above" if above > 0 else f"{-above:.2f} under"
    yield UnplacedFinding(
        path=thing.path,
        where=thing.where,
        message=f"{entry.title}: at ({thing.x:g}, {thing.y:g}) the ground is at {ground:.2f}, and this is {side} it",
        why=entry.why,
        name=entry.title,
    )


@check(
    code="ground-unknown",
    title="How high the ground is cannot be read everywhere",
    severity=Severity.WARNING,
    why="what stands there may float, or lie under it: that has not been looked at",
    remedy="write the heights that are missing, or bring the picture as the layout says",
    example=Example(
        fails={"ground.csv": "x,y,height\n0,0,1\n8,0,high\n", "standing.csv": "x,y,height\n0,0,1\n"},
        passes={"ground.csv": "x,y,height\n0,0,1\n8,0,3\n", "standing.csv": "x,y,height\n0,0,1\n"},
        layout=GROUND,
    ),
)
def ground_unknown(case: Case) -> Iterable[UnplacedFinding]:
    for rule in case.layout.grounds:
        faults = ground_by(case.web.tree, rule)[1]
        holes = [one for one in faults if one.what == "hole"]
        for one in (fault for fault in faults if fault.what != "hole"):
            said = f"`{one.said}` is no number here" if one.what == "number" else f"it {one.said}"
            yield _unknown(rule, one, said)
        if holes:
            more = f", and {len(holes) - 1} more" if len(holes) > 1 else ""
            yield _unknown(rule, holes[0], f"the grid of heights has a hole at ({holes[0].said}){more}")


def _unknown(rule: GroundRule, fault: HeightFault, said: str) -> UnplacedFinding:
    return UnplacedFinding(
        path=fault.path, where=fault.where, message=f"{rule.entry.title}: {said}", name=rule.entry.title
    )
