"""hookset shelf"""

from __future__ import annotations

from pathlib import Path

import click

from hookset.authoring.draft.found.about import about
from hookset.authoring.draft.notes import is_notes, read_notes
from hookset.cli.groups import SuggestingGroup
from hookset.cli.run import Run, json_option, now, pass_run
from hookset.cli.shelves import shelf_root, source_of
from hookset.packs import Pack, open_pack
from hookset.packs.shelf import keep, on_shelf, put_away
from hookset.reports.text.shelves import shelf_data, shelf_text

__all__ = ["command"]


@click.group("shelf", cls=SuggestingGroup, short_help="Keep packs at hand for every map.", invoke_without_command=True)
@json_option
@click.pass_context
def command(context: click.Context, as_json: bool) -> None:
    """Packs that are kept once and found by name from any map: `hookset install fog-bell`, or `fog-bell==0.4` for one
    of several versions. Each is checked against the SHA-256 that it had when it was kept.

    Without a further command: what is there.

    \b
    Examples:
        hookset shelf keep ../packs/lift-bridge.zip
        hookset shelf
    """
    if context.invoked_subcommand is not None:
        return
    run: Run = context.obj
    there = on_shelf(shelf_root())
    if as_json:
        run.show_json("shelf", True, shelf_data(shelf_root(), there))
    else:
        run.print(shelf_text(shelf_root(), there))


@command.command("keep", short_help="Put packs on the shelf.")
@click.argument("packs", nargs=-1, required=True, metavar="PACK...", type=click.Path(path_type=Path))
@json_option
@pass_run
def keep_command(run: Run, packs: tuple[Path, ...], as_json: bool) -> None:
    """Copy packs to the shelf, each with the hook sheet that is in it or lies beside it. One that has none goes there
    as it is; `hookset draft NAME` then writes its sheet beside it, on the shelf.

    \b
    Example:
        hookset shelf keep ../packs/lift-bridge.zip ../published/fog_bell_v0.4.zip
    """
    kept = []
    for source in packs:
        pack = open_pack(source_of(source))
        name, version = _called(pack)
        one = keep(shelf_root(), pack, name, version, now())
        kept.append(one)
        if not as_json:
            sheet = "" if one.sheet else f"; it has no hook sheet yet: hookset draft {one.name}"
            run.print(f"{one.name} {one.version} is on the shelf{sheet}")
    if as_json:
        run.show_json("shelf keep", True, shelf_data(shelf_root(), kept))


@command.command("drop", short_help="Take a pack off the shelf.")
@click.argument("name", metavar="NAME[==VERSION]")
@json_option
@pass_run
def drop_command(run: Run, name: str, as_json: bool) -> None:
    """Take a pack off the shelf: the newest version of it, or the one that is named. Maps keep what is
    installed.

    \b
    Example:
        hookset shelf drop lift-bridge==1.2.0
    """
    gone = put_away(shelf_root(), name)
    if as_json:
        run.show_json("shelf drop", True, {"name": gone.name, "version": gone.version})
    else:
        run.print(f"{gone.name} {gone.version} is off the shelf. It was taken from {gone.source}.")


def _called(pack: Pack) -> tuple[str, str]:
    """Name and version, by the hook sheet, or else by notes and file name."""
    if pack.sheet is not None:
        return pack.sheet.pack.name, pack.sheet.pack.version
    notes = read_notes(pack.tree, tuple(path for path in pack.tree.paths() if is_notes(path)))
    source = pack.source
    found = about(source.name if source.is_dir() else source.stem, notes, ())
    return found.name, found.version or "1"
