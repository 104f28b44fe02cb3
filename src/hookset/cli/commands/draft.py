"""hookset draft"""

from __future__ import annotations

import sys
from pathlib import Path

import click
from rich.text import Text

from hookset.authoring.draft import carried_over, drafted, seats_of, sheet_text, steps_of
from hookset.cli.busy import busy
from hookset.cli.drafts import decided_about, drafted_for_another, site_for
from hookset.cli.run import Run, json_option, pass_run
from hookset.cli.shelves import source_of
from hookset.cli.walking import walk_through
from hookset.model import RefusedError, WrongUseError
from hookset.model.visible import visible
from hookset.packs import Pack, open_bare, open_pack, sheet_beside
from hookset.project import save_file
from hookset.reports.drafts import draft_data
from hookset.reports.steps import steps_data
from hookset.reports.text.drafts import draft_text

__all__ = ["command"]


@click.command("draft", short_help="Write a hook sheet for a pack that came without one.")
@click.argument("pack", type=click.Path(path_type=Path))
@click.option("--layout", metavar="NAME", help="Draft for this layout rather than for the map at hand.")
@click.option("--out", type=click.Path(path_type=Path), help="The file to write (default: beside the pack).")
@click.option("--over", is_flag=True, help="Write it from nothing, over one that is there.")
@click.option("--show", is_flag=True, help="Print the sheet itself, and write nothing.")
@click.option(
    "--walk", is_flag=True, help="Go through the notes step by step, and decide; with --json, show the steps."
)
@click.option("--answers", type=click.Path(path_type=Path), help="Decide as this file says; --walk writes one.")
@json_option
@pass_run
def command(
    run: Run,
    pack: Path,
    layout: str | None,
    out: Path | None,
    over: bool,
    show: bool,
    walk: bool,
    answers: Path | None,
    as_json: bool,
) -> int:
    """Find out what a pack needs from its notes and from what is in it, and write that as a hook sheet beside it.

    Says for every file where it goes and why, and for every entry which line of the notes it was read from; what is
    unsure is marked with `?`. Lines of the notes that tell to do something and are not understood are shown, and the
    exit code is 1 then. Look at it, change what is wrong, and install the pack: the sheet beside it counts.

    --walk shows the notes from top to bottom, a step at a time, and asks what is to become of each. What you decide is
    kept beside the pack: the walk can be left and taken up again, and counts for a newer version of the pack as well.

    \b
    Examples, in the demo's map:
        hookset draft ../published/fog_bell_v0.4.zip
        hookset draft ../published/fog_bell_v0.4.zip --show
        hookset draft ../published/fog_bell_v0.4.zip --walk
    """
    pack = source_of(pack)
    opened, target = (open_bare if over else open_pack)(pack), out or sheet_beside(pack)
    asking = walk and not as_json
    _refuse(opened, target, over, writes=not (show or (walk and as_json)), walk=walk)
    if asking and not (sys.stdin.isatty() and sys.stdout.isatty()):
        raise WrongUseError(
            "no-terminal",
            "--walk asks, and there is nobody at a terminal",
            remedy="--walk --json shows the steps; --answers FILE decides",
        )
    before = opened.sheet if not over and opened.sheet is not None and opened.sheet.drafted.sha256 else None
    site, decided = site_for(run, layout, opened), decided_about(opened, answers)
    if asking:
        draft, whole = walk_through(run, site, opened, decided, answers)
        if not whole:
            run.print(Text("Left; --walk takes it up again. No hook sheet was written.", style="dim"))
            return 1
    else:
        with busy("reading the notes"):
            draft = drafted(site, opened, decided)
    draft = carried_over(before, draft) if before is not None else draft
    text = sheet_text(draft)
    if walk and as_json:
        steps = steps_of(draft)
        seats = seats_of(site, opened, decided, [one for one in steps if one.open and one.text])
        run.show_json(
            "draft", not draft.not_understood, draft_data(draft, None) | {"steps": steps_data(draft, steps, seats)}
        )
    elif show and as_json:
        run.show_json("draft", not draft.not_understood, draft_data(draft, None) | {"sheet": text})
    elif show:
        click.echo(visible(text), nl=False)
    else:
        save_file(target, text.encode())
        if as_json:
            run.show_json("draft", not draft.not_understood, draft_data(draft, target))
        else:
            run.print(draft_text(draft, opened, target))
    return int(bool(draft.not_understood))


def _refuse(opened: Pack, target: Path, over: bool, writes: bool, walk: bool) -> None:
    """Raises RefusedError where a sheet would be written over."""
    if drafted_for_another(opened) or (walk and opened.sheet is not None and opened.sheet.drafted.sha256):
        # What was changed in the sheet since it was drafted is carried over.
        return
    if opened.sheet is not None and opened.written is not None and not over and writes:
        raise RefusedError(
            "file-exists",
            f"has a hook sheet already: {opened.written.where}",
            where=str(opened.source),
            why="what somebody wrote or changed is worth more than a draft",
            remedy="--over writes a draft all the same, beside the pack; --show only prints it",
        )
    if target.exists() and not over and writes:
        raise RefusedError(
            "file-exists",
            f"there is a {target.name} already",
            where=str(target.parent),
            why="you may have changed it",
            remedy="--over writes over it; --out FILE writes another",
        )
