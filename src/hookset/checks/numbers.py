"""Numbers: ids that the game has room for, numbered things without a gap, each with its owner."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.config.layouts.comparisons import SeriesRule
from hookset.config.layouts.schema import NumbersEntry
from hookset.model import Definition, Severity
from hookset.model.digits import natural_number
from hookset.symbols.numbers import ids_of

__all__: list[str] = []

SLOTS = """
[kinds.slot]
label = "slot"
numbers = { first = 1, last = 8 }
[[read]]
files = "slots.list"
format = "lines"
defines = [{ kind = "slot" }]
"""
BUOYS = """
[kinds.buoy]
label = "buoy"
[[read]]
files = "buoys.list"
format = "lines"
defines = [{ kind = "buoy" }]
[[read]]
files = "crew/*.list"
format = "lines"
refers = [{ kind = "buoy" }]
[[series]]
kind = "buoy"
name = "(?P<series>[a-z]+)_(?P<number>[0-9]+)"
owners = ["crew/*.list"]
"""


@check(
    code="id-out-of-range",
    title="An id is no number, or not one that the game takes",
    severity=Severity.ERROR,
    loaded=True,
    why="the game looks things up by number, and has room for these numbers only",
    remedy="give it a free number, and correct what refers to it",
    example=Example(
        fails={"slots.list": "1\n2\n9\n"},
        passes={"slots.list": "1\n2\n3\n"},
        layout=SLOTS,
    ),
)
def id_out_of_range(case: Case) -> Iterable[UnplacedFinding]:
    for kind in case.layout.kinds.values():
        entry = kind.entry.numbers
        wrong = [] if entry is None else [name for name in case.index.known(kind.name) if not _fits(name, entry)]
        ids = ids_of(kind, case.index) if wrong else None
        if ids is None or entry is None:
            continue
        bounds = f"from {entry.first}" + (f" to {entry.last}" if entry.last is not None else "")
        free = f"; the next free one is {ids.next}" if ids.next else "; none is free"
        for definition in (definition for name in wrong for definition in case.index.get(kind.name, name)):
            yield UnplacedFinding(
                path=definition.path,
                where=definition.where,
                message=f"{kind.label} `{definition.name}` is no number {bounds}{free}",
                kind=kind.name,
                name=definition.name,
            )


def _fits(name: str, entry: NumbersEntry) -> bool:
    number = natural_number(name)
    return number is not None and entry.first <= number and (entry.last is None or number <= entry.last)


@check(
    code="gap-in-series",
    title="A number is left out among numbered things",
    severity=Severity.ERROR,
    why="the game counts them up, and stops at the first that is not there",
    remedy="add the missing one, or renumber the rest",
    example=Example(
        fails={"buoys.list": "red_1\nred_3\n", "crew/a.list": "red_1\nred_3\n"},
        passes={"buoys.list": "red_2\nred_1\n", "crew/a.list": "red_1\nred_2\n"},
        layout=BUOYS,
    ),
)
def gap_in_series(case: Case) -> Iterable[UnplacedFinding]:
    for rule in case.layout.series:
        label = case.kind(rule.entry.kind).label
        for series, members in _series(case, rule).items():
            expected = rule.entry.first
            for number, definition in sorted(members, key=lambda one: one[0]):
                if number > expected:
                    # One finding, however many are missing: a typing error can make it millions.
                    lacking = f"number {expected}" if number == expected + 1 else f"numbers {expected} to {number - 1}"
                    yield UnplacedFinding(
                        path=definition.path,
                        where=definition.where,
                        message=f"{label} {lacking} of `{series}`: not there, and number {number} is",
                        why=rule.entry.why,
                        kind=rule.entry.kind,
                        name=definition.name,
                    )
                expected = max(expected, number + 1)


@check(
    code="not-one-owner",
    title="Something that belongs to one owner belongs to none, or to several",
    severity=Severity.ERROR,
    why="what nobody owns is never used, and what two own is fought over",
    remedy="name it in the files of exactly one owner",
    example=Example(
        fails={"buoys.list": "red_1\nred_2\n", "crew/a.list": "red_1\n"},
        passes={"buoys.list": "red_1\nred_2\n", "crew/a.list": "red_1\n", "crew/b.list": "red_2\n"},
        layout=BUOYS,
    ),
)
def not_one_owner(case: Case) -> Iterable[UnplacedFinding]:
    for rule in case.layout.series:
        if not rule.owners:
            continue
        owners = _owners(case, rule)
        for series, members in _series(case, rule).items():
            for definition, what, held in _belongings(case, rule, series, members, owners):
                if len(held) != 1:
                    to = " and ".join(sorted(held)) or "nobody"
                    yield UnplacedFinding(
                        path=definition.path,
                        where=definition.where,
                        message=f"{what} to {to}",
                        why=rule.entry.why,
                        kind=rule.entry.kind,
                        name=definition.name,
                    )


def _belongings(
    case: Case, rule: SeriesRule, series: str, members: list[tuple[int, Definition]], owners: dict[str, set[str]]
) -> Iterator[tuple[Definition, str, set[str]]]:
    """What belongs together, by its first member and in words, with those who own it."""
    kind = case.kind(rule.entry.kind)
    held = [(definition, owners.get(kind.key(definition.name), set())) for _, definition in members]
    if rule.entry.owned == "series":
        together = set().union(*(one for _, one in held))
        yield members[0][1], f"{kind.label}: those of `{series}` belong", together
    else:
        for definition, one in held:
            yield definition, f"{kind.label} `{definition.name}` belongs", one


def _series(case: Case, rule: SeriesRule) -> dict[str, list[tuple[int, Definition]]]:
    found: dict[str, list[tuple[int, Definition]]] = {}
    for definitions in case.index.groups(rule.entry.kind).values():
        match = rule.name.fullmatch(definitions[0].name)
        number = natural_number(match["number"] or "") if match is not None else None
        if match is not None and number is not None:
            found.setdefault(match["series"] or "", []).append((number, definitions[0]))
    return found


def _owners(case: Case, rule: SeriesRule) -> dict[str, set[str]]:
    """The files that refer to each name, among those that can own."""
    found: dict[str, set[str]] = {}
    for file in case.web.files:
        if any(glob.matches(file.path) for glob in rule.owners):
            for reference in file.references:
                if reference.kind == rule.entry.kind and not reference.pattern:
                    found.setdefault(case.kind(reference.kind).key(reference.name), set()).add(file.path)
    return found
