"""The check and the stand-in game judge the same maps, each by code of its own."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from hookset.building import plan_archive, write_archive
from hookset.checks import Verdict, judge
from hookset.project import MapProject, read_ledger
from hookset.standin import Line, Log, play
from tests.faults import FAULTS, Fault


def judged(project: MapProject) -> Verdict:
    return judge(project.tree, project.layout, project.stock, read_ledger(project.root))


def played(project: MapProject, verdict: Verdict, folder: Path) -> list[Line]:
    """The errors that the game logs for the map as it would be built."""
    archive = plan_archive(verdict.case, "brackwater", "3")
    write_archive(project.tree, archive, folder / archive.name)
    log = Log()
    play(folder / archive.name, 60, log)
    return log.errors


def test_clean_map_has_no_finding_and_no_error(packed: MapProject, tmp_path: Path) -> None:
    verdict = judged(packed)
    assert verdict.findings == ()
    assert verdict.counts.references > 140
    assert verdict.counts.missing == 0
    assert played(packed, verdict, tmp_path) == []


@pytest.mark.no_cover
@pytest.mark.parametrize("fault", [pytest.param(fault, id=fault.title.replace(" ", "-")) for fault in FAULTS])
def test_fault_is_found_where_it_is(fault: Fault, packed: MapProject, tmp_path: Path) -> None:
    fault.make(packed.root)
    verdict = judged(packed)
    told = [finding for finding in verdict.findings if finding.code == fault.code and finding.spot.path == fault.path]
    assert told, [(f.code, str(f.spot), f.message) for f in verdict.findings]
    if fault.mark:
        lines = (packed.root / fault.path).read_text(encoding="utf-8").split("\n")
        assert any(fault.mark in lines[f.spot.line - 1] for f in told), [(str(f.spot), f.message) for f in told]
    errors = played(packed, verdict, tmp_path)
    if fault.unseen:
        assert errors == []
    else:
        assert errors, "the game noticed nothing"
        assert not verdict.clean


def test_there_are_enough_faults() -> None:
    assert len([fault for fault in FAULTS if not fault.unseen]) >= 25
    titles = [fault.title for fault in FAULTS]
    assert len(set(titles)) == len(titles)
    assert not [fault.title for fault in FAULTS if re.search(r"[A-Z]", fault.title[0])]
