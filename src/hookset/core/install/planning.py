"""Making the plan: the files of every pack, then their hooks, one after the other over the planned state."""

from __future__ import annotations

import graphlib
from collections.abc import Sequence

import msgspec

from hookset.core.install.change import Change
from hookset.core.install.files import plan_files
from hookset.core.install.hooks import Seating, plan_hooks
from hookset.core.install.needs import PACK
from hookset.core.install.plan import Choices, FileState, FileStep, HookState, HookStep, PackPlan, Plan, Stop
from hookset.core.model import RefusedError
from hookset.core.packs import Pack
from hookset.core.project import (
    LEDGER,
    Ledger,
    LedgerFile,
    LedgerHook,
    LedgerPack,
    MapProject,
    written_ledger,
)
from hookset.core.trees import Content, Inline, Member, Overlay, Tree, sha256_of

__all__ = ["plan_install"]


def plan_install(
    project: MapProject,
    ledger: Ledger,
    ledger_bytes: bytes | None,
    packs: Sequence[Pack],
    choices: Choices,
    now: str,
) -> Plan:
    """What setting these packs into the map would do. Reads trees, writes nothing.

    Raises RefusedError for packs that cannot be planned at all: no hook sheet, a circle of needs.
    """
    tree = project.tree
    planned: dict[str, Content | None] = {}
    stops: list[Stop] = []
    steps: list[tuple[Pack, tuple[FileStep, ...], tuple[HookStep, ...], bool]] = []
    ordered = _ordered(packs)
    versions = {pack.name: pack.version for pack in ledger.packs}
    versions |= {pack.sheet.pack.name: pack.sheet.pack.version for pack in ordered if pack.sheet}
    for pack in ordered:
        stops += _pack_stops(pack, ledger, project)
        files, found, contents = plan_files(pack, Overlay(tree, planned), choices)
        stops += found
        planned |= contents
        seating = Seating(project.layout, Overlay(tree, planned))
        hooks, found, contents = plan_hooks(pack, seating, versions)
        stops += found
        planned |= contents
        steps.append((pack, files, hooks, ledger.pack(pack.name) is not None))
    changes = tuple(_changes(tree, planned))
    plans = tuple(
        PackPlan(pack=pack, files=files, hooks=hooks, installed=installed) for pack, files, hooks, installed in steps
    )
    after = ledger
    for plan in plans:
        after = _entered(after, plan, planned, now)
    return Plan(
        packs=plans,
        changes=changes,
        ledger_before=ledger,
        ledger=after,
        ledger_change=_ledger_change(ledger, after, ledger_bytes),
        stops=tuple(stops),
    )


def _ordered(packs: Sequence[Pack]) -> list[Pack]:
    """Packs after those that they need. Each must have a hook sheet."""
    named: dict[str, Pack] = {}
    for pack in packs:
        if pack.sheet is None:
            raise RefusedError(
                "has no hook sheet",
                where=str(pack.source),
                why="only a hook sheet says which entries the pack needs in the map's files",
                remedy="write a hooksheet.toml into the pack's folder (docs/hook-sheets.md shows how), and try again",
            )
        if pack.name in named:
            raise RefusedError(f"two of the packs are both called {pack.name}", remedy="name one of them only")
        named[pack.name] = pack
    sorter: graphlib.TopologicalSorter[str] = graphlib.TopologicalSorter()
    for name, pack in named.items():
        needed = [need.name for need in pack.sheet.needs if need.kind == PACK] if pack.sheet else []
        sorter.add(name, *(other for other in needed if other in named))
    try:
        return [named[name] for name in sorter.static_order()]
    except graphlib.CycleError as error:
        raise RefusedError(
            f"these packs need each other in a circle: {' → '.join(error.args[1])}",
            why="none of them can be set in first",
            remedy="take the need out of one of their hook sheets",
        ) from error


def _pack_stops(pack: Pack, ledger: Ledger, project: MapProject) -> list[Stop]:
    stops = []
    sheet = pack.sheet
    installed = ledger.pack(pack.name)
    if sheet and installed is not None and installed.version != sheet.pack.version:
        stops.append(
            Stop(
                f"{pack.name} {installed.version} is installed already",
                where=str(pack.source),
                why="two versions side by side would define the same names twice",
                remedy=f"take {installed.version} out first (`hookset undo`), then install {sheet.pack.version}",
            )
        )
    if sheet and sheet.pack.layouts and project.layout.name not in sheet.pack.layouts:
        stops.append(
            Stop(
                f"{pack.name} is made for {', '.join(sheet.pack.layouts)}; this map's layout is {project.layout.name}",
                where=str(pack.source),
                why="its seats and file forms are those of another kind of map",
                remedy="ask its author for one that suits this layout",
            )
        )
    return stops


def _changes(tree: Tree, planned: dict[str, Content | None]) -> list[Change]:
    changes = []
    for path, content in sorted(planned.items()):
        before = sha256_of(Member(tree, path)) if tree.has(path) else None
        if content is not None and sha256_of(content) == before:
            continue
        changes.append(Change(path=path, before=before, after=content))
    return changes


def _entered(ledger: Ledger, plan: PackPlan, planned: dict[str, Content | None], now: str) -> Ledger:
    """The ledger with this pack in it. What an earlier run set stays set by the pack, though it was there now."""
    sheet = plan.pack.sheet
    if sheet is None:
        return ledger
    earlier = ledger.pack(plan.pack.name)
    old_files = {file.path: file for file in earlier.files} if earlier else {}
    hooks = {_entry_key(hook): hook for hook in earlier.hooks} if earlier else {}
    files = []
    for file in plan.files:
        if file.state is FileState.SAME and file.path in old_files:
            files.append(old_files[file.path])
        elif file.state in (FileState.NEW, FileState.REPLACED):
            content = planned[file.path]
            files.append(LedgerFile(path=file.path, sha256=sha256_of(content) if content else ""))
        elif file.state is FileState.SAME:
            member = Member(plan.pack.tree, plan.pack.targets[file.path])
            files.append(LedgerFile(path=file.path, sha256=sha256_of(member), was_there=True))
    for hook in plan.hooks:
        there = hook.state is HookState.THERE
        if hook.state is HookState.SET or (there and earlier is None):
            row = LedgerHook(seat=hook.seat, path=hook.path, texts=hook.texts, before=hook.before, was_there=there)
            hooks[_entry_key(row)] = row
    entry = LedgerPack(
        name=sheet.pack.name,
        version=sheet.pack.version,
        title=sheet.pack.title,
        authors=sheet.pack.authors,
        license=sheet.pack.license,
        source=plan.pack.source.name,
        sha256=plan.pack.sha256,
        installed=earlier.installed if earlier else now,
        files=tuple(files),
        hooks=tuple(hooks.values()),
    )
    others = tuple(pack for pack in ledger.packs if pack.name != entry.name)
    return msgspec.structs.replace(ledger, packs=tuple(sorted((*others, entry), key=lambda pack: pack.name)))


def _entry_key(hook: LedgerHook) -> tuple[str, str, tuple[str, ...]]:
    """The same entry set anew, perhaps below another neighbour, is one entry."""
    return hook.seat, hook.path, tuple(text.strip() for text in hook.texts)


def _ledger_change(before: Ledger, after: Ledger, data: bytes | None) -> Change | None:
    if before == after:
        return None
    sha = None if data is None else sha256_of(Inline(data))
    return Change(path=LEDGER, before=sha, after=Inline(written_ledger(after)))
