"""What `build` and `deliver` have in common: the map is checked, and its archive written."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from hookset.building import Archive, gate, plan_archive, write_archive
from hookset.checks import Verdict, judge
from hookset.cli.busy import busy
from hookset.cli.run import Run
from hookset.project import Ledger, MapProject, read_ledger

__all__ = ["Built", "built"]


@dataclass(frozen=True, slots=True)
class Built:
    """An archive, and what it was made of."""

    archive: Archive
    file: Path
    packed: int
    """How many members were packed; the others are as they were."""
    verdict: Verdict
    ledger: Ledger


def built(run: Run, project: MapProject, anyway: bool, folder: Path | None = None) -> Built:
    """Write the archive of a map, into its own folder for that or another one. Raises RefusedError for a map that has
    an error, unless it is to be built `anyway`."""
    with busy("checking the map"):
        ledger = read_ledger(project.root)
        verdict = judge(project.tree, project.layout, project.stock, ledger, project.terms, run.cache(project))
    if not anyway:
        gate(verdict)
    head = project.file.map
    archive = plan_archive(verdict.case, head.name, head.version)
    file = folder / archive.name if folder is not None else project.built(archive.name)
    with busy("packing"):
        packed = write_archive(project.tree, archive, file, run.memory_of(file))
    return Built(archive, file, packed, verdict, ledger)
