"""hookset inspect"""

from __future__ import annotations

from pathlib import Path

import click

from hookset.authoring.draft import drafted, inside, likeliest_site, sheet_text
from hookset.cli.busy import busy
from hookset.cli.drafts import site_for
from hookset.cli.run import Run, json_option, ledger_bytes, now, pass_run
from hookset.cli.shelves import source_of
from hookset.packs import Pack, open_pack, with_sheet
from hookset.planning import Choices, map_now, outlook, plan_install
from hookset.planning.queries.conflicts import conflicts
from hookset.planning.queries.contents import PackReview, contents_alone, contents_in_map
from hookset.project import find_root, read_ledger
from hookset.reports.data import inspect_data
from hookset.reports.text.insides import notes_text
from hookset.reports.text.packs import inspect_text

__all__ = ["command"]


@click.command("inspect", short_help="Look into a pack without setting it in.")
@click.argument("pack", type=click.Path(path_type=Path))
@click.option("--notes", is_flag=True, help="Print the author's notes and the licence, and nothing else.")
@json_option
@pass_run
def command(run: Run, pack: Path, notes: bool, as_json: bool) -> None:
    """Look into a pack (a folder, a zip, tar or 7z archive) without unpacking or running anything of it.

    Tells what its files are by what is in them, what it brings by kind, what it asks for and what meets that, what of
    it nothing would use, what it sets where, what would collide here, its settings and blanks, who made it and under
    which licence. A pack without a hook sheet is read as a draft of one would have it. Works outside of a map, too.

    \b
    Examples, on the demo:
        hookset inspect hookset-demo/packs/lift-bridge.zip
        hookset inspect hookset-demo/published/fog_bell_v0.4.zip
    """
    pack = source_of(pack)
    opened = open_pack(pack)
    look = inside(opened)
    if notes:
        run.print(notes_text(look))
        return
    in_map = find_root(run.folder.resolve()) is not None
    draft = None
    if opened.sheet is None:
        site = site_for(run, None, opened) if in_map else likeliest_site(opened)
        draft = drafted(site, opened) if site is not None else None
        if draft is not None:
            opened = with_sheet(opened, sheet_text(draft).encode(), f"the draft for {pack.name}")
    with busy("looking into the pack"):
        looked, map_name = _looked(run, opened, in_map)
    if as_json:
        run.show_json("inspect", True, inspect_data(opened, look, draft, looked))
    else:
        run.print(inspect_text(opened, look, draft, looked, map_name))


def _looked(run: Run, opened: Pack, in_map: bool) -> tuple[PackReview, str]:
    """What there is to say about the pack's names, and the name of the map that it was read for."""
    if opened.sheet is None or not in_map:
        return PackReview(*contents_alone(opened)), ""
    project = run.project()
    ledger = read_ledger(project.root)
    before = map_now(project, ledger)
    whole = plan_install(project, ledger, ledger_bytes(project), [opened], Choices(), now())
    view = outlook(project, whole, before)
    contents = contents_in_map(opened, project, view.after, ledger.pack(opened.name))
    stops = whole.stops or conflicts(whole, view)
    excluded = view.excluded.get(opened.name, ())
    review = PackReview(contents, whole.packs[0], view.needs[opened.name], excluded, stops)
    return review, project.file.map.name
