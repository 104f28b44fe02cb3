"""Which entries a pack asks for in this map, before anything is filled in."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import msgspec
from msgspec.structs import replace
from packaging.specifiers import SpecifierSet

from hookset.config.layouts import Layout, Row, Seat
from hookset.config.sheets import nearest
from hookset.packs import SheetedPack
from hookset.packs.hooksheet import EveryEntry, HookEntry, WhenEntry
from hookset.planning.pipeline.fragments import requests_of_fragment
from hookset.planning.pipeline.request import HookRequest, Situation, shown
from hookset.planning.pipeline.spots import no_file, only_file, request_of
from hookset.planning.plan import HookState, HookStep, Stop
from hookset.trees import Glob, Tree

__all__ = ["hook_requests", "manifest_rows", "row_requests", "unmet"]


def unmet(when: WhenEntry | None, situation: Situation) -> str:
    """Why a condition does not hold; empty when it does."""
    if when is None:
        return ""
    packs = situation.packs
    if when.pack and when.pack not in packs:
        return f"only where {when.pack} is installed"
    if when.pack and when.version and not SpecifierSet(when.version).contains(packs[when.pack], prereleases=True):
        return f"only with {when.pack} {when.version}; {packs[when.pack]} is installed"
    if when.without and when.without in packs:
        return f"only where {when.without} is not installed"
    if when.file and not _has_file(situation, when.file):
        return f"only for maps that have {when.file}"
    if when.without_file and _has_file(situation, when.without_file):
        return f"only for maps without {when.without_file}"
    if when.setting and situation.settings.get(when.setting) != when.equals:
        return f"only with {when.setting} = {when.equals}"
    if when.layout and when.layout != situation.layout.name:
        return f"only for the layout {when.layout}"
    if when.language and when.language not in _variants(situation):
        return f"only for maps in `{when.language}`"
    return ""


def _has_file(situation: Situation, pattern: str) -> bool:
    glob = Glob(pattern)
    return any(glob.matches(path) for path in situation.tree.paths())


def _variants(situation: Situation) -> set[str]:
    """The languages (or what else there is one file each of) that the map has."""
    globs = [seat.file for seat in situation.layout.seats.values() if "{variant}" in seat.file.pattern]
    matches = (glob.match(path) for glob in globs for path in situation.tree.paths())
    return {match.words["variant"] for match in matches if match is not None and "variant" in match.words}


def hook_requests(
    pack: SheetedPack, situation: Situation, targets: tuple[str, ...]
) -> Iterator[HookRequest | HookStep | Stop]:
    """Every entry, in the order of the sheet; then the manifest rows of the files at `targets`."""
    layout = situation.layout
    named: dict[str, HookRequest] = {}
    was = {place.name: place.was for place in pack.sheet.place}
    for index, hook in enumerate(pack.sheet.hook):
        line, where = pack.written.line_of(f"/hook/{index}"), pack.line(f"/hook/{index}")
        seat = layout.seats.get(hook.seat)
        why_not = unmet(hook.when, situation)
        if why_not:
            yield HookStep(
                seat=hook.seat,
                title=seat.title if seat else "",
                state=HookState.LEFT_OUT,
                shown=shown(hook.text, hook.record or hook.each),
                note=why_not,
            )
        elif hook.place in situation.open_places:
            yield HookStep(
                seat=hook.seat,
                title=seat.title if seat else "",
                state=HookState.LEFT_OUT,
                shown=shown(hook.text, hook.record),
                note=f"`{hook.place}` is still to be placed: --at {hook.place}=X,Y,Z",
                mind=True,
            )
        elif hook.each is not None and seat is not None:
            yield from _for_each_variant(hook, seat, situation.tree, where, line)
        elif hook.fragment and seat is not None:
            requests = requests_of_fragment(hook, seat, pack, situation, where)
            yield from (replace(one, line=line) if isinstance(one, HookRequest) else one for one in requests)
        elif hook.every is not None:
            yield from _for_every(hook, hook.every, situation, where, line)
        else:
            request = request_of(hook, situation, where, named)
            if isinstance(request, HookRequest):
                request = replace(
                    request, line=line, part=hook.part, place=hook.place, was=was.get(hook.place, ()), fill=hook.fill
                )
                named |= {hook.name: request} if hook.name else {}
            yield request
    yield from manifest_rows(layout, situation.tree, pack.name, targets)


def _for_every(
    hook: HookEntry, every: EveryEntry, situation: Situation, where: str, line: int
) -> Iterator[HookRequest | HookStep | Stop]:
    """An entry for each name of a kind that the map has."""
    if every.kind not in situation.layout.kinds:
        known = sorted(situation.layout.kinds)
        yield Stop(
            "unknown-kind",
            f"the layout {situation.layout.name} has no kind called `{every.kind}`{nearest(every.kind, known)}",
            where=where,
            why="it is not known for what the entry is to be set",
            remedy="correct the hook sheet",
        )
        return
    names = situation.names(every.kind, every.name)
    if not names:
        label = situation.layout.kinds[every.kind].label
        yield Stop(
            "none-in-map",
            f"the hook is for every {label} called `{every.name}`, and this map has none",
            where=where,
            why="the entry would be set nowhere, and the pack may not work",
            remedy=f"add a {label} of such a name to the map, or correct the hook sheet",
        )
    for name in names:
        request = request_of(msgspec.structs.replace(hook, at={**hook.at, every.at: name}), situation, where, {})
        if isinstance(request, HookRequest):
            request = replace(request, line=line, part=hook.part, place=hook.place, fill=hook.fill)
        yield request


def _for_each_variant(
    hook: HookEntry, seat: Seat, tree: Tree, where: str, line: int
) -> Iterator[HookRequest | HookStep | Stop]:
    """An entry in each variant's file. A variant that the pack does not have gets that of its first one."""
    given = hook.each or {}
    files: dict[str, str] = {}
    for path in tree.paths():
        match = seat.file.match(path)
        if match is not None and "variant" in match.words:
            files[match.words["variant"]] = path
    if not files:
        yield no_file(f"the seat `{seat.name}` ({seat.title})", seat.file, where)
    for variant, path in sorted(files.items()):
        first = next(iter(given), "")
        entry = given.get(variant, given.get(first, {}))
        note = "" if variant in given else f"not in `{variant}` in this pack: uses `{first}`, to be translated"
        text, record = (entry, None) if isinstance(entry, str) else (None, entry)
        yield HookRequest(
            seat=seat.name,
            title=seat.title,
            each=bool(seat.kind),
            at=hook.at,
            path=path,
            text=text,
            record=record,
            line=line,
            note=note,
            part=hook.part,
            fill=hook.fill,
        )
    for variant in sorted(given.keys() - files.keys()):
        entry = given[variant]
        yield HookStep(
            seat=seat.name,
            title=seat.title,
            state=HookState.LEFT_OUT,
            shown=shown(entry, None) if isinstance(entry, str) else shown(None, entry),
            note=f"this map has no `{variant}`",
        )


def manifest_rows(layout: Layout, tree: Tree, name: str, targets: tuple[str, ...]) -> Iterator[HookRequest | Stop]:
    """Every file of the pack that a build must list gets its row; no hook sheet has to say so."""
    if layout.manifest is not None:
        yield from row_requests(layout, tree, name, map(layout.manifest.row_of_file, targets))


def row_requests(layout: Layout, tree: Tree, name: str, rows: Iterable[Row | None]) -> Iterator[HookRequest | Stop]:
    """Rows as entries at their seats; a list that is not there once is told once."""
    paths: dict[str, str | Stop] = {}
    for row in rows:
        if row is None or not row.seat:
            continue
        seat = layout.seats[row.seat]
        if row.seat not in paths:
            found = paths[row.seat] = only_file(seat, tree, name)
            if isinstance(found, Stop):
                yield found
        if not isinstance(path := paths[row.seat], Stop):
            yield HookRequest(seat=seat.name, title=seat.title, path=path, text=row.text, record=row.record, fill=False)
