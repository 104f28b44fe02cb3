"""Add one pack to a plan: its files, entries and values, or what is new of them if it is installed already."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from hookset.config.layouts.schema import LookupEntry
from hookset.packs import SheetedPack
from hookset.packs.hooksheet import NeedEntry
from hookset.planning.choices import Answers
from hookset.planning.filling import Filling, MapValues, Unfillable, filled, numbers_given
from hookset.planning.naming.rewriting import facts_of
from hookset.planning.pipeline.adapting import Adapted, adapted, ledger_settings
from hookset.planning.pipeline.decisions import Decided, decided_for
from hookset.planning.pipeline.entries import StagedEntries, put_entry, set_pending
from hookset.planning.pipeline.files import stage_files
from hookset.planning.pipeline.hooks import stage_entries
from hookset.planning.pipeline.name_rows import name_rows
from hookset.planning.pipeline.placement import ledger_places, open_places, place_questions, with_places
from hookset.planning.pipeline.request import HookRequest, Situation
from hookset.planning.pipeline.requests import hook_requests
from hookset.planning.placing.moving import as_placed
from hookset.planning.plan import HookStep, PackPlan, Stop, ValueStep
from hookset.planning.state import PlanState
from hookset.project import LedgerBlank, LedgerExclusion, LedgerFile, LedgerHook, LedgerPack
from hookset.trees import Content

__all__ = ["Only", "filling_for", "stage_pack"]

_MOST_HOOKS = 400
_MOST_ROWS = 1_000
PACK = "pack"
"""The kind of a need that is a pack."""


class Only(Struct, frozen=True):
    """What of a pack is to be set, where parts of it were chosen."""

    targets: frozenset[str]
    keys: frozenset[str]
    """Of entries."""
    left_out: tuple[str, ...] = ()
    """In words."""


class _Wanted(Struct, frozen=True):
    """What a pack asks for in this map."""

    requests: tuple[HookRequest, ...]
    told: tuple[HookStep, ...]
    """Entries that are not for this map."""
    stops: tuple[Stop, ...]


def stage_pack(state: PlanState, pack: SheetedPack, versions: dict[str, str], only: Only | None = None) -> PlanState:
    """The plan with one more pack. `versions` are all packs that are or will be installed, by name."""
    sheet, where = pack.sheet, pack.written.where
    nothing = PackPlan(name=pack.name, version=sheet.pack.version, sheet=sheet)
    if stop := _too_many(state, pack, only):
        return state.with_stops([stop]).with_plan_of(nothing)
    decided = decided_for(state, pack)
    state = state.with_stops(decided.stops).with_questions(decided.questions)
    open_now = open_places(pack, decided.answers, decided.earlier)
    state = state.with_questions(place_questions(pack, open_now))
    situation = Situation(
        layout=state.layout, tree=state.tree, packs=versions, settings=decided.settings, open_places=open_now
    )
    here = adapted(state, pack, decided, situation, only.targets if only else None)
    state = state.with_stops(here.stops).with_unsure(here.unsure)
    state, file_steps, files = stage_files(state, pack.name, here.files, decided.earlier)
    filling = filling_for(state, pack, decided, here)
    if isinstance(filling, Stop):
        return state.with_stops([filling]).with_plan_of(replace(nothing, files=file_steps))
    wanted = _wanted(state, pack, replace(situation, tree=state.tree), here, only)
    hooks = decided.earlier.hooks if decided.earlier else ()
    rows = _rows_of_names(state, pack, wanted.requests, filling, here, hooks)
    state = state.with_stops((*wanted.stops, *(row for row in rows if isinstance(row, Stop))))
    requests = (*wanted.requests, *(row for row in rows if isinstance(row, HookRequest)))
    entries = stage_entries(state, where, requests, filling, here.names, hooks)
    entries = _with_outside(entries, where, here, decided.settings)
    step = replace(
        nothing,
        before=decided.earlier.version if decided.earlier else "",
        files=file_steps,
        hooks=(*entries.steps, *wanted.told),
        values=(*_values(pack, decided, here), *entries.values),
        notes=only.left_out if only else (),
        adapted=tuple(_adapted_files(pack, here)),
        listing=state.layout.manifest.seats if state.layout.manifest else frozenset(),
    )
    state = as_placed(_recorded(entries.state, pack, decided, here, files, entries.hooks), pack.name)
    state, placed = with_places(state, pack, decided.answers)
    return state.with_plan_of(replace(step, hooks=(*step.hooks, *placed)))


def _values(pack: SheetedPack, decided: Decided, here: Adapted) -> Iterator[ValueStep]:
    """What the pack is given, and by whom."""
    yield from (ValueStep(f"claim: {kind}", value, "free in this map") for kind, value in decided.claims.items())
    yield from (ValueStep(f"blank: {blank.name}", *_blank_said(blank)) for blank in decided.blanks)
    for one in ledger_settings(pack, decided.settings, here):
        by = _by(decided.answers, decided.earlier, one.name)
        yield ValueStep(f"setting: {one.name}", f"{one.value} {one.unit}".strip(), by)


def _too_many(state: PlanState, pack: SheetedPack, only: Only | None) -> Stop | None:
    """A pack that would keep the planning busy for minutes: each entry is set over the state that the ones before it
    leave."""
    sheet = pack.sheet
    if len(sheet.hook) > _MOST_HOOKS:
        return Stop(
            "too-many",
            f"{pack.name} has {len(sheet.hook):,} hooks; {_MOST_HOOKS:,} are the most",
            where=pack.line(f"/hook/{_MOST_HOOKS}"),
            why="setting them would take minutes, and nobody could look through them",
            remedy="put what belongs together into one hook, or make several packs of it",
        )
    manifest = state.layout.manifest
    targets = [path for path in pack.targets if only is None or path in only.targets] if manifest is not None else []
    rows = sum(manifest.row_of_file(path) is not None for path in targets) if manifest is not None else 0
    if rows > _MOST_ROWS:
        return Stop(
            "too-many",
            f"{pack.name} has {rows:,} files that need a row in the manifest; {_MOST_ROWS:,} are the most",
            where=pack.line("/files/0"),
            why="setting them would take minutes",
            remedy="take parts of the pack one after the other (--part NAME), or make several packs of it",
        )
    return None


def _adapted_files(pack: SheetedPack, here: Adapted) -> Iterator[tuple[str, Content, Content]]:
    for path, file in here.files.items():
        published = pack.members.get(file.source)
        if published is not None and file.content is not published and not file.blank:
            yield path, published, file.content


def _blank_said(blank: LedgerBlank) -> tuple[str, str]:
    if blank.filled:
        return blank.filled, "given"
    return ("the pack's own", "can be filled") if blank.brought else ("open", "to be filled")


def _by(answers: Answers, earlier: LedgerPack | None, name: str) -> str:
    if name in answers.settings:
        return "given"
    return "as it was" if earlier else "the pack's own"


def filling_for(state: PlanState, pack: SheetedPack, decided: Decided, here: Adapted) -> Filling | Stop:
    """What the pack's entries are filled with; a stop where a value of its own cannot be worked out."""
    sheet = pack.sheet
    lookups: dict[str, LookupEntry] = {**state.layout.lookups, **{entry.name: entry for entry in sheet.lookup}}
    filling = Filling(
        map=MapValues(state.layout, state.tree, state.stock),
        folder=state.root.name,
        lookups=lookups,
        settings=decided.settings,
        # Each that could not be had is told already: what it would have filled is no further fault.
        claims={**{one.kind: f"unclaimed-{one.kind}" for one in sheet.claim}, **decided.claims},
        blanks={
            blank.name: blank.filled or f"unfilled-{blank.name}" for blank in decided.blanks if blank.kind == "text"
        },
        moved=here.moved,
    )
    earlier = state.ledger.pack(pack.name)
    known = {fill.asked: fill.value for hook in (earlier.hooks if earlier else ()) for fill in hook.fills}
    values: dict[str, str] = {}
    given: frozenset[tuple[str, str]] = frozenset()
    for index, entry in enumerate(sheet.value):
        asked = f"{{value:{entry.name}}}"
        try:
            if kept := known.get(asked):
                values[entry.name] = kept
                continue
            made = filled(entry.is_, None, replace(filling, values=values, given=given))
            values[entry.name] = made.text or ""
            # Two values that ask for the next number do not get the same one.
            given |= numbers_given(made.fills)
        except Unfillable as error:
            return Stop(
                error.message.code,
                f"the value `{entry.name}` cannot be worked out: {error.message.what}",
                where=pack.line(f"/value/{index}"),
                details=error.message.details,
                why="the entries that need it would mean something else here",
                remedy=error.message.remedy or "correct the hook sheet",
            )
    return replace(filling, values=values, given=given)


