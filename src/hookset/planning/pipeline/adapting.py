"""A pack's files as this map is to have them: where they go, what they are called here, with this map's values."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from hookset.config.layouts import Layout, map_words
from hookset.config.sheets import nearest
from hookset.edits import Put, put
from hookset.formats import AlreadyThere, NoSeat, Unreadable
from hookset.model import CouldNotError, WrongUseError, with_article
from hookset.packs import SheetedPack
from hookset.packs.hooksheet import SettingEntry, WriteEntry
from hookset.planning.choices import WAYS, Answers
from hookset.planning.naming.rewriting import Entangled, NameMap, Names, by_path_names, named_by_words, rewrite_names
from hookset.planning.pipeline.decisions import Decided, blank_content
from hookset.planning.pipeline.files import StagedFile, under_new_name
from hookset.planning.pipeline.request import Situation
from hookset.planning.pipeline.requests import unmet
from hookset.planning.plan import Stop, Unsure
from hookset.planning.state import PlanState, unsure_names
from hookset.project import LedgerBlank, LedgerHook, LedgerPack, LedgerSetting, LedgerSpot, is_ours
from hookset.trees import Content, Member, Overlay, Tree, digest_all, unsafe_reason

_TEXT = 4 << 20
"""Bytes of a file in which a name is looked for."""

__all__ = ["Adapted", "adapted", "entangled_stops", "ledger_settings", "spot_of", "write_value"]


class Adapted(Struct, frozen=True, kw_only=True):
    """What comes of a pack's files in this map."""

    files: Mapping[str, StagedFile]
    names: NameMap
    """Names that differ in this map, for its entries."""
    moved: Callable[[str], str]
    """Where a path of the pack is in this map."""
    moves: Mapping[str, str]
    outside: tuple[tuple[SettingEntry, LedgerSpot], ...]
    """Settings that are written into files of the map."""
    stops: tuple[Stop, ...]
    unsure: tuple[Unsure, ...]
    """Names that could not be followed."""


def adapted(
    state: PlanState, pack: SheetedPack, decided: Decided, situation: Situation, only: frozenset[str] | None
) -> Adapted:
    """`only`: the targets that the chosen parts need; None for all."""
    sheet, answers, earlier = pack.sheet, decided.answers, decided.earlier
    moves = {**(earlier.moved if earlier else {}), **answers.moved}
    targets = {
        target: source
        for target, ones in pack.alternatives.items()
        for source, index in ones
        if not unmet(sheet.files[index].when, situation) and (only is None or target in only)
    }
    places = _places(state, pack, targets, moves, answers)

    def moved(path: str) -> str:
        return places.get(path) or _moved(path, moves)

    tree = Overlay(state.tree, {place: Member(pack.tree, targets[target]) for target, place in places.items()})
    names: Names = {}
    for target, place in places.items():
        if target != place:
            names |= by_path_names(state.tree, state.layout, target, place)
    names |= _of_the_other_map(state, pack, tuple(places.values()))
    names |= _chosen(state, pack, answers, earlier, decided.claims)
    _refuse_unknown(state, pack, answers, tuple(targets.values()))
    name_map = NameMap.of(state.layout, names)
    files: dict[str, StagedFile] = {}
    stops: list[Stop] = []
    unsure: list[Unsure] = []
    digest_all(pack.members[source] for source in targets.values())
    for target, place in sorted(places.items()):
        content: Content = pack.members[targets[target]]
        if name_map:
            result = rewrite_names(tree, state.layout, place, name_map, target)
            content = result.content or content
            stops += entangled_stops(state.layout, place, result.entangled)
            unsure += unsure_names(tree, state.layout, place, result.left)
        files[place] = StagedFile(content=content, source=targets[target], keep_mine=pack.keeps_mine(target))
    files, outside, refused = _with_settings(state, pack, files, situation.settings, moved)
    return Adapted(
        files=_with_blanks(state, pack, files, decided.blanks, answers, earlier),
        names=name_map,
        moved=moved,
        moves=moves,
        outside=outside,
        stops=(*stops, *refused),
        unsure=tuple(unsure),
    )


def _of_the_other_map(state: PlanState, pack: SheetedPack, places: tuple[str, ...]) -> Names:
    """Names made of the name of the map that the pack was published in, as this map has them."""
    published = pack.sheet.pack.published
    if not (published.map or published.version):
        return {}
    now = map_words(state.tree, state.layout)
    then = {"map": published.map or now["map"], "version": published.version or now["version"]}
    paths = dict.fromkeys((*state.tree.paths(), *places))
    named = {k: v for path in paths for k, v in named_by_words(state.layout, path, then, now).items()}
    # What was to be replaced by the name of a folder may stand there as it is: `courses/YOURFOLDER/horn.wav`.
    as_written = (
        ((kind, re.sub(re.escape(then["map"]), lambda _: then["map"], name, flags=re.IGNORECASE), side), new)
        for (kind, name, side), new in named.items()
    )
    return {**dict(as_written), **named}


