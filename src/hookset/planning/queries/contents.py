"""What a pack brings and asks for, with a map at hand or without one."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct

from hookset.checks import ExclusionState, Verdict
from hookset.config.layouts import Layout, shipped_layout, shipped_names
from hookset.formats import format_named
from hookset.model import Definition
from hookset.packs import Pack, SheetedPack
from hookset.planning.choices import Choices
from hookset.planning.operations.remove import map_without
from hookset.planning.pipeline.staging import stage_pack
from hookset.planning.pipeline.targets import called_as_here
from hookset.planning.plan import PackPlan, Stop
from hookset.planning.queries.needs import NeedState
from hookset.planning.state import PlanState
from hookset.project import Ledger, LedgerPack, MapProject, Stock, read_ledger
from hookset.symbols import Analysis, Miss, Outcome, analyse
from hookset.trees import EmptyTree, Inline, Overlay

__all__ = ["Brought", "Contents", "PackReview", "Requirement", "contents_alone", "contents_in_map"]


class Brought(Struct, frozen=True):
    """Names of one kind that a pack adds."""

    kind: str
    label: str
    names: tuple[str, ...]


class Requirement(Struct, frozen=True):
    """A name that a pack uses and does not bring."""

    label: str
    name: str
    met: str
    """In the map, in the stock, missing … ; empty without a map."""


class Contents(Struct, frozen=True):
    """What there is to say about a pack's names."""

    layout: str
    """By whose rules it was read; empty when no layout is known."""
    brought: tuple[Brought, ...]
    asked: tuple[Requirement, ...]
    inside: int = 0
    """How many names it uses that it brings itself."""
    unused: tuple[str, ...] = ()
    """Files of it that nothing would use."""


class PackReview(Struct, frozen=True):
    """All that looking into a pack shows, with a map or without one."""

    contents: Contents
    plan: PackPlan | None
    needs: tuple[NeedState, ...] | None = None
    """None without a map."""
    excluded: tuple[ExclusionState, ...] = ()
    """Empty without a map."""
    stops: tuple[Stop, ...] = ()
    """What would collide here."""


def contents_alone(pack: Pack) -> tuple[Contents, PackPlan | None]:
    """Without a map: read by the layout that the pack says it is made for, if it is a shipped one. Its entries are
    tried on files that hold only their seats."""
    wanted = pack.sheet.pack.layouts if pack.sheet else ()
    name = next((name for name in wanted if name in shipped_names()), None)
    if name is None or not isinstance(pack, SheetedPack):
        return Contents("", (), ()), None
    layout = shipped_layout(name)
    state = PlanState(
        layout=layout,
        stock=Stock(),
        root=pack.source,
        base=Overlay(EmptyTree(), {path: Inline(text.encode()) for path, text in _seat_files(pack, layout).items()}),
        choices=Choices(),
        before=Ledger(),
        ledger=Ledger(),
        now="",
    )
    state = stage_pack(state, pack, {pack.name: ""})
    analysis = analyse(state.tree, layout, Stock())
    missing = (r for r in analysis.resolutions.missing if r.miss is Miss.ABSENT)
    unknown = (r for r in analysis.resolutions.open if not r.reference.pattern)
    references = [r.reference for r in (*missing, *unknown) if r.reference.kind not in layout.belonging_kinds]
    asked = {(layout.kinds[one.kind].label, one.name): "" for one in references}
    # The files that only hold seats are the map's, not the pack's.
    brought = (
        d
        for f in analysis.web.files
        for d in f.definitions
        if d.path in pack.targets or d.kind not in _of_files(layout, d.path)
    )
    # What nothing would use is not known: some of the entries may have no seat without a map.
    return Contents(name, _brought(layout, brought), _asked(asked), _within(pack, analysis)[0]), state.packs[0]


