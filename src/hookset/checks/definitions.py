"""Nothing defined twice that must be single, and what is defined is whole."""

from __future__ import annotations

from collections.abc import Iterable

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.model import Definition, Severity, sides_meet
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


@check(
    code="defined-twice",
    title="A name that must be single is defined twice",
    severity=Severity.ERROR,
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
        for definitions in case.index.repeated(kind.name).values():
            for index, definition in enumerate(definitions):
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
        kind = case.kind(name)
        for definitions in case.index.groups(name).values():
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
