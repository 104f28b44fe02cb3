"""Where things stand: where they may be, apart from each other, near what they need, tied to their scripts.

What works with numbers is loaded only for maps whose layout says where things stand.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING

from hookset.checks.declare import Case, UnplacedFinding, check, of_standing
from hookset.checks.examples import Example
from hookset.model import Severity

if TYPE_CHECKING:
    from hookset.scene.standing import Stood
    from hookset.scene.things import Misplaced

__all__ = ["STANDING", "misplaced", "standing", "told"]

_GRAVITY = {"error": Severity.ERROR, "warning": Severity.WARNING, "note": Severity.NOTE}
STANDING = """
[[read]]
files = "standing.json"
format = "json"
[[placed]]
name = "things"
title = "what stands where"
file = "standing.json"
ask = { at = "$.things[*]" }
key = "key"
class = "sort"
at = "at"
size = "size"
inside = "stands_on"
links = ["opens"]
reach = "reach"
[[volume]]
title = "where one can be"
means = "playable"
file = "standing.json"
ask = { at = "$.ground" }
shape = "box"
low = "low"
high = "high"
[[track]]
title = "roads"
means = "road"
file = "standing.json"
ask = { at = "$.road" }
points = "points"
width = "width"
"""
_EDGE = '"ground": {"low": [0, 0, 0], "high": [9, 9, 9]}'


def standing(things: str, more: str = _EDGE) -> dict[str, str | None]:
    """The file of an example in which these things stand."""
    return {"standing.json": f'{{"things": [{things}], {more}}}'}


def _stand(words: str) -> str:
    return f'{STANDING}[[stand]]\ntitle = "how posts stand"\n{words}\n'


@of_standing
@check(
    code="unreadable-place",
    title="Where something stands cannot be read",
    severity=Severity.ERROR,
    loaded=True,
    why="the game puts it at the origin, or leaves it out, or does not start",
    remedy="write numbers there",
    example=Example(
        fails=standing('{"key": "post", "at": "1 2 east"}'),
        passes=standing('{"key": "post", "at": "1 2 3"}'),
        layout=STANDING,
    ),
)
def unreadable_place(case: Case) -> Iterable[UnplacedFinding]:
    for one in misplaced(case):
        if one.what in ("number", "endless"):
            what = "is no number that a place can have" if one.what == "endless" else "is not the numbers that go here"
            said = "nothing" if one.said in ("nothing", "None") else f"`{one.said}`"
            yield told(one, f"{said} {what}")


@of_standing
@check(
    code="nothing-left",
    title="Something is stretched to nothing",
    severity=Severity.WARNING,
    loaded=True,
    why="nobody sees it, and what stands by it has no place either",
    remedy="write a size that is not 0",
    example=Example(
        fails=standing('{"key": "post", "at": [1, 2, 3], "size": [1, 0, 1]}'),
        passes=standing('{"key": "post", "at": [1, 2, 3], "size": [1, 0.5, 1]}'),
        layout=STANDING,
    ),
)
def nothing_left(case: Case) -> Iterable[UnplacedFinding]:
    yield from (told(one, f"{one.said} is 0 along an axis") for one in misplaced(case) if one.what == "flat")


@of_standing
@check(
    code="stands-by-itself",
    title="Something stands by itself, by way of others",
    severity=Severity.ERROR,
    loaded=True,
    why="it has no place: the game stops there, or goes round in a circle",
    remedy="take it out of what stands by it",
    example=Example(
        fails=standing(
            '{"key": "post", "at": [1, 2, 3], "stands_on": "sign"}, '
            '{"key": "sign", "at": [1, 2, 4], "stands_on": "post"}'
        ),
        passes=standing('{"key": "post", "at": [1, 2, 3]}, {"key": "sign", "at": [1, 2, 4], "stands_on": "post"}'),
        layout=STANDING,
    ),
)
def stands_by_itself(case: Case) -> Iterable[UnplacedFinding]:
    for one in misplaced(case):
        if one.what == "circle":
            yield told(one, f"`{one.said}` stands by what stands by it")


@of_standing
@check(
    code="stands-by-nothing",
    title="Something stands by what is not there",
    severity=Severity.ERROR,
    loaded=True,
    why="its position counts from something else than it was meant to",
    remedy="name something that is there, or leave it out",
    example=Example(
        fails=standing('{"key": "sign", "at": [1, 2, 3], "stands_on": "post"}'),
        passes=standing('{"key": "post", "at": [1, 2, 3]}, {"key": "sign", "at": [0, 1, 0], "stands_on": "post"}'),
        layout=STANDING,
    ),
)
def stands_by_nothing(case: Case) -> Iterable[UnplacedFinding]:
    for one in misplaced(case):
        if one.what == "outer":
            yield told(one, f"nothing is called `{one.said}` here that it could stand by")


def misplaced(case: Case) -> tuple[Misplaced, ...]:
    """Whatever is said of a place and cannot be; nothing where the layout knows of no places."""
    return case.scene.misplaced if case.layout.positions.placed or case.layout.positions.volumes else ()


def told(one: Misplaced, message: str) -> UnplacedFinding:
    """What a check says of it."""
    return UnplacedFinding(path=one.path, where=one.where, message=message, name=one.said[:80])


@of_standing
@check(
    code="out-of-place",
    title="Something stands where it must not be",
    severity=Severity.ERROR,
    loaded=True,
    why="who comes there is lost, or never comes there",
    remedy="move it, or widen the volume",
    example=Example(
        fails=standing('{"key": "post", "sort": "post", "at": [12, 1, 1]}'),
        passes=standing('{"key": "post", "sort": "post", "at": [8, 1, 1]}'),
        layout=_stand('class = "post"\ninside = "playable"'),
    ),
)
def out_of_place(case: Case) -> Iterable[UnplacedFinding]:
    if case.layout.positions.placed:
        from hookset.scene.standing import out_of_place as found

        yield from _findings(found(case.scene))


@of_standing
@check(
    code="too-close",
    title="Something stands too close to something else",
    severity=Severity.ERROR,
    loaded=True,
    why="they are in each other's way",
    remedy="move one of the two",
    example=Example(
        fails=standing('{"key": "a", "sort": "post", "at": [1, 1, 1]}, {"key": "b", "sort": "post", "at": [1, 1, 2]}'),
        passes=standing('{"key": "a", "sort": "post", "at": [1, 1, 1]}, {"key": "b", "sort": "post", "at": [1, 1, 4]}'),
        layout=_stand('class = "post"\nclear = 2.0'),
    ),
)
def too_close(case: Case) -> Iterable[UnplacedFinding]:
    if case.layout.positions.placed:
        from hookset.scene.standing import too_close as found

        yield from _findings(found(case.scene))


@of_standing
@check(
    code="too-far",
    title="Something is too far from what it needs",
    severity=Severity.ERROR,
    loaded=True,
    why="it does not work from there, or nobody sees that it does",
    remedy="move one of the two",
    example=Example(
        fails=standing(
            '{"key": "post", "sort": "post", "at": [1, 1, 1], "opens": "gate"}, {"key": "gate", "at": [8, 1, 1]}'
        ),
        passes=standing(
            '{"key": "post", "sort": "post", "at": [6, 1, 1], "opens": "gate"}, {"key": "gate", "at": [8, 1, 1]}'
        ),
        layout=_stand('class = "post"\nlink_most = 5.0'),
    ),
)
def too_far(case: Case) -> Iterable[UnplacedFinding]:
    if case.layout.positions.placed:
        from hookset.scene.standing import too_far as found

        yield from _findings(found(case.scene))


@of_standing
@check(
    code="reaches-too-far",
    title="Something reaches where it must not",
    severity=Severity.ERROR,
    loaded=True,
    why="it goes off at everybody who passes",
    remedy="move it away, or make its reach smaller",
    example=Example(
        fails=standing(
            '{"key": "post", "sort": "post", "at": [1, 0, 3], "reach": 4}',
            '"road": {"points": [[0, 0, 0], [9, 0, 0]], "width": 1}',
        ),
        passes=standing(
            '{"key": "post", "sort": "post", "at": [1, 0, 8], "reach": 4}',
            '"road": {"points": [[0, 0, 0], [9, 0, 0]], "width": 1}',
        ),
        layout=_stand('class = "post"\nreach_off = ["road"]'),
    ),
)
def reaches_too_far(case: Case) -> Iterable[UnplacedFinding]:
    if case.layout.positions.placed:
        from hookset.scene.standing import reaches_too_far as found

        yield from _findings(found(case.scene))


@of_standing
@check(
    code="same-spot",
    title="Two things of one sort stand on the same spot",
    severity=Severity.WARNING,
    loaded=True,
    why="it was pasted twice: one of them is hidden by the other, and what it does is done twice",
    remedy="take one of the two out, or move it",
    example=Example(
        fails=standing('{"key": "a", "sort": "post", "at": [1, 1, 1]}, {"key": "b", "sort": "post", "at": [1, 1, 1]}'),
        passes=standing('{"key": "a", "sort": "post", "at": [1, 1, 1]}, {"key": "b", "sort": "sign", "at": [1, 1, 1]}'),
        layout=STANDING,
    ),
)
def same_spot(case: Case) -> Iterable[UnplacedFinding]:
    if case.layout.positions.placed:
        from hookset.scene.standing import same_spot as found

        yield from _findings(found(case.scene))


@of_standing
@check(
    code="link-to-original",
    title="A copy still works on what the original works on",
    severity=Severity.WARNING,
    loaded=True,
    why="it opens the first one's gate, and its own stays shut",
    remedy="write the name of the copy's own part",
    example=Example(
        fails=standing(
            '{"key": "lever_1", "opens": "gate_1", "at": [1, 1, 1]}, {"key": "gate_1", "at": [2, 1, 1]}, '
            '{"key": "lever_2", "opens": "gate_1", "at": [5, 1, 1]}, {"key": "gate_2", "at": [6, 1, 1]}'
        ),
        passes=standing(
            '{"key": "lever_1", "opens": "gate_1", "at": [1, 1, 1]}, {"key": "gate_1", "at": [2, 1, 1]}, '
            '{"key": "lever_2", "opens": "gate_2", "at": [5, 1, 1]}, {"key": "gate_2", "at": [6, 1, 1]}'
        ),
        layout=STANDING,
    ),
)
def link_to_original(case: Case) -> Iterable[UnplacedFinding]:
    if case.layout.positions.placed:
        from hookset.scene.standing import link_to_original as found

        yield from _findings(found(case.scene))


@of_standing
@check(
    code="untied",
    title="Something lacks what ties it to its script",
    severity=Severity.ERROR,
    loaded=True,
    why="it stands there and does nothing, and no message says so",
    remedy="write there what the script calls it by",
    example=Example(
        fails=standing('{"key": "post", "sort": "post", "at": [1, 1, 1]}'),
        passes=standing('{"key": "post", "sort": "post", "at": [1, 1, 1], "opens": "post"}'),
        layout=_stand('class = "post"\ntied = ["opens"]'),
    ),
)
def untied(case: Case) -> Iterable[UnplacedFinding]:
    if case.layout.positions.placed:
        from hookset.scene.standing import untied as found

        yield from _findings(found(case.scene))


@check(
    code="attribute-lost",
    title="A thing of a pack has lost what its record said",
    severity=Severity.WARNING,
    why="an editor that does not know it leaves it out: everything else is right, and it does not work",
    remedy="write it there again",
    example=Example(
        fails=standing('\n{"key": "post",\n "sort": "lever",\n "at": [1, 1, 1]\n}\n'),
        passes=standing('\n{"key": "post",\n "sort": "lever",\n "at": [2, 1, 1],\n "opens": "door"\n}\n'),
        layout=STANDING,
        set_by_pack=("", "standing.json", '{"key": "post",\n "sort": "lever",\n "at": [1, 1, 1],\n "opens": "gate"\n}'),
    ),
)
def attribute_lost(case: Case) -> Iterable[UnplacedFinding]:
    if case.layout.positions.placed and case.ledger.packs:
        from hookset.scene.lost import lost_parts

        for one in lost_parts(case.web.tree, case.layout, case.ledger, case.entries):
            was = f", which {one.pack} has set to `{one.said[:60]}`" if one.said else f", which {one.pack} has set"
            yield UnplacedFinding(
                path=one.thing.path,
                where=one.thing.where,
                message=f"`{one.thing.called}` has no `{one.way}` any more{was}",
                kind=one.thing.rule.entry.kind,
                name=one.thing.key,
                remedy=f"write it there again; or all of it: hookset take {one.thing.key} --anyway, then "
                f"hookset install {one.source}",
                instead=(one.said,) if one.said else (),
            )


def _findings(stood: Iterable[Stood]) -> Iterator[UnplacedFinding]:
    for one in stood:
        rule = one.rule.entry if one.rule is not None else None
        yield UnplacedFinding(
            path=one.thing.path,
            where=one.thing.where if one.where is None else one.where,
            message=one.message,
            why=rule.why if rule is not None else "",
            kind=one.thing.rule.entry.kind,
            name=one.thing.key or one.thing.class_,
            severity=_GRAVITY[rule.severity] if rule is not None else None,
            instead=one.instead,
            # A record of the map has brought it there.
            loaded=not one.thing.within,
        )
