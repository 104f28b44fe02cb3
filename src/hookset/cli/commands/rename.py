"""hookset rename"""

from __future__ import annotations

import click

from hookset.cli.changes import Task, carry_out
from hookset.cli.run import Run, json_option, pass_run
from hookset.model import WrongUseError
from hookset.planning import Choices
from hookset.planning.operations.rename import plan_rename

__all__ = ["command"]


@click.command("rename", short_help="Give the map another name or version, everywhere.")
@click.argument("name", required=False)
@click.option("--version", help="The map's new version.")
@click.option("--preview", is_flag=True, help="Show everything that would happen, and write nothing.")
@click.option("--anyway", is_flag=True, help="Go on although references would be missing.")
@json_option
@pass_run
def command(run: Run, /, name: str | None, version: str | None, preview: bool, anyway: bool, as_json: bool) -> int:
    """Give the map another NAME or version: in its descriptor, in hookset.toml, in its folder where the layout says
    that one is called after it, and in every place inside of files that repeats them.

    Places where the old name stands and nothing says what it means there are listed to be looked at.

    \b
    Example, in the demo's map:
        hookset rename "Brackwater Reach" --version 4 --preview
    """
    if name is None and version is None:
        raise WrongUseError(
            "incomplete-option",
            "it says neither a name nor a version",
            remedy="hookset rename NAME, or --version VERSION",
        )
    task = Task(
        action="rename",
        plan=lambda project, ledger, data, choices, now: plan_rename(
            project, ledger, data, name, version, choices, now
        ),
        choices=Choices(),
        preview=preview,
        as_json=as_json,
        anyway=anyway,
        title=f"rename to {' '.join(word for word in (name, version) if word)}",
    )
    return carry_out(run, task)