def _wanted(state: PlanState, pack: SheetedPack, situation: Situation, here: Adapted, only: Only | None) -> _Wanted:
    listed = _listed_by_itself(state, pack, here)
    manifest = state.layout.manifest
    rows = {path: manifest.row_of_file(path) for path in here.files} if manifest is not None and listed else {}
    targets = (path for path in here.files if (row := rows.get(path)) is None or row.name not in listed)
    found = tuple(hook_requests(pack, situation, tuple(targets)))
    requests = (one for one in found if isinstance(one, HookRequest))
    kept = [one for one in requests if only is None or not one.line or one.key in only.keys]
    said = {_row(one) for one in kept if one.line}
    return _Wanted(
        # A row that the sheet has itself is no second one.
        requests=tuple(one for one in kept if one.line or one.text is None or _row(one) not in said),
        told=tuple(one for one in found if isinstance(one, HookStep)),
        stops=tuple(one for one in found if isinstance(one, Stop)),
    )


def _row(one: HookRequest) -> tuple[str, str, str]:
    """What an entry says, however its words are set apart."""
    return one.seat, one.path, " ".join((one.text or "").split())


def _listed_by_itself(state: PlanState, pack: SheetedPack, here: Adapted) -> frozenset[str]:
    """The rows of lists that the pack brings and that one of its hooks includes: the map's own needs none of them."""
    manifest, sheet = state.layout.manifest, pack.sheet
    if manifest is None:
        return frozenset()
    said = msgspec.json.encode([(hook.text, hook.record, hook.each) for hook in sheet.hook]).decode()
    found: set[str] = set()
    for path in here.files:
        if path.rpartition("/")[2] in said:
            rows = [block for block in facts_of(state.tree, state.layout, path).defined if block.kind == manifest.kind]
            found |= {row for block in rows for row in block.names}
    return frozenset(found)


