"""hookset build"""

from __future__ import annotations

from pathlib import Path

import click

from hookset.building.steps.carrying import Ending
from hookset.cli.building import built, judged, stopped_by
from hookset.cli.making import StepsWish, carried_out, making_of
from hookset.cli.run import Run, json_option, pass_run
from hookset.model import WrongUseError
from hookset.project import MapProject, read_ledger
from hookset.reports.build_steps import carried_data, expected_data
from hookset.reports.data import archive_data
from hookset.reports.text.build_steps import carried_text, expected_text
from hookset.reports.text.builds import build_text
from hookset.trees import FolderTree, Member, sha256_of

__all__ = ["command"]

_SMALL = 1 << 26


@click.command("build", short_help="Run the steps that are needed, and write the map's archive.")
@click.option(
    "--to",
    "target",
    type=click.Path(path_type=Path),
    help="The archive's folder; default: build/ in the map.",
)
@click.option("--anyway", is_flag=True, help="Build although the map has errors.")
@click.option("--what-next", is_flag=True, help="Show which steps a build would run, and why; do nothing.")
@click.option("--full", is_flag=True, help="Run all steps, needed or not, and pack all files.")
@click.option("--only", metavar="STEP", default="", help="Run only this step, with those it reads from; pack nothing.")
@click.option("--allow", metavar="WORD", default="", help="Allow the commands that go by this word.")
@click.option("--digest", is_flag=True, help="Tell the SHA-256 of a large archive, too.")
@json_option
@pass_run
def command(
    run: Run,
    target: Path | None,
    anyway: bool,
    what_next: bool,
    full: bool,
    only: str,
    allow: str,
    digest: bool,
    as_json: bool,
) -> None:
    """Run the steps that this change of the map needs, and write its archive: the descriptor at the top, what the
    manifest lists, the same bytes for the same content. Only what has changed since the last build is packed.

    Refused while the map has an error. Steps are commands of the layout or of hookset.toml; none runs before you have
    allowed it.

    \b
    Examples, in the demo's map:
        hookset build
        hookset build --what-next
    """
    project = run.project()
    wish = StepsWish(full=full, only=only, allow=allow)
    if what_next or only:
        if target is not None:
            raise WrongUseError(
                "conflicting-options", "--to says where the archive goes, and none is written", remedy="leave --to out"
            )
        _steps(run, project, wish, what_next, as_json)
        return
    made = built(run, project, anyway, target, wish)
    archive, file = made.archive, made.file
    run.notes.add(f"wrote {file}")
    size = FolderTree(file).total if file.is_dir() else file.stat().st_size
    # To read a large one to its end takes longer than to build it again; a folder is no one file.
    told = not file.is_dir() and (digest or size <= _SMALL)
    sha256 = sha256_of(Member(FolderTree(file.parent), archive.name)) if told else ""
    head = project.file.map
    if as_json:
        data = archive_data(archive, str(file), size, sha256, made.packed)
        run.show_json("build", True, {**data, "steps": carried_data(made.steps)})
    else:
        run.print(build_text(f"{head.name} {head.version}", made, size, sha256))


def _steps(run: Run, project: MapProject, wish: StepsWish, what_next: bool, as_json: bool) -> None:
    """The steps alone: shown, or one of them run."""
    ledger, name = read_ledger(project.root), project.file.map.name
    making = making_of(run, project, judged(run, project, ledger).case, wish)
    if what_next:
        making.digests.remember()
        if as_json:
            run.show_json("build", True, {"what_next": expected_data(making.expected)})
        else:
            run.print(expected_text(name, making.expected, " --full" if wish.full else ""))
        return
    done = carried_out(run, making, ledger, wish)
    if failed := [one for one in done if one.ending is Ending.FAILED]:
        raise stopped_by(failed)
    if as_json:
        run.show_json("build", True, {"steps": carried_data(done)})
    else:
        run.print(carried_text(name, done))
