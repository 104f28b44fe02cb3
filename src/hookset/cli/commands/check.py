"""hookset check"""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click
from msgspec import Struct

from hookset.cli.busy import busy
from hookset.cli.run import Run, generation, json_option, now, pass_run
from hookset.model import Severity, WrongUseError
from hookset.reports.checked import check_data, mend_data, since_data
from hookset.reports.text.findings import check_text, coverage_text
from hookset.trees.ours import find_root
from hookset.verdicts import KnownMap, Summary, known_map, recall

if TYPE_CHECKING:
    from hookset.checks import Since
    from hookset.project import MapProject

__all__ = ["command"]

_SHOWN = 100
"""Findings on a terminal, those alike in a file counted as one: nobody reads more at once."""


@click.command("check", short_help="Judge every reference in the map.")
@click.option("--mend", is_flag=True, help="Mend what needs no choice: letter case, separators, manifest rows.")
@click.option("--preview", is_flag=True, help="With --mend: show what would be written, and write nothing.")
@click.option("--coverage", is_flag=True, help="Which rule read which files, and what cannot be checked.")
@click.option(
    "--report",
    "reports",
    multiple=True,
    metavar="FILE",
    type=click.Path(path_type=Path),
    help="Keep the findings in a file: .json, .sarif, .html, or .xml (JUnit). Can be given more than once.",
)
@click.option(
    "--since",
    "earlier",
    metavar="FILE",
    type=click.Path(path_type=Path),
    help="Tell only what is new since a report that was kept as .json.",
)
@click.option("--all", "whole", is_flag=True, help=f"Show every finding, not the worst {_SHOWN} only.")
@json_option
@pass_run
def command(
    run: Run,
    mend: bool,
    preview: bool,
    coverage: bool,
    reports: tuple[Path, ...],
    earlier: Path | None,
    whole: bool,
    as_json: bool,
) -> int:
    """Judge every reference in the map: is what it names there, on the right side, in the right letter case, loaded,
    in every language, and in the manifest?

    Exit code 1 when there is an error or a warning; notes do not count, nor does what --since leaves out.

    \b
    Examples, in the demo's map:
        hookset check
        hookset check --report build/check.html --report build/check.json
        hookset check --since build/check.json
        hookset check --mend --preview
    """
    if preview and not mend:
        raise WrongUseError(
            "conflicting-options",
            "--preview goes with --mend: a check by itself writes nothing",
            remedy="add --mend, or leave --preview out",
        )
    if mend:
        return _mend(run, preview, as_json)
    _known_formats(reports)
    told = _told(run, opened=bool(reports) or coverage)
    summary, project = told.summary, told.project
    compared = _since(summary, earlier) if earlier is not None else None
    if project is not None:
        for file in reports:
            _keep(project, summary, compared, file)
    findings = summary.findings if compared is None else compared.fresh
    clean = all(finding.severity is Severity.NOTE for finding in findings)
    if as_json:
        data = check_data(summary) | ({"since": since_data(compared)} if compared else {})
        run.show_json("check", clean, data)
    else:
        run.print(check_text(told.title, told.layout, summary, compared, None if whole else _SHOWN))
        if coverage and project is not None:
            run.print(coverage_text(project.layout, summary.counts, summary.open))
    return 0 if clean else 1


class _Told(Struct, frozen=True):
    """What there is to tell of a map."""

    title: str
    layout: str
    summary: Summary
    project: MapProject | None = None
    """The map, where it was opened."""


def _told(run: Run, opened: bool) -> _Told:
    """Recalled where nothing has changed, with the map `opened` only where that is wanted; else judged."""
    root = find_root(run.folder.resolve())
    cache = run.verdicts(root) if root is not None else None
    if root is None or cache is None:
        return run.steadily(lambda project: _judged(run, project, None))
    before = generation(root)
    known = known_map(root, cache)
    if known is not None and not opened and (summary := known.recalled(cache)) is not None:
        run.notes.add("nothing has changed since the last check: the map is not opened")
        return _Told(known.memo.title, known.memo.layout, summary)
    # What was listed is not listed again, unless another run has changed the map.
    return run.steadily(lambda project: _judged(run, project, known if generation(root) == before else None))


