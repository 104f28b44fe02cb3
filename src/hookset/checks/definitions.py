"""Nothing defined twice that must be single, and what is defined is whole."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.config.layouts import Kind
from hookset.model import Definition, Severity, Where, sides_meet
from hookset.symbols import Miss

__all__: list[str] = []

WARES = """
[kinds.ware]
label = "ware"
over = "all"
[[read]]
files = "wares.list"
format = "lines"
defines = [{ kind = "ware" }]
"""

TOOLS = """
[kinds.tool]
label = "tool"
unused = "warning"
[[read]]
files = "tools.list"
format = "lines"
defines = [{ kind = "tool" }]
[[read]]
files = "{side}/*.lua"
format = "lua"
refers = [{ kind = "tool", call = "take", arg = 1 }]
"""
TIDES = """
[kinds.tide]
label = "tide"
[[read]]
files = "{side}/*.lua"
format = "lua"
refers = [{ kind = "tide", call = "wait_for", arg = 1 }]
"""


@check(
    code="defined-twice",
    title="A name that must be single is defined twice",
    severity=Severity.ERROR,
    loaded=True,
    why="one of the two wins without a word, and it need not be the one that was meant",
    remedy="rename one of them and what refers to it, or take one out",
    example=Example(
        fails={"things.csv": "name,deed,picture\ngate,open,gate.png\ngate,,\n"},
        passes={"things.csv": "name,deed,picture\ngate,open,gate.png\n# gate,,\n"},
    ),
)
def defined_twice(case: Case) -> Iterable[UnplacedFinding]:
    row = case.layout.manifest.kind if case.layout.manifest else ""
    for kind in case.layout.kinds.values():
        if kind.name == row or not (kind.entry.unique or kind.entry.pool):
            continue
        if kind.entry.is_ and case.kind(kind.entry.is_).entry.unique:
            # It is told of what it is one of.
            continue
        for found in case.index.repeated(kind.name).values():
            # What the game never loads does not stand beside what it does.
            loaded = [one for one in found if one.path in case.reach]
            apart = [one for one in found if one.path not in case.reach]
            for definitions, index, definition in (
                (group, *one) for group in (loaded, apart) for one in enumerate(group)
            ):
                earlier = next((d for d in definitions[:index] if _same(d, definition, kind.entry.sided)), None)
                if earlier is not None:
                    where = "earlier in this file" if earlier.path == definition.path else f"in {earlier.path}"
                    yield UnplacedFinding(
                        path=definition.path,
                        where=definition.where,
                        message=f"{kind.label} `{definition.name}` is defined here and {where}",
                        kind=kind.name,
                        name=definition.name,
                        side=definition.side,
                    )


@check(
    code="defined-in-stock",
    title="A name that must be single is one that the base game has",
    severity=Severity.ERROR,
    loaded=True,
    why="the map's own replaces the game's everywhere, or is passed over without a word",
    remedy="rename it and what refers to it",
    example=Example(
        fails={"wares.list": "rope\nbarrel\n"},
        passes={"wares.list": "rope\n"},
        layout=WARES,
        stock={"ware": ("barrel",)},
    ),
)
def defined_in_stock(case: Case) -> Iterable[UnplacedFinding]:
    for kind in case.layout.kinds.values():
        if kind.entry.over != "all":
            continue
        for definitions in case.index.groups(kind.name).values():
            for definition in definitions:
                if case.web.stock.sides(kind.name, definition.name):
                    yield UnplacedFinding(
                        path=definition.path,
                        where=definition.where,
                        message=f"{kind.label} `{definition.name}` is a name of the base game",
                        kind=kind.name,
                        name=definition.name,
                        side=definition.side,
                    )


def _same(one: Definition, other: Definition, sided: bool) -> bool:
    return one.variant == other.variant and (not sided or sides_meet(one.side, other.side))


@check(
    code="untranslated",
    title="A text that nothing in the map refers to is not there in every language",
    severity=Severity.WARNING,
    why="if the game itself asks for it, players with that language see the raw key",
    remedy="add the key to each language's texts, or take it out of all",
    example=Example(
        fails={"texts/en.ini": "gate.opens = The gate opens\ngate.sign = Stop\n"},
        passes={"texts/en.ini": "gate.opens = The gate opens\n; gate.sign = Stop\n"},
    ),
)
def untranslated(case: Case) -> Iterable[UnplacedFinding]:
    told = {(r.reference.kind, r.reference.name) for r in case.resolutions.missing if r.miss is Miss.VARIANT}
    for name, variants in case.index.variants.items():
        kind, whole = case.kind(name), case.index.in_every_variant(name)
        for key in case.index.known(name):
            if key in whole:
                continue
            definitions = case.index.get(name, key)
            first = definitions[0]
            there = {d.variant for d in definitions}
            lacking = [v for v in variants if v not in there]
            if lacking and (name, first.name) not in told:
                yield UnplacedFinding(
                    path=first.path,
                    where=first.where,
                    message=f"{kind.label} `{first.name}` is missing in the {kind.entry.each} "
                    + ", ".join(f"`{v}`" for v in lacking),
                    kind=name,
                    name=first.name,
                )


@check(
    code="case-twins",
    title="Two files differ in letter case only",
    severity=Severity.WARNING,
    why="on Windows they are one file: whichever is unpacked last replaces the other",
    remedy="rename one of them and what refers to it",
    example=Example(
        fails={"notes/Tides.txt": "", "notes/tides.txt": ""},
        passes={"notes/Tides.txt": "", "old/tides.txt": ""},
    ),
)
def case_twins(case: Case) -> Iterable[UnplacedFinding]:
    first: dict[str, str] = {}
    for file in case.web.files:
        other = first.setdefault(file.path.casefold(), file.path)
        if other != file.path:
            yield UnplacedFinding(path=file.path, message=f"`{file.path}` differs from `{other}` in letter case only")


@check(
    code="unused-name",
    title="Nothing uses a name that the map defines",
    severity=Severity.NOTE,
    why="somebody has forgotten to use it, or what used it has gone",
    remedy="use it, or take it out",
    example=Example(
        fails={"tools.list": "hook\nrope\n", "client/main.lua": 'say("gate.opens")\ntake("hook")\n'},
        passes={
            "tools.list": "hook\nrope_2\n",
            "client/main.lua": 'say("gate.opens")\ntake("hook")\ntake("rope_" .. number)\n',
        },
        layout=TOOLS,
    ),
)
def unused_name(case: Case) -> Iterable[UnplacedFinding]:
    """Yield the unused names of the kinds of which the layout wants to be told that."""
    kinds = {kind.name: kind for kind in case.layout.kinds.values() if kind.entry.unused}
    used = _used(case, kinds) if kinds else set()
    for kind in kinds.values():
        for name, definitions in case.index.groups(kind.name).items():
            if (kind.name, name) not in used:
                first = definitions[0]
                yield UnplacedFinding(
                    path=first.path,
                    where=first.where,
                    message=f"nothing uses the {kind.label} `{first.name}`",
                    kind=kind.name,
                    name=first.name,
                    side=first.side,
                    severity=Severity[kind.entry.unused.upper()],
                )


def _used(case: Case, kinds: Mapping[str, Kind]) -> set[tuple[str, str]]:
    """(kind, name) of what something asks for, or may ask for at run time, or the game asks for itself; names as the
    game compares them."""
    roots = case.layout.root_names
    found = {(kind, kinds[kind].key(name)) for kind in kinds.keys() & roots.keys() for name in roots[kind]}
    concerned = {other for kind in kinds for other in case.layout.kin[kind]}
    for file in case.web.files:
        for block in (one for one in file.referred if one.use and one.kind in concerned):
            key = case.kind(block.kind).key
            for row, name in enumerate(block.names):
                if row in block.patterns:
                    names = case.index.matching(block.kind, name)
                else:
                    names = [name, *block.others.get(row, ())]
                found |= {(kind, key(one)) for one in names for kind in case.layout.kin[block.kind]}
    return found


@check(
    code="no-rule-defines",
    title="Names are used of a kind that nothing defines",
    severity=Severity.WARNING,
    why="nothing can be said about such names: a misspelt one is not found",
    remedy="give the layout a rule that defines them or a `vocabulary`, or name a stock list in hookset.toml, under "
    "[content]",
    example=Example(
        fails={"client/main.lua": 'say("gate.opens")\nwait_for("ebb")\nwait_for("flood")\n'},
        passes={"client/main.lua": 'say("gate.opens") -- wait_for("ebb")\n'},
        layout=TIDES,
    ),
)
def no_rule_defines(case: Case) -> Iterable[UnplacedFinding]:
    """Yield one finding for each such kind, at the first name of it."""
    counts: Counter[str] = Counter()
    first: dict[str, tuple[str, Where, str]] = {}
    unknowable = case.index.unknowable
    for file in case.web.files if unknowable else ():
        for block in (one for one in file.referred if one.kind in unknowable and one.names):
            counts[block.kind] += len(block.names)
            first.setdefault(block.kind, (file.path, block.where(0), block.names[0]))
    for kind, (path, where, name) in first.items():
        label, others = case.kind(kind).label, counts[kind] - 1
        more = f" (and {others:,} more)" if others else ""
        yield UnplacedFinding(
            path=path,
            where=where,
            message=f"no rule of the layout defines any {label}, and no stock has one: `{name}`{more} is not checked",
            kind=kind,
            name=name,
        )
