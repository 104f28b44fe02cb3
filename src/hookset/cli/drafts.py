"""Packs that came without a hook sheet: drafted for the map at hand, shown, and asked about."""

from __future__ import annotations

import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from hookset.cli.busy import busy
from hookset.cli.run import Run
from hookset.cli.shelves import source_of
from hookset.config.layouts import named_layout
from hookset.model import RefusedError, WrongUseError
from hookset.model.visible import as_argument
from hookset.packs import Pack, open_pack, sheet_beside, walk_beside, with_sheet
from hookset.project import find_root, read_ledger
from hookset.trees import read_regular

if TYPE_CHECKING:
    from hookset.authoring.draft import Site, Walk

__all__ = ["decided_about", "drafted_for_another", "drafted_options", "opened_packs", "site_for"]

_SHOWN = 8
_LARGEST = 4 << 20
"""Bytes of a file of decisions."""
_GO_ON = click.Choice(["yes", "walk", "no"])


def site_for(run: Run, layout: str | None, pack: Pack) -> Site:
    """What to draft for: the map at hand, without the version of the pack that is installed; or a layout without a map.
    Raises WrongUseError where there is neither."""
    from hookset.authoring.draft import Site, earlier_version
    from hookset.planning import map_without

    if layout is not None:
        return Site(named_layout(layout, Path.cwd()))
    if find_root(run.folder.resolve()) is None:
        raise WrongUseError(
            "no-map",
            "there is no map here to draft for",
            why="where files and entries go depends on how the map is arranged",
            remedy="go to the map's folder, or name a layout: hookset draft PACK --layout NAME",
        )
    project = run.project()
    ledger = read_ledger(project.root)
    earlier = earlier_version(ledger.packs, pack)
    others = tuple(one for one in ledger.packs if one is not earlier)
    return Site(
        project.layout,
        project.tree if earlier is None else map_without(project, ledger, earlier.name),
        project.stock,
        tuple(one.name for one in others),
        project.root.name,
        project.terms,
        earlier,
        others,
    )


def decided_about(pack: Pack, file: Path | None) -> Walk:
    """What was decided about a pack: as `file` says, or the one beside the pack. Raises CouldNotError for another
    sort of file."""
    from hookset.authoring.draft import Walk, read_walk

    beside = file or walk_beside(pack.source)
    if file is None and not beside.is_file():
        return Walk()
    remedy = "`hookset draft PACK --walk` makes one"
    return read_walk(read_regular(beside, _LARGEST, remedy=remedy), beside.name)


def drafted_for_another(pack: Pack) -> bool:
    """Whether the sheet beside a pack was drafted for another download of that name."""
    known = pack.sheet.drafted.sha256 if pack.sheet is not None else ""
    return bool(known) and pack.source.is_file() and known != pack.sha256


def drafted_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """The options that agree to a draft without being asked."""
    agreed = "Go on with the draft for a pack that came without a hook sheet."
    less = "With --as-drafted: without what is not understood."
    command = click.option("--incomplete", is_flag=True, help=less)(command)
    return click.option("--as-drafted", is_flag=True, help=agreed)(command)


def opened_packs(
    run: Run, sources: Sequence[Path], quiet: bool, as_drafted: bool = False, incomplete: bool = False
) -> list[Pack]:
    """The packs, each with a hook sheet: its own, or one that is drafted, shown, and agreed to.

    Raises RefusedError for a draft that nobody has agreed to.
    """
    return [_sheeted(run, open_pack(source_of(source)), quiet, as_drafted, incomplete) for source in sources]


def _sheeted(run: Run, pack: Pack, quiet: bool, as_drafted: bool, incomplete: bool) -> Pack:
    if pack.sheet is not None and not drafted_for_another(pack):
        return pack
    # Imported here: most packs need none of it.
    from hookset.authoring.draft import carried_over, drafted, sheet_text
    from hookset.cli.walking import walk_through
    from hookset.reports.text.drafts import draft_text

    site, walk = site_for(run, None, pack), decided_about(pack, None)
    with busy("reading the notes"):
        draft = drafted(site, pack, walk)
        draft = carried_over(pack.sheet, draft) if pack.sheet is not None else draft
    if not quiet:
        run.print(draft_text(draft, pack))
    asked = not as_drafted and not quiet and sys.stdin.isatty() and sys.stdout.isatty()
    agreed = click.prompt("Go on with this draft?", type=_GO_ON, default="no") if asked else "no"
    if agreed == "walk":
        draft, whole = walk_through(run, site, pack, walk)
        draft = carried_over(pack.sheet, draft) if pack.sheet is not None else draft
        run.print(draft_text(draft, pack))
        agreed = "yes" if whole and click.confirm("Go on with it?", default=draft.complete) else "no"
    if not as_drafted and agreed == "no":
        raise RefusedError(
            "draft-not-agreed",
            "has no hook sheet, and nobody has agreed to the draft of one"
            if pack.sheet is None
            else "is another one than the sheet beside it was drafted for, and nobody has agreed to a new draft",
            where=str(pack.source),
            why=f"{draft.unsure} of its entries are unsure" if draft.unsure else "notes can be understood wrongly",
            remedy=f"`hookset draft {as_argument(pack.source)}` writes it to {sheet_beside(pack.source).name}, to be "
            "looked at and changed; --as-drafted goes on with it as it is; nothing was written",
        )
    if as_drafted and draft.not_understood and not incomplete:
        raise RefusedError(
            "draft-not-whole",
            "of its notes not all is understood",
            where=str(pack.source),
            details=tuple(f"{one.notes}:{one.number}: {one.text[:160]}" for one in draft.not_understood[:_SHOWN]),
            why=f"{len(draft.not_understood)} of its lines may tell to do something that would not be done",
            remedy=f"`hookset draft {as_argument(pack.source)}` writes it to {sheet_beside(pack.source).name}, to be "
            "completed; "
            "--incomplete goes on without what these lines say; nothing was written",
        )
    return with_sheet(pack, sheet_text(draft).encode(), f"the draft for {pack.source.name}")
