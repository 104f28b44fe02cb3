"""Parts of the builder's own layout that mean nothing in the whole map: what they are for is not looked at."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.checks.reading import documents, numbers, values
from hookset.config.layouts.positions import PlacedRule, TrackRule, VolumeRule
from hookset.config.layouts.rules import ReadRule, ValueQuery
from hookset.formats.document import records_of
from hookset.model import Severity

__all__ = ["layout_sees_nothing", "stands_about_nothing"]


@check(
    code="layout-sees-nothing",
    title="A part of the layout means nothing in the whole map",
    severity=Severity.WARNING,
    why="what it should look at is not looked at: a wrong pattern or key finds nothing wrong for ever",
    remedy="correct it; or say `may_be_empty = true` in that part, or in [layout] for all of them",
    example=Example(
        layout='[[read]]\nfiles = "boats.csv"\nformat = "csv"\ndefines = [{ kind = "thing", column = "boat" }]\n',
        fails={"boats.csv": "name,crew\ncutter,4\n"},
        passes={"boats.csv": "boat,crew\ncutter,4\n"},
        idle=True,
    ),
)
def layout_sees_nothing(case: Case) -> Iterable[UnplacedFinding]:
    """Yield each such part, at its line in the layout."""
    layout = case.layout
    told = _idle(case) if layout.lines else iter(())
    for pointer, message in told:
        yield UnplacedFinding(path=layout.where, line=layout.lines.get(pointer, 0), message=message, name=pointer)


def stands_about_nothing(case: Case) -> Iterable[UnplacedFinding]:
    """The `[[stand]]` rules among them: what they find rests on where things stand, and is kept with that."""
    layout = case.layout
    for index, stand in enumerate(layout.positions.stands if layout.lines else ()):
        pointer = f"/stand/{index}"
        there = (stand.means(rule, class_) for rule, class_, _ in case.scene.things.by_sort)
        if not stand.entry.may_be_empty and not any(there):
            message = f"{stand.entry.title}: nothing that it is about stands in the map"
            yield UnplacedFinding(path=layout.where, line=layout.lines.get(pointer, 0), message=message, name=pointer)


Idle = Iterator[tuple[str, str]]
"""(place in the layout, what it lacks) of each part."""


def _idle(case: Case) -> Idle:
    for index, rule in enumerate(case.layout.reads):
        if not rule.may_be_empty:
            yield from _idle_rule(case, rule, index)
    paths = case.web.tree.paths()
    for index, seat in enumerate(case.layout.seats.values()):
        if not seat.may_be_empty and not any(seat.file.matches(path) for path in paths):
            yield f"/seat/{index}", f"no file of the map is meant by the seat `{seat.name}` (`{seat.file.pattern}`)"
    yield from _idle_kinds(case)
    yield from _idle_values(case)
    yield from _idle_records(case)


def _idle_kinds(case: Case) -> Idle:
    """Parts about kinds of which the map has nothing."""
    layout = case.layout
    asked = (
        *((f"/count/{n}", one.entry.kind, one.entry.may_be_empty) for n, one in enumerate(layout.counts)),
        *((f"/series/{n}", one.entry.kind, one.entry.may_be_empty) for n, one in enumerate(layout.series)),
        *((f"/mirror/{n}", one.kind, one.may_be_empty) for n, one in enumerate(layout.mirrors)),
    )
    for pointer, kind, may_be_empty in asked:
        if not may_be_empty and not case.index.groups(kind):
            yield pointer, f"the map has no {case.kind(kind).label}, which this is about"


def _idle_values(case: Case) -> Idle:
    """Parts about values that are nowhere."""
    for index, agree in enumerate(case.layout.agree):
        if not agree.may_be_empty:
            yield from _lacking(case, f"/agree/{index}", agree.title, agree.values)
    for index, bounds in enumerate(case.layout.bounds):
        if not bounds.entry.may_be_empty:
            asked = [one for one in (bounds.least, bounds.most) if isinstance(one, ValueQuery)]
            for one in (*bounds.values, *asked):
                if next(numbers(case, one), None) is None:
                    yield f"/bounds/{index}", f"{bounds.entry.title}: nothing is found in `{one.files.pattern}`"

    for index, order in enumerate(case.layout.orders):
        if not order.entry.may_be_empty:
            yield from _lacking(case, f"/order/{index}", order.entry.title, order.values)
    for index, called in enumerate(case.layout.called):
        if not called.entry.may_be_empty and not any(called.files.matches(file.path) for file in case.web.files):
            yield f"/called/{index}", f"no file of the map is meant by `{called.files.pattern}`"


def _idle_records(case: Case) -> Idle:
    """Parts about records that are nowhere."""
    for index, pair in enumerate(case.layout.paired):
        if not pair.entry.may_be_empty:
            yield from _lacking_records(case, f"/paired/{index}", pair.entry.title, (pair.one.asked, pair.other.asked))
    positions = case.layout.positions
    placing: tuple[tuple[str, str, PlacedRule | VolumeRule | TrackRule], ...] = (
        *((f"/placed/{n}", one.entry.title, one) for n, one in enumerate(positions.placed)),
        *((f"/volume/{n}", one.entry.title, one) for n, one in enumerate(positions.volumes)),
        *((f"/track/{n}", one.entry.title, one) for n, one in enumerate(positions.tracks)),
    )
    for pointer, title, rule in placing:
        if not rule.entry.may_be_empty:
            yield from _lacking_records(case, pointer, title, (rule.asked,))
    for index, ground in enumerate(case.layout.grounds):
        if not ground.entry.may_be_empty:
            asked = tuple(one.asked for one in ground.queries)
            yield from _lacking_records(case, f"/ground/{index}", ground.entry.title, asked)
            if ground.entry.picture is not None and not case.web.tree.has(ground.entry.picture.file):
                yield f"/ground/{index}", f"{ground.entry.title}: there is no {ground.entry.picture.file}"


def _idle_rule(case: Case, rule: ReadRule, index: int) -> Idle:
    seen = [(defined, referred) for file in case.web.files for n, defined, referred in file.by_rule if n == index + 1]
    patterns = ", ".join(glob.pattern for glob in rule.files)
    if not seen:
        yield f"/read/{index}", f"no file of the map is meant by `{patterns}`"
    for number, define in enumerate(rule.defines):
        pointer = f"/read/{index}/defines/{number}"
        if seen and pointer in case.layout.lines and not any(one[number : number + 1] > (0,) for one, _ in seen):
            yield pointer, f"nothing in `{patterns}` defines any {case.kind(define.kind).label} in this way"
    for number, refer in enumerate(rule.refers):
        if seen and not any(other[number : number + 1] > (0,) for _, other in seen):
            label = case.kind(refer.kind).label
            yield f"/read/{index}/refers/{number}", f"nothing in `{patterns}` names any {label} in this way"


def _lacking(case: Case, pointer: str, title: str, asked: Sequence[ValueQuery]) -> Idle:
    for one in asked:
        if next(values(case, one), None) is None:
            yield pointer, f"{title}: nothing is found in `{one.files.pattern}`"


def _lacking_records(case: Case, pointer: str, title: str, asked: Sequence[ValueQuery]) -> Idle:
    for one in asked:
        found = (record for _, document in documents(case, one) for record in records_of(document, one.selector))
        if next(found, None) is None:
            yield pointer, f"{title}: no record is found in `{one.files.pattern}`"
