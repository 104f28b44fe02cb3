"""Drafting a hook sheet for a pack that came without one."""

from __future__ import annotations

import posixpath
from collections.abc import Iterable, Iterator, Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import replace

import msgspec

from hookset.authoring.draft.beside import beside_lines, with_ids
from hookset.authoring.draft.carrying import drafted_entry
from hookset.authoring.draft.coverage import Accounted, CoveredLine, Fate, covered
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
from hookset.authoring.draft.found.anchors import stands_nowhere
from hookset.authoring.draft.found.choices import choices_in
from hookset.authoring.draft.found.constants import constants_in
from hookset.authoring.draft.found.excluding import exclusions_for
from hookset.authoring.draft.found.filling import filled_in, ids_in
from hookset.authoring.draft.found.fragments import without_fragments
from hookset.authoring.draft.found.lacking import (
    UNFILLED,
    Lacking,
    Loading,
    idle,
    not_loaded,
    not_started,
    on_the_other_side,
)
from hookset.authoring.draft.found.map_texts import MapTexts
from hookset.authoring.draft.found.needs import blanks_for, needs_for, needs_said, unknown_files, unnamed
from hookset.authoring.draft.found.seating import Seated, lines_of
from hookset.authoring.draft.found.sequence import put_elsewhere
from hookset.authoring.draft.found.sharing import shared_entries
from hookset.authoring.draft.found.values import Values, values_in
from hookset.authoring.draft.gathering import PackMaterial, gather_material
from hookset.authoring.draft.globs import file_entries
from hookset.authoring.draft.guess import made_for
from hookset.authoring.draft.notes import is_licence
from hookset.authoring.draft.places import prefab_hooks, with_places
from hookset.authoring.draft.rows import Rows, head_as_decided, in_order, kept, sheet_of, told_as_decided, with_decided
from hookset.authoring.draft.said import Chunk
from hookset.authoring.draft.said.becoming import is_wrong
from hookset.authoring.draft.said.parts import is_optional
from hookset.authoring.draft.said.removals import goes
from hookset.authoring.draft.sheet import sheet_text
from hookset.authoring.draft.site import SeatFile, Site
from hookset.formats import Body
from hookset.packs import HookSheet, Pack, with_sheet
from hookset.packs.hooksheet import HookEntry, PackEntry, PublishedEntry
from hookset.planning.plan import HookState
from hookset.trees import EmptyTree

__all__ = ["drafted"]

_ROUNDS = 4
_SHOWN = 4
"""Scripts that are named where nothing loads them."""
_FATES = {
    "accept": Fate.DONE,
    "instead": Fate.DONE,
    "leave": Fate.LEFT_OUT,
    "by-hand": Fate.BY_HAND,
}
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
    moved = {id(one): (hook, cite) for one, hook, cite in put_elsewhere([one for one, _ in shown], have.notes)}
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
    by_notes = Reason(True, "asked for by the notes")
    rows: Rows = {
        "files": [
            *file_entries(pack, have.placing, have.decided.given),
            *((entry, Reason(True, one.cite)) for one in have.alternatives for entry in one.entries),
        ],
        "setting": [
            *((one.setting, Reason(True, one.cite)) for one in have.alternatives),
            *((one.setting, Reason(False, one.cite, (one.doubt,))) for one in choices),
        ],
        "hook": [
            *((hook, _of_line(have, chunk)) for chunk, hooks in beside.values() for hook in hooks),
            *_changed(have, given),
            *((hook, Reason(True, cite)) for hook, cite in moved.values()),
        ],
        "claim": [(one, by_notes) for one in claims],
        "blank": [(one, by_notes) for one in blanks],
        "value": [(one, by_notes) for one in values],
    }
    head, heads = _head(site, have, map_word)
    base = _used_places(sheet_of(head, with_decided(rows, have.decided)))
    entries, last = _completed(site, have, base, entries)
    draft = _finished(site, have, head, rows, entries, last, heads)
    sheet = msgspec.structs.replace(draft.sheet, drafted=drafted_entry(draft.sheet, pack.sha256))
    return replace(draft, sheet=sheet, lines=tuple(_covered(site, have, draft, last, used, beside, given.open)))


