"""hookset move"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from hookset.cli.changes import Task, carry_out, figure_option
from hookset.cli.positions import position_options, wish_of
from hookset.cli.run import Run, json_option, pass_run
from hookset.planning import Choices
from hookset.planning.operations.move import MoveRequest, plan_move

__all__ = ["command"]


@click.command("move", short_help="Put what stands in the map elsewhere, turn it, stretch it.")
@click.argument("names", nargs=-1, required=True, metavar="NAME...")
@position_options
@click.option("--preview", is_flag=True, help="Show everything that would happen, and write nothing.")
@click.option("--anyway", is_flag=True, help="Go on although references would be missing.")
@figure_option
@json_option
@pass_run
def command(
    run: Run,
    /,
    names: tuple[str, ...],
    preview: bool,
    anyway: bool,
    figure: Path | None,
    as_json: bool,
    **position: Any,
) -> int:
    """Put what stands in the map under these names elsewhere: the first at the place, the others as they stand to it.
    --by alone moves from where it stands. What a pack has set stays where you put it when the pack is upgraded.

    \b
    Examples, in the demo's map:
        hookset move gull_rock --at -30,0.4,4
        hookset move lock_wheel --by 0,0,-1 --turn 90 --preview
    """
    asked = MoveRequest(names=names, wish=wish_of(position), group=position["group"])
    task = Task(
        action="move",
        plan=lambda project, ledger, data, choices, now: plan_move(project, ledger, data, asked, choices, now),
        choices=Choices(),
        preview=preview,
        as_json=as_json,
        anyway=anyway,
        figure=figure,
        title=f"move {', '.join(names)}",
    )
    return carry_out(run, task)
