"""hookset log"""

from __future__ import annotations

from pathlib import Path

import click

from hookset.building.logs import log_lines, log_report, read_memory, remembered
from hookset.cli.run import Run, json_option, pass_run
from hookset.cli.scene import keep_memory, scene_of
from hookset.model import CouldNotError
from hookset.reports.logs import log_data
from hookset.reports.text.logs import log_text
from hookset.trees import open_regular

__all__ = ["command"]

_MOST = 32 << 20
"""Bytes at the end of a log that are read."""


@click.command("log", short_help="Read the game's log: what is wrong, and which pack is to blame.")
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--pack", metavar="NAME", help="Only what has to do with this pack.")
@click.option("--new", "only_new", is_flag=True, help="Only what the log before did not tell.")
@json_option
@pass_run
def command(run: Run, file: Path, pack: str | None, only_new: bool, as_json: bool) -> int:
    """Read a log that the game wrote: group what is wrong, tie each to the name, the file and the line that it is
    about and to the pack that set it, and compare it with the log before. Exit code 1 when there are errors.

    How a game's log tells what is wrong, the layout says with `[[log]]`; a log that no pattern knows is read by what
    all logs have in common.

    \b
    Example, in the demo's map, after `hookset trial --save game.log`:
        hookset log game.log
    """
    data = _read(file)
    project = run.project()
    scene = scene_of(run, project)
    memory = read_memory(project.root)
    lines, looked_at = log_lines(data.decode("utf-8", "replace"), project.layout.logs)
    report = log_report(lines, looked_at, scene, memory.before(data))
    keep_memory(run, remembered(memory, data, report))
    shown = [one for one in report.troubles if (not only_new or one.new) and (pack is None or one.pack == pack)]
    if as_json:
        run.show_json("log", not report.errors, log_data(report, shown))
    else:
        run.print(log_text(file.name, report, shown))
    return 1 if any(one.level == "error" for one in shown) else 0


def _read(file: Path) -> bytes:
    with open_regular(file, remedy="name the file that the game has written") as stream:
        try:
            size = stream.seek(0, 2)
            stream.seek(max(0, size - _MOST))
            return stream.read(_MOST)
        except OSError as error:
            raise CouldNotError(
                "unreadable-file",
                f"cannot be read: {error.strerror or error}",
                where=str(file),
                remedy="copy it to another disk",
            ) from error