def _changed(have: PackMaterial, values: Values) -> Iterator[tuple[HookEntry, Reason]]:
    """Values of the map that the notes change in prose, and entries that they have copied with others."""
    for one in (*values.changes, *values.copies):
        if not any(have.decided.drops(cite, sure=not one.doubts) for cite in one.cites):
            yield one.hook, Reason(not one.doubts, ", ".join(one.cites), one.doubts)


def _of_line(have: PackMaterial, chunk: Chunk) -> Reason:
    """Why an entry goes beside a line."""
    optional = is_optional(chunk, have.headings.get((chunk.notes, chunk.first), ""))
    doubts = ("the notes leave it to you whether it is set",) if optional else ()
    return Reason(not optional, f"{chunk.notes}:{chunk.first}", doubts)


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


def _covered(
    site: Site,
    have: PackMaterial,
    draft: Draft,
    last: DryRun,
    used: Mapping[int, Sequence[Seated]],
    beside: Mapping[int, tuple[Chunk, tuple[HookEntry, ...]]],
    open_: Iterable[str],
) -> Iterator[CoveredLine]:
    """What became of each line of the notes."""
    chosen = ("setting", "blank", "claim")
    # Of the seats of one file the text is the same.
    texts = {one.path: one.text.string for one in site.seat_files}
    gone = {
        "".join(hook.replaces.split()): f"{hook.replaces} {hook.file}"
        for _, hooks in beside.values()
        for hook in hooks
        if hook.replaces and hook.text
    }
    standing = (line.strip() for text in texts.values() for line in text.splitlines())
    accounted = Accounted(
        decided={place: _FATES[one.do] for place, one in have.decided.lines.items()},
        chunks={
            **{key: frozenset().union(*(lines_of(one) for one in here)) for key, here in used.items()},
            **{key: frozenset(line.number for line in chunk.lines) for key, (chunk, hooks) in beside.items() if hooks},
            # What becomes another text.
            **{
                id(chunk): frozenset(line.number for line in chunk.lines)
                for chunk in have.chunks
                if "".join(chunk.text.split()) in gone
            },
            # What is to be taken out and is not there, or is shown as wrong.
            **{
                id(chunk): frozenset(line.number for line in chunk.lines)
                for chunk in have.chunks
                if id(chunk) not in beside and (is_wrong(chunk) or (goes(chunk) and stands_nowhere(site, chunk)))
            },
        },
        shown={
            **{key: " ".join(_shown(one) for one in here) for key, here in used.items()},
            **{key: " ".join(f"{hook.text} {hook.file}" for hook in hooks) for key, (_, hooks) in beside.items()},
            **{id(chunk): gone[text] for chunk in have.chunks if (text := "".join(chunk.text.split())) in gone},
        },
        standing=frozenset(line for line in standing if line),
        planned=frozenset(step.shown for step in last.plan.hooks if step.state is HookState.SET),
        # Where a file goes is told of the file.
        cites=tuple(
            why
            for (table, _), one in draft.reasons.items()
            if table not in (*chosen, "files")
            for why in (one.why, *one.every)
        ),
        shared=frozenset(texts),
        lists=_lists(site, texts),
        open=open_,
        headings=have.headings,
        heads=draft.heads.values(),
        missing=(name for _, name in draft.missing),
        choices=tuple(one.why for (table, _), one in draft.reasons.items() if table in chosen),
        words=(
            *(one.name.replace("-", "_") for one in draft.sheet.setting),
            *(word for word, _, _ in have.everywhere),
            *(word for blank in draft.sheet.blank for word in (blank.into, posixpath.basename(blank.into))),
        ),
    )
    return covered(have.notes, have.chunks, have.placing, accounted)


