"""hookset take"""

from __future__ import annotations

from typing import Any

import click

from hookset.cli.placing import carry_out_placing, placing_options
from hookset.cli.run import Run, pass_run
from hookset.planning.operations.take import plan_take

__all__ = ["command"]


@click.command("take", short_help="Take what stands in the map away.")
@click.argument("names", nargs=-1, required=True, metavar="NAME...")
@placing_options
@pass_run
def command(run: Run, /, names: tuple[str, ...], **options: Any) -> int:
    """Take what stands in the map under these names away, with all that stands in its record. Nothing else changes:
    what goes on naming it is told.

    \b
    Example, in the demo's map:
        hookset take lamp_8 --preview
    """
    return carry_out_placing(run, f"take {', '.join(names)}", plan_take, names, options)
