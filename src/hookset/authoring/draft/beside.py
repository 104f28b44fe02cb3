"""Texts of notes that go beside other text of the map, or in its place: what no seat is for."""

from __future__ import annotations

import textwrap
from collections.abc import Mapping

from msgspec import structs

from hookset.authoring.draft.cites import at_line
from hookset.authoring.draft.deciding import chunks_as_decided
from hookset.authoring.draft.found.anchors import (
    anchored,
    anchored_in_listing,
    at_the_end,
    replacing,
    stands_nowhere,
    taken_out,
)
from hookset.authoring.draft.found.filling import mapped
from hookset.authoring.draft.found.map_texts import MapTexts
from hookset.authoring.draft.found.seating import Ground, Seated, seated
from hookset.authoring.draft.found.values import new_version
from hookset.authoring.draft.gathering import PackMaterial
from hookset.authoring.draft.said import Chunk, condition_of
from hookset.authoring.draft.said.becoming import became, is_new_version, is_wrong
from hookset.authoring.draft.said.removals import goes
from hookset.authoring.draft.site import Site
from hookset.formats import Body
from hookset.packs.hooksheet import HookEntry

__all__ = ["beside_lines", "with_ids"]


def beside_lines(site: Site, have: PackMaterial, texts: MapTexts) -> dict[int, tuple[Chunk, tuple[HookEntry, ...]]]:
    """Texts that go beside a line of another file, or in place of what stands there, by the `id` of each;
    with no entries for texts that are to be set nowhere."""
    found: dict[int, tuple[Chunk, tuple[HookEntry, ...]]] = {}
    above: Chunk | None = None
    changes = False
    within: dict[tuple[str, int], int] = {}
    for chunk, decision in chunks_as_decided(have):
        old, before, above = became(chunk, above), above, chunk
        changes = is_new_version(chunk, changes)
        if decision is not None or is_wrong(chunk):
            continue
        if old is not None:
            hook = replacing(site, chunk, old)
            if before is not None and "".join(before.text.split()) == "".join(old.split()):
                # What is to become another text is none to be set.
                found[id(before)] = (before, ())
            if hook is None and before is not None and not stands_nowhere(site, before):
                # It stands there more than once: which one is meant is not known.
                found[id(chunk)] = (chunk, ())
                continue
        elif goes(chunk):
            hook = taken_out(site, chunk)
        elif changes and (hook := _new_version(site, have, texts, chunk, within)) is not None:
            pass
        else:
            hook = anchored(site, chunk) if chunk.gap is None else _listed(site, have, chunk)
        if hook is not None and condition_of(chunk.said, site.packs, None) is not None:
            # What it depends on is judged where entries are seated, and looked at there.
            continue
        hooks = (hook,) if hook is not None else at_the_end(site, chunk)
        if hooks and not have.decided.drops(at_line(chunk.notes, chunk.first), sure=True):
            found[id(chunk)] = (chunk, hooks)
    return found


def with_ids(hook: HookEntry, ids: Mapping[str, str]) -> HookEntry:
    """The entry with the author's numbers looked up, where they stand in quotes as they do in tables of ids."""
    text = mapped(Body(text=hook.text), {f'"{word}"': f'"{fill}"' for word, fill in ids.items()}).text
    return structs.replace(hook, text=text) if hook.text else hook


def _new_version(
    site: Site, have: PackMaterial, texts: MapTexts, chunk: Chunk, within: dict[tuple[str, int], int]
) -> HookEntry | None:
    """A text as the new version of the entry of the map that has its name. Of a sentence with several, each is for
    another of the files that it names; `within` counts them."""
    here = seated(Ground(site, have.known, have.everywhere), chunk)
    entry = here[0] if here else None
    if entry is None or entry.there or entry.holes or any(one.body != entry.body for one in here):
        return None
    if entry.lines < sum(bool(line.text.strip()) for line in chunk.lines):
        return None
    # Beside the map's own of that name it cannot stand.
    told = entry.told if entry.told.defines else site.told_alone(entry.seat_file, entry.body)
    names = [one.name for one in told.defines[:1]]
    paths = texts.named_in(chunk.near[-1].text if chunk.inline else chunk.said)
    if chunk.inline and len(paths) > 1:
        number = within.setdefault((chunk.notes, chunk.first), 0)
        within[chunk.notes, chunk.first] += 1
        flat = chunk.near[-1].text.replace("\\", "/").casefold()
        paths = sorted(paths, key=lambda path: flat.find(path.casefold()))[number : number + 1]
    return new_version(texts, names, paths, textwrap.dedent(chunk.text).strip("\n")) if paths else None


def _listed(site: Site, have: PackMaterial, chunk: Chunk) -> HookEntry | None:
    """What a listing of changes has new, where it is no entry of a seat of that file."""
    hook = anchored_in_listing(site, chunk)
    if hook is None or hook.replaces:
        return hook
    here = seated(Ground(site, have.known, have.everywhere), chunk)
    rows = sum(bool(line.text.strip()) for line in chunk.lines)
    fits = all(one.sure and one.seat_file.path == hook.file and _is_beside(one, chunk) for one in here)
    return None if fits and sum(one.lines for one in here) == rows else hook


def _is_beside(one: Seated, chunk: Chunk) -> bool:
    """Whether a listing shows an entry beside others of its seat: elsewhere it would mean something else."""
    gap, texts = chunk.gap, [other.body.text or "" for other in one.seat_file.siblings]
    beside = {row.strip() for row in (gap.above, gap.below) if row.strip()} if gap is not None else set()
    rows = {text.strip() for text in texts} | {row.strip() for text in texts for row in text.strip().split("\n")[:1]}
    if getattr(one.seat_file.seat.put, "inside", None) is not None and gap is not None and gap.below.strip() in rows:
        # Statements run one after the other: at the end it would come too late.
        return False
    return bool(beside & rows) or not any(texts)
