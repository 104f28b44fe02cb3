"""hookset install"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from hookset.cli.changes import Task, carry_out, figure_option
from hookset.cli.choosing import choices_of, choosing_options
from hookset.cli.drafts import drafted_options, opened_packs
from hookset.cli.run import Run, json_option, pass_run
from hookset.planning import plan_install

__all__ = ["command"]


@click.command("install", short_help="Set packs into the map.")
@click.argument("packs", nargs=-1, required=True, metavar="PACK...", type=click.Path(path_type=Path))
@click.option("--preview", is_flag=True, help="Show everything that would happen, and write nothing.")
@choosing_options
@drafted_options
@click.option("--anyway", is_flag=True, help="Install although needs are not met or references would be missing.")
@figure_option
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
    figure: Path | None,
    as_json: bool,
    **chosen: Any,
) -> int:
    """Set packs into the map: their files, and every entry that their hook sheets name.

    All or nothing, and `hookset undo` takes it back. Stops when a file is there with other content, when a name is
    taken, when a need is not met, and when a reference would be missing afterwards that is not missing now; at a
    terminal it asks, and for each question there is an option. With several packs, write the pack's name in front:
    `--set lift-bridge.toll=30`.

    \b
    Examples, in the demo's map:
        hookset install ../packs/lift-bridge.zip --preview
        hookset install ../packs/lift-bridge.zip ../packs/fog-bell.zip
        hookset install ../packs/lift-bridge.zip --set toll=35
    """
    opened = opened_packs(run, packs, as_json, as_drafted, incomplete)
    task = Task(
        action="install",
        plan=lambda project, ledger, data, choices, now: plan_install(project, ledger, data, opened, choices, now),
        choices=choices_of([pack.name for pack in opened], **chosen),
        preview=preview,
        as_json=as_json,
        anyway=anyway,
        figure=figure,
    )
    return carry_out(run, task)
