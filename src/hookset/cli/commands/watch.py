"""hookset watch"""

from __future__ import annotations

import os
import shlex
import subprocess
import time
from contextlib import suppress
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

import click
from msgspec import Struct
from msgspec.structs import replace

from hookset.checks.watched import Watched, WatchedChange, difference, judged_again, watched
from hookset.cli.busy import busy
from hookset.cli.run import Run, json_option, pass_run
from hookset.model import HooksetError, Severity, WrongUseError
from hookset.project import PROJECT_FILE, MapProject
from hookset.reports.data import error_data, line_of
from hookset.reports.text.errors import error_text
from hookset.reports.text.watched import begun_text, changed_text
from hookset.reports.watched import watched_data

if TYPE_CHECKING:
    from collections.abc import Sequence

__all__ = ["command"]

_SETTLES = 60
"""Milliseconds without a further change, after which what is written counts as written."""
_LOOKS = 30
"""Of so many seconds in which nothing is told, one in which all files are looked at: what was written before anybody
watched is told of nowhere else, and systems lose what they cannot keep up with."""
_AWAY = 0.3
"""Seconds between looks at a folder that has gone."""


class _Watching(Struct, frozen=True):
    """What goes on from one change to the next."""

    run: Run
    words: Sequence[str]
    """The command that is run after each check."""
    as_json: bool
    last: Watched
    broken: bool = False
    """Whether the map could not be judged the last time, so that all of it is read the next time."""

    @property
    def project(self) -> MapProject:
        """The map as it was opened last."""
        return self.last.project


@click.command("watch", short_help="Check the map again whenever it changes.")
@click.option("--run", "line", metavar="COMMAND", help="Run this after each check, in the map's folder.")
@json_option
@pass_run
def command(run: Run, line: str | None, as_json: bool) -> None:
    """Keep the map in memory, and tell what each change to its files brings and takes: findings that came, findings
    that went, or that all is well. Ctrl-C ends it.

    Only what has changed is read again; when hookset.toml, the layout, a stock list or what is in a content root
    changes, all of it is. With --json there is one line of JSON for each check. To the command of --run, HOOKSET_ERRORS
    says how many errors there are.

    \b
    Examples, in the demo's map:
        hookset watch
        hookset watch --run "hookset build"
    """
    words = _words(line)
    # Imported here: nothing else waits for changes.
    from hookset.cli.watching import noting_interrupts

    with noting_interrupts() as over, suppress(KeyboardInterrupt):
        project = run.project()
        with busy("checking the map"):
            state = _Watching(run, words, as_json, watched(project, run.cache(project)))
        _tell(state, WatchedChange(datetime.now().astimezone(), (), difference((), state.last.summary.findings), 0.0))
        while not over():
            state = _round(state)


def _round(state: _Watching) -> _Watching:
    """Until the folder has gone, or other files than before are to be looked at."""
    from hookset.cli.watching import changes_of

    root = state.project.root
    while not root.is_dir():
        time.sleep(_AWAY)
    outside, folders = state.project.outside, state.project.folders_outside
    if state.broken:
        state = _again(state, (), whole=True)
    quiet = 0
    for changed in changes_of(state.project, _SETTLES, outside, folders, idle=True):
        if not root.is_dir():
            state.run.tell(f"{root.name} is not there any more; it is waited for")
            return replace(state, broken=True)
        quiet = 0 if changed else quiet + 1
        if not changed and (state.broken or quiet % _LOOKS != 1):
            continue
        state = _again(state, changed, whole=state.broken)
        if (state.project.outside, state.project.folders_outside) != (outside, folders):
            break
    else:
        raise KeyboardInterrupt
    return state


def _again(state: _Watching, told: tuple[str, ...], whole: bool) -> _Watching:
    """The map judged once more: as far as it has changed, or the `whole` of it."""
    begun = time.perf_counter()
    before, run = state.last, state.run
    whole = whole or PROJECT_FILE in told or _rests_on(state.project, told)
    try:
        if whole:
            project = run.project()
            after, changed = watched(project, run.cache(project)), told
        else:
            after, changed = judged_again(before, told, run.cache(before.project))
    except HooksetError as error:
        if state.as_json:
            click.echo(line_of("watch", False, error_data(error)))
        else:
            run.print(error_text(error, "error"))
        return replace(state, broken=True)
    state = replace(state, last=after, broken=False)
    if changed or whole:
        found = difference(before.summary.findings, after.summary.findings)
        _tell(state, WatchedChange(datetime.now().astimezone(), changed, found, time.perf_counter() - begun))
        _ran(state)
    return state


def _rests_on(project: MapProject, told: tuple[str, ...]) -> bool:
    """Whether something has changed that a verdict on the map rests on as a whole: its layout, a stock list, a content
    root."""
    if any(path.startswith("../") or Path(path).is_absolute() for path in told):
        return True
    # A root around the map has all of its files; one within it has some.
    within = [folder for folder in project.folders_outside if not project.root.resolve().is_relative_to(folder)]
    places = [(project.root / path).resolve() for path in told]
    return any(place in project.outside or any(map(place.is_relative_to, within)) for place in places)


def _tell(state: _Watching, change: WatchedChange) -> None:
    summary = state.last.summary
    if state.as_json:
        clean = all(one.severity is Severity.NOTE for one in summary.findings)
        click.echo(line_of("watch", clean, watched_data(change, summary)))
    elif change.paths:
        state.run.print(changed_text(change, summary))
    else:
        state.run.print(begun_text(state.project.file.map.name, summary))


def _ran(state: _Watching) -> None:
    """Run the command that somebody wants to be run."""
    if not state.words:
        return
    errors = str(len(state.last.summary.errors))
    try:
        done = subprocess.run(
            state.words, cwd=state.project.root, env=os.environ | {"HOOKSET_ERRORS": errors}, check=False
        )
    except OSError as error:
        state.run.tell(f"{state.words[0]} cannot be run: {error.strerror}")
        return
    if done.returncode:
        state.run.tell(f"{state.words[0]} ended with {done.returncode}")


def _words(line: str | None) -> list[str]:
    try:
        words = shlex.split(line) if line is not None else []
    except ValueError as error:
        raise WrongUseError("wrong-value", "--run is no command line", remedy="close its quotation marks") from error
    if line is not None and not words:
        raise WrongUseError("wrong-value", "--run has no command", remedy='name one: --run "hookset build"')
    return words
