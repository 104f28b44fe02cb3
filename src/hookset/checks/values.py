"""Values that must agree, come from a fixed set, or be there so many times."""

from __future__ import annotations

import fnmatch
import math
from collections.abc import Iterable, Iterator, Sequence

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.checks.reading import documents, numbers, values
from hookset.config.layouts.comparisons import AgreeRule, Bound, CountRule, KeyedQuery
from hookset.config.layouts.rules import ValueQuery
from hookset.formats.document import field_at, records_of
from hookset.model import Definition, Severity, Where
from hookset.model.digits import natural_number

__all__: list[str] = []

BERTHS = """
[kinds.berth]
label = "berth"
pool = ["north", "south"]
[[read]]
files = "berths.list"
format = "lines"
defines = [{ kind = "berth" }]
"""
BOUNDS = """
[[read]]
files = "pier.ini"
format = "ini"
[[read]]
files = "site.json"
format = "json"
[[bounds]]
title = "the pier"
values = [{ file = "pier.ini", ask = { key = "length" } }]
least = 1
most = { file = "site.json", ask = { at = "$.size" } }
"""
PAIRED = """
[[read]]
files = "prices.csv"
format = "csv"
[[read]]
files = "wares.json"
format = "json"
[[paired]]
title = "the price"
one = { file = "prices.csv", ask = { column = "ware" }, key = "ware", value = "price" }
other = { file = "wares.json", ask = { at = "$[*]" }, key = "id", value = "cost" }
"""
TOLL = """
[[read]]
files = "toll.ini"
format = "ini"
[[agree]]
title = "the toll"
values = [
  { file = "server/main.lua", ask = { assign = "TOLL" } },
  { file = "toll.ini", ask = { key = "toll" } },
]
"""


@check(
    code="not-in-pool",
    title="A value is not an allowed value",
    severity=Severity.ERROR,
    loaded=True,
    why="the game has these values and no others",
    remedy="choose one that is free",
    example=Example(
        fails={"berths.list": "north\neast\n"},
        passes={"berths.list": "north\n"},
        layout=BERTHS,
    ),
)
def not_in_pool(case: Case) -> Iterable[UnplacedFinding]:
    for kind in case.layout.kinds.values():
        pool = kind.entry.pool
        if not pool:
            continue
        taken = {definition.name for definitions in case.index.groups(kind.name).values() for definition in definitions}
        free = ", ".join(f"`{value}`" for value in pool if value not in taken) or "none"
        for definitions in case.index.groups(kind.name).values():
            for definition in definitions:
                if definition.name not in pool:
                    yield UnplacedFinding(
                        path=definition.path,
                        where=definition.where,
                        message=f"there is no {kind.label} `{definition.name}`; free are: {free}",
                        kind=kind.name,
                        name=definition.name,
                    )


@check(
    code="values-differ",
    title="Values that must be the same differ",
    severity=Severity.ERROR,
    why="the game reads one of them here and another there",
    remedy="write the same value in each place",
    example=Example(
        fails={"toll.ini": "toll = 30\n", "server/main.lua": 'TOLL = 20 load("gate")\n'},
        passes={"toll.ini": "toll = 20 ; as in the script\n", "server/main.lua": 'TOLL = 20 load("gate")\n'},
        layout=TOLL,
    ),
)
def values_differ(case: Case) -> Iterable[UnplacedFinding]:
    for rule in case.layout.agree:
        found = [(path, value) for asked in rule.values for path, value in values(case, asked)]
        if rule.equal is not None:
            if any(not case.web.words.get(word, word) for word in rule.equal.fields):
                # The descriptor is not there, or does not say it, which is told as that.
                continue
            right, source = rule.equal.of({**case.web.words, **_taken(case, rule)}), f"made of `{rule.equal.source}`"
        elif found:
            right, source = found[0][1].text, f"in {found[0][0]}"
        else:
            continue
        for path, value in found:
            if value.text != right:
                yield UnplacedFinding(
                    path=path,
                    where=value.where,
                    message=f"{rule.title}: `{value.text}` here, `{right}` {source}",
                    why=rule.why,
                    remedy="" if rule.equal is None else f"write `{right}`",
                    name=rule.title,
                )


