"""hookset start"""

from __future__ import annotations

import sys
from pathlib import Path

import click
from rich.text import Text

from hookset.cli.learning import SHOWN, Asked, write_layout
from hookset.cli.run import Run, json_option, pass_run
from hookset.model import WrongUseError
from hookset.project import PROJECT_FILE, NoLayoutError, begin, save_file
from hookset.reports.text.starting import start_text

__all__ = ["command"]


@click.command("start", short_help="Make hookset.toml for a map's folder.")
@click.argument("folder", metavar="[FOLDER|ZIP]", required=False, type=click.Path(path_type=Path))
@click.option("--layout", metavar="NAME", help="The layout, if it is not to be found out: a shipped one or a file.")
@click.option(
    "--stock",
    multiple=True,
    metavar="FILE",
    type=click.Path(path_type=Path),
    help="A list of the base game's names.",
)
@click.option("--learn", is_flag=True, help="Where no layout fits, make one of what the map's files say.")
@click.option(
    "--base",
    multiple=True,
    metavar="FOLDER",
    type=click.Path(path_type=Path),
    help="With --learn: a folder or an archive of the base game.",
)
@json_option
@pass_run
def command(
    run: Run,
    folder: Path | None,
    layout: str | None,
    stock: tuple[Path, ...],
    learn: bool,
    base: tuple[Path, ...],
    as_json: bool,
) -> None:
    """Make hookset.toml for a map's folder, or beside a map that is a zip.

    The layout is found out from the files that are there, and what it was recognised by is told. Stock lists
    (*.stock.json) that lie in the folder or beside it are taken up. Where no layout fits, rules can be looked for in
    the map itself, as `hookset layout learn` does: at a terminal that is asked.

    \b
    Example, on the demo's map:
        hookset start hookset-demo/brackwater
    """
    place, outcome = folder or run.folder, None
    if base and not learn:
        raise WrongUseError(
            "conflicting-options", "--base is for layouts that are learned", remedy="add --learn, or leave --base out"
        )
    try:
        beginning = begin(place, layout, stock)
    except NoLayoutError as error:
        asking = not as_json and sys.stdin.isatty() and sys.stdout.isatty()
        if not learn and not (asking and _agreed(run, error)):
            raise
        outcome = write_layout(run, Asked(place, base=base))
        beginning = begin(place, outcome.layout, stock or ((Path(outcome.stock),) if outcome.stock else ()))
    root = beginning.root
    save_file(root / PROJECT_FILE, beginning.text.encode())
    if as_json:
        from hookset.reports.learned import learned_data

        data = {
            "file": str(root / PROJECT_FILE),
            "name": beginning.name,
            "version": beginning.version,
            "layout": beginning.likeness.layout.name,
            "recognised_by": [{"path": path, "is": says} for path, says in beginning.likeness.seen],
            "stock": list(beginning.stock),
            "learned": None if outcome is None else learned_data(outcome),
        }
        run.show_json("start", True, data)
    else:
        if outcome is not None:
            from hookset.reports.text.learned import learned_text

            run.print(learned_text(outcome, SHOWN, ""))
        run.print(start_text(beginning))


def _agreed(run: Run, error: NoLayoutError) -> bool:
    """Whether somebody wants rules to be looked for."""
    run.print(Text(f"{error.what}: {'; '.join(error.details)}", style="warning"))
    return click.confirm("Look for rules in its files, and begin with a layout made of them?", default=True)
