"""What stands before what, and files that are called after the map."""

from __future__ import annotations

import fnmatch
import posixpath
from collections.abc import Iterable, Iterator, Mapping, Sequence

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.checks.reading import values
from hookset.config.layouts.comparisons import OrderRule
from hookset.config.layouts.schema import OrderEntry
from hookset.formats.base import Value
from hookset.model import Severity
from hookset.symbols.units import Units

__all__: list[str] = []

ORDER = """
[[read]]
files = "start.list"
format = "lines"
[[order]]
title = "what the game starts"
values = [{ file = "start.list", ask = {} }]
first = ["core"]
before = { water = "boats" }
"""
CALLED = """
[descriptor]
file = "map.ini"
name = { key = "name" }
[[read]]
files = "map.ini"
format = "ini"
[[read]]
files = "lists/*.list"
format = "lines"
[[called]]
files = "lists/*.list"
name = "{map|lower}.list"
"""


@check(
    code="wrong-order",
    title="Something stands before what it must stand behind",
    severity=Severity.ERROR,
    why="the game goes from top to bottom, and what it needs is not there yet",
    remedy="move the line to where it belongs",
    example=Example(
        layout=ORDER,
        fails={"start.list": "core\nboats\nwater\n"},
        passes={"start.list": "core\nwater\nboats\n"},
    ),
)
def wrong_order(case: Case) -> Iterable[UnplacedFinding]:
    """Yield each value that stands in the wrong place, in each file by itself."""
    for rule in case.layout.orders:
        for path, found in _by_file(case, rule).items():
            names = [value.text for value in found]
            for number, message in sorted(_misplaced(rule.entry, names, case.units).items()):
                yield UnplacedFinding(
                    path=path,
                    where=found[number].where,
                    message=f"{rule.entry.title}: {message}",
                    why=rule.entry.why,
                    name=names[number],
                    severity=Severity[rule.entry.severity.upper()],
                )


def _by_file(case: Case, rule: OrderRule) -> Mapping[str, list[Value]]:
    found: dict[str, list[Value]] = {}
    for asked in rule.values:
        for path, value in values(case, asked):
            found.setdefault(path, []).append(value)
    return found


def _misplaced(entry: OrderEntry, names: Sequence[str], units: Units) -> dict[int, str]:
    """By position: why what stands there stands wrong."""
    told: dict[int, str] = {}
    for number, message in (
        *_ends(entry.first, names, "before"),
        *_ends(entry.last, names, "behind"),
        *_pairs(entry, names),
        *(_needs(names, units) if entry.needed_first else ()),
    ):
        told.setdefault(number, message)
    return told


def _ends(words: Sequence[str], names: Sequence[str], side: str) -> Iterator[tuple[int, str]]:
    """What must stand before, or behind, all that is not among `words`; and these in their own order."""
    rank = [next((n for n, word in enumerate(words) if fnmatch.fnmatchcase(name, word)), None) for name in names]
    outside = len(words) if side == "before" else -1
    places = [outside if one is None else one for one in rank]
    for number, name in enumerate(names):
        earlier = [names[other] for other in range(number) if places[other] > places[number]]
        if earlier and side == "before":
            yield number, f"`{name}` must stand before all else, and `{earlier[0]}` stands above it"
        elif earlier:
            yield names.index(earlier[0]), f"`{earlier[0]}` must stand behind all else, and `{name}` stands below it"


def _pairs(entry: OrderEntry, names: Sequence[str]) -> Iterator[tuple[int, str]]:
    for word, behind in entry.before.items():
        for number, name in enumerate(names):
            if not fnmatch.fnmatchcase(name, word):
                continue
            for other in (behind,) if isinstance(behind, str) else behind:
                above = next((one for one in names[:number] if one != name and fnmatch.fnmatchcase(one, other)), None)
                if above is not None:
                    yield number, f"`{name}` must stand before `{above}`, which stands above it"


def _needs(names: Sequence[str], units: Units) -> Iterator[tuple[int, str]]:
    place = {name: number for number, name in reversed(list(enumerate(names)))}
    for number, name in enumerate(names):
        unit = units.by_name.get(name)
        for need in (*unit.needs, *unit.may_use) if unit is not None else ():
            if place.get(need, -1) > number:
                yield number, f"`{name}` needs `{need}`, which stands below it"


@check(
    code="called-otherwise",
    title="A file that is called after the map has another name",
    severity=Severity.ERROR,
    why="the game looks for it by the map's name, and does not find it",
    remedy="rename the file, and what refers to it",
    example=Example(
        layout=CALLED,
        fails={"map.ini": "name = Quay\n", "lists/pier.list": "a\n"},
        passes={"map.ini": "name = Quay\n", "lists/quay.list": "a\n"},
    ),
)
def called_otherwise(case: Case) -> Iterable[UnplacedFinding]:
    """Yield each file whose name is not made of the map's."""
    for rule in case.layout.called:
        if any(not case.web.words.get(word, word) for word in rule.name.fields):
            # The descriptor is not there, or does not say it, which is told as that.
            continue
        right = rule.name.of(case.web.words)
        for file in case.web.files:
            if rule.files.matches(file.path) and posixpath.basename(file.path) != right:
                yield UnplacedFinding(
                    path=file.path,
                    message=f"the map is called `{case.web.words.get('map', '')}`, and this file is not `{right}`",
                    why=rule.entry.why,
                    remedy=f"call it `{right}`, and correct what refers to it",
                    name=file.path,
                    severity=Severity[rule.entry.severity.upper()],
                )
