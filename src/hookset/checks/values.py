"""Values that must agree, come from a fixed set, or be there so many times."""

from __future__ import annotations

import fnmatch
from collections.abc import Iterable

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.checks.reading import values
from hookset.config.layouts.layout import AgreeRule
from hookset.model import Severity

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
        least, most = (case.terms.players if bound == "players" else bound for bound in (rule.least, rule.most))
        label = case.kind(rule.kind).label
        named = f" `{rule.name}`" if rule.name != "*" else ""
        definitions = [
            definition
            for name, group in case.index.groups(rule.kind).items()
            if fnmatch.fnmatchcase(name, rule.name)
            for definition in group
        ]
        count = len(definitions)
        # The last one that is there shows where the others stand; without any, the map as a whole lacks them.
        last = definitions[-1] if definitions else None
        path, where = (last.path, last.where) if last else (".", None)
        if isinstance(least, int) and count < least:
            for_players = ", one for each player" if rule.least == "players" else ""
            message = f"{label}{named}: {count} there, at least {least} must be{for_players}"
            yield UnplacedFinding(path=path, where=where, message=message, why=rule.why, kind=rule.kind, name=rule.name)
        if isinstance(most, int) and count > most:
            message = f"{label}{named}: {count} there, at most {most} may be"
            yield UnplacedFinding(path=path, where=where, message=message, why=rule.why, kind=rule.kind, name=rule.name)
