"""What a draft leaves open: names that are nowhere, entries that ask for those, and what the builder has to decide."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from collections.abc import Set as AbstractSet

from msgspec.structs import replace

from hookset.authoring.draft.cites import Why
from hookset.authoring.draft.dry_run import DryRun
from hookset.authoring.draft.entries import (
    DraftEntry,
)
from hookset.authoring.draft.found.lacking import (
    UNFILLED,
    idle,
)
from hookset.authoring.draft.found.needs import unknown_files, unnamed
from hookset.authoring.draft.gathering import PackMaterial
from hookset.authoring.draft.guess import made_for
from hookset.authoring.draft.site import Site
from hookset.trees import EmptyTree

__all__ = ["doubted", "missing_names", "to_decide"]

_SHOWN = 4
"""Scripts that are named where nothing loads them."""


def missing_names(site: Site, last: DryRun, blanks: AbstractSet[str]) -> tuple[tuple[str, str], ...]:
    """(kind, name) of what the map would lack, but for what is the builder's to supply or to choose. Without a map
    nobody knows what it has."""
    if isinstance(site.tree, EmptyTree):
        return ()
    named = ((one.reference.kind, one.reference.name) for one in last.missing)
    return tuple(
        dict.fromkeys(
            (kind, name)
            for kind, name in named
            if name not in blanks and UNFILLED not in name and not site.layout.kinds[kind].entry.mapped
        )
    )


def doubted(site: Site, entry: DraftEntry, last: DryRun) -> DraftEntry:
    """The same entry, unsure where it asks for something that is nowhere. Words that a map may have others for are
    asked about when it is installed."""
    kinds = {name for name, kind in site.layout.kinds.items() if not kind.entry.mapped}
    missing = {(one.reference.kind, one.reference.name) for one in last.missing if one.reference.kind in kinds}
    lacking = [one for one in entry.refers if (one.kind, one.name) in missing and UNFILLED not in one.name]
    if not lacking or "hole" in lacking[0].name:
        return entry
    doubt = f"it asks for {lacking[0].written}, which is neither in the pack nor in the map"
    reason = replace(entry.reason, sure=False, doubts=(*entry.reason.doubts, doubt))
    return replace(entry, reason=reason)


def _unknown(site: Site, have: PackMaterial, elsewhere: Sequence[str]) -> Iterator[str]:
    """Files that the notes name and that are nowhere; and which layout they are of, if it is another one."""
    chosen = [one.target for one in have.alternatives]
    unknown = list(unknown_files(site, have.notes, (*have.sorts, *elsewhere, *chosen)))
    other = made_for(site, have.notes) if unknown else None
    if other is not None:
        yield (
            f"the notes are for a map of the layout {other[0]} ({', '.join(other[1][:_SHOWN])}), and this one is of "
            f"{site.layout.name}: little of it can be right here"
        )
    for name, where in unknown:
        yield f"{where} names {name}, which is neither in the pack nor in the map"


def to_decide(
    site: Site, have: PackMaterial, last: DryRun, heads: dict[str, Why], elsewhere: Sequence[str]
) -> Iterator[str]:
    """What is left for the builder. `elsewhere` are files that the builder brings, or that must not be there."""
    if site.earlier is not None:
        yield f"it takes the place of {site.earlier.name} {site.earlier.version}, by an upgrade"
    if "license" not in heads:
        yield "no licence was found: ask the author before you publish the map"
    for one in have.placing.left:
        if not one.sure:
            yield f"{one.path} stays out ({one.why}); say where it goes, if the map needs it"
    yield from _unknown(site, have, elsewhere)
    yield from unnamed(site, last)
    if scripts := () if isinstance(site.tree, EmptyTree) else idle(site, last, have.scripts):
        more = f" and {len(scripts) - _SHOWN + 1} others" if len(scripts) > _SHOWN else ""
        shown = ", ".join(scripts[: _SHOWN - 1] if more else scripts)
        yield f"nothing in the map loads {shown}{more}: the game does not run what nothing loads"
    for stop in last.stops:
        yield stop.what
    if have.dry_run < len(have.chunks):
        late = have.chunks[have.dry_run]
        yield f"{late.notes}:{late.first}: from here on nothing was tried at the map's seats; it is too much"
    for decision in have.decided.gone:
        yield f"what was decided about {decision.lines} is about lines that the notes do not have any more"
    for notes in have.notes:
        if notes.cut:
            yield f"{notes.path} is longer than notes are: only its beginning was read"
