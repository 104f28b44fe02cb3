"""One name through the whole web: who defines it, who refers to it, how the game comes to it, what would break."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct
from msgspec.structs import replace

from hookset.model import Definition, Reference, Where
from hookset.symbols.analysis import Analysis
from hookset.symbols.collect import Web
from hookset.symbols.facts import Defined, Referred
from hookset.symbols.index import Index, fits
from hookset.symbols.many_names import rows_of
from hookset.symbols.reach import Reach, reference_to
from hookset.symbols.resolve import Outcome, resolve

__all__ = ["Trace", "trace"]


class Trace(Struct, frozen=True):
    """A name as one kind of thing."""

    kind: str
    name: str
    defined: tuple[Definition, ...]
    in_stock: bool
    referred: tuple[Reference, ...]
    """Names built at run time that may mean it are among them."""
    loaded: bool
    """Whether the game comes to a file that defines it."""
    chain: tuple[Reference, ...]
    """From a file that the game always reads to the one that defines the name, by the references that lead
    from each to the next."""
    breaks: tuple[Reference, ...]
    """What would be missing if it were not there."""


def trace(analysis: Analysis, name: str) -> tuple[Trace, ...]:
    """For each kind that has something of this name, defined or asked for. The base game's definitions count."""
    return tuple(found for kind in analysis.web.layout.kinds if (found := _of_kind(analysis, kind, name)) is not None)


def _of_kind(analysis: Analysis, kind: str, name: str) -> Trace | None:
    web, index, reach = analysis.web, analysis.index, analysis.reach
    defined = tuple(index.get(kind, name))
    in_stock = bool(web.stock.sides(kind, name))
    like = tuple(_like(web, kind, name))
    referred = tuple(one for one in like if _means(index, one, name))
    if not defined and not any(not reference.pattern for reference in referred):
        # Most names are found in one kind or two; what may be meant by others is no answer.
        return None
    chain = _chain(index, reach, defined[0].path) if defined else ()
    loaded = any(definition.path in reach for definition in defined)
    return Trace(kind, name, defined, in_stock, referred, loaded, chain, _breaks(analysis, kind, defined, like))


def _like(web: Web, kind: str, name: str) -> Iterator[Reference]:
    """The references of a kind that are written so, can be meant so, or are built at run time."""
    key, exact = web.layout.kinds[kind].key, web.layout.kinds[kind].entry.case == "exact"
    wanted = key(name)
    for file in web.files:
        for block in file.referred:
            if block.kind != kind:
                continue
            names = block.names if exact else tuple(map(key, block.names))
            rows = {row for row, one in enumerate(names) if one == wanted} if wanted in names else set()
            rows |= {row for row, others in block.others.items() if wanted in map(key, others)}
            yield from (block.reference(file.path, row) for row in sorted(rows | block.patterns))


def _means(index: Index, reference: Reference, name: str) -> bool:
    key = index.layout.kinds[reference.kind].key
    if reference.pattern:
        return bool(reference.name.strip("*")) and fits(reference.name, name)
    meant = index.meant(reference)
    return key(meant[0].name if meant else reference.name) == key(name)


def _chain(index: Index, reach: Reach, path: str) -> tuple[Reference, ...]:
    steps: list[Reference] = []
    for before, block in _steps(reach, path):
        steps.append(reference_to(index, block, before, path))
        path = before
    return tuple(reversed(steps))


def _breaks(
    analysis: Analysis, kind: str, defined: tuple[Definition, ...], like: tuple[Reference, ...]
) -> tuple[Reference, ...]:
    """The map without it, judged once more: what is missing then and is not now. Where nothing else can depend on it,
    only the references that are written `like` it are judged."""
    if not defined:
        return ()
    without = _without(analysis, kind, defined)
    if _stands_alone(analysis, kind, defined):
        return tuple(
            reference
            for reference in like
            if resolve(reference, without.web, without.index, analysis.reach).outcome is Outcome.MISSING
            and resolve(reference, analysis.web, analysis.index, analysis.reach).outcome is not Outcome.MISSING
        )
    missing = {(r.reference.path, r.reference.where, r.reference.kind) for r in analysis.resolutions.missing}
    return tuple(
        r.reference
        for r in replace(without, before=analysis.settled).resolutions.missing
        if (r.reference.path, r.reference.where, r.reference.kind) not in missing
    )


def _stands_alone(analysis: Analysis, kind: str, defined: tuple[Definition, ...]) -> bool:
    """Whether only references to a name depend on it: no file would be loaded less without it, nor is it what
    other names belong to."""
    layout, reach = analysis.web.layout, analysis.reach
    if layout.kinds[kind].entry.path or layout.kinds[kind].entry.each:
        return False
    if any(other.entry.owned for other in layout.kinds.values()):
        return False
    if not any(other.entry.reached or other.entry.sided for other in layout.kinds.values()):
        return True
    if layout.sides or kind in layout.root_names:
        return False
    return all(block.kind != kind for one in defined for _, block in _steps(reach, one.path))


def _steps(reach: Reach, path: str) -> Iterator[tuple[str, Referred]]:
    """By which references of which files the game comes to a file, from it back to one that it always reads."""
    while (step := reach.via.get(path)) is not None:
        yield step
        path = step[0]


def _without(analysis: Analysis, kind: str, defined: tuple[Definition, ...]) -> Analysis:
    """The map as it would be if nothing defined a name."""
    paths = {definition.path for definition in defined}
    web = analysis.web
    whole = web.layout.kinds[kind].entry.path
    files = []
    for file in web.files:
        if file.path in paths:
            if whole:
                continue
            gone = {(d.name, d.where) for d in defined if d.path == file.path}
            files.append(replace(file, defined=tuple(_kept(b, kind, gone) for b in file.defined)))
        else:
            files.append(file)
    return Analysis(replace(web, files=tuple(files)), analysis.index)


def _kept(block: Defined, kind: str, gone: set[tuple[str, Where]]) -> Defined:
    if block.kind != kind:
        return block
    named = {name for name, _ in gone}
    rows = {row for name in named for row in rows_of(block.names, name) if (name, block.where(row)) in gone}
    return block.without(rows)
