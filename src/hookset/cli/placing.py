"""What the commands have in common that change where things stand."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, TypeVar

import click

from hookset.cli.changes import Planner, Task, carry_out, figure_option
from hookset.cli.run import Run, json_option
from hookset.planning import Choices

__all__ = ["carry_out_placing", "placing_options"]

_Command = TypeVar("_Command", bound=Callable[..., Any])


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


def carry_out_placing(run: Run, action: str, what: str, plan: Planner, options: Mapping[str, Any]) -> int:
    """Do it, or show what it would do; gives the exit code. `what` is what is placed, for the history."""
    task = Task(
        action=action,
        plan=plan,
        choices=Choices(),
        preview=options["preview"],
        as_json=options["as_json"],
        anyway=options["anyway"],
        figure=options["figure"],
        title=f"{action} {what}",
    )
    return carry_out(run, task)
