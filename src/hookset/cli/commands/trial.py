"""hookset trial"""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path
from typing import TYPE_CHECKING

import click
import msgspec

from hookset.building import archive_name
from hookset.cli.run import Run, json_option, pass_run
from hookset.model import CouldNotError, WrongUseError
from hookset.model.visible import visible
from hookset.project import save_file
from hookset.reports.logs import log_data
from hookset.reports.text.logs import blame_text
from hookset.reports.text.trials import trial_text
from hookset.reports.trial import TrialLine, as_log

if TYPE_CHECKING:
    from hookset.building.logs import LogReport

__all__ = ["command"]


@click.command("trial", short_help="Load the built map in the stand-in game.")
@click.argument("archive", required=False, type=click.Path(path_type=Path))
@click.option(
    "--ticks",
    default=60,
    show_default=True,
    type=click.IntRange(1, 10_000),
    help="How long, in game seconds.",
)
@click.option("--limit", default=60, show_default=True, type=click.IntRange(1), help="Stop after so many real seconds.")
@click.option("--save", type=click.Path(path_type=Path), help="Write the game's log to this file, as a game would.")
@click.option("--log", "whole", is_flag=True, help="The game's log line by line.")
@json_option
@pass_run
def command(
    run: Run, archive: Path | None, ticks: int, limit: int, save: Path | None, whole: bool, as_json: bool
) -> int:
    """Load the built map in the stand-in game and print what it says.

    The stand-in is a small simulated game that shares no code with the checks: it loads the zip, runs the scripts of
    both sides in a real Lua without access to this machine, uses every object, and logs what it misses. Exit code 1
    when it logs an error.

    \b
    Example, in the demo's map, after `hookset build`:
        hookset trial
    """
    file = archive or _built(run)
    if not file.is_file():
        raise WrongUseError(
            "there is no such archive",
            where=str(file),
            remedy="run `hookset build` first, or name a map's zip",
        )
    lines = _played(file, ticks, limit)
    errors = [line for line in lines if line.what == "error"]
    written = as_log(lines)
    if save is not None:
        save_file(save, written.encode("utf-8", "backslashreplace"))
    report = _blamed(run, written) if errors and archive is None else None
    if as_json:
        data = {"archive": str(file), "errors": len(errors), "log": msgspec.to_builtins(lines)}
        data |= {"troubles": log_data(report, report.troubles)} if report is not None else {}
        run.show_json("trial", not errors, data)
    elif whole:
        for line in lines:
            place = f"  {line.file}:{line.line}" if line.line else f"  {line.file}" if line.file else ""
            click.echo(visible(f"{line.what:8} {line.text}{place}"))
    else:
        run.print(trial_text(file.name, lines))
        if report is not None:
            run.print(blame_text(report))
    return 1 if errors else 0


def _blamed(run: Run, log: str) -> LogReport:
    """Which pack the errors have to do with."""
    # Imported here: a trial without errors needs none of it.
    from hookset.building.logs import log_lines, log_report
    from hookset.cli.scene import scene_of

    project = run.project()
    lines, looked_at = log_lines(log, project.layout.logs)
    return log_report(lines, looked_at, scene_of(run, project), None)


def _built(run: Run) -> Path:
    """Where `build` puts this map's archive."""
    project = run.project()
    head = project.file.map
    return project.built(archive_name(project.layout, head.name, head.version))


def _played(file: Path, ticks: int, limit: int) -> list[TrialLine]:
    """The game is a program of its own: a map that hangs or crashes it cannot do so to us."""
    try:
        done = subprocess.run(
            [sys.executable, "-m", "hookset.standin", str(file), str(ticks)],
            capture_output=True,
            timeout=limit,
            check=False,
        )
    except subprocess.TimeoutExpired as error:
        told = (error.stdout or b"").splitlines()
        lines = [msgspec.json.decode(line, type=TrialLine) for line in told if line.endswith(b"}")]
        return [*lines, TrialLine("error", f"the game did not end within {limit} s and was stopped")]
    lines = [msgspec.json.decode(line, type=TrialLine) for line in done.stdout.splitlines()]
    if done.returncode not in (0, 1):
        raise CouldNotError(
            f"the stand-in game crashed (exit code {done.returncode})",
            where=str(file),
            details=tuple(done.stderr.decode("utf-8", "replace").splitlines()[-3:]),
            remedy="`hookset check` may tell what in the map is damaged",
        )
    return lines