def _moved(path: str, moves: Mapping[str, str]) -> str:
    """A path with the longest of its folders that is mapped put elsewhere."""
    best = max((old for old in moves if path == old or path.startswith(f"{old}/")), key=len, default=None)
    if best is None:
        return path
    rest = path[len(best) :].lstrip("/")
    return "/".join(part for part in (moves[best].strip("/").removeprefix("."), rest) if part)


def _places(
    state: PlanState, pack: SheetedPack, targets: Mapping[str, str], moves: Mapping[str, str], answers: Answers
) -> dict[str, str]:
    """The target of each file: its folder may have another name here, and two files may stay side by side."""
    there = set(state.tree.paths())
    earlier = state.ledger.pack(pack.name)
    own = {file.path for file in earlier.files} if earlier else set()
    was = {file.source: file.path for file in earlier.files} if earlier else {}
    places: dict[str, str] = {}
    for target, source in targets.items():
        place = _moved(target, moves)
        default = "mine" if pack.keeps_mine(target) else state.choices.other_bytes
        choice = answers.files.get(place) or default
        if choice not in (*WAYS, "stop"):
            places[target] = _new_path(pack, place, choice, there, own)
            continue
        if choice == "both" and place in there and place not in own:
            same = state.tree.read(place) == pack.tree.read(source)
            place = place if same else was.get(source) or under_new_name(place, pack.name, there)
        elif source in was and was[source] != place and place in there and place not in own:
            # It came under a new name when it was first set.
            place = was[source]
        if reason := unsafe_reason(place) or ("a file of Hook Set's own" if is_ours(place) else ""):
            raise WrongUseError(
                "wrong-path",
                f"{pack.name}: {target} would go to {place!r}, which is {reason}",
                why="what an answer says may not reach out of the map",
                remedy="correct --move, or `moved` in the file of answers",
            )
        places[target] = place
    return places


def _new_path(pack: SheetedPack, place: str, chosen: str, there: set[str], own: set[str]) -> str:
    """The path that the builder has chosen for a file of the pack. Raises WrongUseError for one that cannot be."""
    reason = unsafe_reason(chosen) or ("a file of Hook Set's own" if is_ours(chosen) else "")
    if not reason and chosen in there and chosen not in own:
        reason = "the path of another file of the map"
    if reason:
        raise WrongUseError(
            "wrong-path",
            f"{pack.name}: {chosen!r} is {reason}",
            why=f"{place} would not be installed, or something else would be lost",
            remedy=f"choose another: --beside {place}=PATH",
        )
    return chosen


def _refuse_unknown(state: PlanState, pack: SheetedPack, answers: Answers, sources: tuple[str, ...]) -> None:
    """Raises WrongUseError for a name that is to be replaced and that the pack does not use."""
    sheet = pack.sheet
    words = {(kind, word) for kind, known in state.choices.words.items() for word in known}
    asked = [("--call", *one.partition(":")[::2]) for one in answers.renamed]
    asked += (("--word", kind, word) for kind, word in words - _words_of(state.ledger.words))
    for option, kind, name in asked:
        known = state.layout.kinds.get(kind)
        if known is None or not name:
            raise WrongUseError(
                "unknown-kind",
                f"{option} {kind}:{name}: the layout has no kind `{kind}`{nearest(kind, sorted(state.layout.kinds))}",
                remedy=f"write {option} KIND:NAME=NEW; `hookset layout show` lists the kinds",
            )
        if known.entry.path:
            raise WrongUseError(
                "called-by-path",
                f"{option} {kind}:{name}: {with_article(known.label)} is called by its path",
                remedy="put a folder elsewhere with --move, or one file with --beside PATH=NEW",
            )
        texts = (str(pack.tree.read(path), "utf-8", "replace") for path in sources if pack.tree.size(path) < _TEXT)
        said = repr([(hook.at, hook.text, hook.record, hook.each) for hook in sheet.hook])
        if name not in said and not any(name in text for text in texts) and option == "--call":
            raise WrongUseError(
                "unknown-name",
                f"{option} {kind}:{name}: nothing in {pack.name} is called `{name}`",
                remedy="`hookset inspect` lists the names of a pack",
            )


def entangled_stops(layout: Layout, place: str, names: Iterable[Entangled]) -> tuple[Stop, ...]:
    """Where renaming a value as one kind would rename it as another kind, too."""
    return tuple(_entangled(layout.kinds[one.kind].label, place, one) for one in dict.fromkeys(names))


def _entangled(kind: str, place: str, one: Entangled) -> Stop:
    return Stop(
        "renamed-value",
        f"the value `{one.name}` in {place} names the {kind} {one.name} as well",
        where=place,
        why=f"it would be `{one.new}` there, while whatever else asks for the {kind} {one.name} stays with it",
        remedy=f"rename both: add --call {one.kind}:{one.name}={one.new}",
    )


def _words_of(words: Mapping[str, Mapping[str, str]]) -> set[tuple[str, str]]:
    return {(kind, word) for kind, known in words.items() for word in known}


