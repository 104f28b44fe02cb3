"""One name through the whole web: who defines it, who refers to it, how the game comes to it, what would break."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct
from msgspec.structs import replace

from hookset.model import Definition, Reference, Where
from hookset.symbols.analysis import Analysis
from hookset.symbols.collect import Web
from hookset.symbols.facts import Defined
from hookset.symbols.index import Index, fits
from hookset.symbols.many_names import rows_of
from hookset.symbols.reach import Reach, reference_to

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
    referred = tuple(one for one in _like(web, kind, name) if _means(index, one, name))
    if not defined and not any(not reference.pattern for reference in referred):
        # Most names are found in one kind or two; what may be meant by others is no answer.
        return None
    chain = _chain(index, reach, defined[0].path) if defined else ()
    loaded = any(definition.path in reach for definition in defined)
    return Trace(kind, name, defined, in_stock, referred, loaded, chain, _breaks(analysis, kind, defined))


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
    while (step := reach.via.get(path)) is not None:
        steps.append(reference_to(index, step[1], step[0], path))
        path = step[0]
    return tuple(reversed(steps))


def _breaks(analysis: Analysis, kind: str, defined: tuple[Definition, ...]) -> tuple[Reference, ...]:
    """The map without it, judged once more: what is missing then and is not now."""
    if not defined:
        return ()
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
    missing = {(r.reference.path, r.reference.where, r.reference.kind) for r in analysis.resolutions.missing}
    without = Analysis(replace(web, files=tuple(files)), analysis.index, analysis.settled)
    return tuple(
        r.reference
        for r in without.resolutions.missing
        if (r.reference.path, r.reference.where, r.reference.kind) not in missing
    )


def _kept(block: Defined, kind: str, gone: set[tuple[str, Where]]) -> Defined:
    if block.kind != kind:
        return block
    named = {name for name, _ in gone}
    rows = {row for name in named for row in rows_of(block.names, name) if (name, block.where(row)) in gone}
    return block.without(rows)
