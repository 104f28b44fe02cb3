"""A pack that is a newer version of one that is installed. Its notes often say only what is new: what the one before
has set, and they do not name, is proposed again, so that an upgrade does not take it out unasked."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from collections.abc import Set as AbstractSet

from msgspec.structs import replace

from hookset.authoring.draft.cites import as_said
from hookset.authoring.draft.draft import Reason
from hookset.authoring.draft.entries import DraftEntry
from hookset.authoring.draft.found.about import name_of
from hookset.authoring.draft.gathering import PackMaterial
from hookset.authoring.draft.site import EntryFacts, Site
from hookset.formats import Body
from hookset.packs import Pack
from hookset.packs.hooksheet import HookEntry
from hookset.project import LedgerHook, LedgerPack

__all__ = ["earlier_version", "with_earlier"]

_ALIKE = 0.5
"""The part of an installed pack's files that lie in another at the same place, from which on the two are versions of
one."""


def earlier_version(installed: Iterable[LedgerPack], pack: Pack) -> LedgerPack | None:
    """The installed pack of which this one is another version: most of its files lie in this one at the same place, by
    the same path in the pack; one that has a file at most is called the same. Of several the one with the most; None
    for a pack that is like none."""
    paths = set(pack.tree.paths())
    name, _ = name_of(pack.source.name if pack.source.is_dir() else pack.source.stem)
    best: tuple[float, LedgerPack | None] = (0.0, None)
    for one in installed:
        sources = {file.source for file in one.files if file.source}
        alike = len(sources & paths) / len(sources) if len(sources) > 1 else float(name == one.name)
        if alike > _ALIKE and alike > best[0]:
            best = (alike, one)
    return best[1]


def with_earlier(
    site: Site, entries: Sequence[DraftEntry], have: PackMaterial, decided: Iterable[HookEntry]
) -> list[DraftEntry]:
    """The entries of a draft, beside what the earlier version has set. What that has set word for word where an entry
    was to go is sure; where it has set the words elsewhere, they go there. What nothing of the draft sets is proposed
    again, but for what is about files that are gone; it is sure where the notes show its words."""
    earlier = site.earlier
    if earlier is None:
        return list(entries)
    before = list(_set_before(site, earlier))
    seats = {(one.seat_file.seat.name, _words(one.body)) for one in before}
    words = {said for _, said in seats}
    kept = [one for one in entries if one.reason.sure or _words(one.body) not in words or _key(one) in seats]
    kept = [_sure(one, earlier) if _key(one) in seats and not one.reason.sure else one for one in kept]
    said = {(*_key(one), _at(one.at)) for one in kept}
    said |= {(one.seat, _words(Body(text=one.text, record=one.record)), _at(one.at)) for one in decided}
    defined = {(one.seat_file.path, name) for one in kept for name in _defined(site.told(one.seat_file, one.body))}
    shown = " ".join(line.text for notes in have.notes for line in notes.lines)
    return [*kept, *_proposed(site, before, (said, defined), " ".join(shown.split()), have)]


_Known = tuple[AbstractSet[tuple[str, str, str]], AbstractSet[tuple[str, tuple[str, str]]]]
"""(seat, words, what the seat goes by) of the draft's entries; (file, (kind, name)) of what they define."""


def _proposed(
    site: Site, before: Iterable[DraftEntry], known: _Known, shown: str, have: PackMaterial
) -> Iterator[DraftEntry]:
    targets = {one.target for one in have.placing.placed}
    gone = {file.path for file in site.earlier.files} - targets if site.earlier is not None else set()
    inner = [rule.asked.files for rule in site.layout.positions.placed if rule.entry.in_prefabs]
    # Where the pack's own prefabs stand is found out by itself.
    gone |= {target for target in targets if any(files.matches(target) for files in inner)}
    said, defined = known
    for one in before:
        told = site.told(one.seat_file, one.body)
        names = {name for refer in told.refers for name in (refer.name, *refer.others)}
        if (
            (*_key(one), _at(one.at)) in said
            or names & gone
            or any((one.seat_file.path, name) in defined for name in _defined(told))
        ):
            continue
        sure = _words(one.body) in shown
        if not have.decided.drops(one.reason.why, sure):
            yield replace(one, refers=told.refers, reason=Reason(True, one.reason.why) if sure else one.reason)


def _set_before(site: Site, earlier: LedgerPack) -> Iterator[DraftEntry]:
    """The entries of the earlier version, but for rows of lists, which files get by themselves."""
    called = f"{earlier.name} {earlier.version}"
    reason = Reason(False, as_said(f"set by {called}"), (f"{called} has set it, and the notes say nothing of it",))
    listed = site.layout.manifest.seats if site.layout.manifest is not None else frozenset()
    for hook in earlier.hooks:
        meant = (one for one in site.seat_files if (one.seat.name, one.path) == (hook.seat, hook.path))
        seat_file = next(meant, None)
        if seat_file is not None and hook.of_sheet and hook.seat not in listed:
            yield DraftEntry(seat_file, _body(hook), reason, hook.at, earlier=True)


def _sure(one: DraftEntry, earlier: LedgerPack) -> DraftEntry:
    why = one.reason.why.also(f"as {earlier.name} {earlier.version} has set it")
    return replace(one, reason=Reason(True, why))


def _key(one: DraftEntry) -> tuple[str, str]:
    return one.seat_file.seat.name, _words(one.body)


def _at(at: Mapping[str, str]) -> str:
    return repr(sorted(at.items()))


def _body(hook: LedgerHook) -> Body:
    """The entry as its hook sheet had it, with whatever is to be filled in."""
    if hook.raw_text is not None or hook.raw_record is not None:
        return Body(text=hook.raw_text, record=hook.raw_record)
    return Body(text=hook.text, record=hook.record)


def _words(body: Body) -> str:
    return " ".join((body.text or "").split()) if body.text is not None else repr(sorted((body.record or {}).items()))


def _defined(told: EntryFacts) -> set[tuple[str, str]]:
    return {(one.kind, one.name) for one in told.defines}