def _rows_of_names(
    state: PlanState,
    pack: SheetedPack,
    wanted: Sequence[HookRequest],
    filling: Filling,
    here: Adapted,
    hooks: tuple[LedgerHook, ...],
) -> tuple[HookRequest | Stop, ...]:
    """Which names a pack's entries use is seen once they stand: they are tried on first."""
    if state.layout.manifest is None or not state.layout.manifest.kinds:
        return ()
    trial = stage_entries(state, pack.written.where, wanted, filling, here.names, hooks)
    listed = _listed_by_itself(state, pack, here)
    return tuple(name_rows(trial.state, pack.name, here.files, trial.hooks, listed))


def _with_outside(entries: StagedEntries, where: str, here: Adapted, settings: Mapping[str, Any]) -> StagedEntries:
    """Settings that live in files of the map: each is an entry like any other."""
    standing = {
        (hook.path, str(hook.ask)): hook for hook in entries.hooks if hook.ask is not None and not hook.of_sheet
    }
    for entry, spot in here.outside:
        value = settings[entry.name]
        known = standing.get((spot.file, str(spot.ask)))
        if known is not None and (known.record or {}).get("value") == value:
            continue
        hook = LedgerHook(
            order=entries.state.order,
            ask=spot.ask,
            path=spot.file,
            key=f"setting {entry.name}",
            record={"value": value},
        )
        entries = replace(
            entries,
            state=entries.state.with_next_order(),
            hooks=tuple(one for one in entries.hooks if one is not known),
        )
        entries, _ = put_entry(entries, where, hook, f"setting {entry.name}")
    return set_pending(entries)


def _recorded(
    state: PlanState,
    pack: SheetedPack,
    decided: Decided,
    here: Adapted,
    files: Sequence[LedgerFile],
    hooks: Sequence[LedgerHook],
) -> PlanState:
    """The plan with the pack in the ledger."""
    sheet, answers, earlier = pack.sheet, decided.answers, decided.earlier
    head = sheet.pack
    needs: tuple[NeedEntry, ...] = sheet.needs
    words = {
        kind: {**state.ledger.words.get(kind, {}), **state.choices.words.get(kind, {})}
        for kind in state.ledger.words.keys() | state.choices.words.keys()
    }
    entry = LedgerPack(
        name=head.name,
        version=head.version,
        title=head.title,
        authors=head.authors,
        license=head.license,
        home=head.home,
        credit=head.credit,
        made_from=head.made_from,
        source=pack.source.name,
        sha256=pack.sha256,
        installed=earlier.installed if earlier and earlier.version == head.version else state.now,
        look_for=head.look_for,
        does=head.does,
        needs=tuple(need.name for need in needs if need.kind == PACK),
        excludes=tuple(
            LedgerExclusion(kind=one.kind, name=one.name, side=one.side, version=one.version, why=one.why)
            for one in sheet.excludes
        ),
        parts=answers.parts or (earlier.parts if earlier else ()),
        settings=ledger_settings(pack, decided.settings, here),
        claims=dict(decided.claims),
        blanks=decided.blanks,
        places=ledger_places(pack),
        renamed={**(earlier.renamed if earlier else {}), **answers.renamed},
        moved=dict(here.moves),
        files=tuple(sorted(files, key=lambda file: file.path)),
        hooks=tuple(sorted(hooks, key=lambda hook: hook.order)),
    )
    return replace(state, ledger=msgspec.structs.replace(state.ledger, words=words).with_pack(entry))
