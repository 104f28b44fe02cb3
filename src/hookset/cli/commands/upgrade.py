"""hookset upgrade"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from hookset.cli.changes import Task, carry_out
from hookset.cli.choosing import by_hand_options, choices_of, choosing_options
from hookset.cli.drafts import drafted_options, opened_packs
from hookset.cli.run import Run, json_option, pass_run
from hookset.planning import plan_upgrade

__all__ = ["command"]


@click.command("upgrade", short_help="Replace an installed pack with another version.")
@click.argument("packs", nargs=-1, required=True, metavar="PACK...", type=click.Path(path_type=Path))
@click.option("--preview", is_flag=True, help="Show everything that would happen, and write nothing.")
@by_hand_options
@choosing_options
@drafted_options
@click.option("--anyway", is_flag=True, help="Go on although needs are not met or references would be missing.")
@json_option
@pass_run
def command(
    run: Run,
    /,
    packs: tuple[Path, ...],
    preview: bool,
    as_drafted: bool,
    incomplete: bool,
    anyway: bool,
    as_json: bool,
    **chosen: Any,
) -> int:
    """Replace an installed pack with another version.

    What is new comes in, what is dropped goes out, and what you have changed since is carried over; where you and the
    pack have changed the same lines it stops and shows them. Settings, claims, blanks and every other choice stay.
    What the new version calls otherwise is renamed in the whole map.

    \b
    Example, in the demo's map, with lamp-row 1.0.0 installed:
        hookset upgrade ../packs/lamp-row-2.0.0.zip --preview
    """
    opened = opened_packs(run, packs, as_json, as_drafted, incomplete)
    task = Task(
        action="upgrade",
        plan=lambda project, ledger, data, choices, now: plan_upgrade(project, ledger, data, opened, choices, now),
        choices=choices_of([pack.name for pack in opened], **chosen),
        preview=preview,
        as_json=as_json,
        anyway=anyway,
    )
    return carry_out(run, task)
