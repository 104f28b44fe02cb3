"""hookset move"""

from __future__ import annotations

from typing import Any

import click

from hookset.cli.placing import carry_out_placing, placing_options
from hookset.cli.positions import position_options, wish_of
from hookset.cli.run import Run, pass_run
from hookset.planning.operations.move import MoveRequest, plan_move

__all__ = ["command"]


@click.command("move", short_help="Put what stands in the map elsewhere, turn it, stretch it.")
@click.argument("names", nargs=-1, required=True, metavar="NAME...")
@position_options
@placing_options
@pass_run
def command(run: Run, /, names: tuple[str, ...], **options: Any) -> int:
    """Put what stands in the map under these names elsewhere: the first at the place, the others as they stand to it.
    --by alone moves from where it stands. What a pack has set stays where you put it when the pack is upgraded.

    \b
    Examples, in the demo's map:
        hookset move gull_rock --at -30,0.4,4
        hookset move lock_wheel --by 0,0,-1 --turn 90 --preview
    """
    asked = MoveRequest(names=names, wish=wish_of(options), group=options["group"])
    return carry_out_placing(run, f"move {', '.join(names)}", plan_move, asked, options)
