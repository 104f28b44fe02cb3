"""Units say which other units they need: what they use is of those, and what they say is so."""

from __future__ import annotations

import graphlib
from collections.abc import Iterable

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.model import Severity
from hookset.symbols.facts import FileFacts
from hookset.symbols.units import Use

__all__: list[str] = []

UNITS = """
[kinds.unit]
label = "unit"
unique = true
[kinds.tone]
label = "tone"
[[read]]
files = "units/*/unit.ini"
format = "ini"
defines = [{ kind = "unit", section = "unit", key = "name" }]
refers = [
  { kind = "unit", section = "unit", key = "needs", split = ", *" },
  { kind = "unit", section = "unit", key = "may_use", split = ", *", optional = true },
]
[[read]]
files = "units/*/*.lua"
format = "lua"
defines = [{ kind = "tone", call = "tone", arg = 1 }]
refers = [{ kind = "tone", call = "sound", arg = 1 }]
guards = [{ kind = "unit", call = "present", arg = 1 }]
[units]
kind = "unit"
"""
PIER, USING = "units/pier/unit.ini", {"units/pier/b.lua": 'sound("ding")\n'}
BELLS = {"units/bells/unit.ini": "[unit]\nname = bells\n", "units/bells/a.lua": 'tone("ding")\n'}


@check(
    code="undeclared-unit",
    title="A unit uses what is of another that it does not say it needs",
    severity=Severity.ERROR,
    why="where the other unit is not there, or comes later, what it uses does not exist",
    remedy="say in the unit that it needs the other, or take out what uses it",
    example=Example(
        layout=UNITS,
        fails=BELLS | USING | {PIER: "[unit]\nname = pier\n"},
        passes=BELLS | USING | {PIER: "[unit]\nname = pier\nneeds = bells\n"},
    ),
    loaded=True,
)
def undeclared_unit(case: Case) -> Iterable[UnplacedFinding]:
    """Yield one finding for each unit and each other that it uses so, at the first use."""
    units = case.units
    first: dict[tuple[str, str], Use] = {}
    counts: dict[tuple[str, str], int] = {}
    for use in units.uses:
        pair = use.user.folder, use.owner.folder
        guarded = any(name == use.owner.name for _, name in use.reference.guards)
        if use.owner.name in units.usable[use.user.folder] or use.owner.name in use.user.may_use or guarded:
            continue
        first.setdefault(pair, use)
        counts[pair] = counts.get(pair, 0) + 1
    for pair, use in first.items():
        label, name = case.kind(use.reference.kind).label, use.reference.name
        more = f" (and {counts[pair] - 1:,} more of it)" if counts[pair] > 1 else ""
        yield UnplacedFinding(
            path=use.reference.path,
            where=use.reference.where,
            message=f"{label} `{name}`{more} is of `{use.owner.name}`, which `{use.user.name}` does not say it needs",
            remedy=f"say in {use.user.folder} that it needs `{use.owner.name}`, or take out what uses it",
            kind=case.layout.units.kind if case.layout.units is not None else "",
            name=use.owner.name,
        )


@check(
    code="unguarded-unit",
    title="A unit that may be missing is used without asking whether it is there",
    severity=Severity.WARNING,
    why="it works as long as the other unit happens to be there, and stops the script where it is not",
    remedy="ask for the other unit first, or say that it is needed",
    example=Example(
        layout=UNITS,
        fails=BELLS | USING | {PIER: "[unit]\nname = pier\nmay_use = bells\n"},
        passes=BELLS
        | {
            "units/pier/unit.ini": "[unit]\nname = pier\nmay_use = bells\n",
            "units/pier/b.lua": 'if present("bells") then sound("ding") end\n',
        },
    ),
    loaded=True,
)
def unguarded_unit(case: Case) -> Iterable[UnplacedFinding]:
    """Yield each such use in files that can ask."""
    units = case.units
    asking = [rule for rule in case.layout.reads if rule.guards]
    for use in units.uses:
        reference, owner = use.reference, use.owner.name
        if owner in units.usable[use.user.folder] or owner not in use.user.may_use:
            continue
        if any(name == owner for _, name in reference.guards) or not any(rule.match(reference.path) for rule in asking):
            continue
        yield UnplacedFinding(
            path=reference.path,
            where=reference.where,
            message=f"{case.kind(reference.kind).label} `{reference.name}` is of `{owner}`, which may be missing",
            kind=reference.kind,
            name=reference.name,
        )


