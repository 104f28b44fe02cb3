"""What became of each line of the notes, by all that a draft has made of them."""

from __future__ import annotations

import posixpath
from collections.abc import Iterable, Iterator, Mapping, Sequence

from hookset.authoring.draft.coverage import Accounted, CoveredLine, Fate, covered
from hookset.authoring.draft.draft import Draft
from hookset.authoring.draft.dry_run import DryRun
from hookset.authoring.draft.found.anchors import stands_nowhere
from hookset.authoring.draft.found.seating import Seated, lines_of
from hookset.authoring.draft.found.values import Values
from hookset.authoring.draft.gathering import PackMaterial
from hookset.authoring.draft.said import Chunk
from hookset.authoring.draft.said.becoming import is_wrong
from hookset.authoring.draft.said.removals import goes
from hookset.authoring.draft.site import Site
from hookset.packs.hooksheet import HookEntry
from hookset.planning.plan import HookState

__all__ = ["lines_accounted"]

_FATES = {
    "accept": Fate.DONE,
    "instead": Fate.DONE,
    "leave": Fate.LEFT_OUT,
    "by-hand": Fate.BY_HAND,
}


def lines_accounted(
    site: Site,
    have: PackMaterial,
    draft: Draft,
    last: DryRun,
    used: Mapping[int, Sequence[Seated]],
    beside: Mapping[int, tuple[Chunk, tuple[HookEntry, ...]]],
    values: Values,
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
            line
            for (table, _), one in draft.reasons.items()
            if table not in (*chosen, "files")
            for line in one.why.lines
        ),
        shared=frozenset(texts),
        lists=_lists(site, texts),
        open=values.open,
        keys=values.keys,
        headings=have.headings,
        heads=tuple(line for why in draft.heads.values() for line in why.lines),
        missing=(name for _, name in draft.missing),
        choices=tuple(line for (table, _), one in draft.reasons.items() if table in chosen for line in one.why.lines),
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
