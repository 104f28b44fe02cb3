"""hookset draft"""

from __future__ import annotations

from pathlib import Path

import click

from hookset.authoring.draft import drafted, sheet_text
from hookset.cli.busy import busy
from hookset.cli.drafts import site_for
from hookset.cli.run import Run, json_option, pass_run
from hookset.cli.shelves import source_of
from hookset.model import RefusedError
from hookset.model.visible import visible
from hookset.packs import open_pack, sheet_beside
from hookset.project import save_file
from hookset.reports.drafts import draft_data
from hookset.reports.text.drafts import draft_text

__all__ = ["command"]


@click.command("draft", short_help="Write a hook sheet for a pack that came without one.")
@click.argument("pack", type=click.Path(path_type=Path))
@click.option("--layout", metavar="NAME", help="Draft for this layout rather than for the map at hand.")
@click.option("--out", type=click.Path(path_type=Path), help="The file to write (default: beside the pack).")
@click.option("--over", is_flag=True, help="Write it over one that is there.")
@click.option("--show", is_flag=True, help="Print the sheet itself, and write nothing.")
@json_option
@pass_run
def command(run: Run, pack: Path, layout: str | None, out: Path | None, over: bool, show: bool, as_json: bool) -> int:
    """Find out what a pack needs from its notes and from what is in it, and write that as a hook sheet beside it.

    Says for every file where it goes and why, and for every entry which line of the notes it was read from; what is
    unsure is marked with `?`. Lines of the notes that tell to do something and are not understood are shown, and the
    exit code is 1 then. Look at it, change what is wrong, and install the pack: the sheet beside it counts.

    \b
    Examples, in the demo's map:
        hookset draft ../published/fog_bell_v0.4.zip
        hookset draft ../published/fog_bell_v0.4.zip --show
    """
    pack = source_of(pack)
    opened = open_pack(pack)
    if opened.sheet is not None and opened.written is not None and not over and not show:
        raise RefusedError(
            f"has a hook sheet already: {opened.written.where}",
            where=str(pack),
            why="what somebody wrote or changed is worth more than a draft",
            remedy="--over writes a draft all the same, beside the pack; --show only prints it",
        )
    with busy("reading the notes"):
        draft = drafted(site_for(run, layout), opened)
    text = sheet_text(draft)
    target = out or sheet_beside(pack)
    if show:
        if as_json:
            run.show_json("draft", not draft.not_understood, draft_data(draft, None) | {"sheet": text})
        else:
            click.echo(visible(text), nl=False)
        return int(bool(draft.not_understood))
    if target.exists() and not over:
        raise RefusedError(
            f"there is a {target.name} already",
            where=str(target.parent),
            why="you may have changed it",
            remedy="--over writes over it; --out FILE writes another",
        )
    save_file(target, text.encode())
    if as_json:
        run.show_json("draft", not draft.not_understood, draft_data(draft, target))
    else:
        run.print(draft_text(draft, opened, target))
    return int(bool(draft.not_understood))