def _taken(case: Case, rule: AgreeRule) -> dict[str, str]:
    """What the rule's text is made of, beside the map's name and version."""
    return {name: next((v.text for _, v in values(case, asked)), "") for name, asked in rule.take.items()}


@check(
    code="wrong-count",
    title="There are too few or too many of something",
    severity=Severity.ERROR,
    why="the game counts on there being enough, and on there being no more than it has room for",
    remedy="add the missing ones or remove the extra ones",
    example=Example(
        fails={"things.csv": "name,deed,picture\n"},
        passes={"things.csv": "name,deed,picture\ngate,,gate.png\n"},
        layout='[[count]]\nkind = "thing"\nleast = 1\n',
    ),
)
def wrong_count(case: Case) -> Iterable[UnplacedFinding]:
    for rule in case.layout.counts:
        least, most = _number(case, rule.least), _number(case, rule.most)
        definitions = [
            definition
            for name, group in case.index.groups(rule.entry.kind).items()
            if fnmatch.fnmatchcase(name, rule.entry.name)
            for definition in group
        ]
        groups: dict[str, list[Definition]] = {} if rule.group is not None else {"": definitions}
        counted: dict[str, set[int]] = {}
        for one in definitions if rule.group is not None else ():
            if (found := rule.group.search(one.name) if rule.group is not None else None) is not None:
                words = found.groupdict()
                groups.setdefault(words.get("group") or "", []).append(one)
                number = natural_number(words.get("number") or "")
                counted.setdefault(words.get("group") or "", set()).update({number} - {None})  # type: ignore[arg-type]
        for name, members in groups.items():
            lacking = [n for n in range(1, int(least or 0) + 1) if n not in counted[name]] if _numbered(rule) else []
            yield from _counted(case, rule, name, members, least, most, lacking)


def _numbered(rule: CountRule) -> bool:
    return rule.group is not None and "number" in rule.group.groups


def _counted(
    case: Case,
    rule: CountRule,
    group: str,
    members: Sequence[Definition],
    least: float | None,
    most: float | None,
    lacking: Sequence[int],
) -> Iterator[UnplacedFinding]:
    entry, count = rule.entry, len(members)
    label = case.kind(entry.kind).label
    named = f" `{group or entry.name}`" if group or entry.name != "*" else ""
    # The last one that is there shows where the others stand; without any, the map as a whole lacks them.
    last = members[-1] if members else None
    path, where = (last.path, last.where) if last else (".", None)
    told: list[str] = []
    if lacking:
        told.append(f"there is none with the number {', '.join(map(str, lacking))}")
    elif least is not None and count < least:
        for_players = ", one for each player" if entry.least == "players" else ""
        told.append(f"{count} there, at least {least:g} must be{for_players}")
    if most is not None and count > most:
        told.append(f"{count} there, at most {most:g} may be")
    for what in told:
        message = f"{label}{named}: {what}"
        yield UnplacedFinding(
            path=path, where=where, message=message, why=entry.why, kind=entry.kind, name=group or entry.name
        )


def _number(case: Case, bound: Bound) -> float | None:
    """What a bound is in this map; None where it has none, or says none that could be read."""
    if bound == "players":
        return case.terms.players
    if isinstance(bound, ValueQuery):
        return next((number for _, _, said in numbers(case, bound) if (number := _read(said)) is not None), None)
    return None if bound is None else float(bound)


def _read(text: str) -> float | None:
    try:
        number = float(text)
    except ValueError:
        return None
    return number if math.isfinite(number) else None