def _judged(run: Run, project: MapProject, known: KnownMap | None) -> _Told:
    # Imported here: a check of a map in which nothing has changed judges nothing.
    from hookset.checks import ground_of, judge, remember_map, remember_verdict
    from hookset.project import read_ledger

    cache = run.cache(project)
    tree = (known.tree if known is not None else None) or project.tree
    ground = ground_of(project, tree) if cache is not None else None
    summary = recall(ground, cache.verdicts) if ground is not None and cache is not None else None
    if summary is not None:
        run.notes.add("nothing has changed since the last check")
    else:
        with busy("checking the map"):
            verdict = judge(tree, project.layout, project.stock, read_ledger(project.root), project.terms, cache)
        summary = verdict.summary
        if ground is not None and cache is not None:
            remember_verdict(ground, cache, verdict)
    if ground is not None and cache is not None:
        remember_map(project, ground, cache)
    return _Told(_title(project), project.layout.name, summary, project)


def _since(summary: Summary, earlier: Path) -> Since:
    # Imported here: hardly any check is compared with an earlier one.
    from hookset.checks import since

    return since(summary, earlier)


def _title(project: MapProject) -> str:
    return f"{project.file.map.name} {project.file.map.version}"


def _known_formats(reports: tuple[Path, ...]) -> None:
    """Before a long check rather than after it."""
    if not reports:
        return
    from hookset.reports.saved import endings, report_for

    for file in reports:
        if report_for(file.name) is None:
            raise WrongUseError(
                "wrong-ending",
                f"no report is written as {file.suffix or 'a file without an ending'}",
                where=str(file),
                remedy=f"name a file that ends in {', '.join(endings())}",
            )


def _keep(project: MapProject, verdict: Summary, compared: Since | None, file: Path) -> None:
    from hookset.building.delivery.record import read_deliveries, to_look_for
    from hookset.project import read_ledger, save_file
    from hookset.reports.saved import ReportInput, report_for

    report = report_for(file.name)
    if report is None:
        return
    findings = verdict.findings if compared is None else compared.fresh
    picture = ""
    if report.pictured:
        from hookset.cli.figures import map_picture

        picture = map_picture(project, findings, {number: f"#finding-{number}" for number in range(len(findings))})
    seen = to_look_for(read_ledger(project.root), read_deliveries(project.root))
    told = ReportInput(
        project.file.map.name,
        project.file.map.version,
        project.layout.name,
        now(),
        verdict,
        findings,
        tuple((f"{one.pack} {one.version}", one.says, one.done) for one in seen),
        picture,
    )
    save_file(file, report.written(told).encode("utf-8", "backslashreplace"))


def _mend(run: Run, preview: bool, as_json: bool) -> int:
    from hookset.applying import Disk, apply_changes, on_disk
    from hookset.planning import plan_mend, text_diffs
    from hookset.project import read_ledger
    from hookset.reports.text.mends import mend_text

    with run.changing() as project:
        with busy("looking for what can be mended"):
            plan = plan_mend(project, read_ledger(project.root), run.cache(project))
        diffs = tuple(text_diffs(project.tree, plan.changes))
        write = bool(plan.changes) and not preview
        if write:
            changes = on_disk(project, plan.changes)
            apply_changes(project.root, changes, action="mend", title="check --mend", time=now(), disk=Disk())
    clean = plan.after.clean
    if as_json:
        run.show_json("check", clean, mend_data(plan, diffs, written=write))
    else:
        run.print(mend_text(_title(project), plan, diffs, write))
    return 0 if clean else 1