@check(
    code="unit-circle",
    title="Units need each other in a circle",
    severity=Severity.ERROR,
    why="none of them can be loaded first, and the game loads none",
    remedy="take one of the needs out, or put what both use into a unit of its own",
    example=Example(
        layout=UNITS,
        fails={
            "units/bells/unit.ini": "[unit]\nname = bells\nneeds = pier\n",
            "units/pier/unit.ini": "[unit]\nname = pier\nneeds = bells\n",
        },
        passes=BELLS | USING | {PIER: "[unit]\nname = pier\nneeds = bells\n"},
    ),
)
def unit_circle(case: Case) -> Iterable[UnplacedFinding]:
    """Yield the first circle of each set of units that stand in one."""
    by_name = case.units.by_name
    left = dict(by_name)
    while left:
        sorter = graphlib.TopologicalSorter({name: [n for n in unit.needs if n in left] for name, unit in left.items()})
        try:
            sorter.prepare()
        except graphlib.CycleError as error:
            circle: list[str] = list(reversed(error.args[1]))
        else:
            return
        first = min(circle)
        nexts = circle[circle.index(first) + 1 :] or circle[1:]
        need = by_name[first].needs.get(nexts[0])
        yield UnplacedFinding(
            path=need.path if need is not None else by_name[first].folder,
            where=need.where if need is not None else None,
            message=f"these units need each other: {' → '.join(circle)}",
            kind=case.layout.units.kind if case.layout.units is not None else "",
            name=first,
        )
        left = {name: unit for name, unit in left.items() if name not in circle}


def _gives(case: Case, file: FileFacts) -> bool:
    """Whether a file defines a name that is neither a unit's nor its own path."""
    entry = case.layout.units
    kinds = {block.kind for block in file.defined} - case.layout.path_kinds
    return entry is not None and bool(kinds - {entry.kind})


@check(
    code="unneeded-unit",
    title="A unit says that it needs another of which it uses nothing",
    severity=Severity.NOTE,
    why="players have to have the other unit for nothing",
    remedy="take the need out, unless the other unit does something by being there",
    example=Example(
        layout=UNITS,
        fails=BELLS | {"units/pier/unit.ini": "[unit]\nname = pier\nneeds = bells\n"},
        passes=BELLS | USING | {PIER: "[unit]\nname = pier\nneeds = bells\n"},
    ),
    loaded=True,
)
def unneeded_unit(case: Case) -> Iterable[UnplacedFinding]:
    """Yield the needs of which nothing is used, of units that the map has."""
    units = case.units
    if not units.by_folder:
        return
    used = {(use.user.folder, use.owner.name) for use in units.uses}
    always = case.layout.units.always if case.layout.units is not None else ()
    # A unit without names of its own does what it does by being there.
    owners = (units.of_file[file.path] for file in case.web.files if _gives(case, file))
    giving = {unit.name for unit in owners if unit is not None}
    for unit in units.by_folder.values():
        for name, reference in unit.needs.items():
            idle = name in units.by_name and name != unit.name and (unit.folder, name) not in used
            if idle and name not in always and name in giving:
                yield UnplacedFinding(
                    path=reference.path,
                    where=reference.where,
                    message=f"`{unit.name}` says that it needs `{name}`, and uses nothing of it",
                    kind=reference.kind,
                    name=name,
                )
