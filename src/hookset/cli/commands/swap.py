"""hookset swap"""

from __future__ import annotations

from typing import Any

import click

from hookset.cli.placing import carry_out_placing, placing_options
from hookset.cli.run import Run, pass_run
from hookset.planning.operations.swap import SwapRequest, plan_swap

__all__ = ["command"]


@click.command("swap", short_help="Make what stands in the map like something else, and lose no setting.")
@click.argument("names", nargs=-1, metavar="[NAME]...")
@click.option(
    "--like", default="", metavar="NAME", help="What it becomes like: a thing that stands in the map, or a prefab."
)
@click.option("--as", "as_class", default="", metavar="CLASS", help="Or the class that it becomes; all else stays.")
@click.option("--class", "of_class", metavar="CLASS", default="", help="All things of this class.")
@click.option("--keep", multiple=True, metavar="WAY[=NEW]", help="Carry a value over that the new one does not have.")
@placing_options
@pass_run
def command(
    run: Run,
    /,
    names: tuple[str, ...],
    like: str,
    as_class: str,
    of_class: str,
    keep: tuple[str, ...],
    **options: Any,
) -> int:
    """Make what stands in the map under these names like another thing. Each keeps its name, its place and turn, its
    links, its group, and every number and switch that both have; what one of the two lacks is told.

    \b
    Example, in the demo's map:
        hookset swap lamp_3 --like bell_post --preview
        hookset swap --class lamp --as lantern --preview
    """
    kept = tuple((way.partition("=")[0], way.partition("=")[2] or way.partition("=")[0]) for way in keep)
    asked = SwapRequest(names=names, of_class=of_class, like=like, as_class=as_class, keep=kept)
    return carry_out_placing(run, f"swap {', '.join(names) or of_class}", plan_swap, asked, options)