def _lists(site: Site, paths: Iterable[str]) -> frozenset[str]:
    """Which of these files of the map list what a build ships."""
    lists = site.layout.manifest.lists if site.layout.manifest is not None else ()
    return frozenset(path for path in paths if any(one.matches(path) for one in lists))


def _shown(one: Seated) -> str:
    """What an entry says, and where it goes."""
    seat = one.seat_file.seat
    return f"{one.body.text or ''} {dict(one.body.record or {})} {seat.name} {seat.title} {one.seat_file.path}"


def _head(site: Site, have: PackMaterial, map_word: str) -> tuple[PackEntry, dict[str, str]]:
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
        layouts=(site.layout.name,),
        published=PublishedEntry(map=map_word),
    )
    return head_as_decided(head, have.decided.walk), found.cites | dict.fromkeys(have.decided.walk.pack, "decided")


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
    heads: dict[str, str],
) -> Draft:
    """All that was found, with the reason for each."""
    decided = have.decided
    placed = tuple(one.target for one in have.placing.placed)
    blanks = [*found["blank"], *((one, Reason(True, why)) for one, why in blanks_for(site, last, have.notes, placed))]
    needs = {(need.kind, need.name): (need, Reason(True, why)) for need, why in needs_for(site, last)}
    needs |= {(n.kind, n.name): (n, Reason(True, why)) for n, why in needs_said(site, have.notes, site.packs)}
    excludes = [
        (one, Reason(not doubt, why, (doubt,) if doubt else ()))
        for one, why, doubt in exclusions_for(site, have.notes, head.name)
    ]
    settings = [*found["setting"]]
    settings += [(one.setting, Reason(one.sure, one.cite)) for one in constants_in(site, have.scripts, have.notes)]
    rows = {
        **found,
        "needs": kept(needs.values(), decided),
        "excludes": kept(excludes, decided),
        "hook": found["hook"] + list(hooks_of([_doubted(site, one, last) for one in entries])),
        "setting": kept(settings, decided),
        "blank": kept(blanks, decided),
        "claim": kept(found["claim"], decided),
    }
    rows = with_decided(rows, decided)
    open_files = {blank.into for blank, _ in rows["blank"]}
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
        decide=tuple(_to_decide(site, have, last, heads, [blank.into for blank, _ in rows["blank"]])),
        notes=tuple(one.path for one in have.notes),
        missing=_missing(site, last, open_files),
        heads=heads,
        findings=tuple(one for one in fresh_findings(site, last) if one.name not in open_files),
        stops=tuple(stop.what for stop in last.stops if stop.question is None),
        decided=decided.steps,
    )


def _missing(site: Site, last: DryRun, blanks: AbstractSet[str]) -> tuple[tuple[str, str], ...]:
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


def _doubted(site: Site, entry: DraftEntry, last: DryRun) -> DraftEntry:
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


def _unknown(site: Site, have: PackMaterial, blanks: Sequence[str]) -> Iterator[str]:
    """Files that the notes name and that are nowhere; and which layout they are of, if it is another one."""
    chosen = [one.target for one in have.alternatives]
    unknown = list(unknown_files(site, have.notes, (*have.sorts, *blanks, *chosen)))
    other = made_for(site, have.notes) if unknown else None
    if other is not None:
        yield (
            f"the notes are for a map of the layout {other[0]} ({', '.join(other[1][:_SHOWN])}), and this one is of "
            f"{site.layout.name}: little of it can be right here"
        )
    for name, where in unknown:
        yield f"{where} names {name}, which is neither in the pack nor in the map"


def _to_decide(
    site: Site, have: PackMaterial, last: DryRun, heads: dict[str, str], blanks: Sequence[str]
) -> Iterator[str]:
    """What is left for the builder."""
    if site.earlier is not None:
        yield f"it takes the place of {site.earlier.name} {site.earlier.version}, by an upgrade"
    if "license" not in heads:
        yield "no licence was found: ask the author before you publish the map"
    for one in have.placing.left:
        if not one.sure:
            yield f"{one.path} stays out ({one.why}); say where it goes, if the map needs it"
    yield from _unknown(site, have, blanks)
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
