"""What the record of a thing said when a pack set it, and says no more: an editor that did not know it left it out."""

from __future__ import annotations

import functools
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import partial
from typing import Any

from msgspec import Struct

from hookset.config.layouts import Layout
from hookset.config.layouts.positions import PlacedRule
from hookset.edits import EntryState
from hookset.edits.find import found, lines_of
from hookset.edits.replay import Sought, text_state, without_later
from hookset.formats.parts import Part
from hookset.project import Ledger, LedgerHook, LedgerPack
from hookset.scene.numbers import words_of
from hookset.scene.reading import things_of
from hookset.scene.records import OpenFile, every_part, open_for_edits
from hookset.scene.rows import Thing
from hookset.scene.values import CannotSay
from hookset.trees import Inline, Overlay, Tree

__all__ = ["LostPart", "lost_parts"]


_AS_SET = (EntryState.AS_SET, EntryState.MOVED)


class LostPart(Struct, frozen=True):
    """A value that is gone from a record."""

    pack: str
    source: str
    """From where the pack was installed."""
    thing: Thing
    way: str
    said: str
    """What it was; empty where that is more than a word."""


def lost_parts(tree: Tree, layout: Layout, ledger: Ledger, states: Mapping[int, EntryState]) -> Iterator[LostPart]:
    """The values that records of packs have lost since they were set. Only entries that are no more as they were set
    are looked at, so that this costs nothing in a map in which nobody has changed any; `states` says by their order
    how entries stand, as far as that is known."""
    hooks: dict[str, list[tuple[LedgerPack, LedgerHook]]] = {}
    for pack in ledger.packs:
        for hook in pack.hooks:
            if hook.edits and not hook.was_there:
                hooks.setdefault(hook.path, []).append((pack, hook))
    for path, of_path in hooks.items():
        rules = [rule for rule in layout.positions.placed if rule.asked.files.matches(path)]
        for rule in rules if tree.has(path) else ():
            yield from _in_file(tree, layout, rule, path, of_path, states)


def _in_file(
    tree: Tree,
    layout: Layout,
    rule: PlacedRule,
    path: str,
    hooks: Sequence[tuple[LedgerPack, LedgerHook]],
    states: Mapping[int, EntryState],
) -> Iterator[LostPart]:
    if all(states.get(hook.order) in _AS_SET for _, hook in hooks):
        return
    try:
        file = open_for_edits(tree, rule, path)
    except CannotSay:
        return
    string = file.text.string
    sought = Sought(string)
    every = [hook for _, hook in hooks]
    for pack, hook in hooks:
        if states.get(hook.order) in _AS_SET:
            continue
        earlier = functools.cache(partial(without_later, sought, hook, every))
        if text_state(string, earlier, hook, every) not in (EntryState.CHANGED, EntryState.GONE):
            continue
        others = lines_of(every, hook)
        for edit in hook.edits:
            there = found(string, edit, others)
            if there.standing is EntryState.GONE and hook.record is not None:
                yield from _by_key(tree, layout, rule, file, pack, hook.record)
            if there.standing is not EntryState.CHANGED:
                continue
            restored = string[: there.start] + edit.new + string[there.end :]
            before = Overlay(tree, {path: Inline(file.text.encode(restored))})
            was = _within(before, layout, rule, path, there.start, there.start + len(edit.new))
            now = {
                thing.key: (thing, parts) for thing, parts in _within(tree, layout, rule, path, there.start, there.end)
            }
            yield from (one for thing, parts in was if thing.key in now for one in _lost(pack, parts, *now[thing.key]))


def _by_key(
    tree: Tree, layout: Layout, rule: PlacedRule, file: OpenFile, pack: LedgerPack, record: Mapping[str, Any]
) -> Iterator[LostPart]:
    """What the record of the same key lacks, in a file that was written as a whole."""
    was = dict(_ways(record))
    key = was.get(rule.entry.key)
    thing = next((one for one in things_of(tree, layout).rows if one.path == file.path and one.key == key), None)
    if key and thing is not None:
        now = every_part(file, thing)
        gone = [way for way in was if way not in now and not any(one.startswith(f"{way}/") for one in now)]
        yield from (LostPart(pack.name, pack.source or pack.name, thing, way, str(was[way])) for way in gone)


def _ways(record: Mapping[str, Any], above: str = "") -> Iterator[tuple[str, Any]]:
    for key, value in record.items():
        if isinstance(value, Mapping):
            yield from _ways(value, f"{above}{key}/")
        else:
            yield f"{above}{key}", value


def _within(
    tree: Tree, layout: Layout, rule: PlacedRule, path: str, start: int, end: int
) -> list[tuple[Thing, Mapping[str, Part]]]:
    """The things whose records begin between two places of a file, each with all that it says."""
    try:
        file: OpenFile = open_for_edits(tree, rule, path)
    except CannotSay:
        return []
    things = [one for one in things_of(tree, layout).rows if one.path == path and one.rule is rule and one.key]
    spans = file.document.spans([one.where for one in things])
    meant: Iterable[Thing] = (one for one in things if one.where in spans and start <= spans[one.where][0] < end)
    return [(one, every_part(file, one)) for one in meant]


def _lost(pack: LedgerPack, was: Mapping[str, Part], thing: Thing, now: Mapping[str, Part]) -> Iterator[LostPart]:
    for way, part in was.items():
        said = words_of(part) or ""
        is_gone = way not in now or (said and words_of(now[way]) == "")
        # What is said of a value within one that is gone as a whole is told once.
        if is_gone and not any(way.startswith(f"{other}/") and other not in now for other in was):
            yield LostPart(pack.name, pack.source or pack.name, thing, way, said)
