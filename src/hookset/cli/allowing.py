"""Commands that come with a layout or a project run once the user has seen and allowed exactly these."""

from __future__ import annotations

import sys
from collections.abc import Sequence

import click
from platformdirs import user_config_path

from hookset.building.permission import Asked, allowed_together, read_allowed, write_allowed
from hookset.cli.run import Run
from hookset.model import RefusedError, WrongUseError
from hookset.reports.text.commands import as_line, commands_text

__all__ = ["permit"]


def permit(run: Run, asked: Sequence[Asked], word: str, line: str) -> None:
    """Go on where all of these commands are allowed, or are now: at a terminal by an answer, or by the `word` that they
    go by. Raises RefusedError where they are not; `line` is the command line that would allow them."""
    file = user_config_path("hookset", appauthor=False) / "allowed.toml"
    allowed = read_allowed(file)
    fresh = [one for one in asked if one.digest not in allowed]
    if not fresh:
        return
    right = allowed_together(one.digest for one in fresh)
    if word and word != right:
        raise WrongUseError(
            "unknown-command",
            f"`{word}` is not what these commands go by",
            why="they may have changed since you saw them",
            remedy=f"run `{line}` again, and look at them",
        )
    if not word and not _agreed(run, fresh):
        raise RefusedError(
            "command-not-allowed",
            "this would run commands that you have not allowed yet",
            details=tuple(map(as_line, fresh)),
            why="they come with the layout or the project, and can do to your files what you can",
            remedy=f"read them; if they are to run: {line} --allow {right}",
        )
    write_allowed(file, fresh)


def _agreed(run: Run, fresh: Sequence[Asked]) -> bool:
    """Whether the user allows them, where there is a terminal to ask at."""
    if not (sys.stdin.isatty() and sys.stdout.isatty()):
        return False
    run.print(commands_text(fresh))
    return click.confirm("Run them now, and whenever they are the same?", default=False)