@check(
    code="out-of-bounds",
    title="A number is smaller or larger than it may be",
    severity=Severity.ERROR,
    loaded=True,
    why="the game cuts it off, leaves the thing out, or stops",
    remedy="correct the number, or what bounds it",
    example=Example(
        layout=BOUNDS,
        fails={"pier.ini": "length = 90\n", "site.json": '{ "size": 80 }'},
        passes={"pier.ini": "length = 80\n", "site.json": '{ "size": 80 }'},
    ),
)
def out_of_bounds(case: Case) -> Iterable[UnplacedFinding]:
    """Yield the numbers outside of their bounds, which may stand in other files; and what is no number at all."""
    for rule in case.layout.bounds:
        least, most = _number(case, rule.least), _number(case, rule.most)
        found = [one for asked in rule.values for one in numbers(case, asked)]
        if rule.entry.of == "sum" and found and all(_read(written) is not None for _, _, written in found):
            # Where the last one stands: any of them could be changed.
            total = math.fsum(_read(written) or 0.0 for _, _, written in found)
            found = [(*found[-1][:2], f"{total:g}")]
        for path, where, written in found:
            said = _beyond(_read(written), least, most)
            if said and rule.entry.of == "sum":
                said = f"in all {said}"
            if said:
                yield UnplacedFinding(
                    path=path,
                    where=where,
                    message=f"{rule.entry.title}: {written} {said}",
                    why=rule.entry.why,
                    name=rule.entry.title,
                    severity=Severity[rule.entry.severity.upper()],
                )


@check(
    code="keys-differ",
    title="What belongs to the same key differs in two places",
    severity=Severity.ERROR,
    loaded=True,
    why="the game reads one of them here and another there",
    remedy="write the same value in both places",
    example=Example(
        layout=PAIRED,
        fails={"prices.csv": "ware,price\nrope,3\n", "wares.json": '[{ "id": "rope", "cost": "4" }]'},
        passes={"prices.csv": "ware,price\nrope,3\n", "wares.json": '[{ "id": "rope", "cost": "3" }]'},
    ),
)
def keys_differ(case: Case) -> Iterable[UnplacedFinding]:
    """Yield the values of the other place that differ, and keys that one of the places lacks where both must."""
    for rule in case.layout.paired:
        one, other = _by_key(case, rule.one), _by_key(case, rule.other)
        for key, (path, where, value) in other.items():
            if key in one and one[key][2] != value:
                message = f"{rule.entry.title}: `{key}` has `{value}` here, `{one[key][2]}` in {one[key][0]}"
                yield UnplacedFinding(path=path, where=where, message=message, why=rule.entry.why, name=key)
        if rule.entry.both:
            for mine, theirs, lacks in ((one, other, rule.other), (other, one, rule.one)):
                for key in mine.keys() - theirs.keys():
                    path, where, _ = mine[key]
                    message = f"{rule.entry.title}: `{key}` is not in {lacks.entry.file}"
                    yield UnplacedFinding(path=path, where=where, message=message, why=rule.entry.why, name=key)


def _beyond(number: float | None, least: float | None, most: float | None) -> str:
    """What is wrong with a number; empty when it lies between its bounds."""
    if number is None:
        return "is no number"
    if least is not None and number < least:
        return f"is less than {least:g}"
    return f"is more than {most:g}" if most is not None and number > most else ""


def _by_key(case: Case, query: KeyedQuery) -> dict[str, tuple[str, Where, str]]:
    """By key: (path, where, value) of each record that has both."""
    found: dict[str, tuple[str, Where, str]] = {}
    for path, document in documents(case, query.asked):
        for where, record in records_of(document, query.asked.selector):
            key, value = (_plain(record, field) for field in (query.entry.key, query.entry.value))
            if key is not None and value is not None:
                found.setdefault(key, (path, field_at(document, where, [query.entry.value]), value))
    return found


def _plain(record: object, key: str) -> str | None:
    value = record.get(key) if isinstance(record, dict) else None
    return str(value) if isinstance(value, str | int | float) and not isinstance(value, bool) else None
