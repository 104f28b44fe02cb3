"""hookset build"""

from __future__ import annotations

from pathlib import Path

import click

from hookset.cli.building import built
from hookset.cli.run import Run, json_option, pass_run
from hookset.reports.data import archive_data
from hookset.reports.text.builds import build_text
from hookset.trees import FolderTree, Member, sha256_of

__all__ = ["command"]

_SMALL = 1 << 26


@click.command("build", short_help="Write the map's zip, if nothing is missing.")
@click.option(
    "--to",
    "target",
    type=click.Path(path_type=Path),
    help="The archive's folder; default: build/ in the map.",
)
@click.option("--anyway", is_flag=True, help="Build although the map has errors.")
@click.option("--digest", is_flag=True, help="Tell the SHA-256 of a large archive, too.")
@json_option
@pass_run
def command(run: Run, target: Path | None, anyway: bool, digest: bool, as_json: bool) -> None:
    """Write the map's zip: the descriptor at the top, what the manifest lists, the same bytes for the same content.
    Only what has changed since the last build is packed.

    Refused while the map has an error.

    \b
    Example, in the demo's map:
        hookset build
    """
    project = run.project()
    made = built(run, project, anyway, target)
    archive, file = made.archive, made.file
    run.notes.add(f"wrote {file}")
    size = file.stat().st_size
    # To read a large one to its end takes longer than to build it again.
    sha256 = sha256_of(Member(FolderTree(file.parent), archive.name)) if digest or size <= _SMALL else ""
    head = project.file.map
    if as_json:
        run.show_json("build", True, archive_data(archive, str(file), size, sha256, made.packed))
    else:
        run.print(
            build_text(
                f"{head.name} {head.version}", archive, file, size, sha256, made.packed, len(made.verdict.errors)
            )
        )
