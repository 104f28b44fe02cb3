"""hookset lift"""

from __future__ import annotations

from pathlib import Path

import click

from hookset.authoring.draft import Site
from hookset.authoring.lift import Donor, closure_of, find_thing, lifted_pack
from hookset.authoring.lift.report import report_lift
from hookset.cli.busy import busy
from hookset.cli.run import Run, json_option, pass_run
from hookset.config.layouts import map_words
from hookset.model import WrongUseError
from hookset.packs.saving import save_pack
from hookset.project import find_root, open_project, read_ledger
from hookset.reports.lifts import lift_data
from hookset.reports.text.lifts import lift_text
from hookset.symbols import rooted

__all__ = ["command"]


@click.command("lift", short_help="Make a pack out of one object of another map.")
@click.argument("name", metavar="OBJECT")
@click.option("--from", "donor", required=True, type=click.Path(path_type=Path), help="The map that it is in.")
@click.option("--call", help="What the pack is called (default: as the object).")
@click.option(
    "--out", type=click.Path(path_type=Path), help="The new folder (default: the pack's name, here or beside the map)."
)
@click.option(
    "--leave", multiple=True, metavar="NAME", help="Something that is not to come along, with what only it needs."
)
@click.option("--with-stock", is_flag=True, help="Bring along what the donor has, although the base game has it, too.")
@click.option("--preview", is_flag=True, help="Show what would come along, and write nothing.")
@json_option
@pass_run
def command(
    run: Run,
    name: str,
    donor: Path,
    call: str | None,
    out: Path | None,
    leave: tuple[str, ...],
    with_stock: bool,
    preview: bool,
    as_json: bool,
) -> None:
    """Take an object out of another map with everything that it needs: what hangs on it, models, textures, sounds,
    texts, entries in tables of ids, the script behind its trigger, whatever that script needs, the entries that have
    the game load and start it, and entries of other tables that are about it alone. Names are followed until there is
    nothing more; what the base game has stays out. What else in the donor refers to it is told.

    OBJECT is its name or id, any value that only it has, or where it stands (FILE:LINE).

    Writes a pack with a hook sheet that can be set into any map of that layout, and names the donor in its credits. In
    a map, it also shows which attributes would not be the same there.

    \b
    Example, in the demo's map:
        hookset lift tide_crane --from ../maps/old-quay
    """
    if not donor.exists():
        raise WrongUseError(
            "not-found", "there is no such map", where=str(donor), remedy="name the folder that its hookset.toml is in"
        )
    project = rooted(open_project(donor), run.root_cache)
    words = map_words(project.tree, project.layout)
    site = Site(project.layout, project.tree, project.stock, folder=str(donor))
    source = Donor(site, words["map"] or project.file.map.name, words["version"] or project.file.map.version)
    with busy("following what the object needs"):
        lifted = closure_of(source, find_thing(source, name), with_stock, frozenset(leave))
        made = lifted_pack(source, lifted, call or name, read_ledger(project.root))
    here = None
    if find_root(run.folder.resolve()) not in (None, project.root):
        own = run.project()
        if own.layout.name == project.layout.name:
            here = Site(own.layout, own.tree, own.stock, folder=own.root.name)
    with busy("comparing"):
        looked = report_lift(source, lifted, made, here)
    folder = out or run.beside(made.name)
    if not preview:
        save_pack(made.files, folder)
    written = None if preview else folder
    if as_json:
        run.show_json("lift", True, lift_data(source, lifted, made, looked, written))
    else:
        run.print(lift_text(source, lifted, made, looked, here is not None, written))
