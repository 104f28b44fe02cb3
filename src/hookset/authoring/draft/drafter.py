"""Drafting a hook sheet for a pack that came without one."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import msgspec
from msgspec.structs import replace

from hookset.authoring.draft.accounting import lines_accounted
from hookset.authoring.draft.beside import beside_lines, with_ids
from hookset.authoring.draft.carrying import drafted_entry
from hookset.authoring.draft.cites import Why, as_said, at_line
from hookset.authoring.draft.decisions import Walk
from hookset.authoring.draft.draft import Draft, Reason
from hookset.authoring.draft.dry_run import DryRun, dry_run, fresh_findings
from hookset.authoring.draft.earlier import with_earlier
from hookset.authoring.draft.entries import (
    DraftEntry,
    as_decided,
    hooks_of,
    of_lacking,
    of_notes,
    of_said_texts,
    of_shared,
    seated_in_notes,
)
from hookset.authoring.draft.found.about import about
from hookset.authoring.draft.found.choices import choices_in
from hookset.authoring.draft.found.constants import constants_in
from hookset.authoring.draft.found.excluding import exclusions_for
from hookset.authoring.draft.found.filling import filled_in, ids_in
from hookset.authoring.draft.found.fragments import without_fragments
from hookset.authoring.draft.found.lacking import (
    Lacking,
    Loading,
    not_loaded,
    not_started,
    on_the_other_side,
)
from hookset.authoring.draft.found.map_texts import MapTexts
from hookset.authoring.draft.found.needs import blanks_for, needs_for, needs_said
from hookset.authoring.draft.found.seating import Seated, lines_of
from hookset.authoring.draft.found.sequence import put_elsewhere
from hookset.authoring.draft.found.sharing import shared_entries
from hookset.authoring.draft.found.values import Values, values_in
from hookset.authoring.draft.gathering import PackMaterial, gather_material
from hookset.authoring.draft.globs import file_entries
from hookset.authoring.draft.notes import is_licence
from hookset.authoring.draft.open_points import doubted, missing_names, to_decide
from hookset.authoring.draft.places import prefab_hooks, with_places
from hookset.authoring.draft.rows import (
    Row,
    Rows,
    head_as_decided,
    in_order,
    kept,
    sheet_of,
    told_as_decided,
    with_decided,
)
from hookset.authoring.draft.said import Chunk
from hookset.authoring.draft.said.parts import is_optional
from hookset.authoring.draft.sheet import sheet_text
from hookset.authoring.draft.site import SeatFile, Site
from hookset.formats import Body
from hookset.packs import HookSheet, Pack, with_sheet
from hookset.packs.hooksheet import HookEntry, PackEntry, PublishedEntry

__all__ = ["drafted"]

_ROUNDS = 4
_MOST_OF = 0.6
"""Of the lines of a file: what must be entries for it to be no file of its own."""


def drafted(site: Site, pack: Pack, walk: Walk | None = None) -> Draft:
    """Everything that can be found out about the pack, with what a builder decided. Reads, and writes nothing. Raises
    CouldNotError for decisions that cannot be carried out."""
    have = gather_material(site, pack, walk or Walk())
    texts = MapTexts(site)
    given = values_in(texts, have.notes, have.headings, have.chunks)
    beside = beside_lines(site, have, texts)
    shown, used = seated_in_notes(site, have, beside)
    ids = ids_in(site, [one for one, _ in shown], have.known)
    beside = {key: (chunk, tuple(with_ids(hook, ids) for hook in hooks)) for key, (chunk, hooks) in beside.items()}
    have = _with_fragments(have, used)
    conditions = {id(one): condition for one, condition in shown}
    filled, claims, blanks, values, map_word = filled_in(site, [one for one, _ in shown], have.known, have.notes)
    moved = {id(one): (hook, why) for one, hook, why in put_elsewhere([one for one, _ in shown], have.notes)}
    choices = list(choices_in(have.notes, [one for one, condition in shown if condition is None]))
    entries = [
        of_notes(
            site,
            one,
            conditions[id(one.seated)],
            have.notes,
            have.headings.get(_place(one.seated), ""),
            next((when for choice in choices if (when := choice.when(one.seated)) is not None), None),
        )
        for one in filled
        if id(one.seated) not in moved
    ]
    referred = (*(one.told for one, _ in shown), *told_as_decided(site, have.decided))
    asked = {(refer.kind, refer.name) for told in referred for refer in told.refers}
    known = replace(have.known, asked=have.known.asked | asked)
    entries += [of_shared(one) for one in shared_entries(site, pack.tree, have.placing.shared, known)]
    entries += of_said_texts(site, have, [one for one, _ in shown])
    own = [hook for one in have.decided.steps for hook in one.hook]
    entries = with_earlier(site, entries, have, own)
    marks = have.decided.everywhere(one.reason.why for one in entries)
    entries = [as_decided(one, have.decided, marks) for one in entries]
    map_word = next((text for text, becomes in marks.items() if becomes.startswith("{map:")), map_word)
    by_notes = Reason(True, as_said("asked for by the notes"))
    rows: Rows = {
        "files": [
            *file_entries(pack, have.placing, have.decided.given),
            *((entry, Reason(True, one.why)) for one in have.alternatives for entry in one.entries),
        ],
        "setting": [
            *((one.setting, Reason(True, one.why)) for one in have.alternatives),
            *((one.setting, Reason(False, one.why, (one.doubt,))) for one in choices),
        ],
        "hook": [
            *((hook, _of_line(have, chunk)) for chunk, hooks in beside.values() for hook in hooks),
            *_changed(have, given),
            *((hook, Reason(True, why)) for hook, why in moved.values()),
        ],
        "claim": [(one, by_notes) for one in claims],
        "blank": [(one, by_notes) for one in blanks],
        "value": [(one, by_notes) for one in values],
    }
    head, heads = _head(site, have, map_word)
    rows["excludes"] = _excluded(site, have, head.name)
    base = _used_places(sheet_of(head, with_decided(rows, have.decided)))
    entries, last = _completed(site, have, base, entries)
    draft = _finished(site, have, head, rows, entries, last, heads)
    sheet = msgspec.structs.replace(draft.sheet, drafted=drafted_entry(draft.sheet, pack.sha256))
    return replace(draft, sheet=sheet, lines=tuple(lines_accounted(site, have, draft, last, used, beside, given)))


def _excluded(site: Site, have: PackMaterial, name: str) -> list[Row]:
    """What the pack cannot stand beside."""
    found = (
        (one, Reason(not doubt, why, (doubt,) if doubt else ()))
        for one, why, doubt in exclusions_for(site, have.notes, name)
    )
    return kept(found, have.decided)


def _changed(have: PackMaterial, values: Values) -> Iterator[tuple[HookEntry, Reason]]:
    """Values of the map that the notes change in prose, and entries that they have copied with others."""
    for one in (*values.changes, *values.copies):
        if not any(have.decided.drops(at_line(*line), sure=not one.doubts) for line in one.why.lines):
            yield one.hook, Reason(not one.doubts, one.why, one.doubts)


def _of_line(have: PackMaterial, chunk: Chunk) -> Reason:
    """Why an entry goes beside a line."""
    optional = is_optional(chunk, have.headings.get((chunk.notes, chunk.first), ""))
    doubts = ("the notes leave it to you whether it is set",) if optional else ()
    return Reason(not optional, at_line(chunk.notes, chunk.first), doubts)


def _place(one: Seated) -> tuple[str, int]:
    return one.chunk.notes, one.chunk.first


def _used_places(sheet: HookSheet) -> HookSheet:
    """Without the places at which nothing stands yet: what does is found last."""
    used = {hook.place for hook in sheet.hook}
    return msgspec.structs.replace(sheet, place=tuple(one for one in sheet.place if one.name in used))


def _with_fragments(have: PackMaterial, used: Mapping[int, Sequence[Seated]]) -> PackMaterial:
    """Files whose every line turned out to be an entry are no files of the map."""
    seats: dict[str, str] = {}
    for path, chunk in have.fragments:
        read = {number for one in used.get(id(chunk), ()) for number in lines_of(one)}
        said = [line.number for line in chunk.lines if line.text.strip()]
        if any((path, number) in have.decided.lines for number in said):
            seats[path] = "as decided"
        elif said and len(read & set(said)) >= _MOST_OF * len(said):
            seats[path] = used[id(chunk)][0].seat_file.seat.title
    return replace(have, placing=without_fragments(have.placing, seats)) if seats else have


def _head(site: Site, have: PackMaterial, map_word: str) -> tuple[PackEntry, dict[str, Why]]:
    paths = [path for path in have.sorts if is_licence(path)]
    licences = [(path, have.pack.tree.read(path)[:4000].decode("utf-8", "replace")) for path in paths]
    source = have.pack.source
    found = about(source.name if source.is_dir() else source.stem, have.notes, licences)
    head = PackEntry(
        name=found.name if site.earlier is None else site.earlier.name,
        version=found.version or "1",
        title=found.title,
        authors=found.authors,
        license=found.license,
        home=found.home,
        credit=found.credit,
        layouts=(site.layout.name,),
        published=PublishedEntry(map=map_word),
    )
    return head_as_decided(head, have.decided.walk), found.whys | dict.fromkeys(
        have.decided.walk.pack, as_said("decided")
    )


def _completed(
    site: Site, have: PackMaterial, base: HookSheet, entries: list[DraftEntry]
) -> tuple[list[DraftEntry], DryRun]:
    """The entries with those that turn out to be lacking, by trying the draft on until nothing more is found. `base` is
    the sheet without them."""
    last = _dry_run(site, have.pack, base, entries)
    loading = Loading(site)
    for _ in range(_ROUNDS):
        fresh = [
            of_lacking(one)
            for one in _lacking(loading, have, base, entries, last)
            if not _stands(entries, one) and not have.decided.drops(one.why, one.sure)
        ]
        if not fresh:
            break
        entries = [*entries, *fresh]
        last = _dry_run(site, have.pack, base, entries)
    return entries, last


def _stands(entries: Sequence[DraftEntry], one: Lacking) -> bool:
    return any(entry.seat_file is one.seat_file and entry.body == one.body for entry in entries)


def _lacking(
    loading: Loading, have: PackMaterial, base: HookSheet, entries: Sequence[DraftEntry], last: DryRun
) -> Iterator[Lacking]:
    site = loading.site
    pairs: list[tuple[SeatFile, Body, Mapping[str, str]]] = [(one.seat_file, one.body, one.at) for one in entries]
    for hook in base.hook:
        seat_file = next((one for one in site.seat_files if one.seat.name == hook.seat), None)
        if seat_file is not None:
            pairs.append((seat_file, Body(text=hook.text, record=hook.record), hook.at))
    beside = [
        (next(one for one in site.seat_files if one.path == hook.file), Body(text=hook.text))
        for hook in base.hook
        if not hook.seat and hook.text and any(one.path == hook.file for one in site.seat_files)
    ]
    first = list(on_the_other_side(site, pairs, have.scripts))
    # What an entry of the other side brings in is not loaded a second time.
    yield from first or not_loaded(loading, last, have.scripts)
    yield from not_started(site, [*((one, body) for one, body, _ in pairs), *beside], have.scripts)


def _dry_run(site: Site, pack: Pack, base: HookSheet, entries: Sequence[DraftEntry]) -> DryRun:
    sheet = msgspec.structs.replace(base, hook=(*(hook for hook, _ in hooks_of(entries)), *base.hook))
    draft = Draft(sheet=sheet, reasons={}, left=(), decide=(), notes=(), heads={})
    return dry_run(site, with_sheet(pack, sheet_text(draft).encode(), f"the draft for {pack.source.name}"))


def _finished(
    site: Site,
    have: PackMaterial,
    head: PackEntry,
    found: Rows,
    entries: Sequence[DraftEntry],
    last: DryRun,
    heads: dict[str, Why],
) -> Draft:
    """All that was found, with the reason for each."""
    decided = have.decided
    placed = tuple(one.target for one in have.placing.placed)
    blanks = [*found["blank"], *((one, Reason(True, why)) for one, why in blanks_for(site, last, have.notes, placed))]
    needs = {(need.kind, need.name): (need, Reason(True, why)) for need, why in needs_for(site, last)}
    needs |= {(n.kind, n.name): (n, Reason(True, why)) for n, why in needs_said(site, have.notes, site.packs)}
    settings = [*found["setting"]]
    settings += [(one.setting, Reason(one.sure, one.why)) for one in constants_in(site, have.scripts, have.notes)]
    rows = {
        **found,
        "needs": kept(needs.values(), decided),
        "hook": found["hook"] + list(hooks_of([doubted(site, one, last) for one in entries])),
        "setting": kept(settings, decided),
        "blank": kept(blanks, decided),
        "claim": kept(found["claim"], decided),
    }
    rows = with_decided(rows, decided)
    open_files = {blank.into for blank, _ in rows["blank"]}
    away = [one.name for one, _ in rows["excludes"] if one.kind == "file"]
    rows["hook"], places = with_places(site, in_order(rows["hook"], tuple(one.path for one in have.notes)))
    prefabs = [one for one in prefab_hooks(site, have, rows["hook"]) if not decided.drops(one[2].why, one[2].sure)]
    rows["hook"] += ((hook, reason) for hook, _, reason in prefabs)
    said = {place.name for place, _ in rows.get("place", ())}
    found_places = [*places, *((place, reason) for _, place, reason in prefabs)]
    rows["place"] = [*rows.get("place", ()), *(row for row in found_places if row[0].name not in said)]
    return Draft(
        sheet=sheet_of(head, rows),
        reasons={(table, n): reason for table, ones in rows.items() for n, (_, reason) in enumerate(ones)},
        left=have.placing.left,
        decide=tuple(to_decide(site, have, last, heads, [*open_files, *away])),
        notes=tuple(one.path for one in have.notes),
        missing=missing_names(site, last, open_files),
        heads=heads,
        findings=tuple(one for one in fresh_findings(site, last) if one.name not in open_files),
        stops=tuple(stop.what for stop in last.stops if stop.question is None),
        decided=decided.steps,
    )
