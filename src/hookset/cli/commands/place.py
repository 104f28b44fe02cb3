"""hookset place"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click
from msgspec import structs

from hookset.cli.placing import carry_out_placing, placing_options
from hookset.cli.positions import NUMBERS, listed_places, position_options, wish_of
from hookset.cli.run import Run, pass_run
from hookset.planning.operations.place import PlaceRequest, plan_place

__all__ = ["command"]


@click.command("place", short_help="Set further copies of what stands in the map, each where you say.")
@click.argument("names", nargs=-1, required=True, metavar="NAME...")
@position_options
@click.option("--instead-of", metavar="NAME", default="", help="In the place of something, which goes.")
@click.option("--line-to", type=NUMBERS, metavar="X,Y,Z", help="Several, in a line from --at to here.")
@click.option("--count", type=click.IntRange(1), help="How many, in a line or in each row of a grid.")
@click.option("--every", type=click.FloatRange(0, min_open=True), help="In a line: so far apart.")
@click.option("--rows", type=click.IntRange(1), help="In a grid: how many rows.")
@click.option("--step", type=NUMBERS, metavar="DX,DY", help="In a grid: so far apart, along the ground.")
@click.option("--list", "table", type=click.Path(path_type=Path), help="One at each place of a table: x, y, z, turn.")
@placing_options
@pass_run
def command(
    run: Run,
    /,
    names: tuple[str, ...],
    instead_of: str,
    line_to: tuple[float, ...] | None,
    count: int | None,
    every: float | None,
    rows: int | None,
    step: tuple[float, ...] | None,
    table: Path | None,
    **options: Any,
) -> int:
    """Set further copies of what stands in the map under these names: the first at the place, the others as they stand
    to it. Each copy gets the next free number or letter on every name that ties its parts; what its parts work on is
    the copy's own. Copies of what a pack has set belong to the pack.

    \b
    Examples, in the demo's map:
        hookset place landing_4 --at 4,1,-14
        hookset place lamp_8 --at 36,1,12 --line-to 36,1,24 --count 3 --preview
        hookset place lock_wheel lock_gate --beside lock_wheel --by 0,0,-6
    """
    wish = structs.replace(
        wish_of(options),
        line_to=line_to or (),
        count=count or 0,
        every=every or 0.0,
        rows=rows or 0,
        step=step or (),
        listed=listed_places(table) if table is not None else (),
    )
    asked = PlaceRequest(names=names, wish=wish, group=options["group"], instead_of=instead_of)
    return carry_out_placing(run, f"place {', '.join(names)}", plan_place, asked, options)
