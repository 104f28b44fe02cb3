"""hookset derive"""

from __future__ import annotations

import sys
from collections.abc import Sequence
from pathlib import Path

import click

from hookset.authoring.derive import derived, words_of
from hookset.cli.run import Run, json_option, pass_run
from hookset.cli.shelves import source_of
from hookset.config.layouts import Layout, shipped_layout, shipped_names
from hookset.model import RefusedError, WrongUseError
from hookset.model.visible import as_argument
from hookset.packs import Pack, SheetedPack, open_pack
from hookset.packs.saving import save_pack
from hookset.project import find_root
from hookset.reports.text.derivations import derived_data, derived_text

__all__ = ["command"]


@click.command("derive", short_help="Make a new pack out of a template pack.")
@click.argument("template", type=click.Path(path_type=Path))
@click.option("--name", required=True, help="What the new pack is called: fish-stand.")
@click.option("--also", multiple=True, metavar="OLD=NEW", help="A further word of the template, and what it becomes.")
@click.option("--keep", multiple=True, metavar="TEXT", help="A text that stays as it is, wherever it stands.")
@click.option(
    "--out", type=click.Path(path_type=Path), help="The new folder (default: the name, here or beside the map)."
)
@click.option("--preview", is_flag=True, help="Show what would be renamed, and write nothing.")
@click.option("--yes", is_flag=True, help="Do not ask.")
@json_option
@pass_run
def command(
    run: Run,
    template: Path,
    name: str,
    also: tuple[str, ...],
    keep: tuple[str, ...],
    out: Path | None,
    preview: bool,
    yes: bool,
    as_json: bool,
) -> int:
    """Make a new pack out of a template: its name is found in the names of files and in what they say, however it is
    written (`market-stall`, `market_stall`, `marketStall`, `MARKET_STALL`), and renamed alike everywhere. Longer words
    that merely have it in them stay.

    Shows what becomes of what, and asks. Nothing is written as long as the new pack would define something that the
    template defines, too, since a map could not have both. The template stays as it is.

    \b
    Example, in the demo's folder:
        hookset derive packs/market-stall.zip --name fish-stand --also market_jingle=fish_jingle
    """
    template = source_of(template)
    pack = open_pack(template)
    if not isinstance(pack, SheetedPack):
        raise RefusedError(
            "no-hook-sheet",
            "has no hook sheet",
            where=str(template),
            why="without one it is not known what in it is a name",
            remedy=f"let one be drafted first: hookset draft {as_argument(template)}",
        )
    if not words_of(name) or words_of(name) == words_of(pack.name) or Path(name).name != name or "\\" in name:
        raise WrongUseError(
            "wrong-name",
            f"{name!r} is no new name",
            remedy="choose a name that differs from the template's, without slashes",
        )
    before = pack.sha256
    made = derived(pack, _layout(run, pack), name, dict(_pairs(also)), keep)
    folder = out or run.beside(name)
    bad = bool(made.shared or made.still)
    if not as_json:
        run.print(derived_text(made, pack))
    if preview or bad:
        if as_json:
            run.show_json("derive", not bad, derived_data(made, None))
        elif bad:
            run.tell("Nothing was written: the new pack would still be the template in part.")
        return 1 if bad else 0
    asked = not yes and not as_json and sys.stdin.isatty() and sys.stdout.isatty()
    if asked and not click.confirm("Write it like this?"):
        run.print("Nothing was written.")
        return 0
    save_pack(made.files, folder)
    if open_pack(template).sha256 != before:
        raise RefusedError("changed-meanwhile", "changed while it was read", where=str(template), remedy="derive again")
    if as_json:
        run.show_json("derive", True, derived_data(made, folder))
    else:
        run.print(f"Written to {folder}. Look into it: hookset inspect {folder}")
    return 0


def _layout(run: Run, pack: Pack) -> Layout:
    if find_root(run.folder.resolve()) is not None:
        return run.project().layout
    named: Sequence[str] = pack.sheet.pack.layouts if pack.sheet else ()
    found = next((one for one in named if one in shipped_names()), None)
    if found is None:
        raise WrongUseError(
            "layout-not-said",
            "it is not known which layout the template is for",
            remedy="run this in a map of that layout",
        )
    return shipped_layout(found)


def _pairs(also: Sequence[str]) -> list[tuple[str, str]]:
    pairs = []
    for one in also:
        old, equals, new = one.partition("=")
        if not equals or not old or not new:
            raise WrongUseError(
                "incomplete-option", f"--also {one} does not say what becomes of what", remedy="write --also OLD=NEW"
            )
        pairs.append((old, new))
    return pairs
