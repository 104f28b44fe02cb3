"""hookset remove"""

from __future__ import annotations

from typing import Any

import click

from hookset.cli.changes import Task, carry_out
from hookset.cli.choosing import by_hand_options, choices_of
from hookset.cli.run import Run, json_option, pass_run
from hookset.planning import plan_remove

__all__ = ["command"]


@click.command("remove", short_help="Take packs out of the map.")
@click.argument("packs", nargs=-1, required=True, metavar="NAME...")
@click.option("--preview", is_flag=True, help="Show everything that would happen, and write nothing.")
@by_hand_options
@click.option("--anyway", is_flag=True, help="Take it out although others need it or references would be missing.")
@json_option
@pass_run
def command(run: Run, /, packs: tuple[str, ...], preview: bool, anyway: bool, as_json: bool, **chosen: Any) -> int:
    """Take packs out of the map: what they set, and nothing else.

    Entries are found again where you have moved or indented them otherwise. What you have changed is shown, and kept or
    dropped as you say. Files that other packs have as well stay.

    \b
    Example, in the demo's map:
        hookset remove fog-bell --preview
    """
    task = Task(
        action="remove",
        plan=lambda project, ledger, data, choices, now: plan_remove(
            project, ledger, data, packs, choices, now, anyway
        ),
        choices=choices_of([], **chosen),
        preview=preview,
        as_json=as_json,
        anyway=anyway,
    )
    return carry_out(run, task)