def _seat_files(pack: SheetedPack, layout: Layout) -> dict[str, str]:
    """The files that the pack's hooks go into, each with nothing in it but what makes its seats be found."""
    files: dict[str, list[str]] = {}
    hooks = pack.sheet.hook
    listing = sorted(layout.manifest.seats) if layout.manifest else ()
    for seat_name, variants in (
        *((hook.seat, tuple(hook.each or ())) for hook in hooks),
        *((one, ()) for one in listing),
    ):
        seat = layout.seats.get(seat_name)
        if seat is None:
            continue
        blank = format_named(seat.format).blank(seat.put)
        for variant in variants or ("",):
            # Its pattern stands for a file whose name only a map knows; it matches itself.
            path = seat.file.filled({"variant": variant})
            if blank not in files.setdefault(path, []):
                files[path].append(blank)
    return {path: "".join(blanks) for path, blanks in files.items()}


def _of_files(layout: Layout, path: str) -> frozenset[str]:
    """The kinds that a file defines by lying where it does."""
    rules = (rule for rule in layout.reads if rule.format == "any" and rule.match(path) is not None)
    return frozenset(define.kind for rule in rules for define in rule.defines)


def contents_in_map(pack: Pack, project: MapProject, after: Verdict, installed: LedgerPack | None) -> Contents:
    """With a map: what is defined with the pack and would not be without it, and what meets what it asks for."""
    layout = project.layout
    if isinstance(pack, SheetedPack):
        pack = called_as_here(pack, project.tree, layout, project.root.name)
    without = project.tree if installed is None else map_without(project, read_ledger(project.root), installed.name)
    before = {_identity(d) for f in analyse(without, layout, project.stock).web.files for d in f.definitions}
    new = [d for f in after.case.web.files for d in f.definitions if _identity(d) not in before]
    own = {(d.kind, d.name) for d in new}
    asked: dict[tuple[str, str], str] = {}
    for resolution in after.case.resolutions:
        reference = resolution.reference
        if reference.kind in layout.belonging_kinds and resolution.outcome is not Outcome.MISSING:
            continue
        if reference.path in pack.targets and (reference.kind, reference.name) not in own:
            asked.setdefault((layout.kinds[reference.kind].label, reference.name), resolution.outcome.value)
    met, unused = _within(pack, after.case.analysis)
    return Contents(layout.name, _brought(layout, new), _asked(asked), met, unused)


def _within(pack: Pack, analysis: Analysis) -> tuple[int, tuple[str, ...]]:
    """How many names the pack's files use that they define themselves, and which of them nothing would use."""
    used: set[str] = set()
    met: set[tuple[str, str]] = set()
    for file in analysis.web.files:
        for reference in (one for one in file.references if one.use):
            if reference.kind in analysis.web.layout.belonging_kinds:
                continue
            for definition in analysis.index.meant(reference):
                if definition.path != file.path:
                    used.add(definition.path)
                if file.path in pack.targets and definition.path in pack.targets:
                    met.add((definition.kind, definition.name))
    unused = tuple(path for path in pack.targets if path not in used and path not in analysis.reach)
    return len(met), unused


def _identity(definition: Definition) -> tuple[str, str, str, str]:
    return (definition.kind, definition.name, definition.side, definition.variant)


def _brought(layout: Layout, definitions: Iterable[Definition]) -> tuple[Brought, ...]:
    names: dict[str, dict[str, list[str]]] = {}
    for definition in definitions:
        tags = names.setdefault(definition.kind, {}).setdefault(definition.name, [])
        if (tag := definition.side or definition.variant) and tag not in tags:
            tags.append(tag)
    listing = layout.manifest.kind if layout.manifest else ""
    return tuple(
        Brought(kind, layout.kinds[kind].label, tuple(_tagged(name, tags) for name, tags in sorted(found.items())))
        for kind, found in names.items()
        if kind != listing and kind not in layout.belonging_kinds
    )


def _tagged(name: str, tags: list[str]) -> str:
    return f"{name} ({', '.join(sorted(tags))})" if tags else name


def _asked(asked: dict[tuple[str, str], str]) -> tuple[Requirement, ...]:
    return tuple(Requirement(label, name, met) for (label, name), met in sorted(asked.items()))
