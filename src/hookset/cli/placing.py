"""What the commands have in common that change where things stand."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, TypeVar

import click

from hookset.cli.changes import Task, carry_out, figure_option
from hookset.cli.run import Run, json_option
from hookset.planning import Choices, Plan
from hookset.project import Ledger, MapProject

__all__ = ["carry_out_placing", "placing_options"]

_Command = TypeVar("_Command", bound=Callable[..., Any])
_Asked = TypeVar("_Asked")
_PlacingPlanner = Callable[[MapProject, Ledger, bytes | None, _Asked, Choices, str], Plan]


def placing_options(command: _Command) -> _Command:
    """Options on how a change is carried out, in the order in which they are shown."""
    options = (
        click.option("--preview", is_flag=True, help="Show everything that would happen, and write nothing."),
        click.option("--anyway", is_flag=True, help="Go on although references would be missing."),
        figure_option,
        json_option,
    )
    for option in reversed(options):
        command = option(command)
    return command


def carry_out_placing(
    run: Run, what: str, planned: _PlacingPlanner[_Asked], asked: _Asked, options: Mapping[str, Any]
) -> int:
    """Do it, or show what it would do; gives the exit code. `what` is the command and its names, for the history."""
    task = Task(
        action=what.partition(" ")[0],
        plan=lambda project, ledger, data, choices, now: planned(project, ledger, data, asked, choices, now),
        choices=Choices(),
        preview=options["preview"],
        as_json=options["as_json"],
        anyway=options["anyway"],
        figure=options["figure"],
        title=what,
    )
    return carry_out(run, task)
