"""The small maps of the shipped layouts, and single faults in them."""

from __future__ import annotations

import functools
import re
import shutil
import tempfile
from collections import Counter
from collections.abc import Callable
from pathlib import Path

from hookset.checks import Verdict, judge
from hookset.demo import lay_out
from hookset.planning.operations.mend import plan_mend
from hookset.project import PROJECT_FILE, begin, open_project, read_ledger
from tests.test_house import DATA

PLAYERS = {"type-table": 2, "numbered-marks": 2}
"""How many the maps are for, where that matters."""


def started(name: str, folder: Path) -> Path:
    """A copy of the map, with its project file; the base game's stock list beside it."""
    shutil.copytree(DATA / name, folder / name)
    shutil.copy(DATA / "base.stock.json", folder)
    text = beginning_of(name)
    if name in PLAYERS:
        text = text.replace("[content]", f"players = {PLAYERS[name]}\n\n[content]")
    (folder / name / PROJECT_FILE).write_text(text, encoding="utf-8")
    return folder / name


@functools.cache
def beginning_of(name: str, *, alone: bool = False) -> str:
    """The project file of a map as `start` writes it, with the base game's stock list beside the map or without: to
    find out which layout fits takes as long as a check."""
    with tempfile.TemporaryDirectory() as folder:
        shutil.copytree(DATA / name, Path(folder) / name)
        if not alone:
            shutil.copy(DATA / "base.stock.json", folder)
        return begin(Path(folder) / name, None, ()).text


def demo_in(folder: Path) -> Path:
    """The whole demo, and in it Brackwater as its builder has it, started; gives the map's folder."""
    shutil.copytree(_laid_out(), folder)
    return folder / "brackwater"


@functools.cache
def _laid_out() -> Path:
    place = tempfile.TemporaryDirectory()
    _PLACES.append(place)
    folder = Path(place.name) / "demo"
    lay_out(folder)
    root = folder / "brackwater"
    (root / PROJECT_FILE).write_text(begin(root, None, ()).text, encoding="utf-8")
    return folder


_PLACES: list[tempfile.TemporaryDirectory[str]] = []
"""Kept to the end of the run."""


def replaced(path: str, old: str, new: str, encoding: str = "utf-8") -> Callable[[Path], object]:
    """One text for another, once, every other byte as it was."""

    def make(root: Path) -> None:
        data = (root / path).read_bytes()
        assert old.encode(encoding) in data
        (root / path).write_bytes(data.replace(old.encode(encoding), new.encode(encoding), 1))

    return make


def judged(root: Path) -> Verdict:
    project = open_project(root)
    return judge(project.tree, project.layout, project.stock, None, project.terms)


def assert_told(root: Path, code: str, path: str, line: int) -> None:
    """A check tells it, in this file and (for a line over 0) in this line."""
    findings = judged(root).findings
    told = [finding for finding in findings if (finding.code, finding.spot.path) == (code, path)]
    assert told, [(finding.code, str(finding.spot), finding.message) for finding in findings]
    assert not line or line in [finding.spot.line for finding in told], [str(finding.spot) for finding in told]


_VALUE = re.compile(r"[\"']?(?P<value>[^\"'<>;,}\]\n\r]*?)(?= *[\"'<>;,}\]\n\r]|$)")


def assert_remedies_work(root: Path) -> int:
    """Each name that a finding says could be written instead is written there, and the finding goes; what can be mended
    is mended. How many remedies there were."""
    project = open_project(root)
    ledger = read_ledger(root)

    def found() -> Counter[tuple[str, ...]]:
        now = open_project(root)
        verdict = judge(now.tree, now.layout, now.stock, ledger, now.terms)
        return Counter(finding.identity for finding in verdict.findings)

    before = judge(project.tree, project.layout, project.stock, ledger, project.terms)
    there = found()
    dry_run = 0
    for finding in before.findings:
        for name in finding.instead:
            file = root / finding.spot.path
            data = file.read_bytes()
            encoding = next(rule.encodings[0] for rule in [project.layout.text_rule(finding.spot.path)] if rule)
            lines = data.decode(encoding, "surrogateescape").splitlines(keepends=True)
            line = lines[finding.spot.line - 1]
            match = _VALUE.match(line, finding.spot.column - 1)
            assert match is not None
            start, end = match.span("value")
            lines[finding.spot.line - 1] = line[:start] + name.replace("\\", "\\\\") + line[end:]
            file.write_bytes("".join(lines).encode(encoding, "surrogateescape"))
            after = found()
            file.write_bytes(data)
            assert after[finding.identity] < there[finding.identity], (finding, lines[finding.spot.line - 1])
            # What is loaded again shows what is wrong in it.
            apart = {one.spot.path for one in before.findings if one.code == "in-unloaded-file"}
            assert not {one for one in after - there if one[1] not in apart}, (finding, after - there)
            dry_run += 1
    mendable = [finding.identity for finding in before.findings if finding.mend is not None]
    plan = plan_mend(project, ledger)
    assert not plan.left, plan.left
    assert {one.identity for one in plan.mended} >= set(mendable)
    return dry_run + len(mendable)
