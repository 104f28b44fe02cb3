"""hookset trial"""

from __future__ import annotations

import subprocess
import sys
import time
from pathlib import Path
from typing import TYPE_CHECKING

import click
import msgspec
from msgspec import Struct

from hookset.building import archive_name
from hookset.cli.run import Run, json_option, pass_run
from hookset.model import CouldNotError, WrongUseError
from hookset.model.visible import visible
from hookset.project import read_ledger, save_file
from hookset.reports.logs import log_data
from hookset.reports.text.logs import blame_text
from hookset.reports.text.trials import trial_text
from hookset.reports.trial import TrialLine, as_log

if TYPE_CHECKING:
    from hookset.building.engines.running import EngineRun
    from hookset.building.logs import LogLine, LogReport

__all__ = ["command"]

_STAND_IN_TICKS, _ENGINE_TICKS = 60, 2


@click.command("trial", short_help="Load the built map in the stand-in game.")
@click.argument("archive", required=False, type=click.Path(path_type=Path))
@click.option(
    "--ticks",
    type=click.IntRange(1, 10_000),
    help="How long, in game seconds; 60 in the stand-in, 2 in an engine.",
)
@click.option("--limit", default=60, show_default=True, type=click.IntRange(1), help="Stop after so many real seconds.")
@click.option("--save", type=click.Path(path_type=Path), help="Write the game's log to this file, as a game would.")
@click.option("--log", "whole", is_flag=True, help="The game's log line by line.")
@click.option(
    "--in", "engine", metavar="ENGINE", default="", help="Load it in this engine, and compare with the check."
)
@click.option("--allow", metavar="WORD", default="", help="Allow the engine's command that goes by this word.")
@json_option
@pass_run
def command(
    run: Run,
    archive: Path | None,
    ticks: int | None,
    limit: int,
    save: Path | None,
    whole: bool,
    engine: str,
    allow: str,
    as_json: bool,
) -> int:
    """Load the built map in the stand-in game and print what it says; or load the map in an engine of the layout's or
    of your own, without a screen, and see what the engine and the check say of it side by side.

    The stand-in is a small simulated game that shares no code with the checks: it loads the zip, runs the scripts of
    both sides in a real Lua without access to this machine, uses every object, and logs what it misses. Exit code 1
    when it logs an error.

    \b
    Examples, in the demo's map, after `hookset build`:
        hookset trial
        hookset trial --in stand-in
    """
    if engine:
        return _tried(run, engine, _Wish(archive, ticks, limit, save, whole, allow, as_json))
    file = archive or _built(run)
    if not file.is_file():
        raise WrongUseError(
            "not-found",
            "there is no such archive",
            where=str(file),
            remedy="run `hookset build` first, or name a map's zip",
        )
    lines = _played(file, ticks or _STAND_IN_TICKS, limit).lines
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


class _Wish(Struct, frozen=True):
    """What was asked for, beside the engine."""

    archive: Path | None
    ticks: int | None
    limit: int
    save: Path | None
    whole: bool
    allow: str
    as_json: bool


def _tried(run: Run, name: str, wish: _Wish) -> int:
    """In an engine: what it says, and what the check says, side by side."""
    # Imported here: the stand-in alone needs none of it.
    from hookset.building.engines.comparing import compared
    from hookset.building.logs import log_report
    from hookset.building.logs.blame import Scene
    from hookset.cli.building import judged
    from hookset.cli.engines import STAND_IN, engine_named, tried_in
    from hookset.reports.engines import compared_data
    from hookset.reports.text.engines import compared_text

    project = run.project()
    if name == STAND_IN:
        done, lines = _stood_in(wish.archive or _built(run), wish)
        looked_at = len(lines)
    else:
        engine = engine_named(project, name)
        file = wish.archive or _built(run)
        if engine.entry.loads == "archive" and not file.exists():
            raise WrongUseError(
                "not-found", "there is no such archive", where=str(file), remedy="run `hookset build` first"
            )
        done, lines, looked_at = tried_in(run, project, engine, file, wish.ticks or _ENGINE_TICKS, wish.allow)
    if wish.save is not None:
        save_file(wish.save, done.log.encode("utf-8", "backslashreplace"))
    if wish.whole and not wish.as_json:
        click.echo(visible(done.log), nl=False)
        return 1 if done.wrong or any(line.level == "error" for line in lines) else 0
    ledger = read_ledger(project.root)
    verdict = judged(run, project, ledger)
    scene = Scene(project.layout, project.tree, verdict.case.analysis, ledger)
    beside = compared(log_report(lines, looked_at, scene, None), verdict.summary.findings, scene.analysis)
    bad = bool(done.wrong or beside.both or beside.follows or beside.only_engine or beside.only_check)
    if wish.as_json:
        run.show_json("trial", not bad, compared_data(name, done, beside))
    else:
        run.print(compared_text(project.file.map.name, name, done, beside))
    return 1 if bad else 0


def _stood_in(file: Path, wish: _Wish) -> tuple[EngineRun, list[LogLine]]:
    """The stand-in game, as an engine like any other. What it says is data already."""
    from hookset.building.engines.running import EngineRun
    from hookset.building.logs import LogLine

    if not file.is_file():
        raise WrongUseError(
            "not-found", "there is no such archive", where=str(file), remedy="run `hookset build` first"
        )
    begun = time.monotonic()
    played = _played(file, wish.ticks or _STAND_IN_TICKS, wish.limit)
    lines = [
        LogLine(number=number, level="error", text=one.text, name=one.name, file=one.file, line=one.line)
        for number, one in enumerate(played.lines, 1)
        if one.what == "error"
    ]
    return EngineRun(as_log(played.lines), time.monotonic() - begun, played.stopped, alone=True), lines


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


class _Played(Struct, frozen=True):
    """A game that was played to its end, or as long as it may."""

    lines: list[TrialLine]
    stopped: str = ""
    """Why it was stopped; empty where it was not. It is the last of the lines, too."""


def _played(file: Path, ticks: int, limit: int) -> _Played:
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
        why = f"the game did not end within {limit} s and was stopped"
        return _Played([*lines, TrialLine("error", why)], why)
    lines = [msgspec.json.decode(line, type=TrialLine) for line in done.stdout.splitlines()]
    if done.returncode not in (0, 1):
        raise CouldNotError(
            "program-failed",
            f"the stand-in game crashed (exit code {done.returncode})",
            where=str(file),
            details=tuple(done.stderr.decode("utf-8", "replace").splitlines()[-3:]),
            remedy="`hookset check` may tell what in the map is damaged",
        )
    return _Played(lines)