def _chosen(
    state: PlanState, pack: SheetedPack, answers: Answers, earlier: LedgerPack | None, claims: Mapping[str, str]
) -> Names:
    """Names that change by choice: renamed, claimed, or words that this map does not know."""
    names: Names = {}
    for written, new in {**(earlier.renamed if earlier else {}), **answers.renamed}.items():
        kind, _, old = written.partition(":")
        if kind in state.layout.kinds:
            names[kind, old, ""] = new
    for entry in pack.sheet.claim:
        if entry.published and entry.kind in claims:
            names[entry.kind, entry.published, ""] = claims[entry.kind]
    for kind in state.ledger.words.keys() | state.choices.words.keys():
        if kind in state.layout.kinds:
            known = {**state.ledger.words.get(kind, {}), **state.choices.words.get(kind, {})}
            names |= {(kind, old, ""): new for old, new in known.items()}
    return names


def spot_of(write: WriteEntry, moved: Callable[[str], str]) -> LedgerSpot:
    """Where a setting is written, in this map."""
    return LedgerSpot(file=moved(write.file), ask=dict(write.ask) or {"assign": write.assign})


def _with_settings(
    state: PlanState,
    pack: SheetedPack,
    files: Mapping[str, StagedFile],
    settings: Mapping[str, Any],
    moved: Callable[[str], str],
) -> tuple[dict[str, StagedFile], tuple[tuple[SettingEntry, LedgerSpot], ...], tuple[Stop, ...]]:
    done = dict(files)
    stops: list[Stop] = []
    outside: list[tuple[SettingEntry, LedgerSpot]] = []
    for index, entry in enumerate(pack.sheet.setting):
        for write in entry.write:
            spot = spot_of(write, moved)
            if spot.file not in done:
                if write.file not in pack.places:
                    outside.append((entry, spot))
                continue
            tree = Overlay(state.tree, {path: one.content for path, one in done.items()})
            content = write_value(state.layout, tree, spot, settings[entry.name])
            if isinstance(content, str):
                stops.append(
                    Stop(
                        "not-settable",
                        f"the setting `{entry.name}` cannot be written into {spot.file}: {content}",
                        where=pack.line(f"/setting/{index}"),
                        why="the pack would go by another value than the one that is shown",
                        remedy="correct where the hook sheet says that it is written",
                    )
                )
            elif content is not None:
                done[spot.file] = replace(done[spot.file], content=content)
    return done, tuple(outside), tuple(stops)


def write_value(layout: Layout, tree: Tree, spot: LedgerSpot, value: Any) -> Content | str | None:
    """The file with the value in it; None where it stands there already; a text: why it cannot be written."""
    hook = LedgerHook(order=0, ask=spot.ask, path=spot.file, key="", record={"value": value})
    try:
        result = put(layout, tree, hook)
    except (Unreadable, CouldNotError) as error:
        return f"it {error.what}"
    if isinstance(result, Put):
        return result.content
    if isinstance(result, AlreadyThere):
        return None
    if isinstance(result, NoSeat):
        there = f"; there are {', '.join(result.candidates[:8])}" if result.candidates else ""
        return f"looked for {result.looked_for}{there}"
    return getattr(result, "what", "it says something else")


def _with_blanks(
    state: PlanState,
    pack: SheetedPack,
    files: Mapping[str, StagedFile],
    blanks: tuple[LedgerBlank, ...],
    answers: Answers,
    earlier: LedgerPack | None,
) -> dict[str, StagedFile]:
    done = dict(files)
    entries = {entry.name: entry for entry in pack.sheet.blank}
    for blank in blanks:
        if not blank.into or not blank.filled:
            continue
        place = _moved(blank.into, {**(earlier.moved if earlier else {}), **answers.moved})
        given = answers.blanks.get(blank.name)
        if given:
            content: Content = blank_content(entries[blank.name], given, state.layout)
        elif state.tree.has(place):
            content = Member(state.tree, place)
        else:
            continue
        done[place] = StagedFile(content=content, source=done[place].source if place in done else "", blank=blank.name)
    return done


def ledger_settings(pack: SheetedPack, settings: Mapping[str, Any], here: Adapted) -> tuple[LedgerSetting, ...]:
    """Those that have an effect: what is written only into files of parts that were not taken has none."""

    def lives(write: WriteEntry) -> bool:
        return write.file not in pack.places or here.moved(write.file) in here.files

    sheet = pack.sheet
    deciding = {when.setting for when in (*(f.when for f in sheet.files), *(h.when for h in sheet.hook)) if when}
    return tuple(
        LedgerSetting(
            decides=entry.name in deciding,
            name=entry.name,
            type=entry.type,
            value=settings[entry.name],
            default=entry.default,
            range=entry.range,
            choices=entry.choices,
            unit=entry.unit,
            says=entry.says,
            write=tuple(spot_of(write, here.moved) for write in entry.write if lives(write)),
        )
        for entry in pack.sheet.setting
        if not entry.write or any(lives(write) for write in entry.write)
    )
