"""hookset start"""

from __future__ import annotations

from pathlib import Path

import click

from hookset.cli.run import Run, json_option, pass_run
from hookset.project import PROJECT_FILE, begin, save_file
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
@json_option
@pass_run
def command(run: Run, folder: Path | None, layout: str | None, stock: tuple[Path, ...], as_json: bool) -> None:
    """Make hookset.toml for a map's folder, or beside a map that is a zip.

    The layout is found out from the files that are there, and what it was recognised by is told. Stock lists
    (*.stock.json) that lie in the folder or beside it are taken up.

    \b
    Example, on the demo's map:
        hookset start hookset-demo/brackwater
    """
    beginning = begin(folder or run.folder, layout, stock)
    root = beginning.root
    save_file(root / PROJECT_FILE, beginning.text.encode())
    if as_json:
        data = {
            "file": str(root / PROJECT_FILE),
            "name": beginning.name,
            "version": beginning.version,
            "layout": beginning.likeness.layout.name,
            "recognised_by": [{"path": path, "is": says} for path, says in beginning.likeness.seen],
            "stock": list(beginning.stock),
        }
        run.show_json("start", True, data)
    else:
        run.print(start_text(beginning))
